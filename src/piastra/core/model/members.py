"""What the floor is made of: slabs, openings, thickenings, and the columns and walls that carry it."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from piastra.core.model.shapes import Label, NotNegative, Number, Outline, Path, Point, Positive, Record

Thickness = Annotated[Number, Field(gt=0, le=5)]
Factor = Annotated[Number, Field(ge=0.001, le=100)]


class Slab(Record):
    """A slab area of one thickness."""

    id: Label
    outline: Outline
    thickness_m: Thickness
    top_offset_m: Number = 0.0
    """Level of the slab's top above the floor's datum; negative for a set-down."""
    fill_kN_m3: NotNegative = 0.0
    """Unit weight of what fills a set-down up to the floor's datum; it counts as self-weight. 0: not filled."""
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
    kind: Literal["drop_panel", "column_head", "recess", "band"] = "drop_panel"
    outline: Outline
    thickness_m: Thickness
    top_offset_m: Number = 0.0
    fill_kN_m3: NotNegative = 0.0
    """Unit weight of what fills a recess up to the slab's top; it counts as self-weight. 0: not filled."""
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
    by_level: Annotated[bool, Field(strict=True)] = False
    """Whether its height is that of the storey on the floor's level, and follows it."""


class Column(Record):
    """A column that acts over its real footprint. Without ``below`` it does not hold the floor up."""

    id: Label
    at: Point
    shape: Section
    angle_deg: Number = 0.0
    concrete: Label
    below: Storey | None = None
    above: Storey | None = None
    seen_as: Literal["column", "wall"] | None = None
    """As what strips see it; null: as a column. Seen as a wall, no provision of column supports acts there."""


class Wall(Record):
    """A wall along its centre line. Without ``below`` it does not hold the floor up."""

    id: Label
    line: Path
    thickness_m: Thickness
    concrete: Label
    below: Storey | None = None
    above: Storey | None = None
    top: Literal["monolithic", "hinged"] = "monolithic"
    seen_as: Literal["column", "wall"] | None = None
    """As what strips see it; null: along a strip as a wall with an end like a column's, across it as a wall. Seen as a column, it
    is one support, however long."""


class Beam(Record):
    """A beam along its centre line, cast with the slab. A downstand's top lies at the slab's, an upstand's above."""

    id: Label
    line: Path
    width_m: Annotated[Number, Field(gt=0, le=20)]
    depth_m: Thickness
    """Overall depth, slab included."""
    top_offset_m: Number = 0.0
    """Level of the beam's top above the floor's datum."""
    concrete: Label
    torsion: Literal["equilibrium", "compatibility"] = "equilibrium"
    """Whether equilibrium needs the beam's torsion, or it only follows from the floor's deflection and may be left out."""
    priority: Annotated[int, Field(strict=True)] = 0
    """Where beams cross, the higher priority holds, then the deeper one."""


class OneWayArea(Record):
    """A region that spans in one direction: across it, bending and twist are all but released."""

    id: Label
    outline: Outline
    angle_deg: Number = 0.0
    """Direction of the span, anticlockwise from the plan's x axis."""


class StiffnessArea(Record):
    """A region whose stiffness is multiplied by factors, along and across a direction of its own."""

    id: Label
    outline: Outline
    angle_deg: Number = 0.0
    bending_along: Factor = 1.0
    bending_across: Factor = 1.0
    twist: Factor = 1.0
    membrane_along: Factor = 1.0
    membrane_across: Factor = 1.0
    membrane_shear: Factor = 1.0
