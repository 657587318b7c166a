"""What the user fixes for punching zones."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from piastra.core.model.shapes import Label, Number, Record


class RailSetting(Record):
    """Shear reinforcement as it is laid: ``rails`` lines from the face outwards, each of ``per_rail`` studs or legs."""

    kind: Literal["stud", "link"] = "stud"
    bar_mm: Annotated[Number, Field(gt=0, le=40)]
    yield_MPa: Annotated[Number, Field(ge=200, le=1000)] = 500.0
    rails: Annotated[int, Field(strict=True, ge=1, le=200)]
    """Bars of one perimeter."""
    per_rail: Annotated[int, Field(strict=True, ge=1, le=60)]
    first_mm: Annotated[Number, Field(gt=0, le=2000)]
    """From the face to the first."""
    spacing_mm: Annotated[Number, Field(gt=0, le=2000)]
    """Along a rail."""
    pattern: Literal["cruciform", "radial"] = "radial"
    """Square to the faces, or straight out from them, evenly along the control perimeter."""


class ZoneSetting(Record):
    """For the zones of one column, wall, point support or load."""

    zone: Label
    """Its id."""
    beta: Literal["general", "simplified"] = "general"
    """Eccentricity from the computed moments, or by the standard's flat factors where it has some."""
    rails: RailSetting | None = None
    """Null: designed where they are needed, if the floor designs rails."""
