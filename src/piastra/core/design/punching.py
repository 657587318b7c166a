"""Punching zones: one for each column."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import product
from typing import Literal

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from piastra.core.combine.envelope import Factors, companion, envelopes, governing_panels
from piastra.core.design.mats import Mats, mats_of, provided
from piastra.core.geometry.arcs import polygon
from piastra.core.geometry.perimeter import Perimeter, control_perimeter
from piastra.core.loads.vectors import Clipped, LoadVectors, clip, joint_moments, load_within
from piastra.core.mesh.locate import Elements
from piastra.core.mesh.plan import Plan
from piastra.core.model import Floor
from piastra.core.model.footprint import beam_outline, footprint
from piastra.core.model.members import Column, Rectangle
from piastra.core.model.message import Message
from piastra.core.standards import Standard
from piastra.core.standards.protocol import PunchingResistance

Array = npt.NDArray[np.float64]

LEAST_FORCE = 0.5
"""A zone whose joint takes less than this (kN) upwards is not checked for punching."""


@dataclass(frozen=True, slots=True)
class Zone:
    """One perimeter of one column, under its governing combination and arrangement.

    Forces in kN and kNm, the moments about the perimeter's centroid in the column's own axes (right-hand rule);
    stresses in kN/m2; lengths in m, ``W`` in m2; ``k`` the shares of the moments about the own x and y axis.
    """

    column: str
    at: tuple[float, float]
    around: Literal["column", "thickening"]
    perimeter: Perimeter
    h: float
    d: float
    d_x: float
    d_y: float
    rho_x: float
    rho_y: float
    combination: str
    panels: tuple[str, ...]
    V_joint: float
    V: float
    load_inside: float
    M_x: float
    M_y: float
    k: tuple[float, float]
    W: tuple[float, float]
    beta: float
    v_ed: float
    u0: float
    v_ed_0: float
    resistance: PunchingResistance
    utilisation: float
    use_perimeter: float
    use_face: float


def face_length(column: Column, loaded: Polygon, perimeter: Perimeter, d: float) -> float:
    """u_0 (m), 6.4.5 (3): interior the footprint's girth; edge c2 + 3d <= c2 + 2 c1; corner 3d <= c1 + c2."""
    if perimeter.edges == 0:
        return float(loaded.length)
    box = loaded.minimum_rotated_rectangle
    xy = shapely.get_coordinates(box)
    a, b = (float(np.hypot(*(xy[i + 1] - xy[i]))) for i in (0, 1))
    if perimeter.edges >= 2:
        return min(3 * d, a + b)
    # c2 runs along the edge: the side at right angles to the way from the column to the perimeter's centroid.
    inward = np.array(perimeter.centroid) - np.array([loaded.centroid.x, loaded.centroid.y])
    along_first = abs((xy[1] - xy[0]) @ inward) / a
    along_second = abs((xy[2] - xy[1]) @ inward) / b
    c1, c2 = (a, b) if along_first > along_second else (b, a)
    return c2 + min(3 * d, 2 * c1)


def _sides(column: Column) -> tuple[float, float]:
    shape = column.shape
    return (shape.b_m, shape.d_m) if isinstance(shape, Rectangle) else (shape.diameter_m, shape.diameter_m)


BEAM_SHARE = 0.25
"""A column with so much of its section under a beam gets its load from that."""


@dataclass(frozen=True, slots=True)
class ZonePlace:
    """What of a zone does not depend on loads: where it is, its depths and steel, and its resistance."""

    column: Column
    around: Literal["column", "thickening"]
    perimeter: Perimeter
    inside: Clipped
    h: float
    depths: tuple[float, float, float]
    rho: tuple[float, float]
    u0: float
    resistance: PunchingResistance


def zone_places(
    floor: Floor, standard: Standard, plan: Plan, elements: Elements, labels: list[str], slab_of: npt.NDArray[np.int64], h_of: Array,
) -> tuple[list[ZonePlace], list[Message]]:  # fmt: skip
    """The zones of every column that carries the floor.

    ``labels`` of the supports; ``slab_of`` and ``h_of`` (e,) of each element.
    """
    mats = mats_of(floor)
    solid = shapely.unary_union([Polygon(p.exterior) for p in shapely.get_parts(plan.region)])
    openings = [(o.id, polygon(o.outline)) for o in floor.openings]
    concretes = {c.id: c for c in floor.concretes}
    jobs: list[tuple[Column, Literal["column", "thickening"], Polygon, float, int, Perimeter]] = []
    messages: list[Message] = []
    beams = [beam_outline(b) for b in floor.beams]
    for number, column in enumerate(floor.columns):
        if column.below is None or plan.footprints[number].is_empty or column.id not in labels:
            continue
        loaded = footprint(column)
        near = elements.tree.query(plan.footprints[number], predicate="intersects")
        inner = near[shapely.covers(plan.footprints[number].buffer(1e-3), elements.shapes[near])]
        if not len(inner):
            continue
        slab, h = int(slab_of[inner[0]]), float(h_of[inner[0]])
        beam = next(
            (b.id for b, o in zip(floor.beams, beams, strict=True) if o.intersection(loaded).area > BEAM_SHARE * loaded.area),
            None,
        )
        if beam is not None:
            messages.append(Message("note", column.id, f"stands under beam {beam}, which brings it its load by shear; it is not "
                                    "checked for punching", (column.at[0], column.at[1])))  # fmt: skip
            continue
        d = _depth(mats, column, slab, h)[0]
        thick = next(
            (t for t in sorted(floor.thickenings, key=lambda t: -t.priority)
             if polygon(t.outline).contains(shapely.Point(column.at)) and t.thickness_m > floor.slabs[slab].thickness_m),
            None,
        )  # fmt: skip
        around = standard.perimeter_distance(d)
        if thick is not None:
            outline = polygon(thick.outline)
            # Checked at the column even where the thickening ends inside the perimeter: the face needs it in any case.
            found = control_perimeter(loaded, around, solid, openings, d)
            if found is not None:
                jobs.append((column, "column", loaded, h, slab, found))
            thin = floor.slabs[slab].thickness_m
            d_out = _depth(mats, column, slab, thin)[0]
            head = outline.intersection(solid).convex_hull
            found = control_perimeter(head, standard.perimeter_distance(d_out), solid, openings, d_out)
            if found is not None:
                jobs.append((column, "thickening", head, thin, slab, found))
        else:
            found = control_perimeter(loaded, around, solid, openings, d)
            if found is None:
                messages.append(Message("warning", column.id, "has no control perimeter left between edges and openings; move the openings",
                                        (column.at[0], column.at[1])))  # fmt: skip
                continue
            jobs.append((column, "column", loaded, h, slab, found))
    made = []
    for column, around_what, _, h, slab, perimeter in jobs:
        depths = _depth(mats, column, slab, h)
        rho = _ratios(mats, plan.region, footprint(column), depths, slab)
        concrete = concretes[floor.slabs[slab].concrete]
        resistance = standard.punching(depths[0], *rho, standard.concrete(concrete.strength_MPa, concrete.E_MPa))
        u0 = face_length(column, footprint(column), perimeter, depths[0]) if around_what == "column" else float("nan")
        made.append(ZonePlace(column, around_what, perimeter, clip(elements, perimeter.inside), h, depths, rho, u0, resistance))
    return made, messages


def zones(
    floor: Floor, standard: Standard, places: list[ZonePlace], loads: LoadVectors, reactions: Array, labels: list[str],
    combinations: list[Factors],
) -> tuple[list[Zone], list[Message]]:  # fmt: skip
    """Check the zones. ``reactions`` (s, 3, r) of the supports ``labels``.

    For each zone the stress is a linear functional of the response, ``V/(u d) + k_x M_x/(W_x d) + k_y M_y/(W_y d)``
    with either sign of each moment; its envelope over all arrangements is exact, and V and the moments reported are
    those that act together with it.
    """
    inside = load_within(floor, loads, [p.inside for p in places])
    found, messages = [], []
    for place, within in zip(places, inside, strict=True):
        joint = reactions[labels.index(place.column.id)]
        zone = _check(standard, place, joint, within, joint_moments(floor, loads, place.column.id), combinations, loads)
        if zone is None:
            told = "is not pressed by the floor in any ultimate combination; it is not checked for punching"
            messages.append(Message("warning", place.column.id, told, (place.column.at[0], place.column.at[1])))
        else:
            found.append(zone)
    return found, messages


def _depth(mats: Mats, column: Column, slab: int, h: float) -> tuple[float, float, float]:
    """Mean effective depth and those of the x and y bars in the top face at the column, m (6.32)."""
    here = provided(mats, np.array([column.at]), np.array([slab]))
    d_x, d_y = h - float(here.depth[2, 0]), h - float(here.depth[3, 0])
    return (d_x + d_y) / 2, d_x, d_y


def _ratios(
    mats: Mats, region: BaseGeometry, loaded: Polygon, depths: tuple[float, float, float], slab: int
) -> tuple[float, float]:
    """Mean rho_x and rho_y of the top bars over the column's width plus 3d each side, 6.4.4 (1)."""
    d, d_x, d_y = depths
    x0, y0, x1, y1 = loaded.bounds
    gx, gy = np.meshgrid(np.linspace(x0 - 3 * d, x1 + 3 * d, 25), np.linspace(y0 - 3 * d, y1 + 3 * d, 25))
    xy = np.column_stack([gx.ravel(), gy.ravel()])
    xy = xy[shapely.contains_xy(region, xy[:, 0], xy[:, 1])]
    here = provided(mats, xy, np.full(len(xy), slab))
    return float(here.area[2].mean()) / d_x, float(here.area[3].mean()) / d_y


def _check(standard: Standard, place: ZonePlace, joint: Array, within: Array, brought: Array, combinations: list[Factors],
           loads: LoadVectors) -> Zone | None:  # fmt: skip
    column, perimeter, resistance, u0, around = place.column, place.perimeter, place.resistance, place.u0, place.around
    (d, d_x, d_y), (rho_x, rho_y), h = place.depths, place.rho, place.h
    u = perimeter.length
    angle = np.radians(column.angle_deg)
    W = (perimeter.first_moment(angle), perimeter.first_moment(angle + np.pi / 2))
    b, t = _sides(column)
    # M_x turns about the own x axis, so its eccentricity lies along the own y axis.
    k = (standard.moment_share(t, b), standard.moment_share(b, t))
    V = joint[0] - within
    rx, ry = np.array(column.at) - np.array(perimeter.centroid)
    # What a frame's action brings to the joint goes into the slab as far as the columns do not take it.
    m_x, m_y = joint[1] + brought[0] + ry * V, joint[2] + brought[1] - rx * V
    c, s = np.cos(angle), np.sin(angle)
    M_x, M_y = c * m_x + s * m_y, -s * m_x + c * m_y
    stresses = np.array([
        V / (u * d) + sx * k[0] * M_x / (W[0] * d) + sy * k[1] * M_y / (W[1] * d) for sx, sy in product((1.0, -1.0), repeat=2)
    ])  # fmt: skip
    worst = envelopes(stresses, combinations)[1]
    which, c = np.unravel_index(int(worst.argmax()), worst.shape)
    v_ed, factors, stress = float(worst[which, c]), combinations[int(c)], stresses[which]
    force, own_x, own_y, whole, load = (
        float(companion(stress, f, factors, greatest=True)) for f in (V, M_x, M_y, joint[0], within)
    )
    if force < LEAST_FORCE or v_ed <= 0:
        return None
    beta = v_ed * u * d / force
    v0 = beta * whole / (u0 * d) if around == "column" else 0.0
    use = (v_ed / resistance.v_rd_c, v0 / resistance.v_rd_max)
    return Zone(
        column.id, (column.at[0], column.at[1]), around, perimeter, h, d, d_x, d_y, rho_x, rho_y, factors.combination,
        tuple(governing_panels(stress, factors, loads.units, greatest=True)), whole, force, load, own_x, own_y, k, W,
        beta, v_ed, u0, v0, resistance, max(use), use[0], use[1],
    )  # fmt: skip
