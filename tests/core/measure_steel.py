"""Mass of bars over the mass of what provisions ask for, by its parts: ``python -m tests.core.measure_steel``.

The demand is the greatest of the provisions at the stations of the strips, integrated over the floor and both faces. Of the bars: mats, extra bars with
what their anchorage takes of them, bars through columns, laps; beams and links apart.
"""

from collections import Counter

import numpy as np

from piastra.core import pipeline
from piastra.core.bars.design import asked_of
from piastra.core.bars.schedule import DENSITY
from piastra.core.model import Floor
from piastra.demo.saltmarsh import floors


def demand(outcome: pipeline.Outcome) -> float:
    """kg."""
    cuts, stations, total = outcome.strips.cuts, outcome.steel.stations, 0.0
    assert stations is not None
    asked = asked_of(stations).sum(axis=0) * cuts.width
    for k, strip in enumerate(outcome.strips.layout.strips):
        mine = np.flatnonzero(cuts.strip == k)
        mine = mine[np.argsort(cuts.s[mine])]
        if not strip.beam and len(mine) > 1:
            # Stations end at the faces of supports; what lies between is as what lies beside.
            reach = strip.outline.area / np.trapezoid(cuts.width[mine], cuts.s[mine])
            total += reach * float(np.trapezoid(asked[mine], cuts.s[mine]))
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
    asked, there = demand(outcome), parts(outcome)
    own = sum(there[k] for k in ("mats", "extra bars"))
    ends = own + there["anchorage of extra bars"] + there["through columns"]
    print(
        f"{name}: asked {asked:.0f} kg; {', '.join(f'{k} {v:.0f}' for k, v in there.items())}; ratio {own / asked:.2f}, with anchorage {ends / asked:.2f}"
    )


if __name__ == "__main__":
    for each in floors():
        if each.design_bars:
            told(each.name, each)
            told(f"{each.name}, mats proposed", each.model_copy(update={"mats": []}))
