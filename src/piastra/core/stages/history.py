"""The life of the floor, a stage of the computation for each stage of the history."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from piastra.core.deflection.lived import Life, limits_of, lived_sags
from piastra.core.deflection.sag import sampled
from piastra.core.fe.restraints import Restraints, restraints
from piastra.core.history.body import Body
from piastra.core.history.life import Lasting, Site, Swing, lived, swings
from piastra.core.loads.vectors import LoadVectors
from piastra.core.model import Floor
from piastra.core.model.history import History, ScatterOfProperties
from piastra.core.stages.body import BODY, FROZEN
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.lines import LINES
from piastra.core.stages.loads import LOADS
from piastra.core.stages.mesh import MESH
from piastra.core.stages.plan import PLAN
from piastra.core.stages.stiffness import STIFFNESS, StiffnessInputs, stiffness_inputs
from piastra.core.stages.tendons import TENDON_FORCES
from piastra.core.stages.view import only
from piastra.core.standards import standard_named

Array = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class StageInputs:
    """What one stage of a history reads: the history up to its end, and the factors of the load cases in each of the stages."""

    floor: Floor
    stiffness: StiffnessInputs
    history: History
    factors: tuple[Mapping[str, float], ...]
    effects: Mapping[str, str]
    number: int


def _inputs_of(k: int, lived_alone: bool = True) -> Callable[[Floor], StageInputs]:
    scatterless = {"scatter": ScatterOfProperties()}

    def inputs(floor: Floor) -> StageInputs:
        history = floor.history
        assert history is not None
        by_id = {c.id: c.factors for c in floor.combinations}
        # What comes later, and the limits, change nothing of this stage.
        until = history.until(k)
        seen = history.model_copy(
            update={"stages": history.stages[: k + 1], "end_days": until, "limits": [], **(scatterless if lived_alone else {})}
        )
        return StageInputs(
            only(floor, "standard", "parameters"), stiffness_inputs(floor), seen, tuple(dict(by_id[s.combination]) for s in seen.stages),
            {c.id: c.effect for c in floor.load_cases if c.effect is not None}, k,
        )  # fmt: skip

    return inputs


def site_of(given: StageInputs, made: Made[Any], body: Body) -> Site:
    """What a history is computed with."""
    standard = standard_named(given.floor.standard, given.floor.parameters)
    assert standard.ageing is not None
    plan, mesh = made[PLAN], made[MESH].mesh
    loads, tendons = made[LOADS], made[TENDON_FORCES]

    def held(moduli: Mapping[str, float]) -> Restraints:
        return restraints(given.stiffness.floor, plan, mesh, dict(moduli))

    def load(stage: int, days: float) -> Array:
        return _load(loads, given.factors[stage], given.effects, tendons, given.history, days)

    return Site(made[STIFFNESS].system, made[FROZEN], body, standard.ageing, given.history, load, held, given.stiffness.moduli)


def _load(loads: LoadVectors, factors: Mapping[str, float], effects: Mapping[str, str], tendons: object, history: History,
          days: float) -> Array:  # fmt: skip
    """All units of a combination, every panel loaded; what tendons do falls from transfer to the end with the logarithm of time."""
    by_unit = np.array([0.0 if u.case in effects else factors.get(u.case, 0.0) for u in loads.units])
    out = loads.combined(by_unit)
    force = sum(f for case, f in factors.items() if effects.get(case) in ("transfer", "final"))
    if tendons is not None and force:
        first = history.stages[0].start_days
        gone = np.log1p(days - first) / np.log1p(FULL_DAYS)
        share = float(np.clip(gone, 0.0, 1.0))
        out = out + force * (tendons.transfer.vector + share * (tendons.final.vector - tendons.transfer.vector))  # type: ignore[attr-defined]
    return out


FULL_DAYS = 10950.0
"""Losses of prestress are complete after some thirty years."""


def history_stages(floor: Floor) -> list[Stage[StageInputs, Lasting]]:
    """One stage of the computation for each of a floor's history."""
    out: list[Stage[StageInputs, Lasting]] = []
    for k in range(len(floor.history.stages) if floor.history is not None else 0):
        before = out[-1] if out else None

        def make(given: StageInputs, made: Made[Lasting], before: Stage[StageInputs, Lasting] | None = before) -> Lasting:
            site = site_of(given, made, made[BODY])
            return lived(site, given.number, made[before] if before is not None else None, made.tick)

        needs = (BODY, MESH, PLAN, STIFFNESS, FROZEN, LOADS, TENDON_FORCES, *([before] if before is not None else []))
        out.append(Stage(f"history {k + 1}", _inputs_of(k), make, needs))  # type: ignore[arg-type]
    return out


def life_stages(floor: Floor) -> list[Stage[Any, Any]]:
    """All that a floor's history takes, the scatter and the sags at its end; one that has none is told so."""
    lived_ones = history_stages(floor)
    if not lived_ones:
        return [NO_LIFE]
    last = lived_ones[-1]

    def scattered(given: StageInputs, made: Made[tuple[Swing, ...]]) -> tuple[Swing, ...]:
        return tuple(swings(site_of(given, made, made[BODY]), [made[s] for s in lived_ones], made.tick))

    scatter = Stage(
        "history scatter", _inputs_of(len(lived_ones) - 1, lived_alone=False), scattered, (*last.needs[:7], *lived_ones)
    )

    def sagging(given: tuple[History, float], made: Made[Life]) -> Life:
        history, span_over = given
        stages = [made[s] for s in lived_ones]
        mesh = made[MESH]
        places = sampled(made[LINES], mesh.elements, len(mesh.mesh.xy))
        found = lived_sags(places, history, limits_of(history, span_over), stages, made[scatter], made[BODY])
        return Life(tuple(stages), made[scatter], tuple(found))

    def limits(floor: Floor) -> tuple[History, float]:
        assert floor.history is not None
        return floor.history, floor.deflection.span_over

    return [*lived_ones, scatter, Stage(LIFE, limits, sagging, (*lived_ones, scatter, MESH, LINES, BODY))]


LIFE = "history"
NO_LIFE: Stage[None, Life | None] = Stage(LIFE, lambda floor: None, lambda given, made: None)
"""Of a floor without a history, or before it is computed."""
