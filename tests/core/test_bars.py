"""Bars as objects: how far they count, design from what mats leave over, schedule, and equilibrium across the floor."""

from dataclasses import replace
from types import SimpleNamespace

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import box

from piastra.core.bars.choices import Choice, Choices
from piastra.core.bars.design import _Bars, _outlines
from piastra.core.bars.lengths import Row, extent, lengths, runs
from piastra.core.bars.needed import joined
from piastra.core.bars.schedule import pieces_of, schedule
from piastra.core.combine.envelope import envelope
from piastra.core.model import floor_from
from piastra.core.pipeline import scheduled
from piastra.core.reinforcement import stations
from piastra.core.reinforcement.groups import Group, Spots, Why, extra_at
from piastra.core.reinforcement.stations import StationDesign
from piastra.core.stages import steel as steel_stage
from piastra.core.stages.build import StageCache
from piastra.core.standards import standard_named
from piastra.core.standards.provision import Stations
from piastra.core.standards.skew import Skew
from piastra.demo.saltmarsh import floors
from tests.floors import flat_slab
from tests.solving import solve_floor


def group(outline=box(2, 2, 8, 4), angle=0.0, anchored=0.5, bar=0.016, spacing=0.2, **more):
    return Group("T1", 1, "x", angle, bar, spacing, outline, anchored, "drawn", False, **more)


AREA = np.pi * 0.016**2 / 4 / 0.2
SLAB = box(0, 0, 12, 6)


def share(g, x, y, angle=0.0, region=SLAB):
    return extra_at([g], Spots(np.array([[x, y]]), region), np.array([angle])).area[1, 0] / AREA


def test_bars_count_as_far_as_they_are_anchored():
    """Linear over 0.5 m from straight ends; in full from ends at an edge, where they are bent; by the cosine squared askew."""
    assert [share(group(), x, 3.0) for x in (1.9, 2.0, 2.1, 2.25, 2.5, 5.0, 7.9)] == pytest.approx([0, 0, 0.2, 0.5, 1, 1, 0.2])
    assert share(group(), 5.0, 4.5) == 0
    assert share(group(), 5.0, 3.0, np.pi / 6) == pytest.approx(0.75)
    assert share(group(), 5.0, 3.0, np.pi / 2) == 0
    at_edge = group(box(0.03, 2, 8, 4))
    assert [share(at_edge, x, 3.0) for x in (0.1, 7.75)] == pytest.approx([1, 0.5])
    turned = group(box(2, 1, 4, 5), angle=np.pi / 2)
    assert share(turned, 3.0, 1.25, np.pi / 2) == pytest.approx(0.5)
    assert extra_at([group()], Spots(np.array([[5.0, 3.0]]), SLAB), np.zeros(1)).area[0, 0] == 0


def choices_from(bars, spacings):
    return Choices(tuple(sorted((Choice(b, s) for b in bars for s in spacings), key=lambda c: (c.area, c.bar))))


def test_choice_runs_and_extents_by_hand():
    choices = choices_from((0.01, 0.012, 0.016), (0.1, 0.15, 0.2))
    # 700 mm2/m: 12 at 150 gives 754, 10 at 100 gives 785; 500 needs 10 at 150 (524); at most 150 apart.
    assert choices.least(700e-6, 1.0) == Choice(0.012, 0.15)
    assert choices.least(500e-6, 1.0) == Choice(0.01, 0.15)
    assert choices.least(100e-6, 0.15) == Choice(0.01, 0.15)
    assert choices.least(1.0, 1.0) == choices.all[-1]
    s = np.array([0.0, 1.0, 2.0, 3.0, 3.4, 4.4, 5.4])
    missing = np.array([-1.0, -1.0, -0.5, 1.0, 1.5, 0.5, -0.5])
    strip = np.array([0, 0, 0, 0, 1, 1, 1])
    assert runs(missing, s, strip) == [(3, 5)]
    assert runs(np.array([1.0, -1, -1, -1, -1, -1, 1]), s, strip) == [(0, 0), (6, 6)]
    # Area 1.5, shift 0.2, anchorage 0.9. To the left the station at 3.0 needs 3 - 0.2 - 0.6, the end of need at 2.333 goes on to
    # 2.133; to the right 3.4 needs 3.4 + 0.2 + 0.9, the end at 4.9 goes on to 5.1.
    low, high = extent(missing, s, (3, 5), 1.5, 0.2, 0.9)
    assert (low, high) == pytest.approx((min(3 - 0.8, 2 + 1 / 3 - 0.2), max(3.4 + 1.1, 4.9 + 0.2)))


def test_lengths_over_each_other_by_hand():
    """Two supports 6 m apart ask for 1,500 mm2/m, what lies between for 400: 8 at 125 (402 mm2/m) throughout and 12 at 100 (1,131) over
    each support, where bars of one length would be 16 at 125 (1,608) throughout."""
    s = np.arange(0.0, 10.01, 0.25)
    missing = np.where((abs(s - 2) < 0.3) | (abs(s - 8) < 0.3), 1500e-6, 400e-6)
    row = Row(s, np.zeros(len(s), dtype=int), lambda k: 0.2, lambda k, bar: 40 * bar)
    choices = choices_from((0.008, 0.012, 0.016), (0.1, 0.125, 0.2, 0.25))
    found = lengths(row, choices, missing, (0, len(s) - 1), np.inf)
    assert [(b.choice, b.first, b.last) for b in found] == [
        (Choice(0.008, 0.125), 0, 40),
        (Choice(0.012, 0.1), 7, 9),
        (Choice(0.012, 0.1), 31, 33),
    ]
    # 8 at 125 are 402.1 mm2/m, with 400 / 402.1 of their 320 mm to come to full stress; 12 at 100 are 1,131, of which 1,097.9 are missing, of 480 mm.
    assert (found[0].low, found[0].high) == pytest.approx((-0.2 - 0.3183, 10 + 0.2 + 0.3183), abs=1e-4)
    assert (found[1].low, found[1].high) == pytest.approx((1.75 - 0.2 - 0.4660, 2.25 + 0.2 + 0.4660), abs=1e-4)
    assert found[1].mass == pytest.approx(1131e-6 * 1.832, rel=1e-3)
    # Bars of one length where no more may lie over each other, or where their stations all ask for the same.
    (one,) = lengths(row, choices, missing, (0, len(s) - 1), np.inf, 1)
    assert one.choice == Choice(0.016, 0.125)
    assert len(lengths(row, choices, np.full(len(s), 1500e-6), (0, len(s) - 1), np.inf)) == 1


@settings(max_examples=150, deadline=None)
@given(st.lists(st.floats(-300e-6, 3000e-6), min_size=1, max_size=30), st.floats(0.05, 0.7), st.sampled_from([0.12, 0.2, 1.0]))
def test_lengths_give_every_station_what_it_misses(missing, step, limit):
    """Developed at each station, with no more mass than one length takes, no more than four over each other, and the undermost as close as they must be."""
    missing, s = np.array(missing), step * np.arange(len(missing))
    row = Row(s, np.zeros(len(s), dtype=int), lambda k: 0.2, lambda k, bar: 40 * bar)
    choices = choices_from((0.008, 0.01, 0.012, 0.016, 0.02), (0.1, 0.15, 0.2, 0.25))
    laid, above, mass, single = np.zeros(len(s)), np.zeros(len(s)), 0.0, 0.0
    for run in runs(missing, s, row.strip):
        found = lengths(row, choices, missing, run, limit)
        assert found[0].choice.spacing <= limit
        assert (found[0].first, found[0].last) == run
        for b in found:
            developed = np.clip(np.minimum(s - b.low, b.high - s) / b.anchored, 0.0, 1.0)
            laid += b.choice.area * developed
            above[b.first : b.last + 1] += 1
        mass += sum(b.mass for b in found)
        single += lengths(row, choices, missing, run, limit, 1)[0].mass
    most = choices.all[-1].area
    # Less than a square millimetre by the metre is nothing.
    assert (laid >= np.minimum(missing, most) - 1e-6 * (1 + 1e-9)).all()
    assert above.max() <= 4
    assert mass <= single * (1 + 1e-9)


def test_schedule_counts_cuts_and_weighs():
    """2 m wide at 200 mm: 10 bars of 6 m, 1.578 kg/m. With an opening across them each is in two pieces. 14 m bars are lapped."""
    floor, ec2 = floor_from(flat_slab(2, 1)), standard_named("EN 1992-1-1")
    (found,) = schedule(floor, ec2, [group()], SLAB)
    assert (found.count, found.length, found.total, found.shape) == (10, pytest.approx(6), pytest.approx(60), "straight")
    assert found.mass == pytest.approx(60 * np.pi * 0.016**2 / 4 * 7850)
    holed = SLAB.difference(box(4, 1, 5, 5))
    assert sorted({round(p.length, 6) for p in pieces_of(group(), holed)}) == [2, 3]
    long = box(-1, 0, 14, 6)
    (lapped,) = schedule(floor, ec2, [group(box(-1, 2, 13, 4))], long)
    # One lap a bar: 1.5 x 16/4 x 434.8 / (2.25 x 0.7 x 2.8965 / 1.5) = 1.5 x 571.8 = 857.7 mm (good bond: 250 mm thick).
    assert lapped.laps == pytest.approx(10 * 0.8577, rel=1e-3)
    assert lapped.shape == "hook"
    assert lapped.mass - lapped.laps_kg == pytest.approx(140 * lapped.kg_m)


def test_anchorage_of_both_standards():
    """EN 8.4: 16 mm, C30: f_bd = 2.25 x 1.352 = 3.041 MPa, l_b = 4 x 434.8 / 3.041 = 571.8 mm; top bars over 250 mm: / 0.7. ACI
    25.4.2.3: 420 / (2.1 x 5.292) x 16 = 604.7 mm; 1.3 for deep top bars, 1.7 for thick ones; 300 mm at least."""
    floor = floor_from(flat_slab(1, 1))
    concrete, rebar = floor.concretes[0], floor.rebars[0]
    en, aci = standard_named("EN 1992-1-1").anchorage, standard_named("ACI 318-19").anchorage
    assert en.length(0.016, 0.25, True, concrete, rebar) == pytest.approx(0.5718, rel=1e-3)
    assert en.length(0.016, 0.26, True, concrete, rebar) == pytest.approx(0.5718 / 0.7, rel=1e-3)
    assert en.length(0.016, 0.26, False, concrete, rebar) == pytest.approx(0.5718, rel=1e-3)
    assert en.length(0.040, 0.25, False, concrete, rebar) == pytest.approx(0.5718 * 2.5 / 0.92, rel=1e-3)
    c28, g420 = replaced(concrete, strength_MPa=28.0), replaced(rebar, yield_MPa=420.0)
    assert aci.length(0.016, 0.25, True, c28, g420) == pytest.approx(0.6047, rel=1e-3)
    assert aci.length(0.016, 0.40, True, c28, g420) == pytest.approx(0.6047 * 1.3, rel=1e-3)
    assert aci.length(0.025, 0.25, True, c28, g420) == pytest.approx(420 / (1.7 * 28**0.5) * 0.025, rel=1e-6)
    assert aci.length(0.006, 0.25, True, c28, g420) == 0.3
    assert aci.lap(0.016, 0.25, True, c28, g420) == pytest.approx(1.3 * 0.6047, rel=1e-3)


def replaced(model, **values):
    return model.model_copy(update=values)


def designed(standard="EN 1992-1-1", mats=False, **more):
    data = flat_slab(2, 2, size=0.8)
    data["standard"] = standard
    data["design_bars"] = True
    if standard.startswith("ACI"):
        data["rebars"][0]["yield_MPa"] = 420.0
        for c in data["combinations"]:
            c["limit_state"] = {"quasi_permanent": "service"}.get(c["limit_state"], c["limit_state"])
    for mat in data["mats"]:
        mat.update(bar_mm=10, spacing_mm=200)
    if not mats:
        data["mats"] = []
    return {**data, **more}


@pytest.mark.parametrize("standard", ["EN 1992-1-1", "ACI 318-19"])
@pytest.mark.parametrize("mats", [True, False])
def test_what_design_lays_passes_the_check_of_what_is_there(standard, mats):
    document = designed(standard, mats)
    outcome = solve_floor(floor_from(document))
    steel = outcome.steel.stations
    assert steel.steel.max() <= 1.0
    sizes, spacings = set(outcome.floor.bar_sizes_mm), set(outcome.floor.spacings_mm)
    own = [g for g in outcome.steel.groups if g.origin == "designed"]
    assert own
    assert {round(1e3 * g.bar, 6) for g in own} <= sizes
    assert {round(1e3 * g.spacing, 6) for g in own} <= spacings
    assert all(outcome.plan.region.buffer(1e-6).covers(g.outline) for g in own)
    # The undesigned floor has less than is asked for somewhere, and its row says so.
    bare = solve_floor(floor_from({**document, "design_bars": False}))
    assert bare.steel.stations.steel.max() > 1.0
    row = next(r for r in outcome.verdict if r.check == "flexure")
    assert row.status == ("pass" if mats else row.status)


@pytest.mark.parametrize("standard", ["EN 1992-1-1", "ACI 318-19"])
def test_what_is_remembered_between_ways_of_laying_bars_changes_nothing(standard, monkeypatch):
    """Every way that design tries gives the steel that it gives to who has seen no other; bars along, across, askew and with an outline askew."""
    tried = []

    class Compared(StationDesign):
        def __init__(self, *given):
            super().__init__(*given)
            self.given = given

        def steel(self, more):
            found, fresh = super().steel(more), StationDesign(*self.given).steel(more)
            for name in ("provided", "in_band", "steel", "spacing", "cracks"):
                assert getattr(found, name) == pytest.approx(getattr(fresh, name), rel=1e-9, abs=1e-12)
            for own, other in zip(found.faces, fresh.faces, strict=True):
                assert own.required == pytest.approx(other.required, rel=1e-9, abs=1e-12)
                assert (own.combination == other.combination).all()
            tried.append(found)
            return found

    monkeypatch.setattr(steel_stage, "StationDesign", Compared)
    data = designed(standard, mats=True)
    solve_floor(floor_from(data | {"mats": data["mats"][:1]}))
    assert len(tried) >= 3
    assert np.ptp([t.provided.sum() for t in tried]) > 0
    spots = Spots(np.random.default_rng(1).uniform((0, 0), (12, 6), (200, 2)), SLAB)
    angle = np.linspace(0, np.pi, 200)
    first, second = group(), group(shapely.Polygon([(1, 1), (9, 2), (8, 5), (2, 4)]), angle=0.3, bar=0.02)
    for some in ([first], [second, first], [first, second], [group(anchored=0.9), second], []):
        found, fresh = extra_at(some, spots, angle), extra_at(some, Spots(spots.xy, SLAB), angle)
        assert all(
            (getattr(found, f) == getattr(fresh, f)).all() for f in ("area", "count", "diameters", "radii", "across", "twist")
        )


@settings(max_examples=30, deadline=None)
@given(st.integers(0, 2**32 - 1), st.floats(0, np.pi), st.integers(1, 400))
def test_spots_under_groups_are_those_in_their_outlines(seed, turn, count):
    """Bars along their outlines, askew in them, in outlines that are no rectangles, and beside all spots, of which one is far away."""
    rng = np.random.default_rng(seed)
    spots = Spots(np.vstack([rng.uniform((0, 0), (12, 6), (count, 2)), [(90_000.5, 40_000.5)]]), SLAB)
    along = shapely.affinity.rotate(box(2, 2, 8, 3), turn, use_radians=True, origin=(5, 2.5))
    ring = rng.uniform((0, 0), (12, 6), (4, 2))
    askew = shapely.MultiPoint(ring).convex_hull
    groups = [group(along, angle=turn), group(along, angle=turn + 0.4), group(askew, angle=turn), group(box(20, 0, 21, 1)), group(box(90_000, 40_000, 90_001, 40_001)),
              group(shapely.Polygon([(1, 1), (9, 1), (9, 2), (3, 2), (3, 5), (1, 5)]))]  # fmt: skip
    number, point, _ = spots.under(groups)
    inside = np.array([shapely.intersects_xy(g.outline, *spots.xy.T) for g in groups])
    met = np.zeros_like(inside)
    met[number, point] = True
    assert (met == inside).all()
    assert len(number) == inside.sum()
    assert (np.diff(number) >= 0).all()


OTHERWISE = {
    "mats": lambda d: d["mats"][0].update(spacing_mm=150),
    "bars": lambda d: d["mats"][3].update(bar_mm=16),
    "cracks": lambda d: d.update(crack_width_limit_mm=0.2),
    "exposure": lambda d: d.update(exposure="XD1"),
    "steel": lambda d: d["rebars"][0].update(yield_MPa=400.0),
    "concrete": lambda d: d["concretes"][0].update(strength_MPa=45.0),
    "cover": lambda d: d["slabs"][0].update(cover_top_mm=45.0),
    "factors": lambda d: d["combinations"][0]["factors"].update(Q=1.9),
}


@pytest.mark.parametrize(
    "change", [k if k in ("mats", "cracks", "steel") else pytest.param(k, marks=pytest.mark.study) for k in OTHERWISE]
)
def test_other_bars_take_over_what_stays_and_other_rules_nothing(change, monkeypatch):
    """On a floor of which another way of laying bars was looked at before, steel is what it is without that."""
    cache, data, looked_at = StageCache(), designed(mats=True), []
    solve_floor(floor_from(data), cache)
    plain = stations.ultimate_pair
    monkeypatch.setattr(stations, "ultimate_pair", lambda found, h, *more: looked_at.append(len(h)) or plain(found, h, *more))
    OTHERWISE[change](data)
    warm = solve_floor(floor_from(data), cache).steel
    first = looked_at[0]
    looked_at.clear()
    cold = solve_floor(floor_from(data), StageCache()).steel
    assert (first < looked_at[0]) == (change in ("mats", "bars"))
    assert [g.outline for g in warm.groups] == [g.outline for g in cold.groups]
    for own, other in zip(warm.stations.faces, cold.stations.faces, strict=True):
        assert all((own.provisions[name] == other.provisions[name]).all() for name in other.provisions)
        assert (own.at.m == other.at.m).all()
        assert (own.combination == other.combination).all()
    assert (warm.stations.utilisation == cold.stations.utilisation).all()


@pytest.fixture(scope="module")
def level_1():
    """Level 1 of the demo with its designed bars, and what its stations have with other groups of bars."""
    kept, whole = {}, steel_stage._designed

    def spy(site, kept_groups, stations, with_groups, *rest):
        kept["with"] = with_groups
        return whole(site, kept_groups, stations, with_groups, *rest)

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(steel_stage, "_designed", spy)
        outcome = solve_floor(next(f for f in floors() if f.design_bars), StageCache(), rigorous=False)
    return outcome, kept["with"]


@settings(deadline=None)
@given(low=st.floats(2, 14), length=st.floats(0.3, 12), turn=st.floats(0, np.pi), datum=st.floats(-3, 3))
def test_bars_as_laid_reach_over_all_that_asks_for_them(low, length, turn, datum):
    """In whole steps of 0.1 m about a middle in whole 10 mm, with no more to spare than that costs."""
    way, left = np.array([np.cos(turn), np.sin(turn)]), np.array([-np.sin(turn), np.cos(turn)])
    stations = datum + np.array([-20.0, 8.0, 20.0])
    cuts = SimpleNamespace(
        s=stations,
        strip=np.zeros(3, dtype=np.int64),
        ends=np.array([[s * way - left, s * way + left] for s in (low + length / 2,) * 3]),
    )
    layout = SimpleNamespace(
        axes=[SimpleNamespace(point=lambda s, n: s[:, None] * way + n[:, None] * left)], strips=[SimpleNamespace(axis=0)]
    )
    site = SimpleNamespace(layout=layout, cuts=cuts, region=box(-90, -90, 90, 90))
    bars = _Bars(0, 0, Choice(0.012, 0.2), 0.5, low, low + length, -1.0, 1.0, np.array([1]))
    (outline,), _ = _outlines(site, [bars])
    along = np.array(outline.exterior.coords) @ way
    first, last = along.min(), along.max()
    assert first <= low + 1e-6
    assert last >= low + length - 1e-6
    assert last - first < length + 0.1 + 0.01 + 1e-6
    for value, step in ((last - first, 0.1), ((first + last) / 2 - datum, 0.01)):
        assert abs(value / step - round(value / step)) < 1e-6


def test_bars_lie_by_whole_steps_and_stay_where_they_are_after_a_small_edit(level_1):
    outcome, _ = level_1
    own = [g for g in outcome.steel.groups if g.origin == "designed" and g.rectangle() is not None]
    # Those that end at an edge are cut there.
    ends = np.array([g.rectangle() for g in own])
    whole = np.abs(np.remainder(np.ptp(ends, axis=1) + 0.05, 0.1) - 0.05) < 1e-6
    assert whole.mean() > 0.5
    along: dict[tuple[float, float], list[float]] = {}
    for g, middle in zip(np.array(own)[whole], ends[whole].mean(axis=1), strict=True):
        aside = np.array([-np.sin(g.angle), np.cos(g.angle)]) @ g.outline.centroid.coords[0]
        along.setdefault((g.angle, round(float(aside), 3)), []).append(float(middle))
    apart = np.concatenate([np.array(at[1:]) - at[0] for at in along.values()])
    assert len(apart) > 10
    assert (np.abs(np.remainder(apart + 0.005, 0.01) - 0.005) < 1e-6).mean() > 0.9
    small = outcome.floor.model_copy(update={"loads": [
        replaced(o, q_kPa=1.001 * o.q_kPa) if getattr(o, "q_kPa", None) else o for o in outcome.floor.loads
    ]})  # fmt: skip
    assert small.loads != outcome.floor.loads
    before = {(g.face, g.bar, g.outline.wkb) for g in own}
    after = {(g.face, g.bar, g.outline.wkb) for g in solve_floor(small, rigorous=False).steel.groups}
    assert len(before & after) > 0.6 * len(before)


def test_every_group_is_there_for_the_stations_that_fall_short_without_it(level_1):
    """Level 1: each group's reasons name stations where a provision asks for more than the mats give, and without the group
    those stations and no others fall short."""
    outcome, with_groups = level_1
    cuts, layout, steel = outcome.strips.cuts, outcome.strips.layout, outcome.steel
    place = {(layout.strips[k].id, round(float(s), 4)): c for c, (k, s) in enumerate(zip(cuts.strip, cuts.s, strict=True))}
    names = {p.name for p in outcome.standard.provisions}
    ultimate = {f.combination for f in outcome.combinations if f.limit_state == "ultimate"}
    assert steel.stations.steel.max() <= 1.0
    assert len(steel.groups) > 100
    for k, g in enumerate(steel.groups):
        assert g.why, g.mark
        if g.why[0].provision == "integrity":
            continue
        own = steel.stations.faces[g.face]
        for w in g.why:
            c = place[w.strip, w.station]
            assert w.provision in names
            assert w.combination in ultimate
            asked = max(own.provisions[w.provision][c], steel.stations.faces[1 - g.face].compression[c])
            assert asked * 1.005 > steel.mats_alone[g.face, c]
        # Every eleventh group is taken away, those of both faces and directions among them.
        if k % 11 == 0:
            without = with_groups([o for o in steel.groups if o is not g]).steel[g.face]
            named = {place[w.strip, w.station] for w in g.why}
            short = set(np.flatnonzero(without > 1.0).tolist())
            assert short <= named, g.mark
            assert all(without[c] > 0.99 for c in named), g.mark


def test_groups_side_by_side_are_joined_where_one_length_serves_and_idle_ones_are_left_out():
    a, b = (group(box(2, y, 8, y + 1), spacing=0.2, anchored=0.5) for y in (2, 3))
    ours = [replace(g, origin="designed") for g in (a, b)]
    site = SimpleNamespace(region=SLAB)
    assert [g.outline.bounds for g in joined(site, ours)] == [(2.0, 2.0, 8.0, 4.0)]
    for other in (
        replace(ours[1], bar=0.012), replace(ours[1], face=0), replace(ours[1], locked=True), replace(ours[1], origin="drawn"),
        replace(ours[1], outline=box(2, 3, 9, 4)), replace(ours[1], outline=box(2, 3.2, 8, 4)), replace(ours[1], outline=ours[0].outline),
        replace(ours[1], why=(Why("C1", 0.0, "", "integrity"),)),
    ):  # fmt: skip
        assert len(joined(site, [ours[0], other])) == 2
    assert len(joined(SimpleNamespace(region=SLAB.difference(box(7.8, 2.9, 8, 3.1))), ours)) == 2
    # A group that a drawn one doubles is not laid.
    data = designed(mats=True)
    first = solve_floor(floor_from(data))
    most = max((g for g in first.steel.groups if g.face == 1), key=lambda g: g.outline.area)
    over = {"id": "D1", "face": "top", "direction": most.direction, "bar_mm": 20, "spacing_mm": 100,
            "outline": np.array(most.outline.buffer(1.0, join_style="mitre").intersection(first.plan.region).exterior.coords)[:-1].tolist(),
            "origin": "drawn", "locked": True}  # fmt: skip
    second = solve_floor(floor_from({**data, "designed_bars": [over]}))
    assert not [g for g in second.steel.groups if g.origin == "designed" and g.face == 1 and g.direction == most.direction
                and g.outline.intersection(most.outline).area > 0.6 * most.outline.area]  # fmt: skip


def test_a_locked_group_stays_and_design_fills_in_around_it():
    """A thin locked group over the inner column: kept as it is, the rest beside it; thicker slabs re-design the rest only. No two groups have one mark:
    on a drawing it would name two different bars."""
    locked = {"id": "mine", "face": "top", "direction": "x", "bar_mm": 12, "spacing_mm": 200, "outline": [[4.5, 4.5], [7.5, 4.5], [7.5, 7.5], [4.5, 7.5]],
              "origin": "designed", "locked": True}  # fmt: skip
    first = solve_floor(floor_from(designed(mats=True, designed_bars=[locked])))
    thicker = designed(mats=True, designed_bars=[locked])
    thicker["slabs"] = [{**thicker["slabs"][0], "thickness_m": 0.3}]
    second = solve_floor(floor_from(thicker))
    for outcome in (first, second):
        mine = next(g for g in outcome.steel.groups if g.mark == "mine")
        assert (mine.bar, mine.spacing, mine.locked) == (0.012, 0.2, True)
        assert outcome.steel.stations.steel.max() <= 1.0
    rest = [{(g.bar, g.spacing, g.outline.bounds) for g in o.steel.groups if not g.locked} for o in (first, second)]
    assert rest[0] != rest[1]
    marks = [[g.mark for g in solve_floor(floor_from(designed(mats=True, designed_bars=[{**locked, "id": k} for k in names]))).steel.groups]
             for names in ([], ["TX1"], ["TX2"])]  # fmt: skip
    assert all(len(set(given)) == len(given) and {"TX1", "TX2", "TX3"} < set(given) for given in marks)
    named = designed(mats=True)
    named["mats"][0]["id"] = "TX2"
    assert "TX2" not in {g.mark for g in solve_floor(floor_from(named)).steel.groups}
    # An unlocked one is designed anew, a drawn one stays too.
    free = solve_floor(floor_from(designed(mats=True, designed_bars=[{**locked, "locked": False}])))
    assert "mine" not in {g.mark for g in free.steel.groups}
    drawn = solve_floor(floor_from(designed(mats=True, designed_bars=[{**locked, "locked": False, "origin": "drawn"}])))
    assert "mine" in {g.mark for g in drawn.steel.groups}


def test_what_a_kept_group_leaves_over_is_told_at_its_worst_station():
    """8 at 200 (251 mm2/m) locked over the inner column, 12 at 200 (565) in the mats: what is missing there is what a floor without design gives, and design
    fills it in; nothing is missing beside bars of 16 at 50 (4,021 mm2/m)."""
    # Thin at the bottom, where design lays bars through the column.
    mats = [
        {"id": f"{f} {d}", "face": f, "direction": d, "bar_mm": 12 if f == "top" else 6, "spacing_mm": 200 if f == "top" else 300}
        for f in ("top", "bottom")
        for d in "xy"
    ]
    mine = {"id": "mine", "face": "top", "direction": "x", "bar_mm": 8, "spacing_mm": 200, "outline": [[4.0, 4.5], [8.0, 4.5], [8.0, 7.5], [4.0, 7.5]],
            "origin": "designed", "locked": True}  # fmt: skip

    def solved(design, **more):
        return solve_floor(floor_from(flat_slab(mats=mats, designed_bars=[{**mine, **more}], design_bars=design)))

    laid, bare = solved(True), solved(False)
    for outcome in (laid, bare):
        told = next(g.shortfall for g in outcome.steel.groups if g.mark == "mine")
        strips = [s.id for s in outcome.strips.layout.strips]
        cuts, steel = outcome.strips.cuts, bare.steel.stations
        at = (cuts.strip == strips.index(told.why.strip)) & (np.abs(cuts.s - told.why.station) < 1e-3)
        assert (told.why.provision in ("strength", "least", "column_band", "crack_width"), at.sum()) == (True, 1)
        # 565 of the mat, and of the bars as far as they are developed and as wide as they lie.
        assert told.kept == pytest.approx(float(steel.provided[1, at][0]), rel=1e-9)
        assert 565.4e-6 < told.kept <= 816.9e-6
        assert told.required > told.kept + 100e-6
        assert told.required == pytest.approx(float(steel.faces[1].required[at][0]), rel=0.01)
        reached = (np.abs(cuts.s - 6.0) < 2) & np.isin(cuts.strip, [k for k, s in enumerate(outcome.strips.layout.strips)
                                                                    if s.direction == "x" and "C11" in s.supports])  # fmt: skip
        missing = steel.faces[1].in_strip - steel.provided[1]
        assert told.required - told.kept >= 0.99 * missing[reached].max()
    filled, left = (next(g.shortfall for g in o.steel.groups if g.mark == "mine") for o in (laid, bare))
    assert filled.provided >= filled.required * (1 - 1e-9)
    by_mark = {g.mark: g for g in laid.steel.groups}
    assert filled.filling
    assert all((by_mark[m].face, by_mark[m].direction, by_mark[m].locked) == (1, "x", False) for m in filled.filling)
    assert (left.provided, left.filling) == (pytest.approx(left.kept, rel=1e-9), ())
    strong = solved(False, bar_mm=16, spacing_mm=50, outline=[[3, 3], [9, 3], [9, 9], [3, 9]])
    assert next(g.shortfall for g in strong.steel.groups if g.mark == "mine") is None
    assert all(g.shortfall is None for g in laid.steel.groups if g.mark != "mine")


@pytest.mark.parametrize("design", [True, False])
def test_bars_drawn_by_hand_tell_what_needs_them(design):
    """Thin top mats fall short over the inner columns: bars drawn over one of them name its stations; those drawn in mid-span name none."""
    mats = [
        {"id": f"{f} {d}", "face": f, "direction": d, "bar_mm": 12, "spacing_mm": 200} for f in ("top", "bottom") for d in "xy"
    ]
    drawn = [{"id": name, "face": "top", "direction": "x", "bar_mm": 16, "spacing_mm": 100, "origin": "drawn", "locked": True,
              "outline": [[x - 2, 5], [x + 2, 5], [x + 2, 7], [x - 2, 7]]} for name, x in (("over", 6.0), ("mid", 9.0))]  # fmt: skip
    outcome = solve_floor(floor_from(flat_slab(mats=mats, designed_bars=drawn, design_bars=design)))
    why = {g.mark: g.why for g in outcome.steel.groups if g.mark in ("over", "mid")}
    strips = {s.id: s for s in outcome.strips.layout.strips}
    assert why["over"]
    assert {w.provision for w in why["over"]} <= {"strength", "least", "crack_width", "column_band"}
    assert all("C11" in strips[w.strip].supports and abs(w.station - 6.0) < 2 for w in why["over"])
    assert why["mid"] == ()


def test_bars_at_an_angle_to_a_strip_count_with_the_square_of_the_cosine():
    """20 at 125 one way and 8 at 250 the other at 45 degrees: (2,513 + 201) / 2 = 1,357 mm2/m along the strip, not 2,513."""
    data = flat_slab(1, 1, size=1.0)
    data["slabs"][0]["bar_angle_deg"] = 45.0
    data["mats"] = [{"id": d, "face": f, "direction": d[0], "bar_mm": b, "spacing_mm": s}
                    for f in ("top",) for d, b, s in (("x", 20, 125), ("y", 8, 250))]  # fmt: skip
    outcome = solve_floor(floor_from(data))
    assert outcome.steel.stations.provided[1] * 1e6 == pytest.approx(1357, abs=0.5)


def test_unlike_bars_at_an_angle_carry_no_more_than_the_yield_criterion_lets_them():
    """20 at 125 and 8 at 250 at 45 degrees resist a twist of 1,156 of their own: with a_yy = 1,357, k = 1156 / sqrt(1357) = 31.38, and 201 along the strip
    ask for ((31.38 + sqrt(985 + 804)) / 2)^2 = 1,357. Bars alike in both layers, or along the strips, ask for nothing."""

    def solved(angle, y_bar, bar=20):
        data = flat_slab(1, 1, size=1.0)
        data["slabs"][0]["bar_angle_deg"] = angle
        data["mats"] = [{"id": f + d, "face": f, "direction": d, "bar_mm": b, "spacing_mm": s}
                        for f in ("top", "bottom") for d, b, s in (("x", bar, 125), ("y", y_bar, 250 if y_bar != bar else 125))]  # fmt: skip
        return solve_floor(floor_from(data)).steel.stations

    skew = solved(45.0, 8)
    for f, own in enumerate(skew.faces):
        a = own.provisions["strength"]
        asked = np.where(a > 1e-6, ((31.3797e-3 + np.sqrt(31.3797e-3**2 + 4 * a)) / 2) ** 2, 0.0)
        assert own.provisions["skew_bars"] == pytest.approx(asked, rel=2e-4)
        # What lies there carries 201 along the strip, not 1,357.
        assert (skew.steel[f][a > 202e-6] > 1).all()
        assert (a > 202e-6).any()
    for plain in (solved(45.0, 20), solved(0.0, 8), solved(90.0, 8)):
        assert all((own.provisions["skew_bars"] == 0).all() for own in plain.faces)


@settings(deadline=None)
@given(st.floats(0.1, 3.0), st.floats(0.1, 3.0), st.floats(0, 180), st.floats(0, 1), st.floats(0, 1), st.floats(-1, 1))
def test_what_skew_bars_are_credited_with_is_safe_in_every_direction(a, b, angle, share_x, share_y, twist):
    """Bars a and b at an angle, and a demand that they just meet along and across the strip: no direction between has less than it is asked for."""
    t = np.radians(angle)
    c, s = np.cos(t), np.sin(t)
    x, y, xy = a * c * c + b * s * s, a * s * s + b * c * c, (a - b) * s * c
    demand = Skew("").demand
    least = min(x, y) * (1 - abs(xy) / np.sqrt(x * y))
    m_xy = twist * least
    # The greatest demands that the provision lets pass, found by bisection of what it asks for.
    found = []
    for there, across, share in ((x, y, share_x), (y, x, share_y)):
        low, high = 0.0, there
        for _ in range(60):
            mid = (low + high) / 2
            at = Stations.of((), 1, askew=np.array([abs(xy) / np.sqrt(across)]), bent=np.array([mid]))
            asked = max(float(demand(at).area[0]), mid)
            low, high = (mid, high) if asked <= there else (low, mid)
        found.append(abs(m_xy) + share * (low - abs(m_xy)))
    n = np.radians(np.arange(0, 180, 1.0))
    given_n = x * np.cos(n) ** 2 + y * np.sin(n) ** 2 + 2 * xy * np.sin(n) * np.cos(n)
    asked_n = (found[0] - abs(m_xy)) * np.cos(n) ** 2 + (found[1] - abs(m_xy)) * np.sin(n) ** 2 + 2 * m_xy * np.sin(n) * np.cos(n)
    assert (given_n - asked_n >= -1e-6).all()


@pytest.mark.parametrize("turn", [25.0, -40.0])
def test_a_floor_turned_with_its_bars_needs_the_same_steel(turn):
    """Bars at 25 degrees to the strips, and the same floor turned as a whole: the same steel at every station."""
    base = flat_slab(2, 1, size=1.0)
    base["slabs"][0]["bar_angle_deg"] = 25.0
    c, s = np.cos(np.radians(turn)), np.sin(np.radians(turn))

    def turned(p):
        return [c * p[0] - s * p[1], s * p[0] + c * p[1]]

    other = flat_slab(2, 1, size=1.0)
    other["slabs"][0].update(bar_angle_deg=25.0 + turn, outline=[turned(p) for p in base["slabs"][0]["outline"]])
    other["columns"] = [{**k, "at": turned(k["at"]), "angle_deg": turn} for k in base["columns"]]
    found = [solve_floor(floor_from(d)).steel.stations for d in (base, other)]
    for f in (0, 1):
        one, two = (np.sort(x.faces[f].required) for x in found)
        assert len(one) == len(two)
        assert two.sum() == pytest.approx(one.sum(), rel=0.02)
        assert np.sort(found[1].provided[f]) == pytest.approx(np.sort(found[0].provided[f]), rel=1e-6)


def test_across_every_full_cut_the_bars_resist_the_applied_moment(level_1):
    """Level 1 with its designed bars: the resisting moments of the strips of a cut right across the floor, together, are at least
    the applied moment in every ultimate combination and arrangement."""
    outcome, _ = level_1
    cuts, layout, steel = outcome.strips.cuts, outcome.strips.layout, outcome.steel.stations
    ultimate = [f for f in outcome.combinations if f.limit_state == "ultimate"]
    assert steel.steel.max() <= 1.0
    fyd, fcd = 500e3 / 1.15, 40e3 / 1.5
    parallel = np.array([abs(np.sin(2 * layout.axes[s.axis].angle)) < 1e-9 for s in layout.strips])
    checked = 0
    for direction in ("x", "y"):
        own = np.array([s.direction == direction for s in layout.strips]) & parallel
        mine = own[cuts.strip]
        for at in np.unique(np.round(cuts.s[mine], 2)):
            here = np.flatnonzero(mine & (np.abs(cuts.s - at) < 0.02))
            where = shapely.LineString([cuts.ends[here].reshape(-1, 2).min(axis=0), cuts.ends[here].reshape(-1, 2).max(axis=0)])
            if cuts.width[here].sum() < where.intersection(outcome.plan.region).length - 0.05 or len(set(cuts.strip[here])) < len(
                here
            ):
                continue
            moment = cuts.forces[here, 0].sum(axis=0)
            axial = cuts.forces[here, 3]
            for face, sign in ((0, 1.0), (1, -1.0)):
                at_cut = steel.faces[face].at
                area, d = steel.provided[face, here] * cuts.width[here], at_cut.d[here]
                force = area * fyd
                resisting = (force * (d - force / cuts.width[here] / fcd / 2)).sum()
                for f in ultimate:
                    # Axial forces of eccentric thicknesses act with the moments about each strip's own middle.
                    applied = envelope(sign * moment - (axial * (d - cuts.h[here] / 2)[:, None]).sum(axis=0), f)[1]
                    assert resisting >= applied * (1 - 1e-9), (direction, at, face, f.combination)
            checked += 1
    assert checked > 20


def test_steel_in_si_and_us_units_of_one_floor_is_the_same():
    """The file is always in m and kN: a floor typed in feet and kips is the same floor, and mass follows."""
    outcome = solve_floor(floor_from(designed("ACI 318-19", mats=True)))
    again = solve_floor(floor_from(outcome.floor.model_dump(mode="json")))
    assert sum(b.mass for b in scheduled(again)) == pytest.approx(sum(b.mass for b in scheduled(outcome)), rel=1e-12)
    assert replace(outcome.steel.groups[0]) == again.steel.groups[0]


def test_two_bottom_bars_pass_through_columns():
    """8 at 300 over a column of 400 mm are 1.33 bars of 2: 1.5. EN 9.4.1 (3) means inner columns; ACI 8.7.4.2.2 all, and 300 mm of
    each, between the column's bars: 2 / 1 = 2. A drawn group over the column adds its bars."""
    data = flat_slab(2, 2, size=1.0)
    for mat in data["mats"]:
        if mat["face"] == "bottom":
            mat["spacing_mm"] = 300

    def through(document):
        outcome = solve_floor(floor_from(document))
        return {r.id.of.id: r.utilisation for r in outcome.rows if r.check == "flexure" and r.id.part == "integrity"}

    assert through(data) == {"C11": pytest.approx(1.5)}
    aci = through({**data, "standard": "ACI 318-19"})
    assert set(aci) == {f"C{i}{j}" for i in range(3) for j in range(3)}
    assert aci["C11"] == pytest.approx(2.0)
    data["designed_bars"] = [
        {"id": d, "face": "bottom", "direction": d, "bar_mm": 10, "spacing_mm": 200, "outline": [[4, 4], [8, 4], [8, 8], [4, 8]]} for d in "xy"
    ]  # fmt: skip
    assert through(data)["C11"] == pytest.approx(2 / (4 / 3 + 2))
