"""Figures of a report in the project's units: each is kept as it was found, and written when it is known in which unit."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from piastra.core.model.quantities import KEPT, Quantity
from piastra.core.trace.amounts import replaced

System = Literal["SI", "US"]
MINUS = "−"
FOOT, INCH, POUND, AVOIRDUPOIS = 0.3048, 0.0254, 4.4482216152605e-3, 0.45359237
"""m, m, kN and kg."""


@dataclass(frozen=True, slots=True)
class Unit:
    """What a figure in SI units becomes: its ``name``, by what it is multiplied, and how many ``digits`` follow the point."""

    name: str
    factor: float
    digits: int


US: dict[str, Unit] = {
    "m": Unit("ft", 1 / FOOT, 2), "mm": Unit("in", 1e-3 / INCH, 2), "m²": Unit("ft²", 1 / FOOT**2, 1), "m³": Unit("yd³", 1 / (3 * FOOT) ** 3, 1),
    "kN": Unit("kip", 1e-3 / POUND, 2), "kNm": Unit("kip-ft", 1e-3 / POUND / FOOT, 2), "kN/m": Unit("kip/ft", 1e-3 * FOOT / POUND, 3),
    "kNm/m": Unit("kip-ft/ft", 1e-3 / POUND, 3), "MPa": Unit("psi", 1e3 * INCH**2 / POUND, 0), "kPa": Unit("psi", INCH**2 / POUND, 1),
    "kN/m³": Unit("pcf", FOOT**3 / POUND, 1), "mm²": Unit("in²", 1e-6 / INCH**2, 3), "mm²/m": Unit("in²/ft", 1e-6 * FOOT / INCH**2, 3),
    "1/m": Unit("1/ft", FOOT, 3), "kg": Unit("lb", 1 / AVOIRDUPOIS, 0), "kg/m²": Unit("lb/ft²", FOOT**2 / AVOIRDUPOIS, 2),
}  # fmt: skip
"""By the unit of a figure; pressures on a plane are stresses here."""
US_QUANTITIES: dict[Quantity, Unit] = {
    "pressure": Unit("psf", FOOT**2 / POUND, 1), "lineload": Unit("plf", FOOT / POUND, 1), "bedding": Unit("pci", INCH**3 / POUND, 1),
    "size": Unit("in", 1 / INCH, 2), "bar": Unit("in", 1e-3 / INCH, 3), "deflection": Unit("in", 1e-3 / INCH, 3),
}  # fmt: skip
"""Quantities that have a unit of their own."""


class Shown(str):
    """Figures as they are written in SI units, with what they are."""

    pattern: str
    values: tuple[float, ...]

    def __new__(cls, pattern: str, values: tuple[float, ...], digits: int) -> Shown:
        """``pattern`` with a place ``{}`` for each of the ``values``."""
        made = super().__new__(cls, pattern.format(*(formatted(v, digits) for v in values)))
        made.pattern, made.values = pattern, values
        return made

    def within(self, unit: Unit) -> Shown:
        """In another unit."""
        return Shown(self.pattern, tuple(v * unit.factor for v in self.values), unit.digits)


def formatted(value: float, digits: int) -> str:
    """A figure with a true minus, and none before nought."""
    text = f"{value:,.{digits}f}"
    return text.replace("-", MINUS) if float(text.replace(",", "")) else text.lstrip("-")


def number(value: float | None, digits: int = 2) -> str:
    """A figure; a dash where there is none."""
    return "–" if value is None else Shown("{}", (float(value),), digits)


def with_unit(value: float, unit: str, digits: int, system: System) -> str:
    """A figure in a sentence, given in a ``unit`` of SI."""
    own = US.get(unit) if system == "US" else None
    return f"{formatted(value * own.factor, own.digits)} {own.name}" if own else f"{formatted(value, digits)} {unit}"


def column(head: str, cells: list[str], system: System) -> tuple[str, list[str]]:
    """A column of a table, whose ``head`` ends with its unit."""
    words, _, unit = head.rpartition(" ")
    own = US.get(unit) if system == "US" else None
    if own is None:
        return head, cells
    return f"{words} {own.name}", [c.within(own) if isinstance(c, Shown) else c for c in cells]


def of_quantity(quantity: Quantity, system: System) -> Unit | None:
    """What a quantity of a trace or a sentence is shown in; None: as it is kept."""
    if quantity == "size" and system == "SI":
        return Unit("mm", 1e3, 0)
    return US_QUANTITIES.get(quantity, US.get(KEPT[quantity][0])) if system == "US" else None


def spoken(marked: str, system: System) -> str:
    """A sentence whose amounts are marked, in the system's units."""

    def written(value: float, quantity: Quantity) -> str | None:
        unit = of_quantity(quantity, "US") if system == "US" else None
        return f"{formatted(value * unit.factor, unit.digits)} {unit.name}" if unit else None

    return replaced(marked, written)
