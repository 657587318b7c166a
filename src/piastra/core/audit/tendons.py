"""Tendons that leave the concrete or its cover, that meet each other, or that act in no combination."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import LineString

from piastra.core.audit.finding import Finding, Mend, Set
from piastra.core.audit.site import TOLERANCE, Site
from piastra.core.model import Floor
from piastra.core.model.loading import STRENGTH
from piastra.core.model.tendon_curve import Curve, curve
from piastra.core.model.tendons import Tendon
from piastra.core.trace.amounts import amount

Array = npt.NDArray[np.float64]

NEAR = 0.5
"""A cover that is too small by less than this (mm) is rounding."""
AT_ANCHORS = 0.3
"""So near (m) to its ends a tendon lies in its anchor, whose cover is another matter."""
LEAST_ANGLE = np.radians(10.0)
"""Tendons that cross at less than this run beside each other."""


def tendons(site: Site) -> Iterator[Finding]:
    """Every rule for tendons."""
    floor = site.floor
    if not floor.tendons:
        return
    sheath = {s.id: s.duct_mm for s in floor.strands}
    curves = [curve(t.line, t.profile) for t in floor.tendons]
    region = site.region.buffer(TOLERANCE)
    for t, c in zip(floor.tendons, curves, strict=True):
        line = LineString(c.xy)
        out = line.difference(region)
        if not out.is_empty and out.length > TOLERANCE:
            place = (
                out.representative_point()
                if out.geom_type == "LineString"
                else max(shapely.get_parts(out), key=lambda p: p.length).representative_point()
            )
            opening = next((o.id for o, p in zip(floor.openings, site.openings, strict=True) if p.intersects(out)), None)
            where = f"through opening {opening}" if opening else "beside the slab"
            yield Finding(
                "tendon out", "tendons", t.id, f"runs {amount(out.length, 'length')} {where}", "it has no concrete to press there; lay it round, or end it before",
                (round(place.x, 4), round(place.y, 4)),
            )  # fmt: skip
            continue
        yield from _cover(site, t, c, sheath[t.strand] / 2)
    yield from _clashes(site, curves, [sheath[t.strand] for t in floor.tendons])
    effects = {c.effect for c in floor.load_cases}
    if not effects - {None}:
        yield Finding(
            "no prestress case", "tendons", floor.tendons[0].id, "and all other tendons act in no load case",
            "add cases of nature prestress with the effects transfer, final and secondary, and combine them",
        )  # fmt: skip
    yield from _combined(floor)


WANTED = {
    **dict.fromkeys(STRENGTH, ("secondary", "their secondary effects")),
    "transfer": ("transfer", "their force at transfer"),
}
IN_SERVICE = ("final", "their force in the end")


def _combined(floor: Floor) -> Iterator[Finding]:
    """Combinations that leave out what tendons do under them."""
    by_effect = {c.effect: c.id for c in floor.load_cases if c.effect is not None}
    own = {c.id for c in floor.load_cases if c.nature == "prestress"}
    for c in floor.combinations:
        effect, words = WANTED.get(c.limit_state, IN_SERVICE)
        if effect in by_effect and not own & set(c.factors):
            label = by_effect[effect]
            yield Finding(
                "tendons left out", "combinations", c.id, f"leaves out the tendons: {words} ({label}) act in it",
                "a floor with tendons is stressed by them in every combination",
                mend=Mend(f"Combination {c.id}: {label} added", (Set("combinations", c.id, f"factors.{label}", 1.0),)),
            )  # fmt: skip


def _faces(site: Site, xy: Array) -> tuple[Array, Array, Array, Array]:
    """Top, soffit and the two covers (n,) mm of the concrete at points (n, 2) m; the slab or thickening of the highest rank holds."""
    top, soffit, above, below = (np.full(len(xy), np.nan) for _ in range(4))
    ranked = sorted(zip(site.floor.slabs, site.slabs, strict=True), key=lambda p: p[0].priority)
    for s, shape in ranked:
        on = shapely.intersects_xy(shape.buffer(TOLERANCE), *xy.T)
        top[on], soffit[on] = 1e3 * s.top_offset_m, 1e3 * (s.top_offset_m - s.thickness_m)
        above[on], below[on] = s.cover_top_mm, s.cover_bottom_mm
    for t, shape in sorted(zip(site.floor.thickenings, site.thickenings, strict=True), key=lambda p: p[0].priority):
        on = shapely.intersects_xy(shape, *xy.T)
        top[on], soffit[on] = 1e3 * t.top_offset_m, 1e3 * (t.top_offset_m - t.thickness_m)
    return top, soffit, above, below


def _cover(site: Site, t: Tendon, c: Curve, radius: float) -> Iterator[Finding]:
    top, soffit, above, below = _faces(site, c.xy)
    z = 1e3 * c.z
    lack = np.maximum(z + radius - (top - above), (soffit + below) - (z - radius))
    lack[(c.s < AT_ANCHORS) | (c.s > c.length - AT_ANCHORS) | np.isnan(lack)] = 0.0
    if lack.max() <= NEAR:
        return
    k = int(lack.argmax())
    steps = []
    for n, p in enumerate(t.profile):
        i = int(np.abs(c.s - p.s_m).argmin())
        if lack[i] > NEAR:
            held = float(np.clip(p.z_mm, soffit[i] + below[i] + radius, top[i] - above[i] - radius))
            steps.append(Set("tendons", t.id, f"profile.{n}.z_mm", round(held, 1)))
    mend = Mend(f"Tendon {t.id}: {len(steps)} points brought within cover", tuple(steps)) if steps else None
    yield Finding(
        "tendon cover", "tendons", t.id, f"has {amount(lack[k], 'cover')} too little cover {amount(c.s[k], 'length')} from its start",
        "its sheath is covered less than the bars of its slab", (round(float(c.xy[k, 0]), 4), round(float(c.xy[k, 1]), 4)), mend,
    )  # fmt: skip


def _clashes(site: Site, curves: list[Curve], sheaths: list[float]) -> Iterator[Finding]:
    """One finding a tendon, at its worst place; of two that meet the later one is told."""
    lines = [LineString(c.xy) for c in curves]
    tree = shapely.STRtree(lines)
    worst: dict[int, tuple[float, int, tuple[float, float]]] = {}
    for i, j in zip(*tree.query(lines, predicate="intersects"), strict=True):
        if j >= i:
            continue
        for p in shapely.get_parts(lines[i].intersection(lines[j])):
            if p.geom_type != "Point":
                continue
            a, b = (float(lines[k].project(p)) for k in (i, j))
            # Along the chords of an arc a place is a little short of its own s.
            za, zb = (
                float(np.interp(s / lines[k].length * curves[k].length, curves[k].s, curves[k].z)) for k, s in ((i, a), (j, b))
            )
            ha, hb = (
                float(np.interp(s / lines[k].length * curves[k].length, curves[k].s, curves[k].heading))
                for k, s in ((i, a), (j, b))
            )
            lack = (sheaths[i] + sheaths[j]) / 2 - 1e3 * abs(za - zb)
            if lack > NEAR and abs(np.sin(ha - hb)) > np.sin(LEAST_ANGLE) and lack > worst.get(int(i), (0.0,))[0]:
                worst[int(i)] = lack, int(j), (round(p.x, 4), round(p.y, 4))
    for i, (lack, j, place) in sorted(worst.items()):
        t, other = site.floor.tendons[i], site.floor.tendons[j]
        yield Finding(
            "tendon clash", "tendons", t.id, f"and tendon {other.id} meet at one level: {amount(lack, 'cover')} of their sheaths",
            "one of them has to lie above the other where they cross; move a point of its profile", place,
        )  # fmt: skip
