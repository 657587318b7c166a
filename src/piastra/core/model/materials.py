"""Concretes and reinforcing steels."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field, model_validator

from piastra.core.model.shapes import Label, NotNegative, Number, Positive, Record


class CreepAt(Record):
    """A creep coefficient known at an age, of concrete loaded at another: the standard's curve is scaled to pass through it."""

    days: Positive = 10950.0
    loaded_days: Positive = 28.0
    value: Positive

    @model_validator(mode="after")
    def _after_loading(self) -> CreepAt:
        if self.days <= self.loaded_days:
            raise ValueError(f"is at {self.days:g} days, before or when the load came at {self.loaded_days:g}; give a later age")
        return self


class ShrinkageAt(Record):
    """Shrinkage known at an age: the standard's curve is scaled to pass through it."""

    days: Positive = 10950.0
    microstrain: Positive


class ModulusAt(Record):
    """A modulus known at an age: the standard's curve is scaled to pass through it."""

    days: Positive = 28.0
    MPa: Positive


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
    transfer_strength_MPa: Annotated[Number, Field(gt=0, le=150)] | None = None
    """Strength when tendons are stressed; null: from its age by the standard."""
    creep_at: CreepAt | None = None
    shrinkage_at: ShrinkageAt | None = None
    tension_MPa: Positive | None = None
    """Tensile strength at 28 days that decides on cracking; null: from the standard."""
    E_at: ModulusAt | None = None


class Rebar(Record):
    """A reinforcing steel."""

    id: Label
    yield_MPa: Annotated[Number, Field(gt=0, le=1000)]
    E_MPa: Positive = 200000.0
