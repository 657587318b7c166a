"""The responses of a run to its unit loads, by which everything else can be read."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import Polygon

from piastra.core.combine.arrangements import Arrangement
from piastra.core.combine.envelope import Factors
from piastra.core.fe.recovery import about_own_plane
from piastra.core.geometry.arcs import polygon
from piastra.core.loads.vectors import Unit
from piastra.core.mesh.locate import Elements, indexed
from piastra.core.pipeline import Outcome

Array = npt.NDArray[np.float64]

ROWS = ("w", "nx", "ny", "nxy", "mx", "my", "mxy", "vx", "vy")
"""Rows in which values are kept: mm (down), kN/m, kNm/m (about the section's own middle plane, sagging positive)."""


@dataclass(frozen=True, slots=True)
class StripForces:
    """Unit responses (c, 4, r) at the stations of strips, moment about the concrete's centroid (kNm, sagging positive), twisting moment (kNm), shear (kN) and axial
    force (kN, tension positive) of each whole strip: ``strip`` (c,) numbers ``labels``, ``s`` (c,) m along its axis,
    ``width`` (c,) m of concrete."""

    labels: tuple[str, ...]
    strip: npt.NDArray[np.int64]
    s: Array
    width: Array
    forces: Array


@dataclass(frozen=True, slots=True)
class Responses:
    """Unit responses of a run.

    ``elements``: the mesh over places, a place being a node within one section. ``at_places`` (p, 9, r) and
    ``at_centres`` (e, 9, r, None where it was not asked for) as ``ROWS``; ``bars`` (p,) rad the direction of the x bars; ``bed`` (p,) kN/m3 of the
    bedding. ``supports`` with ``reactions`` (s, 3, r) and their places ``support_at`` (s, 2) m, and the load ``applied`` (r,) kN down. ``lifted``: by
    combination, values (p, 9) and reactions (s, 3) with all live load where a bedding lets go.
    """

    elements: Elements
    at_places: Array
    at_centres: Array | None
    bars: Array
    bed: Array
    supports: tuple[str, ...]
    support_at: Array
    reactions: Array
    applied: Array
    lifted: dict[str, tuple[Array, Array]]
    units: tuple[Unit, ...]
    cases: tuple[str, ...]
    combinations: tuple[Factors, ...]
    panels: tuple[tuple[str, Polygon], ...]
    arrangements: tuple[Arrangement, ...]
    required: tuple[str, ...]
    """Names of the arrangements that the standard asks for."""
    strips: StripForces | None = None
    """None: not kept with the run."""


def responses_of(outcome: Outcome) -> Responses:
    """The unit responses of a computed floor."""
    kept, floor, plan = outcome.stiffness.kept, outcome.floor, outcome.plan
    own = about_own_plane(kept, outcome.forces)
    w = 1e3 * outcome.solution.u[kept.node, 2]
    at_places = np.concatenate([w[:, None], own], axis=1)
    corners = kept.of >= 0
    slab = np.zeros(len(kept.node), dtype=np.int64)
    of_element = plan.slab[outcome.meshed.face]
    slab[kept.of[corners]] = np.broadcast_to(of_element[:, None], kept.of.shape)[corners]
    xy = outcome.meshed.mesh.xy[kept.node]
    held, cuts = outcome.stiffness.system.held, outcome.strips.cuts
    lifted = {}
    for name, u in outcome.combined.u.items():
        forces = outcome.combined.forces[name].copy()
        forces[:, 3:6] -= kept.zeta[:, None] * forces[:, :3]
        lifted[name] = (np.column_stack([1e3 * u[kept.node, 2], forces]), outcome.combined.reactions[name])
    return Responses(
        indexed(xy, kept.of, outcome.meshed.elements.quads), at_places, None,
        np.radians(np.array([s.bar_angle_deg for s in floor.slabs]))[slab], bedding(outcome, xy), tuple(held.labels),
        np.array(held.centre).reshape(-1, 2), outcome.solution.reactions, outcome.loads.applied, lifted, outcome.loads.units,
        tuple(c.id for c in floor.load_cases), outcome.combinations, outcome.loads.panels, outcome.arranged.named,
        tuple(a.name for a in outcome.arranged.required),
        StripForces(tuple(s.id for s in outcome.strips.layout.strips), cuts.strip, cuts.s, cuts.width, cuts.forces),
    )  # fmt: skip


def bedding(outcome: Outcome, xy: Array) -> Array:
    """Bedding modulus (k,) kN/m3 under points (k, 2) m; beddings that overlap add up."""
    out = np.zeros(len(xy))
    for s in outcome.floor.supports:
        if s.kind == "area":
            out += s.modulus_kN_m3 * shapely.intersects_xy(polygon(s.outline).buffer(1e-6), xy[:, 0], xy[:, 1])
    return out
