"""The record of how a number came about."""

from __future__ import annotations

from dataclasses import dataclass, field


@dataclass(frozen=True, slots=True)
class Value:
    """A quantity that entered a step: its symbol, value and unit, and what it is."""

    symbol: str
    value: float | str
    unit: str = ""
    meaning: str = ""


@dataclass(frozen=True, slots=True)
class Step:
    """One step of an explanation: the clause, the formula, the formula with its numbers, and the result."""

    title: str
    clause: str = ""
    formula: str = ""
    numbers: str = ""
    values: tuple[Value, ...] = ()


@dataclass(frozen=True, slots=True)
class Trace:
    """Why a utilisation is what it is: the place, the combination, the loaded panels, and the steps."""

    check: str
    where: str
    utilisation: float
    combination: str
    factors: dict[str, float] = field(default_factory=dict)
    panels: tuple[str, ...] = ()
    at: tuple[float, float] | None = None
    steps: tuple[Step, ...] = ()
