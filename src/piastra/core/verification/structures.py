"""Strips, beddings, composite sections and frames."""

from __future__ import annotations

from typing import Any

import numpy as np

from piastra.core.verification.case import Case, E, Quantity, deflection, moment, plate, solved
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
    A = np.array([(b - web) * hf, web * hw])
    depth = np.array([hf / 2, hw / 2])
    I = np.array([(b - web) * hf**3, web * hw**3]) / 12
    centroid = (A * depth).sum() / A.sum()
    total = float((I + A * (depth - centroid) ** 2).sum())
    w = 5 * b * L**4 / (384 * E * total) + b * L**2 / (8 * 5 / 6 * E / 2 * web * hw)
    cuts = s.outcome.strips.cuts
    mid = int(np.abs(cuts.s - L / 2).argmin())
    return (
        deflection("w mid-span, composite section", 1e3 * w, s.at(L / 2, b / 2)[0]),
        moment("strip moment q b L2/8", b * L**2 / 8, float(cuts.forces[mid, 0].sum()), "kNm"),
    )


def _frame() -> tuple[Quantity, ...]:
    """A strip fixed to a column at one end: the joint's moment by slope deflection."""
    L, b, h, H, d = 6.0, 1.0, 0.2, 3.0, 0.05
    outline = rectangle(L, b)
    ends = [
        {"id": "far", "kind": "line", "line": [[L, 0.0], [L, b]]},
        {"id": "near", "kind": "line", "line": [[0.0, 0.0], [0.0, b]]},
    ]
    document = plate(outline, h, 0.0, L / 12, ends)
    stiff = 1e3
    document["concretes"].append({"id": "K", "strength_MPa": 30, "E_MPa": stiff * E / 1e3})
    document["columns"] = [
        {"id": "C", "at": [0.0, b / 2], "shape": {"kind": "rectangle", "b_m": d, "d_m": b}, "concrete": "K",
         "below": {"height_m": H, "far_end": "fixed"}, "above": {"height_m": H, "far_end": "pinned"}}
    ]  # fmt: skip
    s = solved(document)
    column = (4 + 3) * stiff * E * b * d**3 / 12 / H
    EI, clear = E * b * h**3 / 12, L - d / 2
    # The far end's force from its own deflection being nil; the footprint's half is a rigid arm.
    R = (b * clear**4 / (8 * EI) + b * L**3 / (2 * column)) / (clear**3 / (3 * EI) + L**2 / column)
    expected = b * L**2 / 2 - R * L
    return (moment("moment of the joint", expected, abs(float(s.reaction("C")[2])), "kNm"),)


def structure_cases() -> list[Case]:
    """One-way strips under every arrangement, beddings, a tee, a frame."""
    return [
        Case("two-span strip, all arrangements, nu = 0", "beam theory", _two_spans),
        Case("three-span strip, all arrangements, nu = 0", "beam theory", _three_spans),
        Case("plate on a bedding, uniform load", "statics", _bedding_uniform),
        Case("plate on a bedding, point load", "Westergaard 1926, Hertz 1884", _bedding_point),
        Case("tee by a downstand, simply supported", "composite section theory", _tee),
        Case("column and strip", "slope deflection", _frame),
    ]
