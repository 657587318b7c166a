"""The section at any station: the bars that it shows are those that the check counts, where it counts them."""

import numpy as np
import pytest

from piastra.core.checks.station import UnknownStationError
from piastra.core.model import floor_from
from piastra.demo.saltmarsh import floors
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
