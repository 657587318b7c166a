"""Where shear has no bound, and that the mesh follows it there."""

import numpy as np
import pytest
import shapely
from shapely.affinity import rotate
from shapely.geometry import LineString, Polygon, box

from piastra.core.mesh import plan
from piastra.core.mesh.plan import make_linework
from piastra.core.mesh.singular import singular_points
from piastra.core.model import floor_from
from tests.floors import flat_slab
from tests.solving import solve_floor

FLOOR = box(0, 0, 12, 9)
INNER, OUTER = [(4, 3), (4, 6)], [(0, 0), (12, 0), (12, 9), (0, 9), (0, 0)]
CASES = {
    # Both ends of a line within the floor: 360 degrees of concrete between its two sides.
    "a line within the floor": (FLOOR, [INNER], [(4, 3), (4, 6)]),
    # Held on both sides, 90 degrees: pi / alpha = 2.
    "a floor held all round": (FLOOR, [OUTER], []),
    # The line and what is left of the edge, 180 degrees: pi / (2 alpha) = 1 / 2.
    "a part of an edge": (FLOOR, [[(3, 0), (12, 0)]], [(3, 0)]),
    # 90 degrees to each side: pi / (2 alpha) = 1.
    "a line from edge to edge": (FLOOR, [[(4, 0), (4, 9)]], []),
    # 45 and 135 degrees: 2 and 2 / 3 at both ends.
    "a line that leaves an edge askew": (FLOOR, [[(1, 0), (10, 9)]], [(1, 0), (10, 9)]),
    # The long side of a corner has 270 degrees: 2 / 3; there is concrete on both sides.
    "a corner": (FLOOR, [[(4, 0), (4, 5), (12, 5)]], [(4, 5)]),
    "one line that goes on in another": (FLOOR, [[(4, 0), (4, 5)], [(4, 5), (4, 9)]], []),
    "one line that ends at another": (FLOOR, [[(4, 0), (4, 9)], [(4, 5), (12, 5)]], []),
    # A shaft's walls are bends of 270 degrees on the side of the floor, and nothing on the other.
    "walls of a shaft": (
        FLOOR.difference(box(4, 3, 7, 6)),
        [[(4, 3), (7, 3), (7, 6), (4, 6), (4, 3)]],
        [(4, 3), (4, 6), (7, 3), (7, 6)],
    ),
    # 0.1 m of concrete behind the corner are no floor.
    "walls along the edges": (FLOOR, [[(0.1, 0.1), (0.1, 8.9), (11.9, 8.9), (11.9, 0.1), (0.1, 0.1)]], []),
    # 20 chords of a half circle turn by 9 degrees each: 180 / 189 = 0.95.
    "an arc": (box(-9, 0, 9, 9), [[(5 * np.cos(a), 5 * np.sin(a)) for a in np.linspace(0, np.pi, 21)]], []),
    "a line that ends in a column": (FLOOR, [[(4, 3), (4, 6), (4, 9)]], [(4, 3)], [box(3.8, 2.8, 4.2, 3.2)]),
}


@pytest.mark.parametrize("degrees", [0.0, 33.0])
@pytest.mark.parametrize("name", CASES)
def test_ends_and_bends_are_told_by_the_angle_of_concrete_at_them(name, degrees):
    region, lines, expected, *columns = CASES[name]
    prints = columns[0] if columns else []

    def turned(shape):
        return rotate(shape, degrees, origin=(0, 0))

    found = singular_points([turned(LineString(l)) for l in lines], turned(region), [turned(p) for p in prints], 0.014, 0.35)
    expected = [p for p in expected if not any(c.intersects(shapely.Point(p)) for c in prints)]
    at = shapely.get_coordinates(turned(shapely.MultiPoint(expected))) if expected else np.zeros((0, 2))
    assert np.allclose(sorted(map(tuple, found)), sorted(map(tuple, at)), atol=1e-9)


def test_a_shorter_line_within_the_tolerance_of_an_edge_ends_at_it():
    near = singular_points([LineString([(4, 0.01), (4, 9)])], FLOOR, [], 0.014, 0.35)
    assert near == []
    assert singular_points([LineString([(4, 1.0), (4, 9)])], FLOOR, [], 0.014, 0.35) == [(4, 1)]
    assert singular_points([], FLOOR, [], 0.014, 0.35) == []
    assert singular_points([LineString([(20, 1), (20, 9)])], FLOOR, [Polygon()], 0.014, 0.35) == []


def held_within(size, vertical="fixed"):
    data = flat_slab(1, 1, size=size)
    data["columns"] = []
    data["slabs"][0]["outline"] = [[0, 0], [7, 0], [7, 6], [0, 6]]
    lines = {"W": [[0, 0], [0, 6]], "E": [[7, 0], [7, 6]], "L": [[4, 2.5], [4, 4.5]]}
    data["supports"] = [
        {"id": k, "kind": "line", "line": v, "vertical": vertical if k == "L" else "fixed", "rotation": "free"}
        for k, v in lines.items()
    ]
    return floor_from(data)


def test_shear_beside_the_ends_of_a_line_follows_at_the_usual_size(monkeypatch):
    def at_end(size):
        use = {u.of[1]: u for u in solve_floor(held_within(size)).shear}["L"]
        # It is the ends that govern.
        assert min(abs(use.at[1] - y) for y in (2.5, 4.5)) < 0.3
        return use.v

    there = at_end(0.15)
    assert at_end(0.6) == pytest.approx(there, rel=0.10)
    # With elements of one size, 0.42 m, half of it would not be seen.
    monkeypatch.setattr(plan, "singular_points", lambda *given: [])
    assert at_end(0.601) < 0.5 * there


def test_lines_that_only_hold_rotations_are_no_reason_for_a_finer_mesh():
    for vertical, count in (("fixed", 2), (5e4, 2), ("free", 0), (0.0, 0)):
        assert len(make_linework(held_within(0.6, vertical)).refinements) == count
