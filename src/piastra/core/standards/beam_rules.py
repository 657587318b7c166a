"""What the core knows of a standard's rules for beams."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol

import numpy as np
import numpy.typing as npt

from piastra.core.model.materials import Concrete, Rebar
from piastra.core.strips.layout import Position
from piastra.core.trace import Step

Array = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Webs:
    """Webs of k stations: width ``b_w``, overall depth ``H``, effective depth ``d``, lever arm ``z`` m, ratio of the tension bars
    ``rho_l``; ``centre`` m from the face to the middle of the corner bars; of one concrete and one steel of bars and links."""

    b_w: Array
    H: Array
    d: Array
    z: Array
    rho_l: Array
    centre: float
    concrete: Concrete
    rebar: Rebar


@dataclass(frozen=True, slots=True)
class Links:
    """Links of k stations: ``area`` (k,) m2 a metre of both legs; use of the ``struts`` (k,); ``along`` (k,) m2 of bars for
    torsion around the section; greatest ``spacing`` (k,) m; ``steps`` for one station, the last result being the area."""

    area: Array
    struts: Array
    along: Array
    spacing: Array
    cot: Array


@dataclass(frozen=True, slots=True)
class FlangePlaces:
    """k places where a flange joins its web: shear stress ``v`` (k,) kN/m2 along the joint, thickness ``h_f`` (k,) m, bars across of both faces
    ``laid`` (k,) m2/m and what transverse bending asks for, ``bent`` (k,) m2/m; of one concrete and one steel."""

    v: Array
    h_f: Array
    laid: Array
    bent: Array
    concrete: Concrete
    rebar: Rebar


class FlangeRules(Protocol):
    """Shear between flanges and webs."""

    @property
    def along(self) -> str:
        """The source of the shear stress along the joint."""
        ...

    def use(self, places: FlangePlaces) -> Array:
        """(k,) by struts and bars."""
        ...

    def steps(self, places: FlangePlaces) -> tuple[Step, ...]:
        """Of the first place; the last step's result is its utilisation."""
        ...


class BeamRules(Protocol):
    """Rules for beams."""

    @property
    def joint(self) -> FlangeRules | None:
        """Shear between flanges and webs; None: no such rules are at hand."""
        ...

    @property
    def through(self) -> tuple[float, float]:
        """Shares of the bottom and of the top bars that run through all spans."""
        ...

    @property
    def restraint(self) -> float:
        """Top steel at the beam's ends over the bottom steel of the span; nil: no rule."""
        ...

    @property
    def restraint_clause(self) -> str:
        """Its source; empty: no rule."""
        ...

    @property
    def shift_clause(self) -> str:
        """Of :meth:`shift`."""
        ...

    def shift(self, z: Array, d: Array, cot: Array, bar: float) -> Array:
        """How far (k,) m the envelope of the tension is moved along the beam: lever arm ``z``, depth ``d`` m, cotangent of the struts."""
        ...

    def flange(self, b_w: float, free: float, span: float, position: Position, h_f: float) -> float:
        """Effective width (m) of the flange to one side of a web ``b_w`` m, where ``free`` m of slab are there."""
        ...

    def clear(self, bar: float) -> float:
        """Least clear distance (m) of bars and layers of a diameter, m; the greatest aggregate is taken as 16 mm."""
        ...

    def least(self, b_t: Array, d: Array, concrete: Concrete, rebar: Rebar) -> Array:
        """Least flexural steel (k,) m2 of a tension zone ``b_t`` (k,) m wide."""
        ...

    def links(self, V: Array, T: Array, webs: Webs) -> Links:
        """Links for shear ``V`` (k,) kN and torsion ``T`` (k,) kNm, both positive, acting together."""
        ...

    def flexure_steps(self, area: float, parts: dict[str, float], concrete: Concrete, rebar: Rebar) -> tuple[Step, ...]:
        """How the steel of one station came about, from the values of its section."""
        ...

    def link_steps(self, V: float, T: float, webs: Webs) -> tuple[Step, ...]:
        """How the links of one station came about."""
        ...


def block_told(parts: dict[str, float]) -> str:
    """Where the concrete of a station is compressed, by the values of its section."""
    if parts["h_f"] == 0:
        return "Beside the web there is no flange on the compressed side."
    return (
        "The block lies in the flange."
        if parts["in_flange"]
        else "The block reaches into the web; the flange's part is taken off first."
    )
