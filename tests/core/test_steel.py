"""Steel that mats give and that places ask for, by hand."""

import numpy as np
import pytest
import shapely

from piastra.core.combine.envelope import envelopes
from piastra.core.fe.recovery import about_own_plane
from piastra.core.model import floor_from
from piastra.core.reinforcement.mats import mats_of, provided
from piastra.core.reinforcement.points import used_in
from piastra.core.reinforcement.stations import ratio
from piastra.core.standards.protocol import Sections
from piastra.core.standards.provision import NOTHING
from tests.floors import flat_slab
from tests.solving import solve_floor


def bars(mm, spacing):
    return np.pi * mm**2 / 4 / spacing * 1e-3


def test_a_piece_with_a_place_that_is_still_open_is_not_used_at_all():
    """Two places inside, 600 and 300 of 400 mm2/m: 1.5. One whose steel was not found makes none of it; beside the piece it does not matter."""
    xy = np.array([[1.0, 1.0], [2.0, 1.0], [9.0, 1.0]])
    piece, given = shapely.box(0, 0, 3, 2), np.full((4, 3), 400e-6)
    required = np.full((4, 3), 300e-6)
    required[0, 0] = 600e-6
    required[:, 2] = np.nan
    assert used_in(piece, "x", xy, required, given) == pytest.approx(1.5)
    assert used_in(piece, "y", xy, required, given) == pytest.approx(0.75)
    required[:, 1] = np.nan
    assert used_in(piece, "x", xy, required, given) is None
    assert used_in(shapely.box(4, 4, 5, 5), "x", xy, required, given) is None


def test_mats_give_their_bars_inside_their_outline_at_the_depth_of_their_layer():
    data = flat_slab(1, 1)
    data["mats"] = [
        {"id": "all x", "face": "top", "direction": "x", "bar_mm": 16, "spacing_mm": 200},
        {"id": "all y", "face": "top", "direction": "y", "bar_mm": 12, "spacing_mm": 150},
        {"id": "more", "face": "top", "direction": "x", "bar_mm": 20, "spacing_mm": 250, "outline": [[0, 0], [3, 0], [3, 3], [0, 3]]},
        {"id": "low", "face": "bottom", "direction": "x", "bar_mm": 10, "spacing_mm": 100, "layer": "inner"},
        {"id": "lowest", "face": "bottom", "direction": "y", "bar_mm": 14, "spacing_mm": 100, "layer": "outer"},
    ]  # fmt: skip
    cover = 0.025
    mats = mats_of(floor_from(data))
    for at, more in (((1.0, 1.0), True), ((5.0, 5.0), False), ((1.0, 5.0), False), ((5.0, 1.0), False)):
        here = provided(mats, np.array([at]), np.zeros(1, dtype=np.int64))
        x, extra, y = bars(16, 200), bars(20, 250) * more, bars(12, 150)
        assert here.area[:, 0] == pytest.approx([bars(10, 100), bars(14, 100), x + extra, y])
        deep = (x * (cover + 0.008) + extra * (cover + 0.010)) / (x + extra)
        outer = 0.020 if more else 0.016
        assert here.depth[:, 0] == pytest.approx([cover + 0.014 + 0.005, cover + 0.007, deep, cover + outer + 0.006])
    # Together they are the same: no place loses its mat to another one.
    both = provided(mats, np.array([[1.0, 1.0], [5.0, 5.0]]), np.zeros(2, dtype=np.int64))
    assert both.area[2] == pytest.approx([bars(16, 200) + bars(20, 250), bars(16, 200)])


@pytest.mark.parametrize("angle", [0.0, 30.0])
def test_what_every_place_asks_for_is_the_standards_steel_for_its_moments(angle):
    """Moments in the directions of the bars: the tensor turned, m' = R m R^T."""
    data = flat_slab(2, 2, size=1.0)
    data["slabs"][0]["bar_angle_deg"] = angle
    outcome = solve_floor(floor_from(data))
    kept, standard = outcome.stiffness.kept, outcome.standard
    own = about_own_plane(kept, outcome.forces)
    ultimate = [f for f in outcome.combinations if f.limit_state == "ultimate"]
    concrete, rebar = outcome.floor.concretes[0], outcome.floor.rebars[0]
    slab = np.flatnonzero(np.abs(kept.h - 0.25) < 1e-9)
    c, s = np.cos(np.radians(angle)), np.sin(np.radians(angle))
    turn = np.array([[c, s], [-s, c]])
    tensor = np.array([[own[slab, 3], own[slab, 5]], [own[slab, 5], own[slab, 4]]])
    turned = np.einsum("ia,abpr,jb->ijpr", turn, tensor, turn)
    depth = {"x": 0.25 - 0.025 - 0.008, "y": 0.25 - 0.025 - 0.016 - 0.008}
    for r, (sign, direction) in enumerate(((1, "x"), (1, "y"), (-1, "x"), (-1, "y"))):
        axis = 0 if direction == "x" else 1
        m, t = sign * turned[axis, axis], turned[0, 1]
        worst = np.max([envelopes(m + w * t, ultimate)[1].max(axis=1) for w in (1, -1)], axis=0)
        d, ones = depth[direction], np.ones(len(slab))
        sections = Sections(0.25 * ones, d * ones, (0.25 - d) * ones, concrete, rebar)
        strength = standard.flexure.design(worst, 0 * ones, sections).tension
        least = standard.minimum.least(worst, sections).area
        assert outcome.steel_everywhere.required[r, slab] == pytest.approx(np.maximum(strength, least), rel=1e-6, abs=1e-9)
    assert np.nanmax(outcome.steel_everywhere.required) > 1e-3


def test_ratio_tells_what_is_missing_as_99_and_what_is_not_asked_for_as_nothing():
    assert ratio(np.array([3.0, 3.0, 0.0, 1e-3]), np.array([4.0, 0.0, 0.0, 1.0])) == pytest.approx([0.75, 99.0, 0.0, 1e-3])


def test_compression_steel_has_to_be_in_the_other_face():
    """A thin slab that needs bars in both faces: each station uses the worse of its tension bars and the other face's."""
    data = flat_slab(2, 1, size=1.0)
    data["slabs"][0]["thickness_m"] = 0.16
    data["loads"][0]["q_kPa"] = 30.0
    for mat in data["mats"]:
        mat["bar_mm"], mat["spacing_mm"] = (25, 80) if mat["face"] == "top" else (8, 150)
    outcome = solve_floor(floor_from(data))
    steel = outcome.steel.stations
    assert steel.faces[1].compression.max() > 0
    governs = 0
    for f in (0, 1):
        face = steel.faces[f]
        band = face.provisions["column_band"] / steel.in_band[f]
        rest = np.maximum.reduce([a for k, a in face.provisions.items() if k != "column_band"])
        tension = np.maximum(rest / steel.provided[f], band)
        pressed = face.compression / steel.provided[1 - f]
        nothing = (np.maximum(rest, face.compression) <= NOTHING) & (band == 0)
        assert steel.steel[f] == pytest.approx(np.where(nothing, 0.0, np.minimum(np.maximum(tension, pressed), 99.0)), rel=1e-9)
        governs += int((pressed > tension).sum())
    assert governs > 0
