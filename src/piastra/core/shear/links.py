"""Links of slabs against one-way shear: laid where the concrete alone does not carry it, as far from the face as it does not."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from shapely.geometry import Polygon

from piastra.core.standards.beam_rules import BeamRules, Webs
from piastra.core.standards.protocol import LinkLimits, ShearPlaces
from piastra.core.trace import Step, Value

THICKEST = 0.016
"""Greatest diameter (m) of links in slabs."""
STEP = 0.025
"""Spacings are multiples of this (m)."""
ARM = 0.8
"""Lever arm of the truss over the effective depth: less than 0.9 (EN 1992-1-1, 6.2.3 (1)), so that with struts of cot 2.5 the envelope of the bars is
shifted by z cot / 2 = d (9.2.1.3 (2)), as without links. A standard may not read it."""


@dataclass(frozen=True, slots=True)
class SlabLinks:
    """Links of one diameter ``bar``, one leg at every ``along`` by ``across`` m, from the face to ``reach`` m. ``asked`` m2/m2 with the use of the
    ``struts``; ``beyond``: the utilisation of the concrete where they end; ``thick``: whether the slab is as thick as links ask for. ``places``:
    where they lie."""

    bar: float
    along: float
    across: float
    reach: float
    asked: float
    struts: float
    beyond: float
    thick: bool
    places: tuple[Polygon, ...] = ()

    @property
    def area(self) -> float:
        """m2/m2 of what is laid."""
        return float(np.pi * self.bar**2 / 4 / (self.along * self.across))

    @property
    def utilisation(self) -> float:
        """The greatest of links, struts and the concrete beyond; 99 in a slab too thin for links."""
        return min(max(self.asked / self.area, self.struts, self.beyond), 99.0) if self.thick else 99.0


def web_of(place: ShearPlaces) -> Webs:
    """A metre of slab as the web of a beam."""
    one = np.ones(1)
    return Webs(one, place.h, place.d, ARM * place.d, place.rho_l, float(place.h[0] - place.d[0]), place.concrete, place.rebar)


def designed(
    rules: BeamRules,
    limits: LinkLimits,
    v: float,
    place: ShearPlaces,
    thinnest: ShearPlaces,
    sizes_mm: Sequence[float],
    reach: float,
    beyond: float,
) -> SlabLinks:
    """The links with the least steel of the allowed diameters that carry ``v`` kN/m, as close to each other as the ``thinnest`` place of the line asks for;
    where none do, the most of them."""
    found = rules.links(np.array([v]), np.zeros(1), web_of(place))
    asked, struts = float(found.area[0]), float(found.struts[0])
    d = float(thinnest.d[0])
    # Spacings are shares of the effective depth.
    along = max(np.floor(float(found.spacing[0]) * d / float(place.d[0]) / STEP + 1e-9), 1.0) * STEP
    widest = max(np.floor(limits.across * d / STEP + 1e-9), 1.0) * STEP
    best: SlabLinks | None = None
    for mm in sorted({*(s for s in sizes_mm if s / 1e3 <= THICKEST), min(sizes_mm)}):
        bar = mm / 1e3
        across = float(np.clip(np.floor(np.pi * bar**2 / 4 / (along * asked) / STEP + 1e-9) * STEP, 2 * STEP, widest))
        one = SlabLinks(bar, float(along), across, reach, asked, struts, beyond, float(thinnest.h[0]) >= limits.thickness - 1e-9)
        better = best is None or (one.area >= asked, -one.area) > (best.area >= asked, -best.area)
        best = one if better else best
    assert best is not None
    return best


def carry(links: SlabLinks, rules: BeamRules, v: float, place: ShearPlaces) -> bool:
    """Whether what is laid carries ``v`` kN/m at another place, in whatever situation the ``rules`` are those of, and lies as close as is asked for there."""
    found = rules.links(np.array([v]), np.zeros(1), web_of(place))
    close = links.along <= float(found.spacing[0]) + 1e-9
    return close and float(found.area[0]) <= links.area and float(found.struts[0]) <= 1


def steps_of(
    links: SlabLinks, rules: BeamRules, limits: LinkLimits, v: float, place: ShearPlaces, thinnest: ShearPlaces
) -> tuple[Step, ...]:
    """How the links came about, by the metre of width, and that the ``thinnest`` place has room for them; the last step's result is the utilisation."""
    by_metre = rules.link_steps(v, 0.0, web_of(place))
    laid = Value(
        "a_sw,prov",
        1e6 * links.area,
        "steel_per_m",
        f"a metre, one leg of {1e3 * links.bar:g} mm at every {1e3 * links.along:g} by {1e3 * links.across:g} mm",
    )
    asked = Value("a_sw,req", 1e6 * links.asked, "steel_per_m", "a metre")
    h, least = (
        Value("h", float(thinnest.h[0]), "size", "where the line's slab is thinnest"),
        Value("h_min", limits.thickness, "size", f"of slabs with links ({limits.clause})"),
    )
    result = Value("use", links.utilisation)
    if not links.thick:
        return *by_metre, Step("Utilisation with links", values=(h, least, laid), result=result, note="Too thin for links.")
    beyond = Value("use_c", links.beyond, meaning=f"of the concrete alone {links.reach:.2f} m from the face, where links end")
    struts = Value("use_s", links.struts, meaning="of the struts")
    last = Step(
        "Utilisation with links",
        "",
        "use = min(max(max(a_sw,req / a_sw,prov, use_s), use_c), 99)",
        (asked, laid, struts, beyond),
        result,
    )
    return *by_metre, last
