"""Load cases, loads and combinations. A load is positive downwards."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from piastra.core.model.shapes import Label, Line, NotNegative, Number, Outline, Patch, Point, Positive, Record
from piastra.core.model.standard_names import StandardName

Nature = Literal[
    "self_weight", "dead", "live", "storage", "roof", "snow", "construction", "wind", "seismic", "prestress",
    "temperature", "accidental",
]  # fmt: skip
Category = Literal["A", "B", "C", "D", "E", "F", "G", "H", "other", "assembly", "garage", "heavy"]
LimitState = Literal[
    "ultimate", "accidental", "fire", "construction", "characteristic", "frequent", "quasi_permanent", "service", "sustained",
    "transfer",
]  # fmt: skip
STRENGTH = ("ultimate", "accidental", "fire", "construction")
"""Limit states under which strength is checked: in lasting and transient situations of the finished floor, in accidents, in a
fire, and while the floor is built."""
LASTING = ("quasi_permanent", "sustained")
"""Limit states under which long-term deflection is checked."""


class LoadCase(Record):
    """A case of loading; a pattern case may be on any choice of panels."""

    id: Label
    nature: Nature
    pattern: Annotated[bool, Field(strict=True)] = False
    category: Category | None = None
    """Use of the loaded area. EN 1991-1-1 table 6.1: A to H. ACI 318-19, 5.3.3: other, assembly, garage, or heavy
    (more than 4.8 kPa)."""
    reversible: Annotated[bool, Field(strict=True)] = False
    """Whether the action also comes with the opposite sign (wind, seismic)."""
    direction: Literal["x", "y"] | None = None
    """Direction of a lateral action; the generators combine directions by it."""
    effect: Literal["transfer", "final", "secondary"] | None = None
    """Of a prestress case that the floor's tendons make: their force at transfer or in the end, or the forces that they cause in
    statically indeterminate floors."""
    group: Label | None = None
    """Cases of one group exclude each other: at most one of them acts at a time."""

    @model_validator(mode="after")
    def _effect_of_tendons(self) -> LoadCase:
        if self.effect is not None and self.nature != "prestress":
            raise ValueError(
                f"has the effect {self.effect}, which only a case of nature prestress can have; take one of them back"
            )
        if self.effect is not None and self.pattern:
            raise ValueError("is prestress by tendons, which is always there; it can be no pattern case")
        return self


class ThreePoints(Record):
    """A load that varies over a plane given by its values at three points."""

    kind: Literal["three_points"]
    points: Annotated[list[Point], Field(min_length=3, max_length=3)]
    q_kPa: Annotated[list[Number], Field(min_length=3, max_length=3)]

    @model_validator(mode="after")
    def _points_apart(self) -> ThreePoints:
        (ax, ay), (bx, by), (cx, cy) = self.points
        twice = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
        if abs(twice) < 1e-3:
            raise ValueError("has its three points on one line, which gives no plane; move one of them off the line")
        return self


class Directed(Record):
    """A load that varies linearly from one point to another, and not at all across that direction."""

    kind: Literal["direction"]
    line: Line
    q_kPa: Annotated[list[Number], Field(min_length=2, max_length=2)]


Varying = Annotated[ThreePoints | Directed, Field(discriminator="kind")]


class AreaLoad(Record):
    """A load on an area; a null outline covers every slab.

    Its value is one of: ``q_kPa``, a plane, the weight of a build-up, the value of an occupancy.
    """

    id: Label
    case: Label
    kind: Literal["area"]
    outline: Outline | None = None
    slabs: Annotated[list[Label], Field(min_length=1)] | None = None
    """The slabs that it covers, as far as no other slab lies over them; with an outline, within that."""
    q_kPa: Number | None = None
    varies: Varying | None = None
    build_up: Label | None = None
    occupancy: Label | None = None

    @model_validator(mode="after")
    def _one_value(self) -> AreaLoad:
        given = [k for k in ("q_kPa", "varies", "build_up", "occupancy") if getattr(self, k) is not None]
        if len(given) != 1:
            told = " and ".join(given) if given else "none of them"
            raise ValueError(f"needs one of q_kPa, varies, build_up and occupancy, but has {told}")
        return self


class LineLoad(Record):
    """A load along a line that varies linearly between its two end values, or a partition along it."""

    id: Label
    case: Label
    kind: Literal["line"]
    line: Line
    q_kN_m: Annotated[list[Number], Field(min_length=2, max_length=2)] | None = None
    partition: Label | None = None

    @model_validator(mode="after")
    def _one_value(self) -> LineLoad:
        if (self.q_kN_m is None) == (self.partition is None):
            raise ValueError("needs one of q_kN_m and partition, not both")
        return self


class PointLoad(Record):
    """A force downwards, and moments about the plan's x and y axes (right-hand rule, z up)."""

    id: Label
    case: Label
    kind: Literal["point"]
    at: Point
    F_kN: Number = 0.0
    Mx_kNm: Number = 0.0
    My_kNm: Number = 0.0
    patch: Patch | None = None
    """Null: at the point itself."""


class JointLoad(Record):
    """A force downwards and moments (as a point load's) on the joint of a column or wall, from a frame analysis say."""

    id: Label
    case: Label
    kind: Literal["joint"]
    support: Label
    F_kN: Number = 0.0
    Mx_kNm: Number = 0.0
    My_kNm: Number = 0.0


Load = Annotated[AreaLoad | LineLoad | PointLoad | JointLoad, Field(discriminator="kind")]


class LoadMaterial(Record):
    """What layers are made of."""

    id: Label
    unit_weight_kN_m3: Positive


class Layer(Record):
    """One layer of a build-up."""

    material: Label
    thickness_mm: Positive


class BuildUp(Record):
    """Layers upon or below a slab, or of a partition."""

    id: Label
    layers: list[Layer] = []
    extra_kPa: NotNegative = 0.0
    """What is not layers: services, fixings."""


class Partition(Record):
    """A light wall: a build-up of a height."""

    id: Label
    build_up: Label
    height_m: Positive


class Occupancy(Record):
    """A use with its live load, movable partitions included in ``partitions_kPa``."""

    id: Label
    category: Category | None = None
    q_kPa: NotNegative
    partitions_kPa: NotNegative = 0.0
    source: Annotated[str, Field(max_length=120)] = ""


class SetRow(Record):
    """A row of a combination set: factors by what cases are (nature, or nature and category), not by their labels."""

    id: Label
    limit_state: LimitState
    factors: dict[Label, Number]


class CombinationSet(Record):
    """Combinations kept for other floors and projects."""

    id: Label
    standard: StandardName
    rows: Annotated[list[SetRow], Field(min_length=1)]


class Combination(Record):
    """Load cases with their factors, for one limit state."""

    id: Label
    limit_state: LimitState
    factors: dict[Label, Number]
    rule: Annotated[str, Field(max_length=200)] | None = None
    """The rule that made a generated row; null: a row of the user's own."""
    edited: Annotated[bool, Field(strict=True)] = False
    """A generated row that was changed by hand; it is kept when the others are generated anew."""
