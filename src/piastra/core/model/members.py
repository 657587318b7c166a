"""What the floor is made of: slabs, openings, thickenings, and the columns and walls that carry it."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from piastra.core.model.shapes import Label, Line, NotNegative, Number, Outline, Point, Positive, Record

Thickness = Annotated[Number, Field(gt=0, le=5)]


class Slab(Record):
    """A slab area of one thickness."""

    id: Label
    outline: Outline
    thickness_m: Thickness
    top_offset_m: Number = 0.0
    """Level of the slab's top above the floor's datum; negative for a set-down."""
    concrete: Label
    rebar: Label
    bar_angle_deg: Number = 0.0
    """Direction of the bars called x, anticlockwise from the plan's x axis."""
    cover_top_mm: NotNegative = 25.0
    cover_bottom_mm: NotNegative = 25.0
    priority: Annotated[int, Field(strict=True)] = 0
    """Where slabs overlap, the higher priority holds."""

    @model_validator(mode="after")
    def _covers_fit(self) -> Slab:
        if self.cover_top_mm + self.cover_bottom_mm >= 1000 * self.thickness_m:
            raise ValueError(
                f"has covers of {self.cover_top_mm:g} and {self.cover_bottom_mm:g} mm, "
                f"which leave no room for bars in {1000 * self.thickness_m:g} mm; reduce the covers"
            )
        return self


class Opening(Record):
    """A hole through the floor."""

    id: Label
    outline: Outline


class Thickening(Record):
    """A region whose thickness or level differs from the slab that it lies in."""

    id: Label
    kind: Literal["drop_panel", "recess", "band"] = "drop_panel"
    outline: Outline
    thickness_m: Thickness
    top_offset_m: Number = 0.0
    priority: Annotated[int, Field(strict=True)] = 0
    """Where thickenings overlap, the higher priority holds."""


class Rectangle(Record):
    """A rectangular section: b along the member's own x axis, d across it."""

    kind: Literal["rectangle"]
    b_m: Annotated[Number, Field(gt=0, le=20)]
    d_m: Annotated[Number, Field(gt=0, le=20)]


class Circle(Record):
    """A round section."""

    kind: Literal["circle"]
    diameter_m: Annotated[Number, Field(gt=0, le=20)]


Section = Annotated[Rectangle | Circle, Field(discriminator="kind")]


class Storey(Record):
    """The part of a column or wall below or above the floor, to its far end."""

    height_m: Positive
    far_end: Literal["fixed", "pinned"] = "fixed"


class Column(Record):
    """A column that acts over its real footprint. Without ``below`` it does not hold the floor up."""

    id: Label
    at: Point
    shape: Section
    angle_deg: Number = 0.0
    concrete: Label
    below: Storey | None = None
    above: Storey | None = None


class Wall(Record):
    """A straight wall along its centre line. Without ``below`` it does not hold the floor up."""

    id: Label
    line: Line
    thickness_m: Thickness
    concrete: Label
    below: Storey | None = None
    above: Storey | None = None
    top: Literal["monolithic", "hinged"] = "monolithic"
