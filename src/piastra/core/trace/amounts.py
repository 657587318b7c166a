"""Amounts within sentences, which each reader sees in units of his own."""

from __future__ import annotations

import re
from collections.abc import Callable

from piastra.core.model.quantities import KEPT, Quantity

_MARKED = re.compile(r"⟨([^|⟩]+)\|([a-z_]+)⟩")
_DIGITS: dict[Quantity, int] = {"length": 2, "size": 0, "cover": 0, "bar": 0, "steel": 0, "stress": 0, "pressure": 1}


def amount(value: float, quantity: Quantity) -> str:
    """An amount as a part of a sentence: its value in the unit in which the quantity is kept, and the quantity."""
    return f"⟨{value:.6g}|{quantity}⟩"


def spot(x: float, y: float) -> str:
    """A place (m) on the plan as a part of a sentence."""
    return f"({amount(x, 'length')}, {amount(y, 'length')})"


def plain(sentence: str) -> str:
    """The sentence with its amounts in SI units."""
    # Most have none, and there are thousands.
    return replaced(sentence, lambda value, quantity: None) if "⟨" in sentence else sentence


def replaced(sentence: str, write: Callable[[float, Quantity], str | None]) -> str:
    """The sentence with its amounts as ``write`` has them; in SI units where that is None."""

    def written(found: re.Match[str]) -> str:
        quantity: Quantity = found[2]  # type: ignore[assignment]
        value, unit = float(found[1]), KEPT[quantity][0]
        if (told := write(value, quantity)) is not None:
            return told
        if quantity == "size":
            value, unit = 1e3 * value, "mm"
        return f"{value:.{_DIGITS.get(quantity, 2)}f} {unit}".strip()

    return _MARKED.sub(written, sentence)
