"""Transverse shear and moments where shear is not negligible, against solutions of Reissner-Mindlin plates."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
import numpy.typing as npt
from scipy.integrate import solve_bvp

from piastra.core.fe.section import SHEAR_FACTOR
from piastra.core.model.extent import TARGET
from piastra.core.verification.case import Case, E, Quantity, edges, plate, solved
from piastra.core.verification.plates import rectangle, ring
from piastra.core.verification.spectral import knots, spectral_plate

Array = npt.NDArray[np.float64]

INSIDE, BESIDE = 0.03, 0.10
"""Limits of error inside a bay, and half a thickness from what holds it."""


def double_series(a: float, b: float, h: float, nu: float, along: float, x: float, y: float, terms: int = 799) -> Array:
    """``m_x, m_y`` (kNm/m) and ``v_x, v_y`` (kN/m) at (x, y) of a supported a x b plate under 1 kN/m2.

    The plate's bending stiffness along x is multiplied by ``along``, its rows and columns by the square root. Each term of
    the double sine series meets the three equations of equilibrium of Mindlin's plate exactly (hard supports).
    """
    m, n = (k.astype(float) for k in np.meshgrid(np.arange(1, terms, 2), np.arange(1, terms, 2), indexing="ij"))
    alpha, beta = m * np.pi / a, n * np.pi / b
    D = E * h**3 / (12 * (1 - nu**2))
    D_x, D_y, D_1, D_k = along * D, D, np.sqrt(along) * nu * D, (1 - nu) / 2 * D
    S = SHEAR_FACTOR * E / (2 * (1 + nu)) * h
    # Unknowns: amplitudes of w (sin sin), of the rotation along x (cos sin) and along y (sin cos).
    A = np.zeros((*m.shape, 3, 3))
    A[..., 0, 0], A[..., 0, 1], A[..., 0, 2] = S * alpha, D_x * alpha**2 + D_k * beta**2 + S, (D_1 + D_k) * alpha * beta
    A[..., 1, 0], A[..., 1, 1], A[..., 1, 2] = S * beta, (D_1 + D_k) * alpha * beta, D_y * beta**2 + D_k * alpha**2 + S
    A[..., 2, 0], A[..., 2, 1], A[..., 2, 2] = S * (alpha**2 + beta**2), S * alpha, S * beta
    load = np.zeros((*m.shape, 3, 1))
    load[..., 2, 0] = 16 / (np.pi**2 * m * n)
    W, X, Y = np.moveaxis(np.linalg.solve(A, load)[..., 0], -1, 0)
    sx, cx, sy, cy = np.sin(alpha * x), np.cos(alpha * x), np.sin(beta * y), np.cos(beta * y)
    return np.array([
        -((D_x * alpha * X + D_1 * beta * Y) * sx * sy).sum(), -((D_1 * alpha * X + D_y * beta * Y) * sx * sy).sum(),
        (S * (alpha * W + X) * cx * sy).sum(), (S * (beta * W + Y) * sx * cy).sum(),
    ])  # fmt: skip


def ring_plate(R: float, c: float, h: float, nu: float) -> Callable[[float], Array]:
    """``m_r, m_t`` (kNm/m) and ``v_r`` (kN/m) at a radius of a ring under 1 kN/m2 that is clamped at ``c`` and at ``R`` (m).

    The equations of Mindlin's plate in polar coordinates, integrated to 1e-8.
    """
    D, S = E * h**3 / (12 * (1 - nu**2)), SHEAR_FACTOR * E / (2 * (1 + nu)) * h

    def moments(r: Array | float, b: Array, m: Array) -> tuple[Array, Array]:
        slope = m / D - nu * b / r
        return slope, D * (b / r + nu * slope)

    def change(r: Array, state: Array) -> Array:
        _, b, m, pull = state
        slope, across = moments(r, b, m)
        return np.vstack([pull / r / S - b, slope, pull / r - (m - across) / r, -r])

    def held(inner: Array, outer: Array) -> Array:
        return np.array([inner[0], inner[1], outer[0], outer[1]])

    r = np.linspace(c, R, 400)
    found = solve_bvp(change, held, r, np.zeros((4, 400)), tol=1e-8, max_nodes=100_000)

    def at(radius: float) -> Array:
        _, b, m, pull = found.sol(radius)
        return np.array([m, moments(radius, b, m)[1], pull / radius])

    return at


def _quantity(name: str, unit: str, expected: float, computed: float, scale: float, limit: float) -> Quantity:
    """A component that may be small, with its error as a share of ``scale``."""
    return Quantity(name, unit, scale, scale + computed - expected, limit)


def _bay(h: float, along: float, size: float) -> tuple[Quantity, ...]:
    a, b, nu = 6.0, 5.0, 0.2
    more: dict[str, Any] = (
        {} if along == 1.0 else {"stiffness_areas": [{"id": "K", "outline": rectangle(a, b), "bending_along": along}]}
    )
    s = solved(plate(rectangle(a, b), h, nu, size / TARGET, edges(rectangle(a, b), "free"), **more))
    found = []
    for x, y, limit in ((1.5, 2.0, INSIDE), (1.0, 1.0, INSIDE), (2.0, 2.2, INSIDE), (h / 2, 2.5, BESIDE), (3.0, h / 2, BESIDE)):
        expected, v = double_series(a, b, h, nu, along, x, y)[2:], s.at(x, y)[4:]
        size_of = float(np.hypot(*expected))
        found += [
            _quantity(f"{name} at ({x:g}, {y:g}) over v", "kN/m", e, c, size_of, limit)
            for name, e, c in zip(("v_x", "v_y"), expected.tolist(), v.tolist(), strict=True)
        ]
    return tuple(found)


def _round_column(size: float) -> tuple[Quantity, ...]:
    """A clamped circle on a stiff round column: means around it, which a mesh without that symmetry scatters about."""
    R, c, h, nu = 3.6, 0.25, 0.25, 0.2
    document = plate(ring(R), h, nu, size / TARGET, edges(ring(R), "fixed"))
    document["concretes"].append({"id": "K", "strength_MPa": 30, "E_MPa": 1e7})
    document["columns"] = [
        {"id": "C", "at": [0, 0], "shape": {"kind": "circle", "diameter_m": 2 * c}, "concrete": "K", "below": {"height_m": 1.0}}
    ]
    s, expected = solved(document), ring_plate(R, c, h, nu)
    found = [Quantity("column force", "kN", 2 * np.pi * c * float(expected(c)[2]) + np.pi * c**2, s.reaction("C")[0], 0.02)]
    for gap, limit in ((h / 2, BESIDE), (0.25, 0.05), (0.5, INSIDE), (0.75, INSIDE)):
        r = c + gap
        t = np.linspace(0, 2 * np.pi, 48, endpoint=False)
        values = np.array([s.at(r * np.cos(a), r * np.sin(a)) for a in t])
        m_r = values[:, 1] * np.cos(t) ** 2 + values[:, 2] * np.sin(t) ** 2 + values[:, 3] * np.sin(2 * t)
        v_r = values[:, 4] * np.cos(t) + values[:, 5] * np.sin(t)
        m, _, v = expected(r)
        found.append(Quantity(f"radial shear, {gap:g} m from the face", "kN/m", v, float(v_r.mean()), limit))
        face = float(np.abs(expected(c)[0]))
        if gap < 0.25:
            continue
        found.append(
            _quantity(f"radial moment, {gap:g} m from the face, over the face's", "kNm/m", m, float(m_r.mean()), face, 0.02)
        )
    return tuple(found)


def _line_end() -> tuple[Quantity, ...]:
    """Beside a line of support that ends within the slab: means over 0.4 m at 0.213 m from it, as the check of one-way shear takes them with
    d = 0.2 m, at the end and in the middle."""
    a, b, h, nu, away = 7.0, 6.0, 0.25, 0.2, 0.213
    lines = {"W": ((0.0, 0.0), (0.0, b)), "E": ((a, 0.0), (a, b)), "L": ((4.0, 2.5), (4.0, 4.5))}
    supports = [{"id": k, "kind": "line", "line": v, "vertical": "fixed", "rotation": "free"} for k, v in lines.items()]
    s = solved(plate([[0, 0], [a, 0], [a, b], [0, b]], h, nu, 0.5, supports))
    expected = spectral_plate(knots(a, [4.0], 0.05, 2.5), knots(b, [2.5, 4.5], 0.05, 2.5), 6, h, nu, list(lines.values()))
    found = []
    for side, x in (("left", 4 - away), ("right", 4 + away)):
        for place, y in (("at the end", 2.7), ("0.4 m from the end", 3.1)):
            xy = np.column_stack([np.full(8, x), y - 0.2 + 0.4 * (np.arange(8) + 0.5) / 8])
            computed = np.array([s.at(*p)[4:] for p in xy.tolist()]).mean(axis=0)
            v = np.hypot(*expected(xy).mean(axis=0))
            found.append(Quantity(f"shear {place}, {side}", "kN/m", float(v), float(np.hypot(*computed)), BESIDE))
    return tuple(found)


def shear_cases() -> list[Case]:
    """Shear inside bays and beside supports, shear and moments around a column."""
    series, polar = "double sine series of Mindlin's equations", "Mindlin's equations in polar coordinates, integrated"
    return [
        Case("shear of a supported bay, h = 0.2, 0.35 m", series, lambda: _bay(0.2, 1.0, 0.35)),
        Case("shear of a supported bay, h = 0.25, 0.25 m", series, lambda: _bay(0.25, 1.0, 0.25)),
        Case("shear of an orthotropic bay, h = 0.2, 0.35 m", series, lambda: _bay(0.2, 0.3, 0.35)),
        Case("clamped circle on a round column, 0.35 m", polar, lambda: _round_column(0.35)),
        Case("clamped circle on a round column, 0.25 m", polar, lambda: _round_column(0.25)),
        Case("a line of support that ends within a slab", "Mindlin's plate by spectral elements of order 6", _line_end),
    ]
