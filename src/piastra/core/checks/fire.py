"""Fire from below, by tables: thickness of slabs, width of beams, and how deep bars and tendons lie."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from piastra.core.beams.curtailment import LINK
from piastra.core.checks.beams import NOT_DESIGNED, middle_of, written
from piastra.core.checks.check import Context
from piastra.core.checks.row import Ref, Row, RowId, Unchecked, checked, uncovered
from piastra.core.geometry.arcs import polygon
from piastra.core.model import Floor
from piastra.core.model.members import Beam, Slab
from piastra.core.model.tendon_curve import curve
from piastra.core.reinforcement.in_fire import INSIDE, flat_slabs, inner_supports, outline_of
from piastra.core.standards.fire_rules import FireNeeds, FireRules
from piastra.core.trace import Step, Trace, Value

MOST = 99.0
NOT_ASKED = "how long the floor has to bear a fire is not given; give the floor its fire resistance"
NO_BOTTOM = "it has no bottom bars whose distance from the fire could be looked at"
NO_TOP = "whether its top bars run through the spans is not known: no column strip over it is designed"
NO_OVER = "top steel over this inner support is below half a per cent, and whether less does in a fire is not known here"
NO_LEVEL = "tables of fire resistance hold for the whole load of service here, and combinations of a fire are not checked"


@dataclass(frozen=True, slots=True)
class Lowest:
    """What lies nearest to the soffit: its distance m, and what it is."""

    distance: float
    told: str


class FireResistance:
    """Tabulated data of the standard, whose level of load is told; combinations of the fire situation belong to strength."""

    name = "fire"
    lasting = False

    def rows(self, context: Context) -> list[Row] | Unchecked | None:
        """One row a slab, thinner part and beam; None where neither a fire resistance nor a combination asks for it."""
        floor, rules, asked = context.floor, context.standard.fire, context.floor.fire
        acting = [c.id for c in floor.combinations if c.limit_state == "fire"]
        if asked is None:
            return Unchecked(NOT_ASKED) if acting else None
        if rules is None:
            return context.not_at_hand()
        rows: list[Row] = []
        standing = flat_slabs(floor, outline_of(context.region))
        for slab in floor.slabs:
            rows += self._slab(context, rules, slab, slab.id in standing)
        rows += self._kept_top(context, rules, standing)
        rows += self._least_over(context, rules, standing)
        for beam in floor.beams:
            rows.append(self._beam(context, rules, beam))
        if not any(s.name == "fire" for s in context.standard.situations):
            rows += [uncovered(RowId(self.name, Ref("combinations", n)), f"combination {n}", NO_LEVEL) for n in acting]
        return rows

    def _slab(self, context: Context, rules: FireRules, slab: Slab, flat: bool) -> list[Row]:
        floor = context.floor
        assert floor.fire is not None
        shape = polygon(slab.outline).intersection(context.region)
        if shape.is_empty:
            return []
        point = shape.representative_point()
        at, id = (point.x, point.y), RowId(self.name, Ref("slabs", slab.id))
        strength = next(c.strength_MPa for c in floor.concretes if c.id == slab.concrete)
        if rules.most_MPa is not None and strength > rules.most_MPa:
            told = f"the tables hold up to a strength of {rules.most_MPa:g} MPa, and its concrete has {strength:g} MPa"
            return [uncovered(id, slab.id, told, at)]
        needs = rules.slab(floor.fire, flat)
        rows = []
        bars, strands = _lowest_bars(context, rules, slab, shape), _lowest_strands(floor, rules.to_axis, slab, shape)
        if bars is None and strands is None:
            rows.append(uncovered(id, slab.id, NO_BOTTOM, at))
        else:
            rows.append(_row(id, slab.id, at, needs, "thickness", slab.thickness_m, bars, strands))
        for t in floor.thickenings:
            if t.thickness_m < slab.thickness_m and (part := polygon(t.outline).intersection(shape)).area > 1e-6:
                p, own = part.representative_point(), RowId(self.name, Ref("thickenings", t.id), part=slab.id)
                rows.append(_row(own, t.id, (p.x, p.y), needs, "thickness", t.thickness_m, None, None))
        return rows

    def _kept_top(self, context: Context, rules: FireRules, flat: set[str]) -> list[Row]:
        """Of every column strip over inner columns the top bars of which the least runs through; such columns without a strip are told."""
        floor = context.floor
        assert floor.fire is not None
        share = rules.kept_top(floor.fire)
        if share is None or not flat:
            return []
        assert share.result is not None
        cuts, rows = context.cuts, []
        seen: set[tuple[str, str]] = set()
        if context.steel is not None:
            at = context.steel.faces[1].at
            for k in np.unique(cuts.strip[at.kept > 0]).tolist():
                strip, mine = context.layout.strips[k], np.flatnonzero(cuts.strip == k)
                seen.update((label, strip.direction) for label in strip.supports)
                wanted = float((at.kept[mine] * cuts.width[mine]).max())
                run = context.steel.provided[1, mine] * cuts.width[mine]
                least = int(run.argmin())
                through, there = float(run[least]), wanted / share.result.value
                use = min(wanted / through, MOST) if through > 0 else MOST
                x, y = cuts.ends[mine[least]].mean(axis=0)
                A, total = Value("A_through", 1e6 * through, "steel", "top bars at the station with the fewest"), Value("A_s", 1e6 * there, "steel",
                    "top steel of the panel over its column")  # fmt: skip
                last = (
                    Step("Utilisation", "", "use = k_top · A_s / A_through", (share.result, total, A), Value("use", use))
                    if use < MOST else Step("Utilisation", values=(share.result, total, A), result=Value("use", use))
                )  # fmt: skip
                id = RowId(
                    self.name, Ref("strips", strip.id), part="top bars", face="top", station=round(float(cuts.s[mine[least]]), 4)
                )
                rows.append(
                    checked(id, f"top bars through {strip.label}", use, (float(x), float(y)), Trace("", {}, (), (share, last)))
                )
        for kind, label, spot in inner_supports(floor, flat, outline_of(context.region)):
            for direction in ("x", "y"):
                if (label, direction) not in seen:
                    id = RowId(self.name, Ref(kind, label), part=f"top bars, {direction}")
                    rows.append(uncovered(id, f"top bars over {label}, along {direction}", NO_TOP, (spot[0], spot[1])))
        return rows

    def _least_over(self, context: Context, rules: FireRules, flat: set[str]) -> list[Row]:
        """At inner supports of slabs that are not flat: enough top steel for any, or told that whether less does is not known."""
        floor, steel, cuts = context.floor, context.steel, context.cuts
        assert floor.fire is not None
        share = rules.least_over(floor.fire)
        solid = shapely.union_all([polygon(s.outline) for s in floor.slabs if s.id not in flat])
        if share is None or solid.is_empty:
            return []
        assert share.result is not None
        rows = []
        for k, strip in enumerate(context.layout.strips):
            mine = np.flatnonzero(cuts.strip == k)
            if strip.beam or not len(mine) or not strip.outline.intersects(solid.buffer(-INSIDE)):
                continue
            for end, hold in zip((0, -1), strip.holds, strict=True):
                if hold is None or hold.last:
                    continue
                station = int(mine[np.argsort(cuts.s[mine])[end]])
                x, y = cuts.ends[station].mean(axis=0)
                id = RowId(
                    self.name,
                    Ref("strips", strip.id),
                    part=f"over {hold.label}",
                    face="top",
                    station=round(float(cuts.s[station]), 4),
                )
                label, at = f"top bars over {hold.label}, {strip.label}", (float(x), float(y))
                h, laid = float(cuts.h[station]), float(steel.provided[1, station]) if steel is not None else 0.0
                use = share.result.value * h / laid if laid > 0 else MOST
                if use > 1:
                    rows.append(uncovered(id, label, NO_OVER, at))
                    continue
                steps = (
                    share,
                    Step("Utilisation", "", "use = k_over · h / a_s", (share.result, Value("h", h, "size"), Value("a_s", 1e6 * laid, "steel_per_m")),
                         Value("use", use)),
                )  # fmt: skip
                rows.append(checked(id, label, use, at, Trace("", {}, (), steps)))
        return rows

    def _beam(self, context: Context, rules: FireRules, beam: Beam) -> Row:
        floor, design, id, at = context.floor, context.beams, RowId(self.name, Ref("beams", beam.id)), middle_of(beam)
        assert floor.fire is not None
        strength = next(c.strength_MPa for c in floor.concretes if c.id == beam.concrete)
        if rules.most_MPa is not None and strength > rules.most_MPa:
            told = f"the tables hold up to a strength of {rules.most_MPa:g} MPa, and its concrete has {strength:g} MPa"
            return uncovered(id, beam.id, told, at)
        spans = [k for k, s in enumerate(context.layout.strips) if beam.id in s.beams]
        if design is None or not spans or any(k not in design.bars for k in spans):
            return uncovered(id, beam.id, NOT_DESIGNED, at)
        cover = max(max(s.cover_bottom_mm, s.cover_top_mm) for s in floor.slabs) / 1e3
        # One that is drawn bay by bay goes on over its columns, too.
        goes_on = any(h is not None and not h.last for k in spans for h in context.layout.strips[k].holds)
        worst: Row | None = None
        for k in spans:
            laid = design.bars[k][0]
            needs = rules.beam(floor.fire, beam.width_m, goes_on, laid.layers == 1)
            deep = cover + LINK + (laid.bar / 2 if rules.to_axis else 0.0)
            row = _row(id, beam.id, at, needs, "width", beam.width_m, Lowest(deep, f"{written(laid)} within links"), None)
            if worst is None or (row.utilisation or 0.0) > (worst.utilisation or 0.0):
                worst = row
        assert worst is not None
        return worst


def _row(
    id: RowId, label: str, at: tuple[float, float], needs: FireNeeds, told: str, size: float, bars: Lowest | None, strands: Lowest | None
) -> Row:  # fmt: skip
    """The worst of a size, which ``told`` names, and the distances of what lies lowest."""
    least, uses = Value("s_min", needs.size, "size"), [needs.size / size]
    steps = [
        needs.step,
        Step("Size", "", "use = s_min / s", (least, Value("s", size, "size", told)), Value("use", uses[0])),
    ]
    for found, wanted in ((bars, needs.bars), (strands, needs.strands)):
        if found is None:
            continue
        have = Value("a", found.distance, "size", found.told)
        if wanted is None:
            use = MOST
            steps.append(Step("Distance from the fire", values=(have,), result=Value("use", use)))
        else:
            use = min(wanted / max(found.distance, 1e-6), MOST)
            lacking = wanted - found.distance
            more = f"{1e3 * lacking:.0f} mm more cover would do." if lacking > 0 else ""
            steps.append(Step("Distance from the fire", "", "use = min(a_min / a, 99)", (Value("a_min", wanted, "size"), have),
                              Value("use", use), note=more))  # fmt: skip
        uses.append(use)
    return checked(id, label, max(uses), at, Trace("", {}, (), tuple(steps)))


def _lowest_bars(context: Context, rules: FireRules, slab: Slab, shape: BaseGeometry) -> Lowest | None:
    """Of the bottom layer's mats and groups; bars of an inner layer lie above the thickest of the outer one."""
    floor, cover = context.floor, slab.cover_bottom_mm / 1e3
    mats = [
        m for m in floor.mats
        if m.face == "bottom" and (m.outline is None or polygon(m.outline).intersection(shape).area > 1e-6)
    ]  # fmt: skip
    layer = {m.id: m.layer or ("outer" if m.direction == "x" else "inner") for m in mats}
    outer = max((m.bar_mm for m in mats if layer[m.id] == "outer"), default=0.0) / 1e3
    inner_ways = {m.direction for m in mats} - {m.direction for m in mats if layer[m.id] == "outer"}
    found = [(cover + (outer if layer[m.id] == "inner" else 0.0), m.bar_mm / 1e3, f"⌀{m.bar_mm:g} of mat {m.id}") for m in mats]
    for g in context.groups:
        if g.face == 0 and _meets(g.outline, shape):
            found.append((cover + (outer if g.direction in inner_ways else 0.0), g.bar, f"⌀{1e3 * g.bar:g} of {g.mark}"))
    if not found:
        return None
    deep, told = min((near + (bar / 2 if rules.to_axis else 0.0), told) for near, bar, told in found)
    return Lowest(deep, told)


def _meets(outline: Polygon, shape: BaseGeometry) -> bool:
    return bool(outline.intersection(shape).area > 1e-6)


def _lowest_strands(floor: Floor, to_axis: bool, slab: Slab, shape: BaseGeometry) -> Lowest | None:
    """What lies lowest of all tendons in the slab, above the soffit that is there: a thickening's where one is."""
    if not floor.tendons:
        return None
    sheath = {s.id: s.duct_mm / 1e3 for s in floor.strands}
    parts = [(polygon(t.outline), t) for t in sorted(floor.thickenings, key=lambda t: t.priority)]
    best: Lowest | None = None
    for t in floor.tendons:
        c = curve(t.line, t.profile)
        inside = shapely.intersects_xy(shape, *c.xy.T)
        if not inside.any():
            continue
        soffit = np.full(len(c.z), slab.top_offset_m - slab.thickness_m)
        for outline, part in parts:
            soffit[shapely.intersects_xy(outline, *c.xy.T)] = part.top_offset_m - part.thickness_m
        deep = float((c.z - soffit)[inside].min()) - (0.0 if to_axis else sheath[t.strand] / 2)
        if best is None or deep < best.distance:
            best = Lowest(deep, f"tendon {t.id} at its lowest")
    return best
