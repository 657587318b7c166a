"""What would mend strips whose bars fall short, and the line that sags most."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import numpy.typing as npt

from piastra.core.checks.row import Ref, RowId
from piastra.core.combine.envelope import with_constant
from piastra.core.deflection.lived import LivedSag
from piastra.core.deflection.sag import Line, Sag, sags
from piastra.core.fe.floor_sections import thickened
from piastra.core.fe.restraints import restraints
from piastra.core.fe.solution import solve
from piastra.core.fe.states import frozen
from piastra.core.fe.system import Family, System, in_turn, renewed, with_sections
from piastra.core.history.body import Body, body_of
from piastra.core.history.estimate import ORDINARY, Changed, numbers_for
from piastra.core.loads.integrate import pressed
from piastra.core.model import Floor
from piastra.core.model.floor import BarGroup
from piastra.core.remedies import deflection, flexure
from piastra.core.remedies.remedy import Remedy
from piastra.core.stages.bar_groups import BAR_GROUPS
from piastra.core.stages.beams import BEAMS
from piastra.core.stages.body import BODY, BODY_AXES, FROZEN, bars_in_beams
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.factors import FACTORS
from piastra.core.stages.ground import GROUND
from piastra.core.stages.history import NO_LIFE
from piastra.core.stages.layout import LAYOUT
from piastra.core.stages.loads import LOADS
from piastra.core.stages.long_term import LONG_TERM
from piastra.core.stages.mesh import MESH
from piastra.core.stages.plan import PLAN
from piastra.core.stages.sags import SAGS
from piastra.core.stages.sections import SECTIONS
from piastra.core.stages.solutions import SOLUTIONS
from piastra.core.stages.steel import STEEL
from piastra.core.stages.stiffness import STIFFNESS, StiffnessInputs, stiffness_inputs
from piastra.core.stages.strips import STRIPS
from piastra.core.stages.view import ALL, only
from piastra.core.standards import standard_of
from piastra.core.strips.cuts import across

Array = npt.NDArray[np.float64]
Found = Mapping[str, tuple[Remedy, ...]]


@dataclass(frozen=True, slots=True)
class Inputs:
    """What remedies carry is whole objects of the floor."""

    floor: Floor
    stiffness: StiffnessInputs


def _inputs(floor: Floor) -> Inputs:
    seen = only(
        floor, "standard", "parameters", "exposure", "crack_width_limit_mm", "construction", "bar_sizes_mm", "spacings_mm", "carbon", "costs", "history", "deflection",
        concretes=ALL, rebars=ALL, slabs=ALL, mats=ALL, designed_bars=ALL, beams=("id", "width_m", "depth_m"), load_cases=("id", "nature"),
    )  # fmt: skip
    return Inputs(seen, stiffness_inputs(floor))


def _make(given: Inputs, made: Made[Found]) -> Found:
    return {**_strips(given, made), **_sags(given, made)}


def _strips(given: Inputs, made: Made[Found]) -> Found:
    floor = given.floor
    standard, steel = standard_of(floor), made[STEEL].stations
    ultimate = [f for f in made[FACTORS] if f.limit_state == "ultimate"]
    if steel is None or standard.flexure is None or not ultimate or not (floor.mats or made[STEEL].groups):
        return {}
    strips, plan, meshed, loads = made[STRIPS], made[PLAN], made[MESH], made[LOADS]
    face = meshed.face[strips.cuts.samples.element]
    slab, h = plan.slab[face], made[SECTIONS].h[face]
    drawn = Drawn(given, made, max(ultimate, key=lambda f: float(loads.applied @ f.full)).full)
    try:
        return flexure.mended(
            flexure.Strips(floor, standard, strips.layout, strips.cuts, steel, slab, h, plan.region, drawn.grown)
        )
    finally:
        drawn.close()


def _thicker(given: Inputs, made: Made[Found], slab: int, more: float) -> tuple[Array, tuple[Family, ...]]:
    """By how much each element (e,) is thicker where a slab (its number) is ``more`` m thicker, its top where it was; the elements then."""
    floor, values, face = given.floor, made[SECTIONS], made[MESH].face
    own = (made[PLAN].slab[face] == slab) & (np.abs(values.h[face] - floor.slabs[slab].thickness_m) < 1e-9)
    thick = more * own
    changed = thickened(floor, values, face, dict(given.stiffness.moduli), thick, thick / 2)
    return thick, with_sections(made[STIFFNESS].system, *changed)


class Drawn:
    """What moments a thicker slab draws: the floor solved anew with it, under the combination that loads it most, ``full`` (r,). To be closed."""

    def __init__(self, given: Inputs, made: Made[Found], full: Array) -> None:
        self._given, self._made, self._full = given, made, full
        self._current: System | None = None
        self._known: dict[tuple[int, float], Array] = {}

    def close(self) -> None:
        """Give the factorisation's memory back."""
        if self._current is not None:
            self._current.factor.free()

    def _moments(self, system: System, load: Array, zeta: Array) -> Array:
        moment, _, axial = across(self._made[STRIPS].cuts.bodies, system, solve(system, load[..., None]).u)
        return moment[:, 0] - zeta * axial[:, 0]

    @cached_property
    def _before(self) -> Array:
        made = self._made
        return self._moments(made[STIFFNESS].system, made[LOADS].combined(self._full), made[STRIPS].cuts.zeta)

    def grown(self, slab: int, more: float) -> Array:
        """Moments at all cuts (c,) over those of today, where a slab (its number) is ``more`` m thicker."""
        if (slab, more) not in self._known:
            self._known[slab, more] = self._grown(slab, more)
        return self._known[slab, more]

    def _grown(self, slab: int, more: float) -> Array:
        floor, made = self._given.floor, self._made
        made.waits()
        base, values, face = made[STIFFNESS].system, made[SECTIONS], made[MESH].face
        thick, elements = _thicker(self._given, made, slab, more)
        self._current = renewed(in_turn(base, self._current), elements)
        heavy = {c.id for c in floor.load_cases if c.nature == "self_weight"}
        units = made[LOADS].units
        factor = max((float(f) for f, u in zip(self._full, units, strict=True) if u.case in heavy), default=0.0)
        gamma = np.array([c.unit_weight_kN_m3 for c in floor.concretes])[values.concrete[face]]
        load = made[LOADS].combined(self._full) + factor * pressed(made[MESH].elements, made[GROUND].whole, gamma * thick)
        cuts = made[STRIPS].cuts
        samples = cuts.samples
        deeper = np.bincount(samples.cut, samples.length * thick[samples.element], minlength=len(cuts.strip))
        after = self._moments(self._current, load, cuts.zeta + deeper / np.maximum(cuts.width, 1e-9) / 2)
        # Next to nothing grows by any factor: there the moments of a strip are taken to grow as its greatest does.
        largest = np.zeros(int(cuts.strip.max(initial=-1)) + 1)
        np.maximum.at(largest, cuts.strip, np.abs(self._before))
        top = np.zeros_like(largest)
        np.maximum.at(top, cuts.strip, np.abs(after))
        whole = (top / np.maximum(largest, 1e-9))[cuts.strip]
        small = np.abs(self._before) < SMALL * largest[cuts.strip]
        own_growth = after / np.where(np.abs(self._before) > 1e-9, self._before, 1.0)
        return np.where(small | (own_growth <= 0), whole, own_growth)


SMALL = 0.1
"""Of its strip's greatest moment, below which a station's own does not tell how it grows."""


def _sags(given: Inputs, made: Made[Found]) -> Found:
    floor, life = given.floor, made[NO_LIFE]
    lasting = [f for f in made[FACTORS] if f.lasting]
    standard = standard_of(floor)
    rules, estimate = standard.ageing, made[LONG_TERM]
    if rules is None or estimate is None or not estimate.rests or not lasting:
        return {}
    worst: LivedSag | Sag | None
    if life is not None:
        lived = max(life.sags, key=lambda s: s.utilisation, default=None)
        worst, part = lived, lived.limit_id if lived else ""
    else:
        worst, part = max(made[SAGS], key=lambda s: s.utilisation, default=None), ""
    body, meshed, plan, loads = made[BODY], made[MESH], made[PLAN], made[LOADS]
    if worst is None or worst.utilisation <= 1 or body.bare.all():
        return {}
    system, values = made[STIFFNESS].system, made[SECTIONS]
    heaviest = max(lasting, key=lambda f: float(np.abs(loads.combined(f.full)[:, 2]).sum()))
    own = {c.id for c in floor.load_cases if c.nature == "self_weight"}
    heavy = np.array([u.case in own for u in loads.units], dtype=float)
    light = np.zeros(len(meshed.face))
    history = floor.history or ORDINARY
    moduli = dict(given.stiffness.moduli)
    beams, changed = bars_in_beams(floor, made), Changed(made.waits)

    elastic = made[SOLUTIONS].solution.u @ heaviest.full

    def heavier(weight: Array) -> Array:
        return np.asarray(pressed(meshed.elements, made[GROUND].whole, weight)[..., None] * heavy)

    def w(change: deflection.Change) -> Array | None:
        creep = {c.id: c.creep_coefficient for c in floor.concretes}
        effective = {k: E / (1 + creep.get(k, 0.0)) for k, E in moduli.items()}
        held = restraints(given.stiffness.floor, plan, meshed.mesh, effective)
        numbers = numbers_for(rules, change.body, change.moduli, history)
        # The changed part alone weighs more: over the whole floor it would be next to nothing.
        more = heavier(change.weight)
        return changed.deflected(
            replace(system, held=held), change.families, change.body, numbers, loads, heaviest.full, more, change.elastic
        )

    combinations = [with_constant(f) for f in lasting]

    def sag(line: Line, change: deflection.Change | None) -> float | None:
        found = estimate.w if change is None else w(change)
        if found is None:
            return None
        return sags([line], meshed.elements, found, combinations, loads.units, floor.deflection.span_over)[0].sag

    def bodied(thickness: Array) -> Body:
        return body_of(
            floor,
            plan,
            meshed.face,
            replace(values, h=thickness),
            meshed.elements,
            made[BAR_GROUPS],
            beams,
            plan.region,
            made[BODY_AXES],
        )

    def thick(slab: int, more: float) -> deflection.Change:
        made.waits()
        deeper, elements = _thicker(given, made, slab, more)
        h = values.h.copy()
        h[meshed.face] += deeper
        gamma = np.array([c.unit_weight_kN_m3 for c in floor.concretes])[values.concrete[meshed.face]]
        families = frozen(replace(system, families=elements), made[BODY_AXES])
        stiff, load = renewed(system, elements), loads.combined(heaviest.full) + heavier(gamma * deeper) @ heaviest.full
        try:
            u = solve(stiff, load[..., None]).u[..., 0]
        finally:
            stiff.factor.free()
        return deflection.Change(bodied(h), moduli, gamma * deeper, families, u)

    def laid(group: BarGroup) -> deflection.Change:
        return deflection.Change(
            deflection.laid_on(body, group, floor, standard, meshed.elements, plan.region, plan.slab[meshed.face]),
            moduli,
            light,
            made[FROZEN],
            elastic,
        )

    def strong(slab: int, strength: float) -> deflection.Change | None:
        old = next(c for c in floor.concretes if c.id == floor.slabs[slab].concrete)
        new = old.model_copy(update={"strength_MPa": strength, "E_MPa": None})
        if standard.materials.not_covered(new):
            return None
        of_slab = np.bincount(body.kind, (plan.slab[meshed.face] == slab).astype(float), minlength=len(body.kinds)) > 0
        label = f"{old.id} of {strength:g} MPa"
        named = new.model_copy(update={"id": label})
        kinds = tuple((named if c.id == old.id and here else c, h) for (c, h), here in zip(body.kinds, of_slab, strict=True))
        return deflection.Change(
            replace(body, kinds=kinds), {**moduli, label: standard.materials.modulus(named)}, light, made[FROZEN], elastic
        )

    bent = deflection.Bent(
        floor,
        standard,
        meshed.elements,
        plan.region,
        plan.slab[meshed.face],
        worst.utilisation,
        sag,
        thick,
        laid,
        strong,
    )
    id = RowId("deflection", Ref("lines", worst.line.id), part=part)
    try:
        return {id.key: deflection.mended(bent, worst.line, worst.fraction)}
    finally:
        changed.close()


MENDS = Stage(
    "mends", _inputs, _make,
    (STRIPS, STEEL, FACTORS, LOADS, MESH, PLAN, SECTIONS, STIFFNESS, FROZEN, BODY, BODY_AXES, BAR_GROUPS, BEAMS, GROUND, LAYOUT, SOLUTIONS, LONG_TERM, SAGS, NO_LIFE),
)  # fmt: skip
