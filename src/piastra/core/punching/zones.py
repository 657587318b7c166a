"""Punching zones under their governing combination and arrangement."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.combine.envelope import Factors, companion, envelopes, governing_panels
from piastra.core.loads.vectors import LoadVectors
from piastra.core.loads.within import joint_moments, load_within
from piastra.core.model import Floor
from piastra.core.model.message import Message
from piastra.core.punching.zone_places import Unzoned, ZonePlace
from piastra.core.standards.protocol import ZoneAction, ZoneUse
from piastra.core.trace import Loaded

Array = npt.NDArray[np.float64]

LEAST_FORCE = 0.5
"""A zone whose joint takes less than this (kN) upwards is not checked for punching."""
NOT_PRESSED = "is not pressed by the floor in any ultimate combination"


@dataclass(frozen=True, slots=True)
class Zone:
    """One perimeter of one column with what acts on it (``action``), and the standard's comparisons (``uses``)."""

    place: ZonePlace
    combination: str
    panels: tuple[Loaded, ...]
    action: ZoneAction
    uses: tuple[ZoneUse, ...]

    @property
    def column(self) -> str:
        """Id of the column."""
        return self.place.outline.column.id

    @property
    def at(self) -> tuple[float, float]:
        """The column's axis, m."""
        x, y = self.place.outline.column.at
        return x, y

    @property
    def worst(self) -> ZoneUse:
        """The comparison with the greatest utilisation."""
        return max(self.uses, key=lambda u: u.utilisation)

    @property
    def utilisation(self) -> float:
        """The greatest of the comparisons'."""
        return self.worst.utilisation


@dataclass(frozen=True, slots=True)
class Zones:
    """The zones of a floor, and the columns that none of them checks."""

    zones: tuple[Zone, ...]
    without: tuple[Unzoned, ...]
    messages: tuple[Message, ...]


def zones(
    floor: Floor, places: Sequence[ZonePlace], loads: LoadVectors, reactions: Array, labels: Sequence[str], combinations: list[Factors],
) -> Zones:  # fmt: skip
    """Check the zones. ``reactions`` (s, 3, r) of the supports ``labels``.

    The stress of each row of the standard's coefficients is a linear functional of V and the moments, so its envelope over
    all arrangements is exact, and V and the moments reported are those that act together with it.
    """
    inside = load_within(floor, loads, [p.outline.inside for p in places])
    found, without, messages = [], [], []
    for place, within in zip(places, inside, strict=True):
        column = place.outline.column
        joint = reactions[labels.index(column.id)]
        zone = _check(place, joint, within, joint_moments(floor, loads, column.id), combinations, loads)
        if zone is not None:
            found.append(zone)
            continue
        at = (column.at[0], column.at[1])
        messages.append(Message("warning", column.id, f"{NOT_PRESSED}; it is not checked for punching", at))
        without.append(Unzoned(column.id, at, NOT_PRESSED))
    checked = {z.column for z in found}
    return Zones(tuple(found), tuple(u for u in without if u.column not in checked), tuple(messages))


def _check(
    place: ZonePlace, joint: Array, within: Array, brought: Array, combinations: list[Factors], loads: LoadVectors
) -> Zone | None:
    column, perimeter = place.outline.column, place.outline.perimeter
    load, x_load, y_load = within
    V = joint[0] - load
    (x, y), (cx, cy) = column.at, perimeter.centroid
    # About the perimeter's centroid the joint's force has its arm, and so has the load inside: beside an edge its middle is
    # not the column's. What a frame's action brings to the joint goes into the slab as far as the columns do not take it.
    m_x = joint[1] + brought[0] + (y - cy) * joint[0] - (y_load - cy * load)
    m_y = joint[2] + brought[1] - (x - cx) * joint[0] + (x_load - cx * load)
    angle = np.radians(column.angle_deg)
    c, s = np.cos(angle), np.sin(angle)
    M_x, M_y = c * m_x + s * m_y, -s * m_x + c * m_y
    stresses = place.check.coefficients @ np.stack([V, M_x, M_y])
    greatest = envelopes(stresses, combinations)[1]
    which, number = np.unravel_index(int(greatest.argmax()), greatest.shape)
    v_ed, factors, stress = float(greatest[which, number]), combinations[int(number)], stresses[which]
    force, own_x, own_y, whole, inside = (
        float(companion(stress, f, factors, greatest=True)) for f in (V, M_x, M_y, joint[0], load)
    )
    if force < LEAST_FORCE or v_ed <= 0:
        return None
    action = ZoneAction(whole, inside, force, own_x, own_y, int(which))
    panels = governing_panels(stress, factors, loads.units, greatest=True)
    return Zone(place, factors.combination, panels, action, place.check.uses(action))
