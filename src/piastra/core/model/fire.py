"""The fire that a floor has to bear."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from piastra.core.model.shapes import Number, Record

Resistance = Literal["R30", "R60", "R90", "R120", "R180", "R240"]
"""By its minutes."""


class Fire(Record):
    """How long a floor has to bear a standard fire from below, and what tables of fire resistance need to know beside."""

    resistance: Resistance
    """Minutes of standard fire for which it carries, and keeps fire and heat from passing."""
    aggregate: Literal["siliceous", "calcareous", "lightweight"] = "siliceous"
    """Of all concretes. ACI 216.1: calcareous is called carbonate there; lightweight is read as semi-lightweight."""
    restrained: bool = False
    """ACI 216.1: whether what surrounds the floor keeps it from expanding."""
    sides_ratio: Annotated[Number, Field(ge=1, le=10)] | None = None
    """EN 1992-1-2, table 5.8: longer over shorter span of slabs that are held along all four edges; null: slabs on walls and
    beams count as spanning one way."""

    @property
    def minutes(self) -> int:
        """Of standard fire."""
        return int(self.resistance[1:])
