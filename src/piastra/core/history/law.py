"""The times at which a history is computed, and a concrete's numbers at them.

TimeStep by step (Bažant 1972, trapezoidal rule): a stress increment of step j acts half from its beginning and half from its end,
so that stress and strain of step k obey ``sigma_k = sigma_(k-1) + E_k (eps_k - eps*_k)`` with the free strain ``eps*_k`` of all that was before.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.model.history import History
from piastra.core.model.materials import Concrete
from piastra.core.standards.ageing_rules import AgeingRules, Climate

Array = npt.NDArray[np.float64]

FIRST = 1.0
"""Days that the first step after a load takes at most."""
GROWTH = 2.5
"""By how much each step is longer than the one before."""


@dataclass(frozen=True, slots=True)
class TimeStep:
    """From ``begins`` to ``ends``, days; the load of ``stage`` comes in the step that takes no time."""

    begins: float
    ends: float
    stage: int

    @property
    def jump(self) -> bool:
        """Whether it is the load that comes."""
        return self.begins == self.ends


def steps_of(history: History, k: int, growth: float = GROWTH, first: float = FIRST) -> list[TimeStep]:
    """The steps of stage ``k``: its load, then steps that grow geometrically."""
    start, end = history.stages[k].start_days, history.until(k)
    long = end - start
    count = max(1, int(np.ceil(np.log(1 + long * (growth - 1) / first) / np.log(growth))))
    ends = start + long * (growth ** np.arange(count + 1) - 1) / (growth**count - 1)
    ends[-1] = end
    pairs = zip(ends[:-1].tolist(), ends[1:].tolist(), strict=True)
    return [TimeStep(start, start, k), *(TimeStep(a, b, k) for a, b in pairs)]


@dataclass(frozen=True, slots=True)
class Scatter:
    """Factors by which properties are other than their means."""

    modulus: float = 1.0
    tension: float = 1.0
    creep: float = 1.0
    shrinkage: float = 1.0


@dataclass(frozen=True, slots=True)
class Law:
    """Of one concrete in one thickness, at K steps: ``stiff`` (K,) kN/m2, E_k of the rule above; ``elastic`` (K,) the strain of a stress increment
    of one, 1/(kN/m2); ``creep`` (K, K) what creep adds by step k to the increment of step j (nil for k <= j); ``shrinkage`` (K,) positive
    where it shortens; ``tension`` (K,) and ``strength`` (K,) kN/m2."""

    stiff: Array
    elastic: Array
    creep: Array
    shrinkage: Array
    tension: Array
    strength: Array


def law_of(
    rules: AgeingRules, concrete: Concrete, h: float, history: History, steps: list[TimeStep], scatter: Scatter = Scatter()
) -> Law:
    """The numbers of a concrete in slabs ``h`` m thick, which dry from both faces (h_0 = h)."""
    climate = Climate(history.humidity_pct, history.cement, history.cured_days)
    h0 = 1e3 * h
    begins, ends = np.array([s.begins for s in steps]), np.array([s.ends for s in steps])
    by_E, by_creep, by_shrinkage = scales(rules, concrete, h0, climate)
    moduli = [by_E * scatter.modulus * rules.modulus(concrete, t, climate) for t in (begins, ends)]
    elastic = (1 / moduli[0] + 1 / moduli[1]) / 2
    count = len(steps)
    creep = np.zeros((count, count))
    own = np.zeros(count)
    for j, s in enumerate(steps):
        for t0 in (s.begins, s.ends):
            unit = by_creep * scatter.creep / (by_E * scatter.modulus * rules.reference(concrete, t0, climate))
            found = unit * rules.creep(concrete, ends[j:], t0, h0, climate) / 2
            own[j] += found[0]
            creep[j + 1 :, j] += found[1:]
    shrinkage = by_shrinkage * scatter.shrinkage * rules.shrinkage(concrete, ends, h0, climate)
    tension = scatter.tension * rules.tension(concrete, ends, h, history.tension, climate)
    return Law(1 / (elastic + own), elastic, creep, shrinkage, tension, rules.strength(concrete, ends, climate))


def scales(rules: AgeingRules, concrete: Concrete, h0: float, climate: Climate) -> tuple[float, float, float]:
    """By how much the standard's modulus, creep and shrinkage are scaled to pass through what a laboratory found. Its creep coefficient is
    the creep over the elastic strain of the same specimen when it was loaded."""
    by_E = by_creep = by_shrinkage = 1.0
    if (at := concrete.E_at) is not None:
        by_E = 1e3 * at.MPa / float(rules.modulus(concrete, np.array(at.days), climate))
    if (found := concrete.creep_at) is not None:
        phi = float(rules.creep(concrete, np.array([found.days]), found.loaded_days, h0, climate)[0])
        modulus = float(rules.modulus(concrete, np.array(found.loaded_days), climate))
        by_creep = found.value / (phi * modulus / rules.reference(concrete, found.loaded_days, climate))
    if (measured := concrete.shrinkage_at) is not None:
        free = float(rules.shrinkage(concrete, np.array([measured.days]), h0, climate)[0])
        if free > 0:
            by_shrinkage = 1e-6 * measured.microstrain / free
    return by_E, by_creep, by_shrinkage
