"""Prestress at the stations of strips: what tendons give, what they and the loads do to the concrete."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.tendons.crossings import Crossings, TendonsAt
from piastra.core.tendons.stresses import Averaged, Sections

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class StationPrestress:
    """At c stations: tendons (``at``, by ``crossings``), gross sections of the strips (``own``) and of the ``whole`` design strips,
    stress (c, 2, r) kN/m2 of their bottom and top fibres in every unit load (``stress``, ``averaged``), the ``units`` that are prestress
    and the least and greatest factors of it in service (``spread``). By face (2, c), for provisions: the greatest tension in service (``fibre``, kN/m2)
    and its force in the concrete (``pull``, kN/m), and what tendons alone press it with (``pressed``, kN/m2). ``axial`` (c,) kN: of the
    concrete by the final prestress, as the analysis finds it. ``bonded``: whether any tendon is: what it asks of the concrete about it holds for the section."""

    crossings: Crossings
    at: TendonsAt
    own: Sections
    whole: Averaged
    stress: Array
    averaged: Array
    units: Ints
    spread: tuple[float, float]
    fibre: Array
    pull: Array
    pressed: Array
    axial: Array
    bonded: bool
