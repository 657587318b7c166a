"""Shear that joins a compressed flange to its web, and the bars across that carry it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.beams.design import BeamDesign
from piastra.core.combine.envelope import envelopes, governing_panels
from piastra.core.loads.vectors import Unit
from piastra.core.standards.beam_rules import FlangePlaces
from piastra.core.standards.situations import Acting, Situation
from piastra.core.strips.cuts import Cuts
from piastra.core.trace import Loaded

Array = npt.NDArray[np.float64]

SIDE = 0.01
"""Bars are read so far (m) beside the web's face."""

Bars = Callable[[Array, Array], tuple[Array, Array]]
"""Of points (k, 2) m and directions (k,) rad: bars of both faces (k,) m2/m that lie there, and what bending asks for (k,) m2/m in the face that
asks for more."""


@dataclass(frozen=True, slots=True)
class FlangeUse:
    """The worst part of one span (number of its ``strip``): ``change`` kN of the flange's force over ``length`` m at the ``station``, under a
    ``combination`` with its ``panels``; ``share`` of the whole compression that is in this flange, ``lever`` m; what the rules read (``place``)."""

    strip: int
    station: float
    at: tuple[float, float]
    utilisation: float
    change: float
    length: float
    share: float
    lever: float
    combination: str
    panels: tuple[Loaded, ...]
    place: FlangePlaces
    situation: Situation | None = None


def flange_uses(acting: Acting, cuts: Cuts, design: BeamDesign, bars: Bars, units: Sequence[Unit]) -> list[FlangeUse]:
    """The worst part in one design situation of every span whose steel counts on a flange. Stations that lie closer than the beam is deep make one part: well within
    half of the way from no moment to the greatest, over which a standard may let the shear be a mean (EN 1992-1-1, 6.2.4 (3))."""
    s, combinations = design.sections, acting.combinations
    rules = acting.standard.beams.joint if acting.standard.beams else None
    if rules is None:
        return []
    strip = cuts.strip[s.cuts]
    out = []
    for number in design.bars:
        worst: FlangeUse | None = None
        for face in (0, 1):
            own = design.faces[face]
            b, h_f = s.compressed(face == 0)
            mine = np.flatnonzero(strip == number)
            mine = mine[np.argsort(cuts.s[s.cuts[mine]])]
            if not ((b[mine] > s.b_w[mine] + 1e-6) & (own.M[mine] > 0)).any():
                continue
            top = int(mine[own.M[mine].argmax()])
            place, sign = cuts.s[s.cuts[mine]], 1.0 if face == 0 else -1.0
            for i, j in _parts(place, min(float(s.H[top]), float(np.ptp(place)) / 6)):
                first, last = int(mine[i]), int(mine[j])
                # Where the flange ends within the part, it is the end that has more of it that counts.
                share = [s.wider[k] / b[k] if b[k] > s.b_w[k] + 1e-6 else 0.0 for k in (first, last)]
                wide = max(share)
                if max(own.M[first], own.M[last]) <= 0 or wide <= 0:
                    continue
                moment = sign * (cuts.forces[s.cuts[last], 0] - cuts.forces[s.cuts[first], 0])
                change = wide * moment / float(own.lever[top])
                low, high = (side[0] for side in envelopes(change[None], combinations))
                size = np.maximum(high, -low)
                c = int(size.argmax())
                found = _at(acting, cuts, design, first, last, h_f, bars, float(size[c]), float(place[j] - place[i]))
                use = float(rules.use(found)[0])
                if worst is None or use > worst.utilisation:
                    middle = (cuts.ends[s.cuts[first]].mean(axis=0) + cuts.ends[s.cuts[last]].mean(axis=0)) / 2
                    worst = FlangeUse(
                        number, float(place[i] + place[j]) / 2, (float(middle[0]), float(middle[1])), use, float(size[c]),
                        float(place[j] - place[i]), float(wide), float(own.lever[top]), combinations[c].combination,
                        governing_panels(change, combinations[c], units, greatest=bool(high[c] >= -low[c])), found, acting.situation,
                    )  # fmt: skip
        if worst is not None:
            out.append(worst)
    return out


def _parts(s: Array, least: float) -> list[tuple[int, int]]:
    """Pairs of stations at ``s`` (k,) m, each with the next one that lies ``least`` m further; the last ones back to the end."""
    pairs = []
    for i in range(len(s) - 1):
        j = int(np.searchsorted(s, s[i] + least - 1e-9))
        pairs.append(
            (i, j) if j < len(s) else (max(int(np.searchsorted(s, s[-1] - least + 1e-9, side="right")) - 1, 0), len(s) - 1)
        )
    return sorted(set(pairs))


def _at(
    acting: Acting, cuts: Cuts, design: BeamDesign, first: int, last: int, h_f: Array, bars: Bars, change: float, length: float
) -> FlangePlaces:
    """What the rules read: the fewest bars across, to either side of the web at both ends and in the middle."""
    s = design.sections
    a, b = (cuts.ends[s.cuts[k]].mean(axis=0) for k in (first, last))
    along = float(cuts.angle[s.cuts[first]])
    side = np.array([-np.sin(along), np.cos(along)]) * (s.b_w[first] / 2 + SIDE)
    spots = np.array([p + k * side for p in (a, (a + b) / 2, b) for k in (1.0, -1.0)])
    laid, bent = bars(spots, np.full(len(spots), along + np.pi / 2))
    short = int((laid - bent).argmin())
    concrete, rebar = acting.pairs(design.materials)[int(design.kind[first])]
    one = np.array([min(h for h in (float(h_f[first]), float(h_f[last])) if h > 0)])
    return FlangePlaces(
        np.array([change / (float(one[0]) * length)]), one, np.array([laid[short]]), np.array([bent[short]]), concrete, rebar
    )
