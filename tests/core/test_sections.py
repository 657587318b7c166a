"""The section at any station: the bars that it shows are those that the check counts, where it counts them."""

import numpy as np
import pytest

from piastra.core.checks.station import UnknownStationError
from piastra.core.model import floor_from
from piastra.demo.saltmarsh import floors
from piastra.exchange.results_file import beams
from piastra.exchange.section import section_state
from tests.core.tees import HF, H, tee
from tests.floors import flat_slab
from tests.solving import solve_floor


def stations(outcome):
    cuts, layout = outcome.strips.cuts, outcome.strips.layout
    return [
        (k, layout.strips[s].id, float(cuts.s[k])) for k, s in enumerate(cuts.strip.tolist()) if not layout.strips[s].beam
    ]  # fmt: skip


def counted(section, face):
    """Area (m2/m) and mean depth (m) of what is shown in a face, by the square of the cosine and as far as it is developed."""
    mine = [b for b in section.bars if b.face == face]
    area = [np.pi * b.bar**2 / 4 / b.spacing * np.cos(b.turn) ** 2 * b.developed * (b.end - b.start) for b in mine]
    return sum(area) / section.width, sum(a * b.depth for a, b in zip(area, mine, strict=True)) / max(sum(area), 1e-12)


@pytest.fixture(scope="module")
def level_1():
    return solve_floor(next(f for f in floors() if f.name.startswith("Level 1: wet")), rigorous=False)


def test_what_a_section_shows_is_what_the_check_counts(level_1):
    """At every station of a designed floor, over all mats and groups."""
    steel, every = level_1.steel.stations, stations(level_1)
    assert len(every) > 1000
    groups = parted = straight = 0
    cuts = level_1.strips.cuts
    long = np.hypot(*(cuts.ends[:, 1] - cuts.ends[:, 0]).T) > cuts.width + 0.2
    for cut, strip, s in every[::7] + [one for one in every if long[one[0]]][:20]:
        section = level_1.section(strip, s, "top")
        groups += sum(b.group for b in section.bars)
        for face in (0, 1):
            area, depth = counted(section, face)
            assert area == pytest.approx(steel.provided[face, cut], rel=1e-9)
            # Of bars at an angle the check takes a mean of both layers.
            if all(abs(np.sin(2 * b.turn)) < 1e-6 for b in section.bars):
                straight += 1
                assert section.h - depth == pytest.approx(steel.faces[face].at.d[cut], abs=1e-6)
        # All in concrete, of which there is as much as the cut is wide.
        assert sum(b - a for a, b in section.concrete) == pytest.approx(section.width)
        parted += len(section.concrete) > 1
        assert all(any(low - 1e-9 <= b.start < b.end <= high + 1e-9 for low, high in section.concrete) for b in section.bars)
    assert groups > 100
    assert parted > 0
    assert straight > 350


def test_the_row_of_the_worst_station_is_the_verdicts(level_1):
    for row in [r for r in level_1.rows if r.check == "flexure" and r.id.station is not None][::10]:
        found = level_1.section(row.id.of.id, row.id.station, row.id.face).row
        assert found.id == row.id
        assert (found.utilisation, found.combination, found.at) == (row.utilisation, row.combination, row.at)
        assert found.trace == row.trace


def test_a_section_by_hand():
    """Bars along x and y of 12 and 10 mm under 25 mm of cover, a group of 16 mm along x for 1 m of the strip's width, its ends far away."""
    data = flat_slab(2, 2, size=0.8)
    for mat in data["mats"]:
        mat.update(bar_mm=12 if mat["direction"] == "x" else 10, spacing_mm=200)
    data["designed_bars"] = [
        {
            "id": "G", "face": "bottom", "direction": "x", "bar_mm": 16, "spacing_mm": 125, "origin": "drawn",
            "outline": [[0, 5.5], [12, 5.5], [12, 6.5], [0, 6.5]],
        }
    ]  # fmt: skip
    outcome = solve_floor(floor_from(data))
    cuts = outcome.strips.cuts
    cut, strip, s = next(
        (k, strip, s) for k, strip, s in stations(outcome)
        if abs(cuts.angle[k]) < 1e-6 and abs(cuts.ends[k, :, 0].mean() - 3) < 0.3 and abs(cuts.ends[k, :, 1].mean() - 6) < 0.1
    )  # fmt: skip
    bars = {b.name: b for b in outcome.section(strip, s, "bottom").bars if b.face == 0}
    (x,) = (b for b in bars.values() if not b.group and b.turn < 1)
    (y,) = (b for b in bars.values() if not b.group and b.turn > 1)
    assert (x.bar, x.spacing, x.depth) == pytest.approx((0.012, 0.2, 0.025 + 0.006))
    assert (y.bar, y.turn, y.depth) == pytest.approx((0.010, np.pi / 2, 0.025 + 0.012 + 0.005))
    g = bars["G"]
    # Level with the mat's near side; as wide as the group, from samples of the cut.
    assert (g.group, g.bar, g.depth, g.turn, g.developed) == (
        True,
        0.016,
        pytest.approx(0.025 + 0.008),
        pytest.approx(0, abs=1e-6),
        1.0,
    )
    low = min(cuts.ends[cut, :, 1])
    assert sorted(abs(v - (6 - low)) for v in (g.start, g.end)) == pytest.approx([0.5, 0.5], abs=0.15)


@pytest.mark.parametrize("standard", ["EN 1992-1-1", "ACI 318-19"])
def test_a_beams_section_shows_the_bars_that_its_check_counts(standard):
    """Two spans of 8 m under 38 kPa: bars in one and two layers, some of them stopped."""
    outcome = solve_floor(floor_from(tee(2, standard, q=38.0, web=0.25, design_bars=True)))
    design, cuts, layout = outcome.beams, outcome.strips.cuts, outcome.strips.layout
    clear = outcome.standard.beams.clear
    layers, partly = set(), 0
    for k, cut in enumerate(design.sections.cuts.tolist()):
        strip, s = layout.strips[cuts.strip[cut]].id, float(cuts.s[cut])
        of_faces = [outcome.section(strip, s, face) for face in ("bottom", "top")]
        assert max(found.row.utilisation for found in of_faces) == pytest.approx(design.use[k])
        assert of_faces[0].bars == of_faces[1].bars
        for f, face in enumerate(("bottom", "top")):
            mine = [b for b in of_faces[0].bars if b.face == f]
            assert sum(np.pi * b.bar**2 / 4 * b.developed for b in mine) == pytest.approx(design.laid[f].area[k], rel=1e-9)
            partly += sum(b.developed < 1 for b in mine)
            layers.add(len({round(b.depth, 6) for b in mine}))
            # Within the links, and as far from each other as they must.
            assert all(abs(b.aside) <= 0.125 - 0.025 - 0.01 - b.bar / 2 + 1e-9 for b in mine)
            apart = [np.hypot(b.aside - c.aside, b.depth - c.depth) for i, b in enumerate(mine) for c in mine[:i]]
            assert min(apart) >= mine[0].bar + clear(mine[0].bar) - 1e-9
            # The check takes the depth at which the most bars of the span lie.
            if len(mine) == design.laid[f].laid[int(cuts.strip[cut])].count:
                depth = float(np.mean([b.depth for b in mine]))
                assert depth == pytest.approx(H - design.faces[f].d[k] + design.laid[f].further[k], abs=1e-9)
            assert of_faces[f].row.id.face == face
    assert layers == {1, 2}
    assert partly > 10
    # The corners of the links hold what runs through: it is there at both ends of the line.
    ends = [{b.mark for b in outcome.section(layout.strips[cuts.strip[c]].id, float(cuts.s[c]), "top").bars if b.face == 0}
            for c in (design.sections.cuts[0], design.sections.cuts[-1])]  # fmt: skip
    middle = outcome.section(layout.strips[cuts.strip[cut]].id, float(cuts.s[cut]), "bottom").bars
    corners = [b for b in middle if b.face == 0 and abs(b.aside) > 0.125 - 0.025 - 0.01 - b.bar / 2 - 1e-9 and b.depth < 0.06]
    assert {b.mark for b in corners} <= ends[0] & ends[1]
    # The row of the worst station is the verdict's but for its name.
    row = next(r for r in outcome.rows if r.check == "beams" and r.id.station is not None)
    k = int(np.flatnonzero(np.abs(cuts.s[design.sections.cuts] - row.id.station) < 1e-3)[0])
    face = int(design.by_face[:, k].argmax())
    found = outcome.section(layout.strips[cuts.strip[design.sections.cuts[k]]].id, row.id.station, ("bottom", "top")[face])
    assert (found.row.trace, found.row.at) == (row.trace, row.at)
    assert (found.b_w, found.H, found.b, found.h_f, found.top) == pytest.approx(
        (0.25, H, design.sections.b[k], HF, 0.0), abs=1e-6
    )
    state = section_state(found)
    assert (state.h_mm, state.web.width_mm, state.web.flange_mm) == pytest.approx((600, 250, 150))
    assert len(state.web.bars) == len(found.bars)
    assert (state.web.left_mm, state.web.right_mm) == pytest.approx([500 * (design.sections.b[k] - 0.25)] * 2, abs=0.01)

    # What results tell along the beam is what its bars and links are compared by.
    for told in beams(outcome):
        asked, given = (np.array([told[f"{face}_{name}_mm2"] for face in ("bottom", "top")]) for name in ("asked", "given"))
        links = np.array(told["links_mm2_m"]) / told["links_given_mm2_m"]
        use = np.array(told["utilisation"])
        assert np.maximum((asked / given).max(axis=0), links)[use <= 1] == pytest.approx(use[use <= 1], abs=1e-3)
        # By the moment alone it may be less: shifted, for torsion, at ends.
        assert (asked >= np.array([told["bottom_mm2"], told["top_mm2"]]) - 0.1).all()


@pytest.mark.parametrize(
    ("standard", "web", "q"), [("EN 1992-1-1", 0.12, 80.0), ("ACI 318-19", 0.12, 80.0), ("ACI 318-19", 0.4, 130.0)]
)
def test_a_beams_station_that_bars_do_not_mend_tells_so(standard, web, q):
    """80 kPa on 8 m: struts of the thin web give way; 130 on the thick one are more moment than ACI lets its concrete bear (EN asks for compression steel)."""
    outcome = solve_floor(floor_from(tee(2, standard, q=q, web=web, design_bars=True)))
    design, cuts, layout = outcome.beams, outcome.strips.cuts, outcome.strips.layout
    parts = [design.links.struts, *(f.over for f in design.faces)]
    assert (parts[0] if web < 0.2 else np.maximum(*parts[1:])).max() > 1
    for k, cut in enumerate(design.sections.cuts.tolist()):
        found = [outcome.section(layout.strips[cuts.strip[cut]].id, float(cuts.s[cut]), face).row for face in ("bottom", "top")]
        assert max(r.utilisation for r in found) == pytest.approx(design.use[k])
        # Each face tells its own bars.
        for f, r in enumerate(found):
            assert r.utilisation >= max(design.by_face[f, k], design.faces[f].over[k], design.links.struts[k]) - 1e-9
            assert (r.status == "fail") == (r.utilisation > 1 + 1e-9)


@pytest.mark.parametrize("right", [False, True])
def test_the_flange_of_an_edge_beam_lies_on_its_side(right):
    """A web at an edge of the slab: seen along it, all of its flange is to one side, and that side alone brings the block's force to the web: k_f is what
    is compressed beside the web, (b - b_w) / b."""
    data = tee(design_bars=True)
    y = 2.0 - 0.15 if right else 0.15
    data["beams"][0]["line"] = [[0.0, y], [8.0, y]]
    outcome = solve_floor(floor_from(data))
    strip = next(s.id for s in outcome.strips.layout.strips if s.beam)
    s = outcome.strips.cuts.s[outcome.beams.sections.cuts[3]]
    found = outcome.section(strip, float(s), "bottom")
    web = section_state(found).web
    near, far = (web.left_mm, web.right_mm) if right else (web.right_mm, web.left_mm)
    assert (near, far > 300, web.flange_mm) == (pytest.approx(0.0, abs=1e-3), True, 150.0)
    joint = next(r for r in outcome.rows if r.id.part == "span 1, flanges")
    share = joint.trace.steps[0].values[0]
    assert (share.symbol, share.value) == ("k_f", pytest.approx((found.b - found.b_w) / found.b, rel=1e-6))


def test_the_neutral_axis_of_a_tee_by_hand():
    """480 kNm on 2 x 0.555 m: a = 0.03975 x 555 = 22.1 mm; x = a / 0.8 = 27.6 mm. ACI: 0.9 x 0.85 x 30 = 22.95 MPa, mu = 0.03395,
    a = 0.03455 x 555 = 19.2 mm; c = a / (0.85 - 0.05 x 2 / 7) = 22.9 mm."""
    for standard, symbol, a, x in (("EN 1992-1-1", "x", 0.02206, 0.02757), ("ACI 318-19", "c", 0.01917, 0.02294)):
        outcome = solve_floor(floor_from(tee(1, standard, design_bars=True)))
        design, cuts = outcome.beams, outcome.strips.cuts
        cut = int(design.sections.cuts[design.faces[0].M.argmax()])
        found = outcome.section(outcome.strips.layout.strips[cuts.strip[cut]].id, float(cuts.s[cut]), "bottom")
        step = next(s for s in found.row.trace.steps if s.title == "Neutral axis")
        assert (step.result.symbol, step.values[0].value, step.result.value) == (
            symbol,
            pytest.approx(a, rel=5e-3),
            pytest.approx(x, rel=5e-3),
        )


def test_unknown_strips_and_stations_are_told(level_1):
    _, strip, s = stations(level_1)[0]
    with pytest.raises(UnknownStationError, match="x9-9 is no strip"):
        level_1.section("x9-9", s, "top")
    with pytest.raises(UnknownStationError, match=f"{strip} has no station at 99 m"):
        level_1.section(strip, 99.0, "top")
    # Without bars it is told what is asked for; without an ultimate combination nothing is.
    data = {**flat_slab(1, 1, size=1.5), "mats": []}
    bare = solve_floor(floor_from(data))
    _, strip, s = stations(bare)[0]
    steps = {step.title: step for step in bare.section(strip, s, "top").row.trace.steps}
    assert steps["Utilisation"].note == "Nothing is given there."
    assert steps["Steel for strength"].result.value > 0
    data["combinations"] = [{**c, "limit_state": "characteristic"} for c in data["combinations"]]
    with pytest.raises(UnknownStationError, match="no ultimate combination"):
        solve_floor(floor_from(data)).section(strip, s, "top")
    # Of beams alike.
    beam = tee(design_bars=True)
    outcome = solve_floor(floor_from(beam))
    strip = next(s.id for s in outcome.strips.layout.strips if s.beam)
    with pytest.raises(UnknownStationError, match=f"{strip} has no station at 99 m"):
        outcome.section(strip, 99.0, "top")
    beam["combinations"] = [c for c in beam["combinations"] if c["limit_state"] != "ultimate"]
    with pytest.raises(UnknownStationError, match="is not designed"):
        solve_floor(floor_from(beam)).section(strip, 4.0, "top")
