"""The stages of a floor's life, one after the other, and what is kept of them."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import partial

import numpy as np
import numpy.typing as npt

from piastra.core.fe.restraints import Restraints
from piastra.core.fe.states import Frozen
from piastra.core.fe.system import System
from piastra.core.history.body import Body
from piastra.core.history.law import GROWTH, Law, Scatter, TimeStep, law_of, steps_of
from piastra.core.history.march import March, Report, State, Trial, beginning, numbers_of
from piastra.core.model.history import History
from piastra.core.standards.ageing_rules import AgeingRules, Climate

Array = npt.NDArray[np.float64]

COLUMN_SIZE = 200.0
"""Notional size (mm) by which columns and walls creep: that of a column of 400 mm."""


@dataclass(frozen=True, slots=True)
class Lasting:
    """One stage of a history: its ``steps`` with the deflections ``w`` (k, n) m at their ends and how each was solved, the ``state`` at the
    stage's end, and of that ``parts`` (2, 4, 2, e): curvatures elastic, of shrinkage,
    uncracked with creep, and all, after the load and at the end; ``steel`` (2, 2, e) kN/m at the end. For the scatter: section
    ``forces`` (k, e, 6) of every step, and the sections' stiffness ``laws`` (2, e, 6, 6) after the load and at the end."""

    steps: tuple[TimeStep, ...]
    w: npt.NDArray[np.float32]
    reports: tuple[Report, ...]
    state: State
    parts: npt.NDArray[np.float32]
    steel: npt.NDArray[np.float32]
    forces: npt.NDArray[np.float32]
    laws: npt.NDArray[np.float32]

    @property
    def converged(self) -> bool:
        """Whether every step was solved."""
        return all(r.converged for r in self.reports)


@dataclass(frozen=True, slots=True)
class Site:
    """What a history is computed with: the ``system``, the ``body``, the standard's concrete over time, the ``history``, the load (n, 5) of each
    stage at a time (days), and the restraints with creep coefficients of the concretes of columns and walls."""

    system: System
    families: tuple[Frozen, ...]
    body: Body
    rules: AgeingRules
    history: History
    load: Callable[[int, float], Array]
    held: Callable[[Mapping[str, float]], Restraints]
    moduli: Mapping[str, float]


def laws_of(site: Site, upto: int, scatter: Scatter, growth: float) -> tuple[list[TimeStep], list[Law]]:
    """Steps of all stages up to one, and the law of every kind of section."""
    steps = [s for k in range(upto + 1) for s in steps_of(site.history, k, growth)]
    return steps, [law_of(site.rules, c, h, site.history, steps, scatter) for c, h in site.body.kinds]


def lived(site: Site, k: int, before: Lasting | None, tick: Callable[[float], None] = lambda share: None) -> Lasting:
    """Stage ``k`` after the one ``before``."""
    steps, laws = laws_of(site, k, Scatter(), GROWTH)
    mine = [i for i, s in enumerate(steps) if s.stage == k]
    state = before.state if before is not None else _beginning(site)
    march = March(site.system, site.families, site.body)
    w, reports, forces, laws_kept, parts = [], [], [], [], []
    trial: Trial | None = None
    try:
        for number, i in enumerate(mine):
            state, trial, report = _stepped(site, march, steps, laws, i, state, Scatter(), partial(tick, number / len(mine)))
            w.append(state.u[:, 2].astype(np.float32))
            reports.append(report)
            forces.append(state.forces.astype(np.float32))
            if number in (0, len(mine) - 1):
                laws_kept.append(trial.law.astype(np.float32))
                parts.append(np.array(trial.parts, dtype=np.float32))
    finally:
        march.close()
    assert trial is not None
    return Lasting(tuple(steps[i] for i in mine), np.array(w), tuple(reports), state, np.array(parts),
                   trial.steel.astype(np.float32), np.array(forces), np.array(laws_kept))  # fmt: skip


def _beginning(site: Site) -> State:
    return beginning(len(site.body.h), len(site.system.mesh.xy))


def _stepped(
    site: Site, march: March, steps: Sequence[TimeStep], laws: Sequence[Law], i: int, state: State, scatter: Scatter, tick: Callable[[], None],
) -> tuple[State, Trial, Report]:  # fmt: skip
    s, history = steps[i], site.history
    march.restrained(replace(site.system, held=_crept(site, s.ends, scatter)))
    numbers = numbers_of(laws, site.body.kind, i, s.ends, history.tension_stiffening)
    return march.step(s, numbers, state, site.load(s.stage, s.ends), tick)


def _crept(site: Site, now: float, scatter: Scatter) -> Restraints:
    """Columns and walls by the effective modulus of what they carry since the first stage."""
    rules, history = site.rules, site.history
    climate = Climate(history.humidity_pct, history.cement, history.cured_days)
    moduli = {}
    for c in {c.id: c for c, _ in site.body.kinds}.values():
        phi = scatter.creep * float(rules.creep(c, np.array([now]), history.stages[0].start_days, COLUMN_SIZE, climate)[0])
        moduli[c.id] = site.moduli[c.id] / (1 + phi)
    return site.held({**site.moduli, **moduli})


AHEAD = 0.5
"""Properties are changed by so many of their standard deviations to see what they do."""


@dataclass(frozen=True, slots=True)
class Swing:
    """By how much one standard deviation of a ``property`` changes the deflections: ``w`` (stages, 2, n) m after the load of each stage and at its end."""

    property: str
    w: npt.NDArray[np.float32]


def swings(site: Site, stages: Sequence[Lasting], tick: Callable[[float], None] = lambda share: None) -> list[Swing]:
    """First-order scatter: each property changed for itself, in sections that follow the forces of the life that was found; then the floor moves by
    what their strains differ, with the stiffness that it has at that time."""
    scatter = site.history.scatter
    names = [n for n in type(scatter).model_fields if getattr(scatter, n) > 0]
    factors = [Scatter(), *(Scatter(**{n: 1 + AHEAD * getattr(scatter, n)}) for n in names)]
    march = March(site.system, site.families, site.body)
    strains = []
    for number, f in enumerate(factors):
        strains.append(_followed(site, march, stages, f, partial(_within, tick, number, len(factors))))
    nodes = len(site.system.mesh.xy)
    w = np.zeros((len(names), len(stages), 2, nodes), dtype=np.float32)
    try:
        for k, lived_one in enumerate(stages):
            for end, step in enumerate((lived_one.steps[0], lived_one.steps[-1])):
                march.restrained(replace(site.system, held=_crept(site, step.ends, Scatter())))
                changes = [(own[k][end] - strains[0][k][end]) / AHEAD for own in strains[1:]]
                if changes:
                    w[:, k, end] = march.moved(lived_one.laws[end].astype(np.float64), changes)[:, 2].T
    finally:
        march.close()
    return [Swing(n, own) for n, own in zip(names, w, strict=True)]


def _within(tick: Callable[[float], None], number: int, count: int, share: float) -> None:
    tick((number + share) / count)


def _followed(
    site: Site, march: March, stages: Sequence[Lasting], scatter: Scatter, tick: Callable[[float], None]
) -> list[tuple[Array, Array]]:
    """Strains (e, 6) of sections of other properties after the load of each stage and at its end."""
    steps, laws = laws_of(site, len(stages) - 1, scatter, GROWTH)
    forces = np.concatenate([s.forces for s in stages])
    state = _beginning(site)
    out: list[list[Array]] = [[] for _ in stages]
    for i, s in enumerate(steps):
        tick(i / len(steps))
        numbers = numbers_of(laws, site.body.kind, i, s.ends, site.history.tension_stiffening)
        state, trial = march.followed(numbers, state, forces[i].astype(np.float64))
        if s.jump or i + 1 == len(steps) or steps[i + 1].jump:
            out[s.stage].append(trial.strain)
    return [(own[0], own[-1]) for own in out]
