"""Sag of lines, against displacements that are given in closed form."""

import numpy as np
import pytest
import shapely
from shapely.geometry import LineString, MultiPolygon, Point, Polygon, box

from piastra.core.combine.envelope import Factors
from piastra.core.deflection.sag import Line, lines, sags
from piastra.core.geometry.axes import Held
from piastra.core.loads.vectors import Unit
from piastra.core.mesh.locate import indexed

L, A, B, C = 8.0, 0.003, 0.0005, 0.012


@pytest.fixture(scope="module")
def strip():
    """A strip of 8 m by 1 m in 20 squares; its nodes lie where lines are read."""
    x = np.linspace(0, L, 21)
    xy = np.concatenate([np.column_stack([x, np.zeros(21)]), np.column_stack([x, np.ones(21)])])
    quads = np.array([[i, i + 1, i + 22, i + 21] for i in range(20)])
    return indexed(xy, quads, 20)


def combined(*pairs):
    always, pattern = np.array(pairs).T
    return Factors("Q1", "quasi_permanent", always, pattern)


def line(cantilever=False):
    return Line(("A", "B"), np.array([[0, 0.5], [L, 0.5]]), 2 * L if cantilever else L, cantilever)


def test_the_sag_is_measured_from_the_chord_of_ends_that_settle(strip):
    x = strip.xy[:, 0]
    w = A + B * x + 4 * C * x * (L - x) / L**2
    (found,) = sags([line()], strip, w[:, None], [combined((1.0, 0.0))], (Unit("G", None),), 250.0)
    assert found.sag == pytest.approx(C, rel=1e-12)
    assert found.limit == pytest.approx(L / 250)
    assert found.utilisation == pytest.approx(C * 250 / L)
    assert (found.at, found.fraction) == ((L / 2, 0.5), 0.5)
    assert found.w_ends == pytest.approx((A, A + B * L))
    assert found.w_at == pytest.approx(A + B * L / 2 + C)


def test_a_cantilever_is_measured_from_its_foot_and_against_twice_its_reach(strip):
    x = strip.xy[:, 0]
    w = A + B * x + C * (x / L) ** 2
    (found,) = sags([line(cantilever=True)], strip, w[:, None], [combined((1.0, 0.0))], (Unit("G", None),), 200.0)
    assert found.sag == pytest.approx(B * L + C)
    assert found.limit == pytest.approx(2 * L / 200)
    assert found.fraction == 1.0


def test_the_worst_arrangement_and_combination_govern_and_what_rises_uses_nothing(strip):
    x = strip.xy[:, 0]
    down = 4 * x * (L - x) / L**2
    units = (Unit("G", None), Unit("Q", "P1"), Unit("Q", "P2"))
    w = np.column_stack([0.004 * down, 0.003 * down, -0.002 * down])
    few, more = combined((1, 0), (0, 0.3), (0, 0.3)), combined((1, 0), (0, 0.6), (0, 0.6))
    (found,) = sags([line()], strip, w, [few, more, few], units, 250.0)
    assert found.sag == pytest.approx(0.004 + 0.6 * 0.003)
    assert [p.panel for p in found.panels if p.panel] == ["P1"]
    (risen,) = sags([line()], strip, -w[:, :1], [combined((1.0, 0.0))], units[:1], 250.0)
    assert risen.utilisation == 0.0


def test_lines_join_neighbours_and_points_along_a_wall():
    """A wall of 6 m has a point every 2 m, each opposite of a column; no line runs along it or over a third support."""
    wall = Held("W", LineString([(0, 0), (6, 0)]), 0.2)
    columns = [Held(f"C{k}", Point(2 * k, 6).buffer(0.2)) for k in range(4)]
    found = lines([wall, *columns], box(-0.1, -0.1, 6.1, 6.1))
    across = {l.labels[1]: l.span for l in found if l.labels[0] == "W" and l.span < 6.01}
    assert across == pytest.approx({f"C{k}": 6.0 for k in range(4)})
    assert not [l for l in found if l.labels == ("W", "W")]
    assert len({l.id for l in found}) == len(found)
    assert ("C0", "C2") not in {l.labels for l in found}


def test_an_overhang_is_a_cantilever_of_twice_its_reach_and_a_short_one_is_none():
    columns = [Held(f"C{k}", Point(x, y)) for k, (x, y) in enumerate([(0, 0), (6, 0), (6, 6), (0, 6)])]
    for out, longest in ((0.55, 0.0), (1.5, 3.0)):
        found = lines(columns, box(-0.2, 0, 6 + out, 6))
        assert max((l.span for l in found if l.cantilever), default=0.0) == pytest.approx(longest)


@pytest.mark.parametrize("first", [0, 5, 2])
def test_an_overhang_all_round_is_looked_at_off_every_column_at_corners_and_between(first):
    """Four columns 6 m apart, 1.2 m from all edges, whichever corner the outline begins with: no one place stands for all of it."""
    held = [Held(f"C{k}", box(x - 0.2, y - 0.2, x + 0.2, y + 0.2)) for k, (x, y) in enumerate([(0, 0), (6, 0), (6, 6), (0, 6)])]
    ring = [[-1.2, -1.2], [7.2, -1.2], [7.2, 7.2], [-1.2, 7.2]]
    # A vertex that is no corner changes nothing, not even where the outline begins with it.
    vertices = [[3.5, -1.2], *ring[1:], ring[0]] if first else ring
    found = [l for l in lines(held, Polygon(vertices[first:] + vertices[:first])) if l.cantilever]
    tips = {tuple(np.round(l.ends[1], 6)) for l in found}
    along = [(s, e) for e in (-1.2, 7.2) for s in (0.0, 3.0, 6.0)]
    assert tips == {tuple(map(float, p)) for p in ring} | {p for s, e in along for p in ((s, e), (e, s))}
    assert len({l.label for l in found}) == len(found)
    assert sorted(l.span for l in found) == pytest.approx([2.0] * 12 + [2 * 2**0.5] * 4)


def posts(*places):
    return [Held(f"C{k}", box(x - 0.2, y - 0.2, x + 0.2, y + 0.2)) for k, (x, y) in enumerate(places)]


def test_an_overhang_towards_a_joint_and_into_a_courtyard_is_one_too():
    """What lies between supports beyond a joint, or across a court, is no floor that they hold."""
    square = posts((0, 0), (6, 0), (6, 6), (0, 6))
    floor = box(-0.3, -0.3, 7.7, 6.3)
    alone = {(l.label, l.span) for l in lines(square, floor)}
    beyond = [Held(f"D{k}", shapely.affinity.translate(h.shape, 9.5)) for k, h in enumerate(square)]
    both = lines([*square, *beyond], MultiPolygon([floor, box(7.75, -0.3, 17.2, 6.3)]))
    assert {(l.label, l.span) for l in both if l.labels[0].startswith("C")} == alone
    straight = [l for l in both if l.cantilever and l.ends[1] == pytest.approx([7.75, 3.0])]
    assert [l.span for l in straight] == pytest.approx([2 * (9.3 - 7.75)])

    # Bays of 6 m around a court of 18 m by 12 m, into which the floor stands out by 1.5 m from the columns' faces all round.
    ring = posts(*((6 * i, 6 * j) for i in range(6) for j in range(4) if i in (0, 1, 4, 5) or j == 0))
    yard = Polygon(shapely.get_coordinates(box(-0.3, -0.3, 30.3, 18.3))).difference(box(7.7, 1.7, 22.3, 20.0))
    reach = [l for l in lines(ring, yard) if l.cantilever and yard.boundary.distance(Point(l.ends[1])) < 1e-6]
    into = [l for l in reach if 7 < l.ends[1][0] < 23 and l.ends[1][1] > 1]
    assert {round(l.span, 6) for l in into} >= {3.0}
    assert {side for l in into for side, x in (("left", 7.7), ("right", 22.3)) if abs(l.ends[1][0] - x) < 1e-6} == {
        "left",
        "right",
    }
    assert any(abs(l.ends[1][1] - 1.7) < 1e-6 and 9 < l.ends[1][0] < 21 for l in into)


def test_what_stands_out_into_an_atrium_is_an_overhang_and_an_opening_in_a_bay_makes_none():
    """Bays of 6 m, of the middle nine all but 1.5 m from the columns' faces is open; then only a stair of 2.4 m by 4.8 m in the middle bay."""
    places = [(6 * i, 6 * j) for i in range(6) for j in range(6)]
    whole = box(-0.3, -0.3, 30.3, 30.3)
    around = posts(*(p for p in places if not (6 < p[0] < 24 and 6 < p[1] < 24)))
    ring = lines(around, whole.difference(box(7.7, 7.7, 22.3, 22.3)))
    into = [l for l in ring if l.cantilever]
    # What would span the void is no span.
    assert not [l for l in ring if not l.cantilever and LineString(l.ends).crosses(box(8, 8, 22, 22))]
    for x, y in ((7.7, 12.0), (7.7, 15.0), (22.3, 12.0), (12.0, 7.7), (15.0, 22.3)):
        straight = next(l for l in into if l.ends[1] == pytest.approx([x, y]))
        assert straight.span == pytest.approx(3.0)
    assert {l.label for l in ring} >= {"C7–C8", "C1–C7"}

    stair = lines(posts(*places), whole.difference(box(13.2, 12.6, 15.6, 17.4)))
    assert [l.label for l in stair] == [l.label for l in lines(posts(*places), whole)]
