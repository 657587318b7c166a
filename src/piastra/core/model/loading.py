"""Load cases, loads and combinations. A load is positive downwards."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from piastra.core.model.shapes import Label, Line, Number, Outline, Point, Record

Nature = Literal[
    "self_weight", "dead", "live", "storage", "roof", "snow", "construction", "wind", "seismic", "prestress",
    "temperature",
]  # fmt: skip


class LoadCase(Record):
    """A case of loading; a pattern case may be on any choice of panels."""

    id: Label
    nature: Nature
    pattern: Annotated[bool, Field(strict=True)] = False


class AreaLoad(Record):
    """A uniform load on an area; a null outline covers every slab."""

    id: Label
    case: Label
    kind: Literal["area"]
    outline: Outline | None = None
    q_kPa: Number


class LineLoad(Record):
    """A load along a line that varies linearly between its two end values."""

    id: Label
    case: Label
    kind: Literal["line"]
    line: Line
    q_kN_m: Annotated[list[Number], Field(min_length=2, max_length=2)]


class PointLoad(Record):
    """A force downwards, and moments about the plan's x and y axes (right-hand rule, z up)."""

    id: Label
    case: Label
    kind: Literal["point"]
    at: Point
    F_kN: Number = 0.0
    Mx_kNm: Number = 0.0
    My_kNm: Number = 0.0


Load = Annotated[AreaLoad | LineLoad | PointLoad, Field(discriminator="kind")]


class Combination(Record):
    """Load cases with their factors, for one limit state."""

    id: Label
    limit_state: Literal["ultimate", "characteristic", "frequent", "quasi_permanent"]
    factors: dict[Label, Number]
