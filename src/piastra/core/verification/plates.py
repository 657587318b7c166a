"""Plates with closed forms or classical tables."""

from __future__ import annotations

import numpy as np

from piastra.core.model.extent import TARGET
from piastra.core.verification.case import Case, E, Quantity, deflection, edges, moment, plate, solved

TW = "Timoshenko and Woinowsky-Krieger 1959"


def rigidity(h: float, nu: float) -> float:
    """D = E h^3 / (12 (1 - nu^2)), kNm."""
    return E * h**3 / (12 * (1 - nu**2))


def navier(a: float, b: float, nu: float, terms: int = 199) -> tuple[float, float, float]:
    """Centre of a simply supported a x b rectangle under unit load: w D, m_x, m_y (Navier's double series)."""
    m = np.arange(1, terms + 1, 2)[:, None]
    n = np.arange(1, terms + 1, 2)[None]
    alpha, beta = m * np.pi / a, n * np.pi / b
    sign = np.sin(m * np.pi / 2) * np.sin(n * np.pi / 2)
    w = 16 / (np.pi**2 * m * n) / (alpha**2 + beta**2) ** 2 * sign
    return float(w.sum()), float((w * (alpha**2 + nu * beta**2)).sum()), float((w * (beta**2 + nu * alpha**2)).sum())


def rectangle(a: float, b: float) -> list[list[float]]:
    """Outline of an a x b rectangle."""
    return [[0.0, 0.0], [a, 0.0], [a, b], [0.0, b]]


def _supported(a: float, b: float, n: int) -> tuple[Quantity, ...]:
    h, nu = a / 100, 0.3
    s = solved(plate(rectangle(a, b), h, nu, a / n, edges(rectangle(a, b), "free"))).at(a / 2, b / 2)
    w, mx, my = navier(a, b, nu)
    return deflection("w centre", 1e3 * w / rigidity(h, nu), s[0]), moment("mx centre", mx, s[1]), moment("my centre", my, s[2])


def _clamped(a: float, b: float, n: int, w: float, centre: float, edge: float) -> tuple[Quantity, ...]:
    h, nu = a / 200, 0.3
    s = solved(plate(rectangle(a, b), h, nu, a / n, edges(rectangle(a, b), "fixed")))
    c = s.at(a / 2, b / 2)
    return (
        deflection("w centre", 1e3 * w * a**4 / rigidity(h, nu), c[0]), moment("mx centre", centre * a**2, c[1]),
        moment("mx middle of the long edge", edge * a**2, s.at(0.0, b / 2)[1]),
    )  # fmt: skip


def ring(radius: float, sides: int = 96) -> list[list[float]]:
    """A regular polygon of the circle's area."""
    r = radius * np.sqrt(2 * np.pi / sides / np.sin(2 * np.pi / sides))
    t = 2 * np.pi * np.arange(sides) / sides
    return [[float(r * np.cos(x)), float(r * np.sin(x))] for x in t]


def _circle(rotation: str, h: float) -> tuple[Quantity, ...]:
    R, nu = 3.0, 0.3
    c = solved(plate(ring(R), h, nu, R / 8, edges(ring(R), rotation))).at(0.0, 0.0)
    D = rigidity(h, nu)
    shear = R**2 / (4 * 5 / 6 * E / (2 * (1 + nu)) * h)
    if rotation == "fixed":
        return deflection("w centre", 1e3 * (R**4 / (64 * D) + shear), c[0]), moment("mx centre", (1 + nu) * R**2 / 16, c[1])
    return (
        deflection("w centre", 1e3 * ((5 + nu) / (1 + nu) * R**4 / (64 * D) + shear), c[0]),
        moment("mx centre", (3 + nu) / 16 * R**2, c[1]),
    )


def _arc_circle() -> tuple[Quantity, ...]:
    """A clamped circle drawn as two half-circle arcs, held along the same arcs."""
    R, nu, h = 3.0, 0.3, 0.02
    half = [[-R, 0.0, 1.0], [R, 0.0, 1.0]]
    held = [
        {"id": f"L{i}", "kind": "line", "line": [half[i], half[1 - i][:2]], "rotation": "fixed", "vertical": "fixed"}
        for i in range(2)
    ]
    s = solved(plate(half, h, nu, R / 16, held))
    D = rigidity(h, nu)
    edge = s.at(0.0, R - 1e-6)
    return (
        deflection("w centre", 1e3 * R**4 / (64 * D), s.at(0.0, 0.0)[0]),
        deflection("w at half the radius", 1e3 * (R**2 - (R / 2) ** 2) ** 2 / (64 * D), s.at(R / 2, 0.0)[0]),
        moment("mx centre", (1 + nu) * R**2 / 16, s.at(0.0, 0.0)[1]),
        moment("radial moment at the edge", -(R**2) / 8, edge[2]),
        moment("reaction q pi R2", np.pi * R**2, s.reaction("L0")[0] + s.reaction("L1")[0], "kN"),
    )


def _skew(acute: float, w: float, greatest: float, least: float, n: int, limits: tuple[float, float]) -> tuple[Quantity, ...]:
    a, nu = 6.0, 0.3
    # So thin that the supported edge's free twist, which Kirchhoff's plate does not have, plays no part.
    h = a / 20000
    c, s = np.cos(np.radians(acute)), np.sin(np.radians(acute))
    outline = [[0.0, 0.0], [a, 0.0], [a + a * c, a * s], [a * c, a * s]]
    document = plate(outline, h, nu, a / n, edges(outline, "free"))
    if acute < 45:
        # Moments next to the obtuse corners are singular; away from them the mesh need not be fine.
        document["mesh"]["refinements"] = [{"at": p, "size_m": a / 4000, "radius_m": a / 400} for p in (outline[1], outline[3])]
    v = solved(document).at((a + a * c) / 2, a * s / 2)
    mean, radius = (v[1] + v[2]) / 2, float(np.hypot((v[1] - v[2]) / 2, v[3]))
    return (
        Quantity("w centre", "mm", 1e3 * w * a**4 / rigidity(h, nu), v[0], limits[0]),
        Quantity("greatest moment, centre", "kNm/m", greatest * a**2, mean + radius, limits[1]),
        Quantity("least moment, centre", "kNm/m", least * a**2, mean - radius, limits[1]),
    )


def _interior_panel() -> tuple[Quantity, ...]:
    """A panel of an endless floor on points: its borders do not turn, its corners do not sink."""
    a, nu = 6.0, 0.2
    h = a / 200
    outline = rectangle(a, a)
    points = [{"id": f"P{i}", "kind": "point", "at": p} for i, p in enumerate(outline)]
    c = solved(plate(outline, h, nu, a / 12, [*edges(outline, "fixed", "free"), *points])).at(a / 2, a / 2)
    return deflection("w centre", 1e3 * 0.00581 * a**4 / rigidity(h, nu), c[0]), moment("mx centre", 0.0331 * a**2, c[1])


def _cantilever() -> tuple[Quantity, ...]:
    L, h = 4.0, 0.2
    outline = rectangle(L, 1.0)
    fixed = [{"id": "L", "kind": "line", "line": [[0.0, 0.0], [0.0, 1.0]], "rotation": "fixed"}]
    s = solved(plate(outline, h, 0.0, L / 12, fixed))
    tip = L**4 / (8 * rigidity(h, 0.0)) + L**2 / (2 * 5 / 6 * E / 2 * h)
    return deflection("w tip", 1e3 * tip, s.at(L, 0.5)[0]), moment("mx at the support", -(L**2) / 2, s.at(0.0, 0.5)[1])


def plate_cases() -> list[Case]:
    """Rectangles, circles, skew plates, the interior panel, a cantilever and thick plates."""
    return [
        Case("simply supported square", f"{TW}, art. 30 (Navier)", lambda: _supported(6.0, 6.0, 12)),
        Case("simply supported rectangle 1 : 1.5", f"{TW}, art. 30 (Navier)", lambda: _supported(6.0, 9.0, 12)),
        Case("simply supported rectangle 1 : 2", f"{TW}, art. 30 (Navier)", lambda: _supported(6.0, 12.0, 12)),
        Case("clamped square", "Taylor and Govindjee 2004", lambda: _clamped(6.0, 6.0, 12, 0.00126532, 0.0229051, -0.0513338)),
        Case("clamped rectangle 1 : 1.5", f"{TW}, art. 44, table 35", lambda: _clamped(6.0, 9.0, 12, 0.00220, 0.0368, -0.0757)),
        Case("clamped rectangle 1 : 2", f"{TW}, art. 44, table 35", lambda: _clamped(6.0, 12.0, 12, 0.00254, 0.0412, -0.0829)),
        Case("clamped circle", f"{TW}, art. 17", lambda: _circle("fixed", 0.02)),
        Case("clamped circle drawn with arcs", f"{TW}, art. 17", _arc_circle),
        Case("simply supported circle", f"{TW}, art. 16", lambda: _circle("free", 0.02)),
        Case("clamped thick circle, t/L = 0.2", "Reissner 1945, Mindlin 1951", lambda: _circle("fixed", 1.2)),
        Case("skew plate, 60 degrees", "Morley 1963", lambda: _skew(60, 0.00256, 0.0425, 0.0333, 24, (0.01, 0.02))),
        Case("skew plate, 30 degrees", "Morley 1963", lambda: _skew(30, 0.000408, 0.0191, 0.0108, 36, (0.01, 0.02))),
        Case("interior panel on points", f"{TW}, art. 54, table 46", _interior_panel),
        Case("cantilever plate, nu = 0", "beam theory with shear", _cantilever),
    ]


def refinement() -> list[tuple[str, list[tuple[int, float, float]]]]:
    """Error of the centre deflection of thin squares on meshes of 8 to 64 elements a side, with the observed order."""
    a, h, nu = 6.0, 0.006, 0.3
    D = rigidity(h, nu)
    study = []
    for name, rotation, exact in (
        ("Simply supported square", "free", navier(a, a, nu)[0]),
        ("Clamped square", "fixed", 0.001265319087 * a**4),
    ):
        steps: list[tuple[int, float, float]] = []
        # Even numbers of elements, so that the centre is a node on every mesh.
        for count in (8, 16, 32, 64):
            s = solved(plate(rectangle(a, a), h, nu, a / count / TARGET, edges(rectangle(a, a), rotation)))
            assert s.outcome.meshed.mesh.elements == count**2
            error = float(s.at(a / 2, a / 2)[0] * 1e-3 * D / exact - 1)
            steps.append((count, error, float(np.log2(steps[-1][1] / error)) if steps else float("nan")))
        study.append((name, steps))
    return study
