"""Mass of bars over the mass of what provisions ask for, by its parts: ``python -m tests.core.measure_steel``.

The demand is the greatest of the provisions at the stations of the strips, integrated over the floor and both faces. Of the bars: mats, extra bars with
what their anchorage takes of them, bars through columns, laps; beams and links apart.
"""

from collections import Counter

import numpy as np
from scipy.ndimage import maximum_filter1d

from piastra.core import pipeline
from piastra.core.bars.design import asked_of
from piastra.core.bars.schedule import DENSITY
from piastra.core.model import Floor
from piastra.demo.saltmarsh import floors


def demand(outcome: pipeline.Outcome, shifted: bool = False) -> float:
    """kg; ``shifted``: at each place the most that is asked for within the shift of the tension (EN 1992-1-1, 9.2.1.3 (2); ACI 318-19, 7.7.3.3)."""
    cuts, stations, total, step = outcome.strips.cuts, outcome.steel.stations, 0.0, 0.02
    assert stations is not None
    for k, strip in enumerate(outcome.strips.layout.strips):
        mine = np.flatnonzero(cuts.strip == k)
        mine = mine[np.argsort(cuts.s[mine])]
        if strip.beam or len(mine) < 2:
            continue
        # Stations end at the faces of supports; what lies between is as what lies beside.
        reach = strip.outline.area / np.trapezoid(cuts.width[mine], cuts.s[mine])
        s = np.arange(cuts.s[mine[0]], cuts.s[mine[-1]], step)
        width = np.interp(s, cuts.s[mine], cuts.width[mine])
        for asked, own in zip(asked_of(stations)[:, mine], stations.faces, strict=True):
            there = np.interp(s, cuts.s[mine], asked)
            if shifted:
                there = maximum_filter1d(there, 2 * round(float(own.at.d[mine].mean()) / step) + 1)
            total += reach * step * float((there * width).sum())
    return DENSITY * total


def parts(outcome: pipeline.Outcome) -> Counter[str]:
    """kg of bars by what they are for."""
    found: Counter[str] = Counter()
    for b in pipeline.scheduled(outcome):
        group, bare = b.group, b.mass - b.laps_kg
        found["laps"] += b.laps_kg
        if b.row:
            found["beams and links"] += bare
        elif group.origin == "mat" or group.anchored <= 0:
            found["mats"] += bare
        elif group.why and group.why[0].provision == "integrity":
            found["through columns"] += bare
        else:
            anchored = min(2 * group.anchored * b.count * b.kg_m, bare)
            found["anchorage of extra bars"] += anchored
            found["extra bars"] += bare - anchored
    return found


def told(name: str, floor: Floor) -> None:
    """One line of figures."""
    outcome = pipeline.solve_floor(floor, remedies=False, rigorous=False)
    asked, moved, there = demand(outcome), demand(outcome, shifted=True), parts(outcome)
    own = sum(there[k] for k in ("mats", "extra bars"))
    ends = own + there["anchorage of extra bars"] + there["through columns"]
    print(
        f"{name}: asked {asked:.0f} kg; {', '.join(f'{k} {v:.0f}' for k, v in there.items())}; ratio {own / asked:.2f} ({own / moved:.2f} to the shifted demand), with anchorage {ends / asked:.2f}"
    )


if __name__ == "__main__":
    for each in floors():
        if each.design_bars:
            told(each.name, each)
            told(f"{each.name}, mats proposed", each.model_copy(update={"mats": []}))
