"""The quick estimate of long-term deflection: curvatures interpolated once, with an effective modulus and all of the shrinkage.

EN 1992-1-1, 7.4.3 (3) to (6): the load that lasts comes at once, creep makes the modulus E / (1 + phi), and half of the tension stiffening is gone.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from piastra.core.fe.states import Frozen
from piastra.core.fe.system import System
from piastra.core.history.body import Body
from piastra.core.history.march import March, Numbers, Trial, beginning, tension
from piastra.core.loads.vectors import LoadVectors
from piastra.core.model.history import History
from piastra.core.standards.ageing_rules import AgeingRules, Climate

Array = npt.NDArray[np.float64]

BETA = 0.5
"""(7.19): for sustained loads."""
ROUNDS = 16
"""Solutions at most; each begins with the forces of the one before, the first with those of uncracked sections."""
SETTLED = 0.003
"""They end when deflections change by less than this share of the greatest."""
NEAR = 0.25
"""Solutions between are as near as this share of what they move deflections."""
STILL = 0.02
"""An estimate that the last solution moved by more than this share is none."""
PART = 0.01
"""A section of which this share is cracked has cracked."""
SOLVED = 24
"""Columns solved at once."""
ORDINARY = History.model_construct(humidity_pct=50.0, cement="N", cured_days=7.0, end_days=10950.0, tension="mean", stages=[])
"""Where no history says otherwise."""


@dataclass(frozen=True, slots=True)
class Estimate:
    """Long-term deflections ``w`` (n, r + 1) m of all unit loads with the sections as they are cracked, and last of what does not follow the load
    (shrinkage). ``cracked`` (2, e), ``worst`` (2, e) tension over strength, ``bare``: where (e,) a section cracks in a face without bars; ``parts``
    (4, 2, e) curvatures elastic, of shrinkage, uncracked with creep, and all. ``change``: by what share of the greatest the last solution still moved
    deflections; ``lost`` (e,): cracked sections that found no equilibrium."""

    w: Array
    cracked: npt.NDArray[np.bool_]
    worst: Array
    bare: npt.NDArray[np.bool_]
    parts: Array
    change: float
    lost: npt.NDArray[np.bool_]

    @property
    def rests(self) -> bool:
        """Whether solutions came to rest."""
        return _rests(self.change)


def numbers_for(rules: AgeingRules, body: Body, moduli: dict[str, float], history: History) -> Numbers:
    """The one step's numbers of all elements."""
    climate = Climate(history.humidity_pct, history.cement, history.cured_days)
    now, old = np.array([28.0]), np.array([history.end_days])

    def of(values: Sequence[float]) -> Array:
        return np.array(values)[body.kind]

    elastic = of([1 / moduli[c.id] for c, _ in body.kinds])
    creep = of([1 + c.creep_coefficient for c, _ in body.kinds])
    shrinkage = of([float(rules.shrinkage(c, old, 1e3 * h, climate)[0]) for c, h in body.kinds])
    tension = of([float(rules.tension(c, now, h, history.tension, climate)[0]) for c, h in body.kinds])
    strength = of([1e3 * c.strength_MPa for c, _ in body.kinds])
    return Numbers(
        1 / (elastic * creep), elastic, np.zeros((0, len(body.h))), shrinkage, tension, strength, history.end_days, True, BETA
    )


def estimate(
    system: System, families: tuple[Frozen, ...], body: Body, numbers: Numbers, loads: LoadVectors, full: Array, elastic: Array,
    tick: Callable[[], None] = lambda: None,
) -> Estimate:  # fmt: skip
    """Deflections of all unit ``loads`` with the sections as the combination ``full`` (r,) cracks them; ``elastic`` (n, 5) are its
    displacements with uncracked sections and the moduli at 28 days, which give the first forces. ``tick`` is called before each solution; it may raise."""
    march = _march(system, families, body)
    try:
        u, forces, trial, change = _bent(march, numbers, loads.combined(full), _first(families, elastic), tick)
        w = _of_units(march, loads, full, u[:, 2], tick)
    finally:
        march.close()
    worst = np.where(body.cracks, tension(body.h, trial.now[0], forces[:, 5]) / numbers.tension, 0.0)
    # A section just at its cracking moment is open in part: the last forces may lie a little below.
    opened = (worst > 1) | (trial.zeta > PART)
    bottom = trial.now[0][..., 1] > 0
    bare = (opened & np.where(bottom, body.bare[0], body.bare[1])).any(axis=0)
    return Estimate(
        w,
        opened,
        worst,
        bare,
        np.array(trial.parts),
        change,
        np.asarray(trial.lost.any(axis=0)),
    )


class Changed:
    """Deflections of one floor with other sections, again and again: the solver's analysis is made once. To be closed. ``tick`` is called before each
    solution; it may raise."""

    def __init__(self, tick: Callable[[], None] = lambda: None) -> None:
        self._march: March | None = None
        self._tick = tick

    def deflected(
        self, system: System, families: tuple[Frozen, ...], body: Body, numbers: Numbers, loads: LoadVectors, full: Array, more: Array, elastic: Array
    ) -> Array | None:  # fmt: skip
        """Deflections (n, r + 1) m as those of :func:`estimate`, where every unit load is heavier by its part of ``more`` (n, 5, r). None where solutions
        do not come to rest, or a section finds no equilibrium: then nothing is known of them."""
        march = _march(system, families, body)
        if self._march is not None:
            march.follow(self._march)
        self._march = march
        u, _, trial, change = _bent(march, numbers, loads.combined(full) + more @ full, _first(families, elastic), self._tick)
        if not _rests(change) or trial.lost.any():
            return None
        return _of_units(march, loads, full, u[:, 2], self._tick, more)

    def close(self) -> None:
        """Give the factorisation's memory back."""
        if self._march is not None:
            self._march.close()


def _rests(change: float) -> bool:
    return bool(np.isfinite(change)) and change <= STILL


def _march(system: System, families: tuple[Frozen, ...], body: Body) -> March:
    # Without any bars a cracked section has no strength to bend with: the sections stay uncracked, and it is told where they would not.
    return March(system, families, replace(body, cracks=body.cracks & ~body.bare.all()), once=True)


def _of_units(
    march: March, loads: LoadVectors, full: Array, w: Array, tick: Callable[[], None], more: Array | None = None
) -> Array:
    """Deflections (n, r + 1) m of the unit loads, each with its part of ``more`` (n, 5, r), and last what of ``w`` (n,) under ``full`` (r,) does not follow
    the load."""
    # Some columns at once: all of them would take the room of the whole solution again.
    blocks = np.array_split(np.arange(len(full)), max(1, -(-len(full) // SOLVED)))
    made = []
    for k in blocks:
        tick()
        made.append(march.units(loads.vectors(k) if more is None else loads.vectors(k) + more[..., k])[:, 2])
    units = np.concatenate(made, axis=1)
    return np.column_stack([units, w - units @ full])


def _first(families: tuple[Frozen, ...], elastic: Array) -> Array:
    """Forces (e, 6) of uncracked sections under the displacements ``elastic`` (n, 5)."""
    return np.concatenate([(f.elastic_law() @ f.strains(elastic)[..., None])[..., 0] for f in families])


def _bent(
    march: March, numbers: Numbers, load: Array, forces: Array, tick: Callable[[], None]
) -> tuple[Array, Array, Trial, float]:
    """Displacements, forces, sections and the last change, under a ``load`` (n, 5), from first ``forces`` (e, 6) on."""
    state = beginning(len(numbers.stiff), len(load))
    stars = tuple(np.zeros_like(v) for v in state.now)
    trial = march.trial(numbers, state, stars, forces, None)
    u, forces, strain = march.solve(load, trial, forces)
    change = np.inf
    for last in range(ROUNDS - 2, -1, -1):
        tick()
        trial, before, borne = march.trial(numbers, state, stars, forces, trial, strain), u, forces
        u, forces, strain = march.solve_near(load, trial, borne, NEAR)
        change = _moved(u, before)
        if change < SETTLED or not last:
            # What is told comes of the last sections' own stiffness, and so do the unit loads' deflections.
            u, forces, strain = march.solve(load, trial, borne)
            change = _moved(u, before)
        if change < SETTLED:
            break
    return u, forces, trial, change


def _moved(u: Array, before: Array) -> float:
    """By what share of the greatest deflections have changed."""
    return float(np.abs(u[:, 2] - before[:, 2]).max() / max(np.abs(u[:, 2]).max(), 1e-9))
