"""Strips, beddings, composite sections and frames."""

from __future__ import annotations

from typing import Any

import numpy as np

from piastra.core.verification.case import Case, E, Quantity, Solved, deflection, moment, plate, solved
from piastra.core.verification.plates import rectangle, rigidity


def spans(count: int, L: float = 6.0, pattern: bool = True) -> dict[str, Any]:
    """A one-way strip, a metre wide, over equal spans on line supports, with a panel a span."""
    outline = rectangle(count * L, 1.0)
    lines = [{"id": f"L{i}", "kind": "line", "line": [[i * L, 0.0], [i * L, 1.0]]} for i in range(count + 1)]
    panels = [
        {"id": f"P{i}", "outline": [[i * L, 0.0], [(i + 1) * L, 0.0], [(i + 1) * L, 1.0], [i * L, 1.0]]} for i in range(count)
    ]
    document = plate(outline, 0.2, 0.0, L / 12, lines, panels=panels)
    document["load_cases"][0]["pattern"] = pattern
    document["combinations"] = [{"id": "U", "limit_state": "ultimate", "factors": {"Q": 1.0}}]
    return document


def _two_spans() -> tuple[Quantity, ...]:
    L = 6.0
    s = solved(spans(2))
    return (
        moment("support, both loaded: -q L2/8", -(L**2) / 8, s.envelope(L, 0.5)[0][1]),
        moment("mid-span, one loaded: 3 q L2/32", 3 * L**2 / 32, s.envelope(L / 2, 0.5)[1][1]),
        moment("mid-span, other loaded: -q L2/32", -(L**2) / 32, s.envelope(L / 2, 0.5)[0][1]),
    )


def _three_spans() -> tuple[Quantity, ...]:
    L = 6.0
    s = solved(spans(3))
    return (
        moment("support, two adjacent loaded: -7 q L2/60", -7 * L**2 / 60, s.envelope(L, 0.5)[0][1]),
        moment("middle span, alone loaded: 3 q L2/40", 3 * L**2 / 40, s.envelope(1.5 * L, 0.5)[1][1]),
        moment("end span's middle, outer two loaded: q L2/10", L**2 / 10, s.envelope(0.5 * L, 0.5)[1][1]),
    )


def _bedding_uniform() -> tuple[Quantity, ...]:
    outline = rectangle(6.0, 4.0)
    bed = [{"id": "A", "kind": "area", "outline": outline, "modulus_kN_m3": 20000, "compression_only": True}]
    s = solved(plate(outline, 0.2, 0.2, 0.5, bed, q=10.0))
    return deflection("w = q / k", 0.5, s.at(2.2, 1.3)[0]), moment("resultant", 240.0, s.reaction("A")[0], "kN")


def _bedding_point() -> tuple[Quantity, ...]:
    h, k, P = 0.2, 40000.0, 50.0
    D = rigidity(h, 0.2)
    length = (D / k) ** 0.25
    side = 12 * length
    outline = rectangle(side, side)
    bed = [{"id": "A", "kind": "area", "outline": outline, "modulus_kN_m3": k}]
    document = plate(outline, h, 0.2, length / 5, bed)
    document["loads"] = [{"id": "p", "case": "Q", "kind": "point", "at": [side / 2, side / 2], "F_kN": P}]
    w = [1e3 * P / (8 * np.sqrt(k * D))]
    # Off the load, so that the transverse shear under it (which a thin plate does not have) plays no part.
    s = solved(document)
    away = s.at(side / 2 + length, side / 2)[0]
    w.append(w[0] * _kei(1.0))
    return (deflection("w at one radius of stiffness", w[1], away),)


def _kei(x: float) -> float:
    """Deflection of an endless plate on a Winkler bedding at x radii of stiffness, over that under the load."""
    from scipy.special import kei

    return float(-4 / np.pi * kei(x))


def _tee() -> tuple[Quantity, ...]:
    """A beam whose web hangs below its flange, simply supported."""
    L, b, web, hf, hw = 10.0, 0.8, 0.2, 0.15, 0.5
    outline = rectangle(L, b)
    lines = [{"id": f"L{i}", "kind": "line", "line": [[x, 0.0], [x, b]]} for i, x in enumerate((0.0, L))]
    band = {
        "id": "W",
        "kind": "band",
        "outline": [[0.0, (b - web) / 2], [L, (b - web) / 2], [L, (b + web) / 2], [0.0, (b + web) / 2]],
        "thickness_m": hw,
    }
    s = solved(plate(outline, hf, 0.0, 0.25, lines, thickenings=[band]))
    return _composite(s, L, b, web, hf, hw)


def _tee_beam() -> tuple[Quantity, ...]:
    """The same tee with its web as a downstand beam, at 30 degrees to the axes."""
    L, b, web, hf, hw = 10.0, 0.8, 0.2, 0.15, 0.5
    outline = _turn(rectangle(L, b), 30.0)
    lines = [{"id": f"L{i}", "kind": "line", "line": _turn([[x, 0.0], [x, b]], 30.0)} for i, x in enumerate((0.0, L))]
    beam = {"id": "B", "line": _turn([[0.0, b / 2], [L, b / 2]], 30.0), "width_m": web, "depth_m": hw, "concrete": "C"}
    s = solved(plate(outline, hf, 0.0, 0.25, lines, beams=[beam]))
    (x, y) = _turn([[L / 2, b / 2]], 30.0)[0]
    return _composite(s, L, b, web, hf, hw, (x, y))


def _composite(
    s: Solved, L: float, b: float, web: float, hf: float, hw: float, middle: tuple[float, float] | None = None
) -> tuple[Quantity, ...]:
    """Deflection and strip moment of a tee by the composite section, shear of the web included."""
    x, y = middle or (L / 2, b / 2)
    A = np.array([(b - web) * hf, web * hw])
    depth = np.array([hf / 2, hw / 2])
    I = np.array([(b - web) * hf**3, web * hw**3]) / 12
    centroid = (A * depth).sum() / A.sum()
    total = float((I + A * (depth - centroid) ** 2).sum())
    w = 5 * b * L**4 / (384 * E * total) + b * L**2 / (8 * 5 / 6 * E / 2 * web * hw)
    cuts = s.outcome.strips.cuts
    mid = int(np.abs(cuts.s - L / 2).argmin())
    return (
        deflection("w mid-span, composite section", 1e3 * w, s.at(x, y)[0]),
        moment("strip moment q b L2/8", b * L**2 / 8, float(cuts.forces[mid, 0].sum()), "kNm"),
    )


def _turn(points: list[list[float]], degrees: float) -> list[list[float]]:
    c, s = np.cos(np.radians(degrees)), np.sin(np.radians(degrees))
    return [[float(c * x - s * y), float(s * x + c * y)] for x, y in points]


def _factors(degrees: float = 20.0) -> tuple[Quantity, ...]:
    """A square held on two sides, turned: spanning one way, and with half its stiffness along the span."""
    a, h = 6.0, 0.2
    outline = _turn(rectangle(a, a), degrees)
    sides = [{"id": f"L{i}", "kind": "line", "line": [outline[i], outline[(i + 1) % 4]]} for i in (1, 3)]
    area = {"id": "W", "outline": outline, "angle_deg": degrees}
    (x, y) = _turn([[a / 2, a / 2]], degrees)[0]
    one_way = solved(plate(outline, h, 0.0, a / 12, sides, one_way_areas=[area])).at(x, y)[0]
    half = solved(plate(outline, h, 0.0, a / 12, sides, stiffness_areas=[{**area, "bending_along": 0.5}])).at(x, y)[0]
    bent, sheared = 5 * a**4 / (384 * E * h**3 / 12), a**2 / (8 * 5 / 6 * E / 2 * h)
    return (
        deflection("w centre, one way", 1e3 * (bent + sheared), one_way),
        deflection("w centre, half stiffness along", 1e3 * (2 * bent + sheared), half),
    )


def _frame(degrees: float = 0.0) -> tuple[Quantity, ...]:
    """A strip fixed to a rectangular column at one end: the joint's moment by slope deflection."""
    L, b, h, H, d = 6.0, 1.0, 0.2, 3.0, 0.05
    outline = _turn(rectangle(L, b), degrees)
    ends = [
        {"id": "far", "kind": "line", "line": _turn([[L, 0.0], [L, b]], degrees)},
        {"id": "near", "kind": "line", "line": _turn([[0.0, 0.0], [0.0, b]], degrees)},
    ]
    document = plate(outline, h, 0.0, L / 12, ends)
    stiff = 1e3
    document["concretes"].append({"id": "K", "strength_MPa": 30, "E_MPa": stiff * E / 1e3})
    document["columns"] = [
        {"id": "C", "at": _turn([[0.0, b / 2]], degrees)[0], "shape": {"kind": "rectangle", "b_m": d, "d_m": b}, "concrete": "K",
         "angle_deg": degrees, "below": {"height_m": H, "far_end": "fixed"}, "above": {"height_m": H, "far_end": "pinned"}}
    ]  # fmt: skip
    s = solved(document)
    column = (4 + 3) * stiff * E * b * d**3 / 12 / H
    EI, clear = E * b * h**3 / 12, L - d / 2
    # The far end's force from its own deflection being nil; the footprint's half is a rigid arm.
    R = (b * clear**4 / (8 * EI) + b * L**3 / (2 * column)) / (clear**3 / (3 * EI) + L**2 / column)
    expected = b * L**2 / 2 - R * L
    _, mx, my = s.reaction("C")
    about, aside = _turn([[float(mx), float(my)]], -degrees)[0][::-1]
    return (
        moment("moment of the joint", expected, abs(about), "kNm"),
        Quantity("moment about the other axis", "kNm", expected, expected + abs(aside), 0.02),
    )


def structure_cases() -> list[Case]:
    """One-way strips under every arrangement, beddings, a tee, a frame."""
    return [
        Case("two-span strip, all arrangements, nu = 0", "beam theory", _two_spans),
        Case("three-span strip, all arrangements, nu = 0", "beam theory", _three_spans),
        Case("plate on a bedding, uniform load", "statics", _bedding_uniform),
        Case("plate on a bedding, point load", "Westergaard 1926, Hertz 1884", _bedding_point),
        Case("tee by a downstand, simply supported", "composite section theory", _tee),
        Case("tee by a downstand beam, turned by 30 degrees", "composite section theory", _tee_beam),
        Case("one-way and stiffness areas, turned by 20 degrees", "beam theory with shear", _factors),
        Case("column and strip", "slope deflection", _frame),
        Case("column and strip, turned by 30 degrees", "slope deflection", lambda: _frame(30.0)),
    ]
