"""What a check is, and what it may read."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

import numpy as np
import numpy.typing as npt
from shapely.geometry.base import BaseGeometry

from piastra.core.beams.design import BeamDesign
from piastra.core.beams.flanges import FlangeUse
from piastra.core.checks.row import Ref, Row, RowId, Unchecked, uncovered
from piastra.core.combine.envelope import Factors
from piastra.core.deflection.lived import Life
from piastra.core.deflection.sag import Sag
from piastra.core.history.body import Body
from piastra.core.history.estimate import Estimate
from piastra.core.loads.vectors import Unit
from piastra.core.mesh.locate import Elements, middles
from piastra.core.model import Floor
from piastra.core.model.loading import STRENGTH
from piastra.core.model.materials import Concrete
from piastra.core.punching.zones import Zones
from piastra.core.reinforcement.groups import Group
from piastra.core.reinforcement.stations import StationSteel
from piastra.core.reinforcement.through import Through
from piastra.core.shear.shear import ShearUse
from piastra.core.standards import Standard
from piastra.core.standards.situations import AGE_MISSING, Acting, Situation, all_of
from piastra.core.strips.cuts import Cuts
from piastra.core.strips.layout import Layout
from piastra.core.tendons.arrangement import Arrangement
from piastra.core.tendons.stations import StationPrestress
from piastra.core.trace import Step

TOGETHER = 1e-3
"""Share of a panel's greatest moment by which panels that act together may change the moments where its load matters."""
LIFTS = "lifts a part of the floor off its bedding; this check takes a bedding that also pulls"
EFFECT_IN = {**dict.fromkeys(STRENGTH, "secondary"), "transfer": "transfer"}
"""The effect of tendons that belongs into combinations of a kind; into those of service the final one."""
NO_ULTIMATE = "there is no ultimate combination; add one"


@dataclass(frozen=True, slots=True)
class Context:
    """What is known of a floor when it is checked: ``ultimate`` combinations, those in ``service`` under which cracks are checked,
    and ``lasting`` ones. ``floor`` shows only what checks read of it; ``steel``, ``shear`` and
    ``zones`` are None where the standard's rules for them are not at hand or there is no ultimate combination. ``through``: bottom bars in columns. ``beside``: of each piece that no strip serves, the steel required over given point by point. ``region`` is the
    concrete on plan, m."""

    floor: Floor
    standard: Standard
    units: tuple[Unit, ...]
    ultimate: Sequence[Factors]
    service: Sequence[Factors]
    lasting: Sequence[Factors]
    region: BaseGeometry
    layout: Layout
    cuts: Cuts
    steel: StationSteel | None
    beside: Sequence[float | None]
    through: Sequence[Through]
    shear: Sequence[ShearUse] | None
    beams: BeamDesign | None
    zones: Zones | None
    sags: Sequence[Sag]
    lifting: frozenset[str]
    """Combinations under which a part of the floor lifts off its bedding, while checks take one that also pulls."""
    together: float
    """What it changes that far panels act together, as :class:`piastra.core.stages.sharing.Sharing` measures it."""
    prestress: StationPrestress | None = None
    transfer: Sequence[Factors] = ()
    """Combinations when tendons are stressed."""
    all_service: Sequence[Factors] = ()
    """All combinations of service, for stresses of floors with tendons."""
    estimate: Estimate | None = None
    life: Life | None = None
    """The history of the floor, where it has one and that is computed."""
    body: Body | None = None
    elements: Elements | None = None
    arrangement: Arrangement | None = None
    """How tendons are spread, where the standard has rules for that."""
    situations: Sequence[Acting] = ()
    """Design situations that there are combinations of, that of the finished floor (``ultimate``) first."""
    groups: Sequence[Group] = ()
    """Bars beside the mats."""
    flanges: Sequence[FlangeUse] | None = None
    """Shear between flanges and webs of beams; None where the standard's rules are not at hand."""

    @property
    def strength(self) -> list[Factors]:
        """The combinations of all design situations."""
        return all_of(self.situations) if self.situations else list(self.ultimate)

    def strength_then(self, situation: Situation | None, concrete: Concrete) -> tuple[Step, ...]:
        """How a concrete came to its strength in a design situation."""
        given = next((c for c in self.floor.concretes if c.id == concrete.id), None)
        return situation.steps(given) if situation is not None and given is not None else ()

    @property
    def centres(self) -> npt.NDArray[np.float64]:
        """Middles (e, 2) m of the elements."""
        assert self.elements is not None
        return middles(self.elements)

    def factors_by_case(self, combination: str) -> dict[str, float]:
        """Factors of a combination by case, as the floor has them."""
        return next((dict(c.factors) for c in self.floor.combinations if c.id == combination), {})

    def doubtful_rows(self, check: str, combinations: Sequence[Factors]) -> list[Row]:
        """A row of a check for every one of its combinations that no check is true of, and one where panels act together
        that are not far enough apart."""
        names = [f.combination for f in combinations if f.combination in self.lifting]
        rows = [uncovered(RowId(check, Ref("combinations", name)), f"combination {name}", LIFTS) for name in names]
        if self.together > TOGETHER and any(f.pattern.any() for f in combinations):
            told = f"panels that act together change moments by {self.together:.0e} of the greatest; let each act by itself"
            rows.append(uncovered(RowId(check, Ref("floor", ""), part="pattern load"), "pattern load", told))
        if self.floor.construction is None:
            built = [f.combination for f in combinations if f.limit_state == "construction"]
            rows += [uncovered(RowId(check, Ref("combinations", n), part="age"), f"combination {n}", AGE_MISSING) for n in built]
        return rows + self._tendons_amiss(check, combinations)

    def _tendons_amiss(self, check: str, combinations: Sequence[Factors]) -> list[Row]:
        """A row for every combination in which tendons do not act as the check takes them to: a section's strength counts them as steel, with
        their secondary effects among the loads; stresses in service and at transfer are those of the whole force."""
        if not self.floor.tendons:
            return []
        effects = {c.id: c.effect for c in self.floor.load_cases if c.effect is not None}
        rows = []
        for f in combinations:
            wanted = EFFECT_IN.get(f.limit_state, "final")
            acting = {effects[k] for k, v in self.factors_by_case(f.combination).items() if k in effects and v}
            if acting == {wanted}:
                continue
            told = f"takes tendons by their {', '.join(sorted(acting))} effect; " if acting else "leaves the tendons out; "
            told += f"a combination of this kind needs a prestress case of effect {wanted}, and no other"
            rows.append(
                uncovered(RowId(check, Ref("combinations", f.combination), part="tendons"), f"combination {f.combination}", told)
            )
        return rows

    def not_at_hand(self) -> Unchecked:
        """Why a check that the standard has no rules for is not made."""
        return Unchecked(f"this check to {self.standard.name} is not at hand yet")


class Check(Protocol):
    """One check of a floor; standard-neutral."""

    @property
    def name(self) -> str:
        """As results and the verdict name it."""
        ...

    @property
    def lasting(self) -> bool:
        """Whether it reads what the long term brings."""
        ...

    def rows(self, context: Context) -> list[Row] | Unchecked | None:
        """Its rows; why it was not made; or None where a floor has nothing that it could be about."""
        ...
