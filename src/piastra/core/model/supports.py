"""Supports other than columns and walls."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from piastra.core.model.shapes import Label, NotNegative, Outline, Patch, Path, Point, Positive, Record

Stiffness = NotNegative | Literal["fixed", "free"]


class LineSupport(Record):
    """A support along a line; stiffness per metre. The rotation is the one about the line."""

    id: Label
    kind: Literal["line"]
    line: Path
    vertical: Stiffness = "fixed"
    rotation: Stiffness = "free"


class PointSupport(Record):
    """A support at a point. The rotation is about any axis in the plan."""

    id: Label
    kind: Literal["point"]
    at: Point
    vertical: Stiffness = "fixed"
    rotation: Stiffness = "free"
    patch: Patch | None = None
    """The area on which it presses, for punching; null: not known."""


class AreaSupport(Record):
    """An elastic bedding (Winkler)."""

    id: Label
    kind: Literal["area"]
    outline: Outline
    modulus_kN_m3: Positive
    compression_only: Annotated[bool, Field(strict=True)] = False


Support = Annotated[LineSupport | PointSupport | AreaSupport, Field(discriminator="kind")]
