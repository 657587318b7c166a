"""Tendons in strips: balanced loads, secondary moments, friction and draw-in."""

from __future__ import annotations

from typing import Any

import numpy as np

from piastra.core.verification.case import Case, E, Quantity, Solved, moment, plate, solved
from piastra.core.verification.plates import rectangle

H, A_P, STRESS = 0.3, 150.0, 1000.0
P = A_P * STRESS / 1e3
"""Force of the one strand, kN."""


def _strip(count: int, L: float, profile: list[dict[str, Any]], **strand: float) -> Solved:
    """A strip a metre wide over equal spans with one tendon in its middle."""
    lines = [{"id": f"L{i}", "kind": "line", "line": [[i * L, 0.0], [i * L, 1.0]], "rotation": "free"} for i in range(count + 1)]
    document = plate(rectangle(count * L, 1.0), H, 0.0, 0.25, lines)
    document["strands"] = [{"id": "S", "area_mm2": A_P, "fpk_MPa": 1860.0, "fp01k_MPa": 1640.0, "E_MPa": 195000.0,
                            "friction_mu": 0.0, "wobble_rad_m": 0.0, "draw_in_mm": 0.0, **strand}]  # fmt: skip
    document["tendons"] = [
        {"id": "T", "strand": "S", "line": [[0.0, 0.5], [count * L, 0.5]], "jack_MPa": STRESS, "profile": profile}
    ]
    document["prestress"] = {"long_term_loss": {"MPa": 0.0}, "elastic": "none"}
    document["load_cases"].append({"id": "P", "nature": "prestress", "effect": "final"})
    return solved(document)


def _point(s: float, e: float, tangent: str = "free") -> dict[str, Any]:
    """A point of a profile ``e`` m below the middle plane."""
    return {"s_m": s, "z_mm": -1e3 * (H / 2 + e), "tangent": tangent}


def _balanced() -> tuple[Quantity, ...]:
    L, a = 10.0, 0.1
    s = _strip(1, L, [_point(0, 0), _point(L / 2, a, "level"), _point(L, 0)])
    w = s.at(L / 2, 0.5, "P")
    EI = E * H**3 / 12
    return (
        moment("mid-span: -P a", -P * a, w[1]),
        Quantity("mid-span: -5 P a L2/48 EI", "mm", -1e3 * 5 / 48 * P * a * L**2 / EI, w[0], 0.01),
    )


def _secondary() -> tuple[Quantity, ...]:
    L, low, high = 8.0, 0.09, 0.06
    points = [_point(0, 0), _point(L / 2, low, "level"), _point(L, -high), _point(1.5 * L, low, "level"), _point(2 * L, 0)]
    s = _strip(2, L, points)
    # The outer halves of the spans lift by 8 P low / L2, the inner ones by 8 P (low + high) / L2; over the support nothing turns.
    total = (7 * 8 * P * low + 9 * 8 * P * (low + high)) / 128
    return (moment("secondary reaction at the end", (total - P * high) / L, s.reaction("L0", "P")[0], "kN"),)


def _friction() -> tuple[Quantity, ...]:
    L, mu, k, slip = 40.0, 0.06, 0.05, 6.0
    s = _strip(1, L, [_point(0, 0), _point(L, 0)], friction_mu=mu, wobble_rad_m=k, draw_in_mm=slip)
    assert s.outcome.tendons is not None
    found, c = s.outcome.tendons.stressed[0], s.outcome.tendons.curves[0]
    lost = float(np.trapezoid(found.jacking - found.locked, c.s))
    EA = A_P * 195e3 / 1e3
    return (
        moment("far end: P exp(-mu k L)", P * float(np.exp(-mu * k * L)), float(found.jacking[-1]), "kN"),
        moment("area lost in locking: E A slip", EA * slip / 1e3, lost, "kNm"),
        moment("extension", 1e3 * P * (1 - float(np.exp(-mu * k * L))) / (mu * k) / EA, 1e3 * found.extension, "mm"),
    )


def tendon_cases() -> list[Case]:
    """All of them."""
    return [
        Case("Parabolic tendon in one span", "balanced load", _balanced),
        Case("Tendon over two spans", "balanced load on propped spans", _secondary),
        Case("Friction, draw-in and extension", "EN 1992-1-1, 5.10.5.2", _friction),
    ]
