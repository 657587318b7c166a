"""Prestress at the stations of strips."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from piastra.core.combine.envelope import companion
from piastra.core.model import Floor
from piastra.core.model.loading import STRENGTH
from piastra.core.reinforcement.stations import materials
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.factors import FACTORS
from piastra.core.stages.loads import LOADS
from piastra.core.stages.mesh import MESH
from piastra.core.stages.plan import PLAN
from piastra.core.stages.sections import SECTIONS
from piastra.core.stages.stiffness import STIFFNESS
from piastra.core.stages.strips import STRIPS
from piastra.core.stages.tendons import TENDON_FORCES, TENDONS
from piastra.core.stages.view import ALL, only
from piastra.core.standards import standard_named
from piastra.core.strips.cuts import forces_across
from piastra.core.tendons.crossings import crossings, tendons_at
from piastra.core.tendons.stations import StationPrestress
from piastra.core.tendons.stresses import averaged, extremes, fibre_stress, scaled, sections_of

Array = npt.NDArray[np.float64]


def _inputs(floor: Floor) -> Floor:
    return only(
        floor, "standard", "parameters", strands=ALL, tendons=("id", "strand", "count"), concretes=ALL, rebars=ALL,
        slabs=("concrete", "rebar"), load_cases=("id", "effect"),
    )  # fmt: skip


def _make(floor: Floor, made: Made[StationPrestress | None]) -> StationPrestress | None:
    laid, forces = made[TENDONS], made[TENDON_FORCES]
    rules = standard_named(floor.standard, floor.parameters).prestress
    layout, cuts = made[STRIPS].layout, made[STRIPS].cuts
    if laid is None or forces is None or rules is None or not len(cuts.strip):
        return None
    slab = made[PLAN].slab[made[MESH].face][cuts.samples.element]
    pair, pairs = materials(floor)
    kind = np.full(len(cuts.strip), len(pairs), dtype=np.int64)
    np.minimum.at(kind, cuts.samples.cut, pair[slab])
    span = np.array([s.length for s in layout.strips])[cuts.strip]
    found = crossings(layout, cuts, laid.curves, forces.in_the_end, made[SECTIONS].datum)
    at = tendons_at(floor, rules, cuts, found, span, kind, pairs)
    own = sections_of(cuts, made[STIFFNESS].kept)
    whole = averaged(layout, cuts, own)
    stress, over = fibre_stress(cuts, own), fibre_stress(cuts, own, whole)
    effects = {c.id for c in floor.load_cases if c.effect is not None}
    units = np.array([k for k, u in enumerate(made[LOADS].units) if u.case in effects], dtype=np.int64)
    spreads = [rules.spread(s) for s in floor.strands if any(t.strand == s.id for t in floor.tendons)]
    spread = (min(s[0] for s in spreads), max(s[1] for s in spreads))
    service = [f for f in made[FACTORS] if f.limit_state not in (*STRENGTH, "transfer")]
    fibre, pull = np.zeros((2, len(cuts.strip))), np.zeros((2, len(cuts.strip)))
    if service:
        greatest = extremes(over, service, units, spread)[1]
        chosen = greatest.argmax(axis=2)
        fibre = np.maximum(greatest.max(axis=2).T, 0.0)
        for f in (0, 1):
            other = np.zeros(len(cuts.strip))
            for c in np.unique(chosen[:, f]):
                mine = chosen[:, f] == c
                least = scaled(service[c], units, spread[0])
                other[mine] = companion(over[mine, f], over[mine, 1 - f], least, greatest=True)
            # A triangle of tension up to where the stress is nil, or all of the section.
            t, h = fibre[f], cuts.h
            part = np.where(other < 0, t / np.maximum(t - other, 1e-9), 1.0)
            pull[f] = np.where(other < 0, 0.5 * t * part * h, (t + np.maximum(other, 0.0)) / 2 * h)
    A, e = np.maximum(own.A, 1e-12), at.offset
    pressed = np.stack([at.force / A + at.force * e * own.bottom / own.I, at.force / A - at.force * e * own.top / own.I])
    u = forces.u[..., None]
    axial = forces_across(cuts, made[STIFFNESS].system, u, forces.concrete[..., None])[0][:, 3, 0]
    strands = {s.id: s for s in floor.strands}
    bonded = any(strands[t.strand].bond == "bonded" for t in floor.tendons)
    return StationPrestress(found, at, own, whole, stress, over, units, spread, fibre, pull, pressed, axial, bonded)


TENDON_STATIONS = Stage(
    "tendon stations", _inputs, _make, (TENDONS, TENDON_FORCES, STRIPS, FACTORS, LOADS, SECTIONS, STIFFNESS, PLAN, MESH)
)
