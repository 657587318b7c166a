"""Losses of tendons: what the floor's shortening takes when others are stressed, and what time takes."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import partial

import numpy as np
import numpy.typing as npt

from piastra.core.model import Floor
from piastra.core.model.tendon_curve import Curve
from piastra.core.standards.prestress_rules import LossPlaces, PrestressRules
from piastra.core.tendons.effects import Threads
from piastra.core.tendons.friction import Stressed
from piastra.core.trace import Step

Array = npt.NDArray[np.float64]

SEQUENCE = 0.5
"""Of many tendons stressed one after another each loses half of what the first one does (EN 1992-1-1, 5.10.5.1 (2))."""


ANCHORS = 1.5
"""So far (m) from its ends a tendon does not read the concrete's strain, which its own anchor disturbs there; at most a quarter of it."""


@dataclass(frozen=True, slots=True)
class Loss:
    """Of one tendon: the loss of stress by elastic ``shortening`` and by ``time`` (n,) MPa at the places of its curve, the forces
    (n,) kN that these leave at ``transfer`` and in the end (``final``), and the steps of the long-term loss, where it is computed."""

    shortening: Array
    time: Array
    transfer: Array
    final: Array
    steps: Callable[[], tuple[Step, ...]]


def losses(
    floor: Floor, rules: PrestressRules, moduli: Mapping[str, float], curves: Sequence[Curve], forces: Sequence[Stressed], t: Threads,
    concrete: npt.NDArray[np.int64], strain: Array, own: Array, lasting: Array, h: Array, z: Array,
) -> tuple[Loss, ...]:  # fmt: skip
    """Losses of every tendon.

    At the sampling points of ``t``: the number of the ``concrete`` (q,), strains (q,) by the modulus of the analysis (``moduli``, kN/m2)
    beside the tendon under the locked forces, in the middle plane (``own``), and beside the tendon under ``lasting`` loads; thickness
    ``h`` and distance ``z`` (q,) m from the middle plane. The floor's own restraint is in the strains. An unbonded tendon has one
    loss all along, from the means of these; a bonded one its own at every place.
    """
    strands = {s.id: s for s in floor.strands}
    how, out = floor.prestress, []
    for k, tendon in enumerate(floor.tendons):
        strand, c, P = strands[tendon.strand], curves[k], forces[k].locked
        mine = np.flatnonzero(t.tendon == k)
        mine = mine[np.argsort(t.s[mine], kind="stable")]
        area = tendon.count * strand.area_mm2 * 1e-3
        its = floor.concretes[int(np.bincount(concrete[mine]).argmax())]
        E = moduli[its.id] / 1e3
        _, E_t = rules.at_transfer(its, how)
        unbonded = strand.bond == "unbonded"
        weight = t.length[mine] / t.length[mine].sum()

        z0 = min(ANCHORS, c.length / 4)
        inner = mine[(t.s[mine] > z0) & (t.s[mine] < c.length - z0)]
        nearest = inner[np.clip(np.searchsorted(t.s[inner], t.s[mine]), 0, len(inner) - 1)]

        def spread(values: Array, mine: npt.NDArray[np.int64] = mine, weight: Array = weight, whole: bool = unbonded) -> Array:
            """What counts of values (q,) at the tendon's own points."""
            return np.array([float(weight @ values[mine])]) if whole else values[mine]

        def smooth(values: Array, mine: npt.NDArray[np.int64] = mine, nearest: npt.NDArray[np.int64] = nearest) -> Array:
            out = values.copy()
            out[mine] = values[nearest]
            return out

        beside, middle = smooth(strain), smooth(own)

        share = SEQUENCE if how.elastic == "half" else 0.0
        e_locked = spread(beside)
        short = np.maximum(-share * strand.E_MPa * E / E_t * e_locked, 0.0)
        stress = spread(np.interp(t.s, c.s, P / area))
        after = stress - short
        # What is left at transfer strains the floor in proportion.
        left = np.where(stress > 0, after / np.maximum(stress, 1e-12), 0.0)
        if how.long_term_loss == "computed":
            arm = np.sqrt(spread(z**2))
            places = LossPlaces(
                strand, its, how, E, after, e_locked * left + spread(lasting), spread(middle) * left, spread(h), arm, short
            )
            found = rules.long_term(places)
            time, explain = found.loss, found.steps
            steps: Callable[[], tuple[Step, ...]] = partial(explain, int(time.argmax()))
        else:
            time = np.full_like(after, how.long_term_loss.MPa)
            steps = tuple
        if unbonded:
            short_at, time_at = (np.full(len(c.s), float(v[0])) for v in (short, time))
        else:
            short_at, time_at = (np.interp(c.s, t.s[mine], v) for v in (short, time))
        transfer = np.maximum(P - area * short_at, 0.0)
        out.append(Loss(short_at, time_at, transfer, np.maximum(transfer - area * time_at, 0.0), steps))
    return tuple(out)
