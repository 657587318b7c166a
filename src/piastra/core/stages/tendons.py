"""Tendons in the floor: where they run, their forces, and what these do."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.fe.recovery import section_forces
from piastra.core.fe.solution import solve
from piastra.core.model import Floor, Refusal, RefusedError
from piastra.core.model.tendon_curve import Curve, curve
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.given_loads import GIVEN_LOADS
from piastra.core.stages.mesh import MESH
from piastra.core.stages.sections import SECTIONS
from piastra.core.stages.stiffness import STIFFNESS
from piastra.core.stages.view import ALL, only
from piastra.core.standards import standard_named
from piastra.core.tendons.effects import Effect, Threads, along, effect, strain_along, threads
from piastra.core.tendons.friction import Stressed, stressed
from piastra.core.tendons.losses import Loss, losses

Array = npt.NDArray[np.float64]

OUT_OF_CONCRETE = 1e-3
"""A tendon may lie so far (m) outside the concrete, by rounding."""


@dataclass(frozen=True, slots=True)
class Tendons:
    """Tendons with their curves and the forces (kN) that stressing and locking leave in them, and where they run in the mesh."""

    curves: tuple[Curve, ...]
    stressed: tuple[Stressed, ...]
    threads: Threads


@dataclass(frozen=True, slots=True)
class TendonForces:
    """Forces (n,) kN at the places of every curve at ``transfer`` and in the end, the losses of each tendon, the effects of both forces, and
    the section forces (p, 8) of the concrete that the final one causes, with its displacements ``u`` (n, 5)."""

    at_transfer: tuple[Array, ...]
    in_the_end: tuple[Array, ...]
    losses: tuple[Loss, ...]
    transfer: Effect
    final: Effect
    concrete: Array
    u: Array


def _laid_inputs(floor: Floor) -> Floor:
    return only(floor, strands=ALL, tendons=("id", "strand", "count", "line", "jack_MPa", "stressed_from", "profile"))


def _lay(floor: Floor, made: Made[Tendons | None]) -> Tendons | None:
    if not floor.tendons:
        return None
    strands = {s.id: s for s in floor.strands}
    values, meshed = made[SECTIONS], made[MESH]
    curves = tuple(curve(t.line, t.profile) for t in floor.tendons)
    found, gaps = threads(curves, meshed.elements, values.datum)
    refused = []
    for g in gaps:
        told = f"of tendon {floor.tendons[g.tendon].id} leaves the floor at {g.s:.2f} m, near ({g.at[0]:.2f}, {g.at[1]:.2f})"
        refused.append(Refusal(f"tendons[{g.tendon}].line", f"{told}; lay it round openings and inside the slab's edge"))
    face = meshed.face[found.element]
    depth, half = found.zeta - values.zeta[face], values.h[face] / 2
    outside = np.abs(depth) - half
    for k in np.unique(found.tendon[outside > OUT_OF_CONCRETE]):
        mine = np.flatnonzero(found.tendon == k)
        q = mine[outside[mine].argmax()]
        side = "below" if depth[q] > 0 else "above"
        refused.append(
            Refusal(f"tendons[{k}].profile", f"of tendon {floor.tendons[k].id} lies {1e3 * outside[q]:.0f} mm {side} the concrete at "
                    f"{found.s[q]:.2f} m, near ({found.xy[q, 0]:.2f}, {found.xy[q, 1]:.2f}); move its points into the slab")
        )  # fmt: skip
    if refused:
        raise RefusedError(refused)
    forces = []
    for t, c in zip(floor.tendons, curves, strict=True):
        s = strands[t.strand]
        area = t.count * s.area_mm2 * 1e-6
        forces.append(
            stressed(
                c,
                area * 1e3 * t.jack_MPa,
                s.friction_mu,
                s.wobble_rad_m,
                t.stressed_from,
                area * 1e3 * s.E_MPa,
                s.draw_in_mm / 1e3,
            )
        )
    return Tendons(curves, tuple(forces), found)


TENDONS = Stage("tendons", _laid_inputs, _lay, (MESH, SECTIONS))


def _inputs(floor: Floor) -> Floor | None:
    # Without tendons nothing is read, so that no edit makes anything after it run.
    if not floor.tendons:
        return None
    return only(
        floor, "standard", "parameters", "prestress", strands=ALL, tendons=("id", "strand", "count"),
        concretes=("id", "strength_MPa", "E_MPa", "transfer_strength_MPa"), load_cases=("id", "nature", "effect"),
        combinations=("id", "limit_state", "factors"),
    )  # fmt: skip


LASTING = ("quasi_permanent", "sustained")


def lasting_factors(floor: Floor) -> dict[str, float]:
    """Factors of what lasts, prestress aside: of the first combination for it, or all that is permanent."""
    tendons = {c.id for c in floor.load_cases if c.effect is not None}
    for c in floor.combinations:
        if c.limit_state in LASTING:
            return {k: f for k, f in c.factors.items() if k not in tendons}
    return {c.id: 1.0 for c in floor.load_cases if c.nature in ("self_weight", "dead")}


def _make(floor: Floor | None, made: Made[TendonForces | None]) -> TendonForces | None:
    laid = made[TENDONS]
    if floor is None or laid is None:
        return None
    standard = standard_named(floor.standard, floor.parameters)
    if standard.prestress is None:
        return None
    meshed, values, stiffness, given = made[MESH], made[SECTIONS], made[STIFFNESS], made[GIVEN_LOADS]
    system, t = stiffness.system, laid.threads
    nodes = len(system.mesh.xy)
    found = along(system, meshed.elements, t)
    face = meshed.face[t.element]
    middle = along(
        system, meshed.elements,
        Threads(t.tendon, t.s, t.element, t.length, t.xy, t.way, values.zeta[face], np.zeros_like(t.slope)),
    )  # fmt: skip

    def at_points(forces: tuple[Array, ...]) -> Array:
        out = np.zeros(len(t.s))
        for k, c in enumerate(laid.curves):
            mine = t.tendon == k
            out[mine] = np.interp(t.s[mine], c.s, forces[k])
        return out

    def displaced(vector: Array) -> Array:
        return solve(system, vector[..., None]).u[..., 0]

    locked = at_points(tuple(f.locked for f in laid.stressed))
    u_locked = displaced(effect(meshed.elements, nodes, t, found, locked).vector)
    factors = lasting_factors(floor)
    lasting = np.array([factors.get(u.case, 0.0) for u in given.units])
    u_lasting = displaced(given.combined(lasting)) if lasting.any() else np.zeros_like(u_locked)
    concretes = values.concrete[face]
    lost = losses(
        floor, standard.prestress, {c.id: standard.materials.modulus(c) for c in floor.concretes}, laid.curves, laid.stressed, t,
        concretes, strain_along(t, found, u_locked), strain_along(t, middle, u_locked), strain_along(t, found, u_lasting),
        values.h[face], t.zeta - values.zeta[face],
    )  # fmt: skip
    transfer = tuple(l.transfer for l in lost)
    final = tuple(l.final for l in lost)
    whole = effect(meshed.elements, nodes, t, found, at_points(final))
    first = effect(meshed.elements, nodes, t, found, at_points(transfer))
    u = displaced(whole.vector)
    concrete = section_forces(system, stiffness.kept, u[..., None])[..., 0]
    return TendonForces(transfer, final, lost, first, whole, concrete, u)


def _content(found: TendonForces | None) -> object:
    """What later stages read follows from the forces alone."""
    return found and (found.at_transfer, found.in_the_end, found.transfer.vector, found.final.vector)


TENDON_FORCES = Stage("tendon forces", _inputs, _make, (TENDONS, MESH, SECTIONS, STIFFNESS, GIVEN_LOADS), content=_content)
