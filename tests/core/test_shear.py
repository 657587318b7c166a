"""Transverse shear per metre: equilibrium around columns, on both sides of walls, in parts that are narrow."""

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from piastra.core.fe import patches
from piastra.core.fe.patches import STEEP
from piastra.core.fe.recovery import LEANING
from piastra.core.mesh.counts import to_lengthen
from piastra.core.mesh.plan import make_linework
from piastra.core.model import floor_from
from piastra.core.pipeline import probed
from piastra.core.verification.case import edges, plate, solved
from piastra.core.verification.plates import rectangle
from piastra.core.verification.shear import double_series
from piastra.core.verification.spectral import knots, spectral_plate
from tests.floors import flat_slab
from tests.random_floors import random_floor
from tests.solving import solve_floor


def through(solved_floor, path):
    """Shear (kN) through a line, to its right."""
    line = shapely.LineString(path)
    p = shapely.get_coordinates(shapely.line_interpolate_point(line, np.linspace(0, line.length, 1201)))
    middle, way = (p[1:] + p[:-1]) / 2, np.diff(p, axis=0)
    right = np.column_stack([way[:, 1], -way[:, 0]])
    values = probed(solved_floor.outcome, middle)[:, :, solved_floor.outcome.loads.of_case("Q")].sum(axis=2)
    return float((values[:, 4:] * right).sum())


@pytest.fixture(scope="module")
def four_bays():
    return [solved({**flat_slab(2, 2, 6.0, size), "mats": [], "combinations": []}) for size in (0.45, 0.5, 0.55)]


@pytest.mark.parametrize(("at", "gap", "limit"), [
    ("inner", 0.125, 0.03), ("inner", 0.5, 0.05), ("inner", 1.0, 0.03), ("edge", 0.5, 0.05), ("edge", 1.0, 0.05),
    ("corner", 0.5, 0.05), ("corner", 1.0, 0.05),
])  # fmt: skip
def test_shear_around_a_column_carries_its_force(four_bays, at, gap, limit):
    """In the mean of three meshes: each has a luck of its own of two hundredths."""
    label, (x, y) = {"inner": ("C11", (6, 6)), "edge": ("C10", (6, 0)), "corner": ("C00", (0, 0))}[at]
    b, free = 0.2 + gap, -0.2
    x0, y0 = (x - b, y - b) if at == "inner" else (x - b, free) if at == "edge" else (free, free)
    ring = [(x + b, y0), (x + b, y + b), (x0, y + b), (x0, y0), (x + b, y0)]
    # Along a free edge the shear is that of the twist, which a layer as thick as the slab gives back.
    path = {"inner": ring, "edge": ring[:4], "corner": ring[:3]}[at]
    inside = 4.0 * shapely.Polygon(ring).area
    carried = [through(s, path) / (s.reaction(label)[0] - inside) for s in four_bays]
    assert np.mean(carried) == pytest.approx(1.0, abs=limit)
    assert np.ptp(carried) < 0.05


def test_forces_are_the_same_however_many_places_are_fitted_at_once(four_bays, monkeypatch):
    monkeypatch.setattr(patches, "AT_ONCE", 37)
    again = solved({**flat_slab(2, 2, 6.0, 0.5), "mats": [], "combinations": []})
    whole, pieces = (s.outcome.stiffness.kept.fits for s in (four_bays[1], again))
    assert pieces is not whole
    assert len(pieces.leaning) > 10 * 37
    assert len(pieces.round) > 37
    for name in ("value", "by_x", "by_y", "tensor", "divergence"):
        assert abs(getattr(pieces, name) - getattr(whole, name)).max() < 1e-12
    for name in ("round", "near", "leaning", "steepness", "radius"):
        np.testing.assert_allclose(getattr(pieces, name), getattr(whole, name), rtol=1e-12)


def test_shear_beside_a_wall_is_that_of_its_own_side():
    # Two spans over a line: 5/8 q L on either side of it, with opposite signs; in between it falls by q a metre.
    L, q = 6.0, 1.0
    outline = rectangle(2 * L, 1.0)
    lines = [{"id": f"L{i}", "kind": "line", "line": [[i * L, 0.0], [i * L, 1.0]]} for i in range(3)]
    s = solved(plate(outline, 0.2, 0.0, 0.5, lines, q=q))
    for gap in (0.05, 0.1, 0.4, 2.0):
        for side in (-1, 1):
            assert s.at(L + side * gap, 0.5)[4] == pytest.approx(side * q * (5 / 8 * L - gap), abs=0.03 * 5 / 8 * L)


def test_shear_is_told_where_moments_are_fitted_and_their_slopes_cannot_be():
    # Beside narrow pieces of concrete some patches give moments, but no slopes: shear there is that of the elements around, not nil.
    out = solve_floor(floor_from(random_floor(7185)))
    kept, forces = out.stiffness.kept, out.forces
    found = np.setdiff1d(np.flatnonzero((kept.fits.leaning <= LEANING) & (kept.fits.steepness > STEEP)), kept.faces.places)
    assert len(found)
    around = [np.abs(forces[np.setdiff1d(kept.of[(kept.of == k).any(axis=1)], [-1]), 6:8]).mean(axis=0) for k in found]
    assert (np.abs(forces[found, 6:8]).max(axis=1) > 0.2 * np.max(around, axis=1)).all()


def test_shear_in_a_strip_of_single_elements_is_still_told():
    s = solved(plate(rectangle(6.0, 0.3), 0.2, 0.0, 0.5, [
        {"id": f"L{i}", "kind": "line", "line": [[x, 0.0], [x, 0.3]]} for i, x in enumerate((0.0, 6.0))
    ]))  # fmt: skip
    assert s.at(1.5, 0.15)[4] == pytest.approx(1.5, rel=0.25)
    assert s.at(4.5, 0.15)[4] == pytest.approx(-1.5, rel=0.25)


@settings(max_examples=4, deadline=None)
@given(st.floats(0.1, 0.4), st.floats(0.0, 90.0))
def test_shear_turns_with_the_plan(h, degrees):
    c, s = np.cos(np.radians(degrees)), np.sin(np.radians(degrees))
    turn = np.array([[c, -s], [s, c]])
    found = []
    for angle in (np.eye(2), turn):
        outline = (np.array(rectangle(5.0, 4.0)) @ angle.T).tolist()
        at = angle @ [1.4, 1.1]
        found.append(np.linalg.inv(angle) @ solved(plate(outline, h, 0.2, 0.5, edges(outline, "free"))).at(*at)[4:])
    # Corners of the plan lie on a grid of a tenth of a millimetre.
    assert found[1] == pytest.approx(found[0], rel=3e-3)


@settings(max_examples=30, deadline=None)
@given(st.integers(0, 300), st.integers(0, 10_000))
def test_every_face_gets_an_even_number_of_elements_around_it(seed, other):
    parts = make_linework(floor_from(random_floor(seed))).parts
    count = np.random.default_rng(other).integers(1, 9, len(parts.edges))
    longer = to_lengthen(parts, count)
    assert len(set(longer.tolist())) == len(longer)
    count[longer] += 1
    around = [sum(int(count[e]) for ring in rings for e, _ in ring) for rings in parts.rings]
    assert all(n % 2 == 0 for n in around)
    fixed = {e for e, _ in parts.rings[0][0]}
    assert fixed.isdisjoint(to_lengthen(parts, count + 1, fixed).tolist())


@pytest.mark.study
def test_spectral_elements_give_the_series_of_a_plate_and_converge_at_the_end_of_a_line():
    """Two solutions that share nothing: the double sine series of a plate held all round; and where a line ends, the elements beside the end
    halved with a higher order."""
    a, b, h, nu = 6.0, 5.0, 0.25, 0.2
    around = [((0.0, 0.0), (a, 0.0)), ((a, 0.0), (a, b)), ((a, b), (0.0, b)), ((0.0, b), (0.0, 0.0))]
    shear = spectral_plate(knots(a, [3.0], 0.6, 1.5), knots(b, [2.5], 0.6, 1.5), 8, h, nu, around)
    at = np.array([[1.5, 2.0], [1.0, 1.0], [h / 2, 2.5], [5.2, 4.4]])
    expected = np.array([double_series(a, b, h, nu, 1.0, *p)[2:] for p in at.tolist()])
    assert shear(at) == pytest.approx(expected, rel=1e-4, abs=1e-4)
    held = [((0.0, 0.0), (0.0, 6.0)), ((7.0, 0.0), (7.0, 6.0)), ((4.0, 2.5), (4.0, 4.5))]
    beside = np.column_stack([np.full(8, 3.787), 2.5 + 0.4 * (np.arange(8) + 0.5) / 8])
    means = [
        spectral_plate(knots(7.0, [4.0], first, 2.5), knots(6.0, [2.5, 4.5], first, 2.5), order, h, nu, held)(beside).mean(axis=0)
        for order, first in ((4, 0.1), (6, 0.05))
    ]
    assert means[0] == pytest.approx(means[1], rel=0.01)
