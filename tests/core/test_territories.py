"""Every square metre of concrete belongs to one strip of each direction, or is told."""

import numpy as np
import pytest
import shapely

from piastra.core.geometry.axes import Axis, Bearing, Held, axes_of_neighbours
from piastra.core.model import floor_from
from piastra.core.pipeline import STAGES
from piastra.core.stages.build import Run, StageCache
from piastra.core.stages.plan import PLAN
from piastra.core.stages.stations import STATIONS
from piastra.core.strips.layout import _pieces
from tests.floors import flat_slab
from tests.random_designs import ended, random_design
from tests.random_floors import random_floor
from tests.solving import solve_floor


def laid_out(document):
    """Plan, layout and cuts of a floor, without solving it."""
    run = Run(floor_from(document), StageCache(), len(STAGES), lambda name, share: None, lambda: False)
    for stage in STAGES:
        run.take(stage)
        if stage is STATIONS:
            return run.results[PLAN.name], run.results[STATIONS.name].layout, run.results[STATIONS.name].cuts
    raise AssertionError


def shared_out(document):
    """No strips of a direction overlap, and with what is told they make up the floor; every strip has a station."""
    plan, layout, cuts = laid_out(document)
    for direction in ("x", "y"):
        own = [s for s in layout.strips if s.direction == direction]
        beside = sum(p.area for d, p in layout.beside if d == direction)
        assert sum(s.outline.area for s in own) + beside == pytest.approx(plan.region.area, abs=1e-3)
        tree = shapely.STRtree([s.outline for s in own])
        for i, j in tree.query([s.outline for s in own], predicate="intersects").T:
            if i < j:
                assert own[i].outline.intersection(own[j].outline).area < 1e-4, (own[i].label, own[j].label)
    assert set(np.unique(cuts.strip)) == set(range(len(layout.strips)))
    return layout, cuts


def column(label, x, y):
    return {
        "id": label,
        "at": [x, y],
        "shape": {"kind": "rectangle", "b_m": 0.4, "d_m": 0.4},
        "concrete": "C30",
        "below": {"height_m": 3.0},
    }


def walled(*columns):
    """A slab of 6 m by 8 m on four walls."""
    data = flat_slab(1, 1)
    corners = [[0, 0], [6, 0], [6, 8], [0, 8]]
    data["slabs"][0]["outline"] = corners
    data["columns"] = list(columns)
    data["walls"] = [
        {"id": f"W{k}", "line": [corners[k], corners[(k + 1) % 4]], "thickness_m": 0.2, "concrete": "C30", "below": {"height_m": 3.0}}
        for k in range(4)
    ]  # fmt: skip
    return data


@pytest.mark.parametrize("seed", [0, 7, *(pytest.param(k, marks=pytest.mark.study) for k in (5, 13, 18, 28, 41))])
def test_random_floors_are_shared_out(seed):
    shared_out(random_floor(seed))


def test_irregular_columns_are_all_served():
    """Twelve columns in no order: each is an end of strips in both directions."""
    rng = np.random.default_rng(3)
    at = []
    while len(at) < 12:
        p = rng.uniform([0.5, 0.5], [19.5, 15.5])
        if all(np.hypot(*(p - q)) > 3.5 for q in at):
            at.append(p)
    data = flat_slab(3, 3)
    data["slabs"][0]["outline"] = [[0, 0], [20, 0], [20, 16], [0, 16]]
    data["columns"] = [column(f"C{k}", *p.round(2).tolist()) for k, p in enumerate(at)]
    layout, _ = shared_out(data)
    for direction in ("x", "y"):
        served = {label for s in layout.strips if s.direction == direction for label in s.supports}
        assert served == {f"C{k}" for k in range(12)}
    # No strip runs over another column: it would average what hogs there away.
    for s in layout.strips:
        inner = s.outline.buffer(-0.6)
        assert not [k for k, p in enumerate(at) if f"C{k}" not in s.supports and inner.contains(shapely.Point(p))], s.label


def test_slabs_on_walls_and_lines_have_strips():
    layout, _ = shared_out(walled())
    assert {s.kind for s in layout.strips} == {"column", "middle"}
    assert all(s.on_wall for s in layout.strips)
    layout, _ = shared_out(walled(column("C", 3.5, 3.5)))
    for direction in ("x", "y"):
        assert sum(s.direction == direction and s.kind == "column" and "C" in s.supports for s in layout.strips) == 2
    one_way = flat_slab(1, 1)
    one_way["columns"] = []
    one_way["slabs"][0]["outline"] = [[0, 0], [6, 0], [6, 9], [0, 9]]
    one_way["supports"] = [
        {"id": k, "kind": "line", "line": [[x, 0], [x, 9]], "vertical": "fixed", "rotation": "free"} for k, x in (("L", 0), ("R", 6))
    ]  # fmt: skip
    layout, cuts = shared_out(one_way)
    (carrying,) = (s for s in layout.strips if s.direction == "x")
    assert (carrying.kind, carrying.supports) == ("whole", ("L", "R"))
    assert {s.direction for s in layout.strips} == {"x", "y"}
    # Bars across: a fifth of the principal ones, at every station.
    outcome = solve_floor(floor_from(one_way))
    bottom = outcome.steel.stations.faces[0]
    across = np.array([layout.strips[k].direction == "y" for k in cuts.strip])
    greatest = bottom.provisions["strength"][~across].max()
    assert bottom.provisions["secondary"][across] == pytest.approx(0.2 * greatest)
    assert (bottom.provisions["secondary"][~across] == 0).all()
    # The top face has none to be a fifth of but the restraint that hinges hide: a quarter at the supports.
    top = outcome.steel.stations.faces[1]
    assert top.provisions["restraint"].max() == pytest.approx(0.25 * max(greatest, bottom.provisions["least"].max()))


def test_strips_along_an_overhanging_edge_share_it():
    """Three columns near an edge of 17 m: their cantilever strips together are as wide as it."""
    data = flat_slab(2, 1, a=6.5)
    data["slabs"][0]["outline"] = [[-2, -2.5], [15, -2.5], [15, 6.7], [-2, 6.7]]
    layout, cuts = shared_out(data)
    edge = [k for k, s in enumerate(layout.strips) if s.direction == "y" and s.cantilever and s.end < 0.5]
    at_edge = [c for c in range(len(cuts.strip)) if cuts.strip[c] in edge and cuts.s[c] < -2.49]
    assert cuts.width[at_edge].sum() == pytest.approx(17.0, abs=0.02)


def test_a_wall_along_an_axis_has_no_provision_of_columns_in_its_field():
    """Columns, a wall of 4 m and columns in a row: bands over the columns and the wall's ends, none beside the wall."""
    data = flat_slab(3, 2)
    data["columns"] = [c for c in data["columns"] if c["id"] not in ("C11", "C21")]
    data["walls"] = [{"id": "W", "line": [[7, 6], [11, 6]], "thickness_m": 0.25, "concrete": "C30", "below": {"height_m": 3.2}}]
    outcome = solve_floor(floor_from(data))
    layout, cuts, top = outcome.strips.layout, outcome.strips.cuts, outcome.steel.stations.faces[1]
    field = np.array([layout.strips[k].on_wall for k in cuts.strip])
    assert field.any()
    assert not (top.at.column & field).any()
    assert (top.provisions["column_band"][field] == 0).all()
    ends = {h.seen for s in layout.strips if s.direction == "x" for h in s.holds if h is not None and h.label == "W"}
    assert ends == {"wall_end"}
    at_wall = [c for c in np.flatnonzero(top.at.column) if "W" in layout.strips[cuts.strip[c]].supports]
    assert at_wall
    # Seen as one column, the wall has bands at its ends as columns have, and no strips beside it; and back again.
    data["walls"][0]["seen_as"] = "column"
    seen = solve_floor(floor_from(data))
    assert not [s for s in seen.strips.layout.strips if s.on_wall]
    bands = seen.steel.stations.faces[1]
    of_wall = [c for c in np.flatnonzero(bands.at.column) if "W" in seen.strips.layout.strips[seen.strips.cuts.strip[c]].supports]
    assert (bands.provisions["column_band"][of_wall] > 0).any()
    data["walls"][0]["seen_as"] = None
    again = solve_floor(floor_from(data))
    assert [s.id for s in again.strips.layout.strips] == [s.id for s in layout.strips]
    assert again.steel.stations.faces[1].provisions["column_band"] == pytest.approx(top.provisions["column_band"])
    # A column seen as a wall has no band.
    for c in data["columns"]:
        c["seen_as"] = "wall"
    flat = solve_floor(floor_from(data)).steel.stations.faces[1]
    assert (flat.provisions["column_band"] == 0).all()


def test_axes_and_boundaries_drawn_by_hand_take_the_place_of_derived_ones():
    """A bent row of columns: a drawn axis joins two of them; a boundary moves the border between two axes, and all is shared out."""
    data = flat_slab(3, 2)
    plain, _ = shared_out(data)
    # Aslant from C10 to C21: strips along it, ends at these two and what else lies on it.
    data["strip_axes"] = [{"id": "A1", "line": [[6, 0], [12, 6]]}]
    layout, _ = shared_out(data)
    drawn = [s for s in layout.strips if abs(np.sin(2 * (layout.axes[s.axis].angle - np.pi / 4))) < 1e-6]
    assert {"C10", "C21"} <= {label for s in drawn for label in s.supports}
    # Bent at C10 and C21: the stretch between does not go on beyond its bends, and the outer ones do, whichever way it was drawn.
    bent = [[0, 0], [6, 0], [12, 6], [18, 6]]
    found = []
    for line in (bent, bent[::-1]):
        data["strip_axes"] = [{"id": "A1", "line": line}]
        layout, _ = shared_out(data)
        aslant = [s for s in layout.strips if abs(np.sin(2 * (layout.axes[s.axis].angle - np.pi / 4))) < 1e-6]
        assert {s.supports for s in aslant if s.kind == "column"} == {("C10", "C21")}
        assert not any(s.cantilever for s in aslant)
        column = {s.supports for s in layout.strips if s.kind == "column" and s.direction == "x"}
        assert {("C00", "C10"), ("C21", "C31")} <= column
        found.append(sorted(round(s.outline.area, 6) for s in layout.strips))
    assert found[0] == pytest.approx(found[1])
    # Drawn along a part of a derived axis, it takes the place of that part; the rest stays, and neither runs on into the other.
    data["strip_axes"] = [{"id": "A1", "line": [[6, 6], [12, 6]]}]
    part, _ = shared_out(data)
    assert sorted(round(s.outline.area, 6) for s in part.strips) == pytest.approx(
        sorted(round(s.outline.area, 6) for s in plain.strips)
    )
    # Drawn along a derived axis, it takes its place.
    data["strip_axes"] = [{"id": "A1", "line": [[0, 6], [18, 6]]}]
    same, _ = shared_out(data)
    assert sorted(round(s.outline.area, 6) for s in same.strips) == pytest.approx(
        sorted(round(s.outline.area, 6) for s in plain.strips)
    )
    data["strip_axes"] = []
    data["strip_boundaries"] = [{"id": "E1", "line": [[-1, 2.0], [19, 2.0]]}]
    moved, _ = shared_out(data)

    def reach(found, label, side):
        return next(getattr(s, side) for s in found.strips if s.direction == "x" and s.kind == "middle" and s.supports == label
                    and (s.side == "left") == (side == "left"))  # fmt: skip

    assert reach(plain, ("C10", "C20"), "left") == pytest.approx(3.0)
    assert reach(moved, ("C10", "C20"), "left") == pytest.approx(2.0)
    assert reach(moved, ("C11", "C21"), "right") == pytest.approx(-4.0)
    assert reach(moved, ("C11", "C21"), "left") == pytest.approx(3.0)


def test_stations_are_added_where_they_are_asked_for():
    """A point gets the strips of both directions that it lies in one station more each; one beside the floor none, one at a station none."""
    data = flat_slab(3, 2)
    _, plain = shared_out(data)
    data["strip_stations"] = [{"id": "K1", "at": [7.03, 0.5]}, {"id": "K2", "at": [40, 40]}]
    layout, cuts = shared_out(data)
    grown = {k: cuts.s[cuts.strip == k] for k in np.unique(cuts.strip) if (cuts.strip == k).sum() > (plain.strip == k).sum()}
    assert sorted(layout.strips[k].direction for k in grown) == ["x", "y"]
    for k, s in grown.items():
        assert layout.strips[k].outline.covers(shapely.Point(7.03, 0.5))
        place = layout.axes[layout.strips[k].axis]
        assert np.abs(s - np.dot((7.03, 0.5), (np.cos(place.angle), np.sin(place.angle)))).min() < 1e-9
        assert (np.diff(s) > 0).all()
    data["strip_stations"].append({"id": "K3", "at": [7.04, 0.5]})
    assert len(shared_out(data)[1].s) == len(cuts.s)


def test_slivers_beside_lines_are_no_pieces():
    """What overlays leave over may be slivers and lines together: none is a piece, and nothing breaks."""
    sliver = shapely.Polygon([(0, 0), (9, 0), (9, 1e-4), (0, 1e-4)])
    assert _pieces(shapely.GeometryCollection([sliver, shapely.LineString([(0, 1), (9, 1)])])) == []
    block = shapely.box(0, 2, 9, 6)
    (piece,) = _pieces(shapely.GeometryCollection([sliver, shapely.LineString([(0, 1), (9, 1)]), block]))
    assert piece.area == pytest.approx(block.area)


@pytest.mark.study
@pytest.mark.parametrize("seed", [2, 9])
def test_random_floors_with_all_that_design_knows_end_with_a_verdict(seed):
    assert "rows" in ended(random_design(seed))


@pytest.mark.parametrize("degrees", [60.0, 120.0, -50.0])
def test_strips_called_x_are_those_nearer_to_the_bars_called_x(degrees):
    """Mats are proposed, and pieces beside strips checked, for the bars of their direction's name."""
    data = flat_slab(1, 1, size=1.0)
    data["slabs"][0]["bar_angle_deg"] = degrees
    angles = [axis.angle for axis in axes_called(solve_floor(floor_from(data), rigorous=False).strips.layout, "x")]
    assert angles
    assert all(abs(np.cos(np.radians(degrees) - angle)) > np.cos(np.radians(45.0)) for angle in angles)


def axes_called(layout, direction):
    return [layout.axes[k] for k in sorted({s.axis for s in layout.strips if s.direction == direction})]


@pytest.mark.parametrize("degrees", [0.0, 30.0])
def test_what_stands_beyond_a_joint_changes_no_strip(degrees):
    """A movement joint is two floors in one file: each has its strips and panels as it has alone, whatever the other's columns and direction are."""
    data = flat_slab(2, 1, size=1.0)
    alone = solve_floor(floor_from(data))
    a = np.radians(degrees)
    right = float(max(x for x, _ in data["slabs"][0]["outline"])) + 0.05

    def beyond(x, y):
        u, v = x + 0.2, 1.1 * y
        return [
            float(right + (3.5 if degrees else 0.0) + u * np.cos(a) - v * np.sin(a)),
            float(u * np.sin(a) + v * np.cos(a) - 0.3),
        ]

    both = {**data}
    both["slabs"] = [
        *data["slabs"],
        {**data["slabs"][0], "id": "S2", "outline": [beyond(*p) for p in data["slabs"][0]["outline"]]},
    ]
    both["columns"] = [
        *data["columns"],
        *({**c, "id": f"{c['id']}b", "at": beyond(*c["at"]), "angle_deg": degrees} for c in data["columns"]),
    ]
    joined = solve_floor(floor_from(both))
    assert joined.plan.region.geom_type == "MultiPolygon"
    mine = [s for s in joined.strips.layout.strips if s.outline.representative_point().within(alone.plan.region)]
    assert [(s.label, s.direction) for s in mine] == [(s.label, s.direction) for s in alone.strips.layout.strips]
    for one, other in zip(mine, alone.strips.layout.strips, strict=True):
        assert one.outline.symmetric_difference(other.outline).area < 1e-6
    panels = [{p for u in found.loads.units for p in u.panels} for found in (alone, joined)]
    assert len(panels[1]) == 2 * len(panels[0]) == 4
    # The strips of the other run along its own sides.
    turned = {round(float(np.degrees(x.angle)) % 90, 3) for x in axes_called(joined.strips.layout, "x")}
    assert turned == {0.0, degrees}


def joined_to(columns, solid=None, walls=()):
    """The columns to which A, which alone stands on no axis along x, is joined."""
    supports = [
        Held(label, shapely.box(x - 0.2, y - 0.2, x + 0.2, y + 0.2)) for label, (x, y) in {"A": (0, 0), **columns}.items()
    ]
    supports += [Held("W", shapely.LineString(line), 0.2) for line in walls]
    served = Axis(0.0, 0.0, tuple(Bearing((label,), 0.0, 0.4, along=False) for label in columns))
    found = axes_of_neighbours(supports, [served], solid or shapely.box(-20, -20, 20, 20), 0.0)
    return {label for axis in found for b in axis.bearings for label in b.labels} - {"A", "W"}


def test_a_lone_column_is_joined_to_the_neighbour_that_stands_straightest_near_it():
    # B is nearer, but far aside: 3.61 (1 + (2 / 3)^2) = 5.2 against 4.03 (1 + (0.5 / 4)^2) = 4.1, and 3.16 (1 + (1 / 3)^2) = 3.5.
    assert joined_to({"B": (3, 2), "C": (4, 0.5)}) == {"C"}
    assert joined_to({"B": (3, 1), "C": (4, 0.5)}) == {"B"}
    assert joined_to({"B": (3, 1), "C": (-4, 0.5), "D": (-5, 0)}) == {"B", "C"}
    # Within fifty degrees of the direction, and no further.
    assert joined_to({"B": (3, 3.5)}) == {"B"}
    assert joined_to({"B": (3, 3.65)}) == set()


def test_a_lone_column_is_joined_to_none_behind_a_wall_or_off_the_floor():
    assert joined_to({"B": (6, 1)}) == {"B"}
    assert joined_to({"B": (6, 1)}, walls=[[(3, -2), (3, 2)]]) == set()
    assert joined_to({"B": (6, 1)}, walls=[[(7, -2), (7, 2)]]) == {"B"}
    notched = shapely.box(-20, -20, 20, 20).difference(shapely.box(2, -20, 4, 1))
    assert joined_to({"B": (6, 1)}, notched) == set()
    assert joined_to({"B": (6, 1), "C": (6, 4)}, notched) == {"C"}
    # Along an edge it goes all the same, though drawn a finger off it.
    assert joined_to({"B": (6, -0.03)}, shapely.box(-20, 0, 20, 20)) == {"B"}
