"""What the core knows of a standard's reduction of live load that comes down from several storeys."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol

from piastra.core.trace import Step


@dataclass(frozen=True, slots=True)
class Carried:
    """Live load of one category on a column or wall: from so many ``storeys``, over a tributary ``area`` m2 of them all, ``mean`` kN/m2 of it;
    ``wall``: on a wall."""

    category: str | None
    storeys: int
    area: float
    mean: float
    wall: bool


@dataclass(frozen=True, slots=True)
class Reduction:
    """The ``factor`` by which the load may be multiplied, and the ``steps`` to it."""

    factor: float
    steps: tuple[Step, ...]


class DescentRules(Protocol):
    """Reduction of live load; ``accompanying``: also of one that only accompanies another action and has a factor for that."""

    @property
    def accompanying(self) -> bool: ...

    def reduction(self, carried: Carried) -> Reduction:
        """Of one live case on one column or wall."""
        ...
