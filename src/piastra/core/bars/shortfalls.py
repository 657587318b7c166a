"""What kept groups leave over: where an engineer drew or locked bars, and more is asked for than they and the mats give."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import numpy.typing as npt

from piastra.core.bars.design import Site, asked_of, why
from piastra.core.bars.needed import Given
from piastra.core.reinforcement.groups import Group, Shortfall
from piastra.core.reinforcement.stations import StationSteel
from piastra.core.standards.provision import NOTHING

Array = npt.NDArray[np.float64]


def with_shortfalls(site: Site, steel: StationSteel, groups: Sequence[Group], gives: Sequence[Given]) -> list[Group]:
    """The groups, each one that is kept with where most is missing of what the stations that it reaches ask for, if nothing but mats and kept groups lay
    there; ``gives`` is what each group gives. Bars that are designed beside the kept ones fill it in."""
    beside = [k for k, g in enumerate(groups) if not _kept(site, g)]
    strip, band = steel.provided.copy(), steel.in_band.copy()
    for k in beside:
        strip[groups[k].face, gives[k].cuts] -= gives[k].strip
        band[groups[k].face, gives[k].cuts] -= gives[k].band
    asked = asked_of(steel)
    out = list(groups)
    for k, (g, given) in enumerate(zip(groups, gives, strict=True)):
        own, at = steel.faces[g.face], given.cuts
        if k in beside or not len(at):
            continue
        # Bars across a strip lie at its stations and give them nothing.
        over = np.where(given.strip > NOTHING, asked[g.face, at] - strip[g.face, at], 0.0)
        gathered = np.where((given.band > NOTHING) & (own.at.band[at] > 0), own.in_band[at] - band[g.face, at], 0.0)
        missing = np.maximum(over, gathered)
        worst = int(missing.argmax())
        if missing[worst] <= NOTHING:
            continue
        in_band, cut = bool(gathered[worst] > over[worst]), int(at[worst])
        required, there = (own.in_band[cut], steel.in_band) if in_band else (asked[g.face, cut], steel.provided)
        filling = [
            groups[j].mark for j in beside
            if groups[j].face == g.face and (gives[j].band if in_band else gives[j].strip)[gives[j].cuts == cut].sum() > NOTHING
        ]  # fmt: skip
        out[k] = replace(g, shortfall=Shortfall(why(site, own, cut, in_band), float(required), float(required - missing[worst]),
                                                float(there[g.face, cut]), tuple(filling)))  # fmt: skip
    return out


def _kept(site: Site, g: Group) -> bool:
    return g.origin == "drawn" or g.locked or not site.floor.design_bars
