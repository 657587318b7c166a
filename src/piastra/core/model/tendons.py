"""Post-tensioning: strands, tendons with their profiles, and how losses are found."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from piastra.core.model.shapes import Label, NotNegative, Number, Path, Positive, Record


class Strand(Record):
    """A prestressing strand with its anchors."""

    id: Label
    area_mm2: Positive
    fpk_MPa: Annotated[Number, Field(ge=500, le=3000)]
    """Characteristic strength; ACI: f_pu."""
    fp01k_MPa: Annotated[Number, Field(ge=400, le=3000)]
    """0.1 % proof stress; ACI: f_py."""
    E_MPa: Annotated[Number, Field(ge=100000, le=250000)] = 195000.0
    bond: Literal["unbonded", "bonded"] = "unbonded"
    friction_mu: Annotated[Number, Field(ge=0, le=1)] = 0.06
    wobble_rad_m: Annotated[Number, Field(ge=0, le=0.5)] = 0.05
    """k of P0 exp(-mu (theta + k x)); ACI's K is mu k."""
    draw_in_mm: Annotated[Number, Field(ge=0, le=50)] = 6.0
    relaxation_class: Literal[1, 2, 3] = 2
    rho1000_pct: Annotated[Number, Field(ge=0, le=20)] = 2.5
    """Relaxation after 1000 h at 20 °C and 0.7 of the strength."""
    duct_mm: Annotated[Number, Field(ge=5, le=300)] = 16.0
    """Outer diameter of sheath or duct; cover is taken to it."""
    anchor_mm: Annotated[Number, Field(ge=20, le=600)] = 75.0
    """Height of the anchor's plate, from which its force spreads."""
    mass_kg_m: Positive | None = None
    """Null: from the area with 7850 kg/m3."""

    @model_validator(mode="after")
    def _yields_first(self) -> Strand:
        if self.fp01k_MPa > self.fpk_MPa:
            raise ValueError(
                f"has fp01k_MPa {self.fp01k_MPa:g} above fpk_MPa {self.fpk_MPa:g}; the proof stress is the lower one"
            )
        return self


class ProfilePoint(Record):
    """A point of a tendon's elevation. Between two points the tendon is straight if both are ``free``, one parabola if one is
    ``level``, two parabolas if both are; a ``kink`` makes both neighbours straight."""

    s_m: NotNegative
    """Along the line, from its start."""
    z_mm: Annotated[Number, Field(ge=-20000, le=20000)]
    """Level of the tendon's centre above the floor's datum: negative inside a slab whose top is at 0."""
    tangent: Literal["free", "level", "kink"] = "free"
    reverse: Annotated[Number, Field(ge=0.01, le=0.99)] = 0.1
    """Where two parabolas meet: a fraction of the distance from the higher of two level points, which this is."""


class Tendon(Record):
    """One tendon: ``count`` strands along a line on plan. Its force is that of all its strands."""

    id: Label
    strand: Label
    count: Annotated[int, Field(strict=True, ge=1, le=60)] = 1
    line: Path
    jack_MPa: Annotated[Number, Field(gt=0, le=3000)]
    stressed_from: Literal["start", "end", "both"] = "start"
    profile: Annotated[list[ProfilePoint], Field(min_length=2)]
    group: Label | None = None
    """Tendons of one group are edited together: a band, or what is spread over a region."""

    @model_validator(mode="after")
    def _in_order(self) -> Tendon:
        for i, (a, b) in enumerate(zip(self.profile, self.profile[1:])):
            if b.s_m - a.s_m < 0.01:
                raise ValueError(
                    f"has profile points {i} and {i + 1} at {a.s_m:g} and {b.s_m:g} m; put them in order, at least 10 mm apart"
                )
        if self.profile[0].s_m > 1e-9:
            raise ValueError(f"begins its profile at {self.profile[0].s_m:g} m; its first point lies at 0")
        return self


class LumpLoss(Record):
    """A long-term loss of stress that is given."""

    MPa: NotNegative


class Prestress(Record):
    """How losses are found: concrete stressed at ``transfer_days``, in air of ``humidity_pct``."""

    long_term_loss: Literal["computed"] | LumpLoss = "computed"
    """Creep, shrinkage and relaxation by the standard, or given."""
    transfer_days: Annotated[Number, Field(ge=0.5, le=365)] = 4.0
    humidity_pct: Annotated[Number, Field(ge=20, le=100)] = 50.0
    elastic: Literal["half", "none"] = "half"
    """Tendons stressed one after another lose half of what the last of them shortens the floor by; or that loss is left out,
    where they are stressed again."""
