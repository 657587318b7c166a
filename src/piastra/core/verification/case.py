"""What a verification case is, and how its values are read off a run."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from piastra.core.combine.envelope import envelope
from piastra.core.model import floor_from
from piastra.core.pipeline import Outcome, probed, solve_floor

Array = npt.NDArray[np.float64]

E = 30e6
"""Modulus of elasticity of all cases, kN/m2."""


@dataclass(frozen=True, slots=True)
class Quantity:
    """An expected and a computed value; ``limit`` is the error (relative) within which it holds."""

    name: str
    unit: str
    expected: float
    computed: float
    limit: float

    @property
    def error(self) -> float:
        return self.computed / self.expected - 1.0


@dataclass(frozen=True, slots=True)
class Checked:
    """A case that was run."""

    name: str
    source: str
    quantities: tuple[Quantity, ...]

    @property
    def holds(self) -> bool:
        return all(abs(q.error) <= q.limit for q in self.quantities)

    def line(self) -> str:
        """One line a quantity: expected, computed, error."""
        return "\n".join(
            f"{'ok  ' if abs(q.error) <= q.limit else 'FAIL'} {self.name:<52} {q.name:<28} expected {q.expected:>12.5g} "
            f"computed {q.computed:>12.5g} {q.unit:<6} error {100 * q.error:>7.3f} %"
            for q in self.quantities
        )


@dataclass(frozen=True, slots=True)
class Case:
    """A floor with known answers; ``make`` runs it and returns its quantities."""

    name: str
    source: str
    make: Callable[[], tuple[Quantity, ...]]

    def run(self) -> Checked:
        """Solve and compare."""
        return Checked(self.name, self.source, self.make())


def deflection(name: str, expected: float, computed: float) -> Quantity:
    """A deflection in mm: within 1 %."""
    return Quantity(name, "mm", expected, computed, 0.01)


def moment(name: str, expected: float, computed: float, unit: str = "kNm/m") -> Quantity:
    """A moment or force: within 2 %."""
    return Quantity(name, unit, expected, computed, 0.02)


def plate(
    outline: list[list[float]], h: float, nu: float, size: float, supports: list[dict[str, Any]], q: float = 1.0, **more: Any
) -> dict[str, Any]:
    """The document of a floor of one slab under one uniform load (kPa)."""
    return {
        "format": "piastra-floor", "version": 1,
        "concretes": [{"id": "C", "strength_MPa": 30, "E_MPa": E / 1e3, "poisson": nu}],
        "rebars": [{"id": "B", "yield_MPa": 500}],
        "slabs": [{"id": "S", "outline": outline, "thickness_m": h, "concrete": "C", "rebar": "B", "cover_top_mm": 0, "cover_bottom_mm": 0}],
        "supports": supports, "load_cases": [{"id": "Q", "nature": "live"}],
        "loads": [{"id": "q", "case": "Q", "kind": "area", "q_kPa": q}], "mesh": {"size_m": size}, **more,
    }  # fmt: skip


def edges(outline: list[list[float]], rotation: str, vertical: str = "fixed") -> list[dict[str, Any]]:
    """Line supports along every side of an outline."""
    return [
        {
            "id": f"L{i}",
            "kind": "line",
            "line": [outline[i], outline[(i + 1) % len(outline)]],
            "rotation": rotation,
            "vertical": vertical,
        }
        for i in range(len(outline))
    ]


@dataclass(frozen=True, slots=True)
class Solved:
    """A run, with its values at points."""

    outcome: Outcome

    def at(self, x: float, y: float, case: str = "Q") -> Array:
        """w (mm), m_x, m_y, m_xy (kNm/m), v_x, v_y (kN/m) at a point under a whole case."""
        values: Array = probed(self.outcome, np.array([[x, y]]))[0]
        return values[:, self.outcome.loads.of_case(case)].sum(axis=1)

    def envelope(self, x: float, y: float) -> tuple[Array, Array]:
        """Least and greatest of the same under the only combination."""
        return envelope(probed(self.outcome, np.array([[x, y]]))[0], self.outcome.combinations[0])

    def reaction(self, label: str, case: str = "Q") -> Array:
        """F, M_x, M_y of a support under a whole case."""
        k = self.outcome.stiffness.system.held.labels.index(label)
        values: Array = self.outcome.solution.reactions[k]
        return values[:, self.outcome.loads.of_case(case)].sum(axis=1)


def solved(document: dict[str, Any]) -> Solved:
    """Run a document through the whole computation."""
    return Solved(solve_floor(floor_from(document), remedies=False))
