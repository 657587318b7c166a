"""The language of displayed formulas, and its evaluation.

``v_Rd,c = max(C_Rd,c · k · (100 · rho_l · f_ck)^(1/3), v_min)``: symbols (a comma inside a subscript belongs to the symbol if
no space follows it), numbers, ``+ - · / ^``, brackets, and ``max min sqrt abs ln exp``. Source: the trade's common notation.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Mapping

_TOKEN = re.compile(r"\s*(?:(\d+(?:\.\d+)?(?:e-?\d+)?)|([A-Za-zΑ-ω][A-Za-z0-9Α-ω']*(?:_[A-Za-z0-9]+(?:,[A-Za-z0-9]+)*)?)|(.))")
_FUNCTIONS: dict[str, Callable[..., float]] = {
    "max": max,
    "min": min,
    "sqrt": math.sqrt,
    "abs": abs,
    "ln": math.log,
    "exp": math.exp,
}


class FormulaError(ValueError):
    """A formula that cannot be read, or that names what it was not given."""


def tokens(text: str) -> list[tuple[str, str]]:
    """Tokens of an expression as (kind, text): ``number``, ``name`` or ``sign``."""
    found = []
    for number, name, sign in _TOKEN.findall(text.strip()):
        found.append(("number", number) if number else ("name", name) if name else ("sign", sign))
    return found


def names(expression: str) -> set[str]:
    """Symbols that an expression needs."""
    return {t for kind, t in tokens(expression) if kind == "name" and t not in _FUNCTIONS}


def parts(formula: str) -> tuple[str, str]:
    """Result and expression of ``result = expression``. Raises :class:`FormulaError`."""
    left, equals, right = formula.partition(" = ")
    if not equals:
        raise FormulaError(f"{formula!r} does not say what it gives")
    return left.strip(), right.strip()


def evaluate(expression: str, values: Mapping[str, float]) -> float:
    """The value of an expression. Raises :class:`FormulaError`."""
    reader = _Reader(tokens(expression), values)
    value = reader.sum()
    if reader.left():
        raise FormulaError(f"{expression!r} goes on where it should end")
    return value


class _Reader:
    def __init__(self, found: list[tuple[str, str]], values: Mapping[str, float]) -> None:
        self.found, self.values, self.at = found, values, 0

    def left(self) -> bool:
        return self.at < len(self.found)

    def _takes(self, *signs: str) -> str:
        if self.left() and self.found[self.at][0] == "sign" and self.found[self.at][1] in signs:
            self.at += 1
            return self.found[self.at - 1][1]
        return ""

    def sum(self) -> float:
        value = self._product()
        while sign := self._takes("+", "-", "−"):
            other = self._product()
            value = value + other if sign == "+" else value - other
        return value

    def _product(self) -> float:
        value = self._signed()
        while sign := self._takes("·", "/"):
            other = self._signed()
            value = value * other if sign == "·" else value / other
        return value

    def _signed(self) -> float:
        return -self._signed() if self._takes("-", "−") else self._power()

    def _power(self) -> float:
        base = self._atom()
        return float(base ** self._signed()) if self._takes("^") else base

    def _atom(self) -> float:
        if self._takes("("):
            value = self.sum()
            self._close()
            return value
        if not self.left():
            raise FormulaError("the formula ends too early")
        kind, text = self.found[self.at]
        self.at += 1
        if kind == "number":
            return float(text)
        if kind == "name" and text in _FUNCTIONS:
            return self._call(text)
        if kind == "name" and text in self.values:
            return float(self.values[text])
        raise FormulaError(f"{text!r} is not given")

    def _call(self, name: str) -> float:
        if not self._takes("("):
            raise FormulaError(f"{name} needs brackets")
        given = [self.sum()]
        while self._takes(","):
            given.append(self.sum())
        self._close()
        return float(_FUNCTIONS[name](*given))

    def _close(self) -> None:
        if not self._takes(")"):
            raise FormulaError("a bracket is not closed")
