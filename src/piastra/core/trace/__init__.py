"""The record of how a number came about, with typed values."""

from __future__ import annotations

from dataclasses import dataclass, field

from piastra.core.model.quantities import KEPT, Quantity


@dataclass(frozen=True, slots=True)
class Value:
    """A number of a step: its symbol as formulas write it, its quantity and with that its unit, and what it is."""

    symbol: str
    value: float
    quantity: Quantity = "none"
    meaning: str = ""

    @property
    def coherent(self) -> float:
        """The number in kN and m."""
        return self.value * KEPT[self.quantity][1]


@dataclass(frozen=True, slots=True)
class Step:
    """One step of an explanation.

    ``formula`` is ``result = expression`` in the language of :mod:`piastra.core.trace.formula`, over the symbols of
    ``values``; it gives ``result``. A formula holds in any coherent units, unless it is ``empirical``: then in the units
    in which its values are kept. ``note`` is a sentence.
    """

    title: str
    clause: str = ""
    formula: str = ""
    values: tuple[Value, ...] = ()
    result: Value | None = None
    note: str = ""
    empirical: bool = False


@dataclass(frozen=True, slots=True)
class Loaded:
    """A panel that a pattern case loads in the governing arrangement; None: all of the case."""

    case: str
    panel: str | None


@dataclass(frozen=True, slots=True)
class Trace:
    """Why a utilisation is what it is: the combination with its factors, the loaded panels, and the steps."""

    combination: str
    factors: dict[str, float] = field(default_factory=dict)
    panels: tuple[Loaded, ...] = ()
    steps: tuple[Step, ...] = ()
