"""What the rest of the core knows of a standard's rules for punching.

Stresses in kN/m2, lengths in m, forces in kN, moments in kNm.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal, Protocol

import numpy as np
import numpy.typing as npt
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from piastra.core.geometry.perimeter import Perimeter
from piastra.core.model.materials import Concrete
from piastra.core.trace import Step, Value

Array = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Rails:
    """Shear reinforcement of a zone: ``bar`` m and ``yield_MPa`` of one stud or leg, ``rails`` lines of ``per_rail`` of them,
    the ``first`` m from the face and the others at ``spacing`` m."""

    kind: Literal["stud", "link"]
    bar: float
    yield_MPa: float
    rails: int
    per_rail: int
    first: float
    spacing: float
    pattern: Literal["cruciform", "radial"]

    @property
    def last(self) -> float:
        """How far the outermost ones are from the face, m."""
        return self.first + (self.per_rail - 1) * self.spacing

    @property
    def one(self) -> float:
        """Area of one stud or leg, m2."""
        return float(np.pi * self.bar**2 / 4)


@dataclass(frozen=True, slots=True)
class Laid:
    """Rails as they lie: ``lines`` from the first to the last stud of each; those ``left_out`` meet an opening or an edge.
    ``spread`` m the greatest distance between neighbours at the ``near`` perimeter, ``first_spread`` at the first studs.
    ``outer``: the perimeter beyond the last studs, None where there is none."""

    rails: Rails
    lines: tuple[tuple[tuple[float, float], tuple[float, float]], ...]
    left_out: int
    spread: float
    first_spread: float
    outer: Perimeter | None

    @property
    def area(self) -> float:
        """Of one perimeter, m2."""
        return len(self.lines) * self.rails.one


@dataclass(frozen=True, slots=True)
class ZoneShape:
    """The place of a punching zone: the ``loaded`` area and the ``perimeter`` around it; the member's own axes at ``angle``
    rad with its ``sides`` along x and y (m); effective depths ``d_x`` and ``d_y`` of the bars (m); their ratios ``rho``;
    whether it is around the support itself (``face``), where its face is checked too, with ``d_face`` m there.

    ``perimeter_counts``: whether the perimeter is checked, or only the face. ``shrink``: what of the perimeter's length a limit
    of the standard leaves. ``nearness``: the perimeter's distance over d. ``simplified``: with the standard's flat factors for
    eccentricity. ``around``: what the perimeter is around, in words. ``d_varies``: whether d is a mean over steps; ``whole``: whether all of the
    support is meant, not a stretch of a wall. ``sigma_cp`` kN/m2: least axial compression, mean of both directions, ``least_pressed`` that in
    the direction in which it is least, with ``tendons`` in the floor; ``clear`` m: from the loaded area to the floor's edge.
    """

    loaded: Polygon
    perimeter: Perimeter
    angle: float
    sides: tuple[float, float]
    h: float
    d_x: float
    d_y: float
    rho: tuple[float, float]
    concrete: Concrete
    face: bool
    d_face: float | None = None
    perimeter_counts: bool = True
    shrink: float = 1.0
    nearness: float | None = None
    simplified: bool = False
    around: str = "the column"
    d_varies: bool = False
    whole: bool = True
    sigma_cp: float = 0.0
    least_pressed: float = 0.0
    tendons: bool = False
    clear: float = 0.0

    def alike(self, other: ZoneShape) -> bool:
        """Whether they differ in bars, concrete and compression at most."""
        return (
            self.loaded is other.loaded
            and self.perimeter is other.perimeter
            and all(getattr(self, name) == getattr(other, name) for name in _OUTLINE)
        )


_OUTLINE = (
    "angle", "sides", "h", "d_x", "d_y", "face", "d_face", "perimeter_counts", "shrink", "nearness", "simplified", "d_varies", "whole", "clear",
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class ZoneAction:
    """What acts on a zone: the ``joint`` force and the load ``inside`` the perimeter, their difference ``V`` (kN), less what tendons
    carry across it, and the moments about the perimeter's centroid in the member's own axes (kNm); the row of the stress that they make greatest."""

    joint: float
    inside: float
    V: float
    M_x: float
    M_y: float
    row: int

    @property
    def carried(self) -> float:
        """What tendons carry across the perimeter, kN; nil but for rounding without any."""
        rest = self.joint - self.inside - self.V
        return rest if abs(rest) > 1e-6 * max(abs(self.joint), abs(self.V), 1.0) else 0.0

    def by_tendons(self) -> tuple[Value, ...]:
        """That as a value of a trace, where there is any."""
        return (Value("V_p", self.carried, "force", "carried by tendons that fall across it"),) if self.carried else ()


@dataclass(frozen=True, slots=True)
class ZoneUse:
    """One comparison of a zone: ``part`` (``perimeter``, ``face``, ``outer``, or a rule of ``detailing``), what is compared and its
    limit: stresses in kN/m2, lengths in m, areas in m2."""

    part: str
    stress: float
    resistance: float
    detailing: bool = False

    @property
    def utilisation(self) -> float:
        """Value over limit; what is laid to its limit meets it."""
        ratio = self.stress / self.resistance
        return 1.0 if self.detailing and abs(ratio - 1) < 1e-9 else ratio


class ZoneCheck(Protocol):
    """The rules of one zone."""

    @property
    def tendon_share(self) -> float:
        """Of what tendons carry across the perimeter, as far as the standard lets it count."""
        ...

    @property
    def shape(self) -> ZoneShape:
        """The place that they were made for."""
        ...

    @property
    def d(self) -> float:
        """Effective depth, m."""
        ...

    @property
    def coefficients(self) -> Array:
        """(rows, 3): stress at the perimeter for V, M_x and M_y, one row for each place or sign; kN/m2 a kN or kNm."""
        ...

    @property
    def resistance(self) -> float:
        """Design resistance without shear reinforcement, kN/m2."""
        ...

    @property
    def rho_l(self) -> float:
        """Ratio of the bars that counts."""
        ...

    def beta(self, action: ZoneAction) -> float | None:
        """Factor of the mean stress for its eccentricity, where the standard has one."""
        ...

    def along(self, action: ZoneAction) -> Array:
        """(k,) kN/m2 at the middles of the perimeter's segments."""
        ...

    def uses(self, action: ZoneAction) -> tuple[ZoneUse, ...]:
        """All comparisons under an action, the perimeter's first."""
        ...

    def steps(self, action: ZoneAction, reinforced: bool = False) -> tuple[Step, ...]:
        """How the comparisons came about; ``reinforced``: without those that shear reinforcement changes."""
        ...


class ReinforcedCheck(Protocol):
    """The rules of a zone with shear reinforcement."""

    @property
    def laid(self) -> Laid:
        """The rails."""
        ...

    @property
    def resistance(self) -> float:
        """Design resistance at the critical perimeter, kN/m2."""
        ...

    @property
    def outer_coefficients(self) -> Array:
        """(rows, 3) as of the zone: stress at the outer perimeter, of the same V and moments."""
        ...

    def u_out(self, outer: ZoneAction) -> float | None:
        """Length (m) of the outer perimeter that is needed; None where the standard does not name one."""
        ...

    def uses(self, action: ZoneAction, outer: ZoneAction) -> tuple[ZoneUse, ...]:
        """All comparisons, under the action that is greatest at the critical perimeter and the one that is at the ``outer``."""
        ...

    def steps(self, action: ZoneAction, outer: ZoneAction) -> tuple[Step, ...]:
        """How they came about, after the steps of the zone without them."""
        ...


Lay = Callable[[Rails], Laid]
"""Lays rails about a zone."""


class PunchingRules(Protocol):
    """Punching: perimeters, stress and resistance."""

    def perimeter(
        self, loaded: Polygon, solid: BaseGeometry, openings: Sequence[tuple[str, Polygon]], d: float, h: float, *,
        whole: BaseGeometry | None = None, keep: BaseGeometry | None = None, nearness: float | None = None, support: bool = True,
        others: BaseGeometry | None = None,
    ) -> Perimeter | None:  # fmt: skip
        """The critical perimeter around a loaded area of a slab of effective depth ``d`` and thickness ``h`` m; None where edges and
        openings leave none. ``whole`` and ``keep`` of walls; ``nearness``: distance over d, null: the standard's; ``support``: around
        a support itself, not around a thickening; ``others``: supports that it may not enclose on its way to an edge."""
        ...

    def distances(self, bedded: bool) -> Sequence[float | None]:
        """Distances over d at which perimeters are checked; of a support on a bedding the worst counts. None: the standard's."""
        ...

    def outside(self, sides: tuple[float, float], head: tuple[float, float], d: float, perimeter: Perimeter) -> float:
        """What (a share) of the length of the perimeter around a head of sides ``head`` (m) counts."""
        ...

    def bars_within(self, d: float) -> float:
        """How far (m) beyond the loaded area bars count for the resistance."""
        ...

    def beyond(self, d: float) -> float:
        """How far (m) beyond the last studs the outer perimeter lies."""
        ...

    @property
    def outer_polygon(self) -> bool:
        """Whether the outer perimeter is a polygon round the studs, or follows the loaded area and counts near rails only."""
        ...

    def zone(self, shape: ZoneShape, like: ZoneCheck | None = None) -> ZoneCheck:
        """The rules of one zone. What follows from the outline alone is taken from that of one ``like`` it, if it is alike."""
        ...

    def reinforced(self, check: ZoneCheck, laid: Laid) -> ReinforcedCheck:
        """The rules of a zone with rails."""
        ...

    def design(self, check: ZoneCheck, action: ZoneAction, lay: Lay) -> Laid | None:
        """Rails that carry an action; None where none can."""
        ...
