"""Large plans cut into pieces before they are meshed."""

import numpy as np
import pytest
import shapely
from shapely.affinity import rotate
from shapely.geometry import LineString, Polygon, box

from piastra.core.mesh import pieces
from piastra.core.mesh.pieces import piece_lines
from piastra.core.verification.case import solved
from tests.floors import flat_slab

SIZE = 0.35


def columns(nx, ny, bay, side=0.5):
    return [
        box(i * bay - side / 2, j * bay - side / 2, i * bay + side / 2, j * bay + side / 2) for i in range(nx) for j in range(ny)
    ]


@pytest.mark.parametrize("degrees", [0.0, 15.0, 71.0])
def test_cuts_keep_clear_of_corners_and_follow_the_bays(degrees):
    floor, prints = box(0, 0, 60, 45), columns(9, 7, 7.5)
    turned = [rotate(p, degrees, origin=(0, 0)) for p in (floor, *prints)]
    lines = [p.boundary for p in turned]
    cuts = piece_lines(lines, turned[0], SIZE)
    # 60 by 45 m are 22,000 elements: about 18 pieces.
    assert 6 <= len(cuts) <= 10
    corners = shapely.points(np.concatenate([shapely.get_coordinates(p) for p in turned]))
    for cut in cuts:
        assert shapely.distance(cut, corners).min() > SIZE * pieces.CLEAR / 2
        ends = np.array(cut.coords)
        way = np.degrees(np.arctan2(*(ends[1] - ends[0])[::-1])) - degrees
        assert min(way % 90, 90 - way % 90) < 1e-6
    found = shapely.get_parts(shapely.polygonize([shapely.unary_union([turned[0].boundary, *cuts])]))
    assert sum(p.area for p in found) == pytest.approx(floor.area)
    assert max(p.area for p in found) < 3 * pieces.PIECE * SIZE**2


def test_a_plan_that_is_not_large_stays_whole_and_edges_are_not_cut_at_small_angles(monkeypatch):
    assert piece_lines([box(0, 0, 15, 15).boundary], box(0, 0, 15, 15), SIZE) == []
    assert piece_lines([box(0, 0, 20, 20).boundary], box(0, 0, 20, 20), SIZE) != []
    floor, leaning = box(0, 0, 60, 60), LineString([(30, 0), (42, 60)])

    def least_angle():
        found = [np.diff(c.coords, axis=0)[0] for c in piece_lines([floor.boundary, leaning], floor, SIZE) if c.crosses(leaning)]
        way = np.array([12.0, 60.0]) / np.hypot(12, 60)
        return min(abs(way[0] * v[1] - way[1] * v[0]) / np.hypot(*v) for v in found)

    assert least_angle() > pieces.STEEP
    monkeypatch.setattr(pieces, "STEEP", 0.0)
    assert least_angle() < 0.4


def test_a_plan_without_room_between_its_corners_is_not_cut():
    teeth = [(x, 0.0 if k % 2 else 0.3) for k, x in enumerate(np.arange(0, 60.01, 0.3))]
    floor = Polygon([*teeth, (60, 60), (0, 60)])
    comb = [LineString([(0, y), (0.2, y)]) for y in np.arange(0.4, 60, 0.3)]
    assert piece_lines([floor.boundary, *comb], floor, SIZE) == []


def turned(document, degrees):
    c, s = np.cos(np.radians(degrees)), np.sin(np.radians(degrees))

    def at(p):
        return [c * p[0] - s * p[1], s * p[0] + c * p[1], *p[2:]]

    out = {**document, "slabs": [{**x, "outline": [at(p) for p in x["outline"]]} for x in document["slabs"]]}
    out["columns"] = [{**x, "at": at(x["at"]), "angle_deg": degrees} for x in document["columns"]]
    return out


OPENED = {**flat_slab(3, 2), "openings": [{"id": "O", "outline": [[8, 2], [10, 2], [10, 3.5], [8, 3.5]]}]}


@pytest.mark.parametrize(
    "document",
    [OPENED, pytest.param(turned(flat_slab(3, 2), 25.0), marks=pytest.mark.study)],
    ids=["with an opening", "turned"],
)
def test_a_floor_in_pieces_computes_as_the_whole_one(document, monkeypatch):
    whole = solved(document).outcome
    monkeypatch.setattr(pieces, "LARGE", 100)
    monkeypatch.setattr(pieces, "PIECE", 150)
    cut = solved(document).outcome
    assert len(cut.plan.linework.parts.polygons) > len(whole.plan.linework.parts.polygons)
    for got in (whole, cut):
        applied, held = got.loads.applied, got.solution.reactions[:, 0].sum(axis=0)
        assert held == pytest.approx(applied, rel=1e-6, abs=1e-6)
    scale = np.abs(whole.solution.reactions[:, 0]).max()
    assert np.abs(cut.solution.reactions[:, 0] - whole.solution.reactions[:, 0]).max() < 0.01 * scale
    most = [np.abs(o.solution.u[:, 2]).max() for o in (whole, cut)]
    assert most[1] == pytest.approx(most[0], rel=0.01)
