"""Mindlin's plate by spectral elements: a solution that shares nothing with the floors' own elements, for plates without closed forms."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
import numpy.typing as npt
import scipy.sparse as sp
from numpy.polynomial import legendre
from scipy.sparse.linalg import spsolve

from piastra.core.fe.section import SHEAR_FACTOR
from piastra.core.verification.case import E

Array = npt.NDArray[np.float64]
Segment = tuple[tuple[float, float], tuple[float, float]]

SAME = 1e-9


def knots(length: float, at: Sequence[float], first: float, ratio: float) -> Array:
    """Borders of elements (m) along one side: ``first`` (m) beside each of the places ``at``, from there on ``ratio`` times larger each."""
    found = {0.0, length, *at}
    borders = [0.0, *((a + b) / 2 for a, b in zip(at[:-1], at[1:], strict=True)), length]
    for place, low, high in zip(at, borders[:-1], borders[1:], strict=True):
        for end in (low, high):
            reach, step = abs(end - place), first
            gone = [0.0]
            while gone[-1] + step < reach - 0.4 * step:
                gone.append(gone[-1] + step)
                step *= ratio
            found |= {place + np.sign(end - place) * g for g in gone} | {end}
    return np.array(sorted(found))


def spectral_plate(x: Array, y: Array, order: int, h: float, nu: float, held: Sequence[Segment]) -> Callable[[Array], Array]:
    """What gives the shear ``v_x, v_y`` (kN/m, (k, 2)) at points (k, 2) m of a plate under 1 kN/m2, with elements of an ``order`` between
    the borders ``x`` and ``y`` (m).

    The plate rests on the segments ``held``, each along x or y: it neither sinks there nor twists along them (hard supports). Deflection and
    both rotations are interpolated at Gauss-Lobatto points; with a grid of rectangles all matrices are Kronecker products of those along
    the sides. Shear is that of the strains. Source: Karniadakis and Sherwin 2005, 2.3 and 4.1.
    """
    sides = [_Side(x, order), _Side(y, order)]
    (mx, kx, cx), (my, ky, cy) = (s.matrices for s in sides)
    D, S = E * h**3 / (12 * (1 - nu**2)), SHEAR_FACTOR * E / (2 * (1 + nu)) * h
    twist = (1 - nu) / 2 * D

    def both(along: sp.csr_matrix, across: sp.csr_matrix) -> sp.csr_matrix:
        return sp.kron(across, along, format="csr")

    # w, and the rotations X and Y with the curvatures X,x Y,y and the shear strains w,x + X and w,y + Y.
    mass = both(mx, my)
    ww, wx, wy = S * (both(kx, my) + both(mx, ky)), S * both(cx.T, my), S * both(mx, cy.T)
    xx = D * both(kx, my) + twist * both(mx, ky) + S * mass
    yy = D * both(mx, ky) + twist * both(kx, my) + S * mass
    xy = nu * D * both(cx.T, cy) + twist * both(cx, cy.T)
    stiffness = sp.bmat([[ww, wx, wy], [wx.T, xx, xy], [wy.T, xy.T, yy]], format="csr")
    n = mass.shape[0]
    load = np.concatenate([mass @ np.ones(n), np.zeros(2 * n)])
    at = np.stack([a.ravel() for a in np.meshgrid(sides[0].at, sides[1].at)], axis=1)
    fixed: set[int] = set()
    for a, b in held:
        low, high = np.minimum(a, b) - SAME, np.maximum(a, b) + SAME
        there = np.flatnonzero(((at >= low) & (at <= high)).all(axis=1))
        along = 1 if abs(b[0] - a[0]) > abs(b[1] - a[1]) else 2
        fixed |= {*there.tolist(), *(along * n + there).tolist()}
    free = np.setdiff1d(np.arange(3 * n), sorted(fixed))
    u = np.zeros(3 * n)
    u[free] = spsolve(stiffness[free][:, free].tocsc(), load[free])
    w, X, Y = u.reshape(3, len(sides[1].at), len(sides[0].at))

    def shear(points: Array) -> Array:
        out = np.empty((len(points), 2))
        for k, (px, py) in enumerate(points.tolist()):
            (i, fx, gx), (j, fy, gy) = sides[0].basis(px), sides[1].basis(py)
            out[k] = fy @ w[j, i] @ gx + fy @ X[j, i] @ fx, gy @ w[j, i] @ fx + fy @ Y[j, i] @ fx
        return np.asarray(S * out)

    return shear


class _Side:
    """Lagrange's polynomials at Gauss-Lobatto points, element after element along one side of the plate."""

    def __init__(self, borders: Array, order: int) -> None:
        inner = legendre.Legendre.basis(order).deriv().roots()
        self._own = np.concatenate([[-1.0], np.sort(inner), [1.0]])
        self._to_lagrange = np.linalg.inv(legendre.legvander(self._own, order))
        self._slope = legendre.legder(np.eye(order + 1))
        self._borders, self._order = borders, order
        width = np.diff(borders)
        self.at = np.unique(np.round((borders[:-1, None] + width[:, None] * (self._own + 1) / 2).ravel(), 12))
        point, weight = legendre.leggauss(order + 1)
        f, g = self._at(point)
        n = len(self.at)
        mass, stiff, mixed = (sp.lil_matrix((n, n)) for _ in range(3))
        for e, l in enumerate(width.tolist()):
            its = slice(e * order, (e + 1) * order + 1)
            mass[its, its] += l / 2 * (f.T * weight) @ f
            stiff[its, its] += 2 / l * (g.T * weight) @ g
            mixed[its, its] += (f.T * weight) @ g
        self.matrices = mass.tocsr(), stiff.tocsr(), mixed.tocsr()

    def _at(self, own: Array) -> tuple[Array, Array]:
        """Values and slopes (k, order + 1) at places (k,) from -1 to 1."""
        value = legendre.legvander(own, self._order) @ self._to_lagrange
        slope = legendre.legvander(own, self._order - 1) @ self._slope @ self._to_lagrange
        return value, slope

    def basis(self, place: float) -> tuple[slice, Array, Array]:
        """Which unknowns there are at a place (m), with their values and slopes (1/m)."""
        e = int(np.clip(np.searchsorted(self._borders, place) - 1, 0, len(self._borders) - 2))
        width = self._borders[e + 1] - self._borders[e]
        f, g = self._at(np.array([2 * (place - self._borders[e]) / width - 1]))
        return slice(e * self._order, (e + 1) * self._order + 1), f[0], 2 / width * g[0]
