"""Patch tests and closed forms of the two elements, on their own."""

import numpy as np
import pytest

from piastra.core.fe import quad, triangle
from piastra.core.fe.section import sections as made_of

XY = np.array([[0, 0], [2.4, 0], [2.4, 1.2], [0, 1.2], [0.4, 0.2], [1.8, 0.3], [1.6, 0.8], [0.8, 0.8]])
QUADS = np.array([[0, 1, 5, 4], [1, 2, 6, 5], [2, 3, 7, 6], [3, 0, 4, 7], [4, 5, 6, 7]])
TRIS = np.vstack([QUADS[:, [0, 1, 2]], QUADS[:, [0, 2, 3]]])
FAMILIES = [pytest.param(quad, QUADS, id="quadrilaterals"), pytest.param(triangle, TRIS, id="triangles")]


def sections(count, h, nu=0.2, zeta=0.0, E=30e6):
    return made_of(np.full(count, E), np.full(count, nu), np.full(count, h), np.full(count, zeta))


def assembled(operators, elements):
    K = np.zeros((5 * len(XY), 5 * len(XY)))
    for k, nodes in zip(operators.stiffness(), elements, strict=True):
        index = (5 * nodes[:, None] + np.arange(5)).ravel()
        K[np.ix_(index, index)] += k
    return K


def inner_from_outer(K, U):
    """Solve for the four inner nodes with the outer ones given."""
    free = np.concatenate([5 * n + np.arange(5) for n in range(4, 8)])
    given = np.setdiff1d(np.arange(len(U)), free)
    V = U.copy()
    V[free] = np.linalg.solve(K[np.ix_(free, free)], -K[np.ix_(free, given)] @ U[given])
    return V


@pytest.mark.parametrize(("module", "elements"), FAMILIES)
@pytest.mark.parametrize("h", [0.0024, 0.1, 1.0])
def test_constant_curvature_and_membrane_on_a_distorted_mesh(module, elements, h):
    x, y = XY.T
    a, b, c = 1e-3, 2e-3, 1.5e-3
    U = np.zeros((len(XY), 5))
    U[:, 0], U[:, 1] = 1e-3 * x + 2e-3 * y, 0.5e-3 * x - 1e-3 * y
    U[:, 2], U[:, 3], U[:, 4] = (a * x * x + b * y * y + c * x * y) / 2, -(a * x + c * y / 2), -(b * y + c * x / 2)
    sec = sections(len(elements), h, zeta=0.3 * h)
    operators = module.operators(XY[elements], sec)
    V = inner_from_outer(assembled(operators, elements), U.ravel())
    assert np.abs(V - U.ravel()).max() < 1e-9 * np.abs(U).max()
    forces = operators.forces() @ V.reshape(-1, 5)[elements].reshape(len(elements), 1, -1, 1)
    strain = np.array([1e-3, -1e-3, 2.5e-3, -a, -b, -c])
    exact = operators.law[0, :6, :6] @ strain
    assert np.abs(forces[:, :, :6, 0] - exact).max() < 1e-9 * np.abs(exact).max()
    assert np.abs(forces[:, :, 6:, 0]).max() < 1e-6 * np.abs(exact).max()


@pytest.mark.parametrize(("module", "elements"), FAMILIES)
def test_constant_shear_on_a_distorted_mesh_in_the_limit_of_pure_shear(module, elements):
    """With no bending stiffness beside the shear stiffness, w linear and beta nil is an exact state."""
    sec = sections(len(elements), 1.0)
    stiff = sec.__class__(sec.A, sec.B, sec.D * 1e12, sec.own * 1e12, sec.shear, sec.zeta, sec.h)
    U = np.zeros((len(XY), 5))
    U[:, 2] = 1e-3 * XY[:, 0] - 2e-3 * XY[:, 1]
    operators = module.operators(XY[elements], stiff)
    gamma = operators.strain[:, 6:] @ U[elements].reshape(len(elements), 1, -1, 1)
    assert np.abs(gamma[..., 0] - [[1e-3], [-2e-3]]).max() < 1e-9


@pytest.mark.parametrize("h", [1e-3, 0.2, 2.0])
def test_constant_shear_force_of_a_cantilever_is_exact(h):
    """Two rectangles under an end load: w = P L3/3EI + P L/GA at any thickness (nu = 0)."""
    xy = np.array([[0, 0], [1.5, 0], [4, 0], [4, 1], [1.5, 1], [0, 1.0]])
    elements = np.array([[0, 1, 4, 5], [1, 2, 3, 4]])
    sec = sections(2, h, nu=0.0)
    K = np.zeros((30, 30))
    for k, nodes in zip(quad.operators(xy[elements], sec).stiffness(), elements, strict=True):
        index = (5 * nodes[:, None] + np.arange(5)).ravel()
        K[np.ix_(index, index)] += k
    free = np.concatenate([5 * n + np.arange(5) for n in (1, 2, 3, 4)])
    load = np.zeros(30)
    load[[5 * 2 + 2, 5 * 3 + 2]] = 0.5
    u = np.zeros(30)
    u[free] = np.linalg.solve(K[np.ix_(free, free)], load[free])
    exact = 4**3 / (3 * sec.own[0, 0, 0]) + 4 / sec.shear[0, 0, 0]
    assert u[5 * 2 + 2] == pytest.approx(exact, rel=1e-8)


@pytest.mark.parametrize(("module", "elements"), FAMILIES)
def test_stiffness_has_six_rigid_modes_at_most_one_of_them_a_turn_in_plane(module, elements):
    k = module.operators(XY[elements[:1]], sections(1, 0.2, zeta=0.05)).stiffness()[0]
    values = np.linalg.eigvalsh(k)
    assert np.abs(k - k.T).max() < 1e-9 * values.max()
    assert (values > -1e-9 * values.max()).all()
    assert (np.abs(values) < 1e-9 * values.max()).sum() == 6


def test_an_eccentric_beam_of_one_row_does_not_lock():
    """A cantilever whose section lies 0.5 m below the reference plane bends as one that lies in it."""
    n = 8
    x = np.linspace(0, 4, n + 1)
    xy = np.concatenate([np.column_stack([x, 0 * x]), np.column_stack([x, 0 * x + 0.3])])
    elements = np.array([[i, i + 1, n + 2 + i, n + 1 + i] for i in range(n)])
    tips = []
    for zeta in (0.0, 0.5):
        K = np.zeros((5 * len(xy), 5 * len(xy)))
        for k, nodes in zip(quad.operators(xy[elements], sections(n, 0.2, 0.0, zeta)).stiffness(), elements, strict=True):
            index = (5 * nodes[:, None] + np.arange(5)).ravel()
            K[np.ix_(index, index)] += k
        free = np.setdiff1d(np.arange(5 * len(xy)), [5 * i + k for i in (0, n + 1) for k in range(5)])
        load = np.zeros(5 * len(xy))
        load[[5 * n + 2, 5 * (2 * n + 1) + 2]] = 0.5
        u = np.zeros_like(load)
        u[free] = np.linalg.solve(K[np.ix_(free, free)], load[free])
        tips.append(u[5 * n + 2])
    assert tips[1] == pytest.approx(tips[0], rel=1e-6)
