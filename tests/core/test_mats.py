"""Mats that design proposes: least steel with the bars beside them, and how much they may leave to those."""

import json

import numpy as np
import pytest

from piastra.core.bars.choices import choices_of
from piastra.core.bars.design import Site, apart, asked_of, design, extra_volume, rows_of
from piastra.core.model import floor_from
from piastra.core.pipeline import scheduled
from piastra.core.reinforcement.mats import mats_of, provided, provided_by_parts
from tests.core.measure_steel import demand, parts
from tests.floors import flat_slab
from tests.random_designs import random_design
from tests.solving import solve_floor

FEW = {"bar_sizes_mm": [8, 10, 16], "spacings_mm": [125, 250]}


def floor(**more):
    """Two bays by two with edges that overhang, its bars designed, no mats."""
    return {**flat_slab(2, 2, size=0.8), "design_bars": True, "mats": [], **more}


def american(data):
    data["standard"] = "ACI 318-19"
    data["rebars"][0]["yield_MPa"] = 420.0
    for c in data["combinations"]:
        c["limit_state"] = {"quasi_permanent": "service"}.get(c["limit_state"], c["limit_state"])
    return data


def mass(outcome, face, direction):
    """kg without laps."""
    return sum(b.mass - b.laps_kg for b in scheduled(outcome) if (b.group.face, b.group.direction) == (face, direction))


def proposed(outcome, face, direction):
    """(mm, mm) of the mat of one face and direction, None where there is none."""
    found = {(round(1e3 * g.bar), round(1e3 * g.spacing)) for g in outcome.steel.groups
             if g.origin == "designed" and g.anchored <= 0 and (g.face, g.direction) == (face, direction)}  # fmt: skip
    assert len(found) <= 1
    return next(iter(found), None)


@pytest.mark.parametrize("face", ["bottom", "top"])
def test_no_other_mat_takes_less_steel_with_the_bars_beside_it(face):
    """Every mat that may be chosen is laid, the bars beside it are designed, and all are weighed."""
    f = ("bottom", "top").index(face)
    given = [{"id": f"{side} {way}", "face": side, "direction": way, "bar_mm": 10, "spacing_mm": 125}
             for side in ("bottom", "top") for way in "xy" if (side, way) != (face, "x")]  # fmt: skip
    own = solve_floor(floor_from(floor(**FEW, mats=given)))
    assert own.steel.stations.steel.max() <= 1.0
    weighed = {}
    for bar in FEW["bar_sizes_mm"]:
        for spacing in FEW["spacings_mm"]:
            mat = {"id": "tried", "face": face, "direction": "x", "bar_mm": bar, "spacing_mm": spacing}
            weighed[bar, spacing] = mass(solve_floor(floor_from(floor(**FEW, mats=[*given, mat]))), f, "x")
    assert mass(own, f, "x") <= 1.03 * min(weighed.values()), (proposed(own, f, "x"), weighed)
    assert max(weighed.values()) > 1.5 * min(weighed.values())


def test_bars_weigh_little_more_than_what_provisions_ask_for():
    """Without laps; bars at free edges of both ends are no longer than what asks for them there."""
    outcome = solve_floor(floor_from(floor()))
    there = parts(outcome)
    assert outcome.steel.stations.steel.max() <= 1.0
    assert there["mats"] + there["extra bars"] <= 1.37 * demand(outcome)


def test_bars_are_weighed_in_thought_as_they_are_laid():
    """At edges and openings no more than the concrete holds."""
    hole = {"id": "O", "outline": [[6.6, 6.3], [8.0, 6.3], [8.0, 7.2], [6.6, 7.2]]}
    outcome = solve_floor(floor_from({**flat_slab(), "mats": [], "design_bars": False, "openings": [hole]}))
    steel, layout, cuts = outcome.steel.stations, outcome.strips.layout, outcome.strips.cuts
    slab, rows = np.zeros(len(cuts.strip), dtype=np.int64), rows_of(layout, cuts)
    # Where samples lie matters to none of this.
    site = Site(
        outcome.floor, outcome.standard, outcome.plan.region, layout, cuts, slab, choices_of(outcome.floor), None, rows, {}
    )
    asked, nothing, near = asked_of(steel), np.zeros_like(steel.provided), apart(site, steel)
    laid = design(site, steel, asked, nothing, near)
    for f, own in enumerate(steel.faces):
        volume = sum(g.area * g.outline.area for g in laid if g.face == f)
        assert volume > 0
        assert extra_volume(site, f, own, rows, asked[f], nothing[f], near[f]) == pytest.approx(volume, rel=1e-9)


@pytest.mark.parametrize("share", [0, 25])
def test_mats_leave_no_more_of_the_spans_to_extra_bars_than_they_may(share):
    outcome = solve_floor(floor_from(floor(extra_in_spans_pct=share)))
    steel, cuts, layout = outcome.steel.stations, outcome.strips.cuts, outcome.strips.layout
    ways = np.array([s.direction for s in layout.strips])[cuts.strip]
    free = solve_floor(floor_from(floor()))
    for f, own in enumerate(steel.faces):
        away = ~(own.at.end | own.at.column)
        for way in "xy":
            bar, spacing = proposed(outcome, f, way)
            alone = 1e-3 * np.pi * bar**2 / 4 / spacing
            mine = away & (ways == way)
            short = asked_of(steel)[f][mine] > alone * (1 + 1e-9)
            assert short.mean() <= share / 100
            lighter = proposed(free, f, way)
            assert lighter is None or lighter[0] ** 2 / lighter[1] < bar**2 / spacing
    assert steel.steel.max() <= 1.0


@pytest.mark.parametrize("mats", [True, False])
def test_bars_lie_as_close_as_cracks_want_them(mats):
    """ACI 24.3.2: 70 mm of cover and f_s = 280 MPa leave 380 - 2.5 x 70 = 205 mm, which mats at 250 mm do not keep, nor bars at 250 mm beside none."""
    data = american(floor())
    data["slabs"][0] |= {"thickness_m": 0.3, "cover_top_mm": 70, "cover_bottom_mm": 70}
    if mats:
        data["mats"] = [
            {"id": f"{f} {d}", "face": f, "direction": d, "bar_mm": 16, "spacing_mm": 250}
            for f in ("bottom", "top")
            for d in "xy"
        ]
    outcome = solve_floor(floor_from(data))
    steel = outcome.steel.stations
    assert steel.cracks.max() > 0.5
    assert steel.cracks.max() <= 1 + 1e-9
    assert steel.steel.max() <= 1.0
    extra = [g for g in outcome.steel.groups if g.anchored > 0]
    assert all(g.why for g in extra)
    if mats:
        # Bars that are there for nothing else say so.
        assert any({w.provision for w in g.why} == {"spacing"} for g in extra)
    bare = solve_floor(floor_from({**data, "design_bars": False}))
    assert bare.steel.stations.cracks.max() > 1.2


@pytest.mark.parametrize("seed", [702, 709, 710])
def test_design_gives_enough_where_bars_lie_beside_bands_end_in_corners_or_are_short(seed):
    """702: a strip at an edge column reaches beside the band about its axis only, in which nothing of it lies. 709: bars of 0.4 m between those of
    a mat that lie too far apart, which are not developed where they count. 710: bars in a corner 90 mm wide end askew and give less than they should."""
    outcome = solve_floor(floor_from(json.loads(json.dumps(random_design(seed)))), rigorous=False)
    steel = outcome.steel.stations
    assert outcome.steel.groups
    assert steel.steel.max() <= 1.0
    if steel.cracks is not None:
        assert steel.cracks.max() <= 1 + 1e-9


def test_no_bars_of_the_slab_are_laid_for_the_spacing_of_a_beams_bars():
    """ACI: a beam's bars follow from its own design, whatever spacing 24.3.2 would ask of a slab there."""
    data = american(floor(beams=[{"id": "RB", "line": [[0, 6], [12, 6]], "width_m": 0.4, "depth_m": 0.6, "concrete": "C30"}]))
    outcome = solve_floor(floor_from(data))
    beams = {s.id for s in outcome.strips.layout.strips if s.beam}
    assert beams
    assert not beams & {w.strip for g in outcome.steel.groups for w in g.why}


def test_bars_beside_none_lie_as_close_as_spacing_is_limited():
    """EN 9.3.1.1 (3) at 250 mm of depth: 400 mm, and 250 mm at the greatest moments, where of 16 mm bars those at 450 or 300 mm (447 and 670 mm2/m) would be enough for
    the most of what is asked for."""
    outcome = solve_floor(floor_from(floor(bar_sizes_mm=[16], spacings_mm=[150, 300, 450])))
    steel = outcome.steel.stations
    assert 0.5 < steel.spacing.max() <= 1 + 1e-9
    assert steel.steel.max() <= 1.0
    assert 150 in {round(1e3 * g.spacing) for g in outcome.steel.groups}


def test_mats_give_the_same_whether_places_are_looked_at_together_or_part_by_part():
    """Local mats of two layers, one askew, that cover some of the places of some parts."""
    data = flat_slab(2, 1, size=1.0)
    data["mats"] += [
        {"id": "local", "face": "top", "direction": "x", "bar_mm": 20, "spacing_mm": 125, "outline": [[1, 1], [5, 1], [5, 4], [1, 4]]},
        {"id": "askew", "face": "top", "direction": "y", "bar_mm": 10, "spacing_mm": 200, "outline": [[4, 1], [9, 3], [8, 5], [3, 4]]},
    ]  # fmt: skip
    floor = floor_from(data)
    xy = np.random.default_rng(3).uniform((0, 0), (12, 6), (90, 2))
    starts = np.array([0, 10, 10, 47, 90])
    mats, slab = mats_of(floor), np.zeros(len(xy), dtype=np.int64)
    together, by_parts = provided(mats, xy, slab), provided_by_parts(mats, xy, slab, starts)
    for name in ("area", "depth", "count", "diameters"):
        assert np.array_equal(getattr(together, name), getattr(by_parts, name)), name
    assert len(np.unique(together.area[2])) == 2
