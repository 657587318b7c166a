"""Concretes and reinforcing steels."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from piastra.core.model.shapes import Label, NotNegative, Number, Positive, Record


class Concrete(Record):
    """A concrete, by the strength that the design standard uses."""

    id: Label
    strength_MPa: Annotated[Number, Field(gt=0, le=150)]
    """Characteristic cylinder strength (EN 1992-1-1) or specified strength (ACI 318-19)."""
    unit_weight_kN_m3: Annotated[Number, Field(gt=0, le=60)] = 25.0
    E_MPa: Positive | None = None
    """Modulus of elasticity; null: from the standard."""
    poisson: Annotated[Number, Field(ge=0, lt=0.5)] = 0.2
    creep_coefficient: NotNegative = 2.0
    """Final creep coefficient for the effective modulus E / (1 + creep_coefficient)."""


class Rebar(Record):
    """A reinforcing steel."""

    id: Label
    yield_MPa: Annotated[Number, Field(gt=0, le=1000)]
    E_MPa: Positive = 200000.0
