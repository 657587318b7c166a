"""Strips over their life: creep under a lasting load, and sections that crack under it."""

from __future__ import annotations

from typing import Any

import numpy as np

from piastra.core.verification.case import Case, E, Quantity, Solved, plate, solved
from piastra.core.verification.plates import rectangle

L, H, START, END = 6.0, 0.2, 28.0, 10950.0


def _strip(q: float, tension_MPa: float, creep: float, mats: list[dict[str, Any]]) -> Solved:
    """A strip a metre wide on two lines under ``q`` kPa from the day ``START`` on, whose concrete hardly shrinks."""
    lines = [{"id": f"L{i}", "kind": "line", "line": [[x, 0.0], [x, 1.0]], "rotation": "free"} for i, x in enumerate((0.0, L))]
    document = plate(rectangle(L, 1.0), H, 0.0, 0.125, lines, q)
    document["concretes"][0].update(
        tension_MPa=tension_MPa,
        creep_at={"value": creep, "days": END, "loaded_days": START},
        shrinkage_at={"microstrain": 1e-6, "days": END},
    )
    document["load_cases"][0]["nature"] = "dead"
    document["combinations"] = [{"id": "B", "limit_state": "quasi_permanent", "factors": {"Q": 1.0}}]
    document["mats"] = mats
    none = {"modulus": 0.0, "tension": 0.0, "creep": 0.0, "shrinkage": 0.0}
    stage = {"id": "in use", "start_days": START, "combination": "B"}
    document["history"] = {"stages": [stage], "end_days": END, "tension_stiffening": False, "scatter": none}
    return solved(document)


def _sag(s: Solved, end: int) -> float:
    """Deflection (mm) at mid-span after the load (0) or at the end (-1)."""
    life, xy = s.outcome.life, s.outcome.meshed.mesh.xy
    assert life is not None
    middle = int(np.hypot(*(xy - [L / 2, 0.5]).T).argmin())
    return 1e3 * float(life.stages[0].w[end][middle])


def _creeps() -> tuple[Quantity, ...]:
    q, phi = 5.0, 2.5
    s = _strip(q, 99.0, phi, [])
    elastic = 1e3 * 5 / 384 * q * L**4 / (E * H**3 / 12)
    return (
        Quantity("w at the load: 5 q L4/384 EI", "mm", elastic, _sag(s, 0), 0.01),
        Quantity("w after thirty years: (1 + phi)", "mm", (1 + phi) * elastic, _sag(s, -1), 0.01),
    )


def _cracks() -> tuple[Quantity, ...]:
    q, f_ct, area, d = 8.0, 3.0, np.pi * 0.012**2 / 4 / 0.1, H - 0.006
    mat = {"id": "b", "face": "bottom", "direction": "x", "bar_mm": 12, "spacing_mm": 100}
    top = {"id": "t", "face": "top", "direction": "x", "bar_mm": 6, "spacing_mm": 1000}
    s = _strip(q, f_ct, 0.001, [mat, top])
    n = 200e6 / E
    # Whole section with n - fold bars, and cracked section; the light top bars next to the compressed face are counted too.
    a2, d2 = np.pi * 0.006**2 / 4, 0.003
    x1 = (H**2 / 2 + n * (area * d + a2 * d2)) / (H + n * (area + a2))
    I1 = H**3 / 12 + H * (x1 - H / 2) ** 2 + n * (area * (d - x1) ** 2 + a2 * (x1 - d2) ** 2)
    B = n * (area + a2)
    x2 = -B + np.sqrt(B**2 + 2 * n * (area * d + a2 * d2))
    I2 = x2**3 / 3 + n * (area * (d - x2) ** 2 + a2 * (x2 - d2) ** 2)
    cracking = 1e3 * f_ct * I1 / (H - x1)
    x = np.linspace(0, L / 2, 20001)
    bending = q * x * (L - x) / 2
    bend = bending / (E * np.where(bending < cracking, I1, I2))
    w = float(np.trapezoid(bend * x, x))
    return (
        Quantity("greatest moment over the cracking moment", "", q * L**2 / 8 / cracking, _over(s), 0.02),
        Quantity("w at the load, cracked where M > M_cr", "mm", 1e3 * w, _sag(s, 0), 0.02),
    )


def _over(s: Solved) -> float:
    life = s.outcome.life
    assert life is not None
    return float(life.stages[0].state.worst.max())


def life_cases() -> list[Case]:
    """Strips with closed forms."""
    return [
        Case("strip that creeps for thirty years", "linear creep at the laboratory's coefficient", _creeps),
        Case("strip that cracks", "curvatures of whole and cracked sections, integrated twice", _cracks),
    ]
