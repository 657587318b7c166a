"""Panels so far apart that the live load on one does nothing where the other's matters share one load vector."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from piastra.core.combine.arrangements import Panels, places_of

MANY = 60
"""Up to so many panels each has a vector of its own, unless sharing is asked for."""
COLUMNS, ROWS, ASIDE = 10, 8, 4
"""Panels that share lie so many columns from each other in one row, or so many rows, and then so many columns aside: staggered, the nearest are nine
bays apart in every direction. What a panel causes dies away fastest across both directions, so that 80 vectors do what a square of ten by ten does with
100. All are even, so that alternate panels stay alternate."""
NEAR = 6.5
"""Panels that share also lie apart by so many sides of a typical panel: rows of an irregular floor may bend."""


def shared(panels: Panels, angle: float) -> tuple[tuple[str, ...], ...]:
    """Labels of the panels in groups, each of which shares a vector; every panel is in one group, alone in many of them.

    ``angle`` (rad) is the direction along which panels are counted.
    """
    if not panels:
        return ()
    column, row = places_of(panels, angle).T
    place = np.stack([(column - ASIDE * (row // ROWS)) % COLUMNS, row % ROWS], axis=1)
    shapes = np.array([p for _, p in panels], dtype=object)
    least = NEAR * float(np.sqrt(np.median(shapely.area(shapes))))
    groups: dict[tuple[int, int], list[list[int]]] = {}
    for k, (x, y) in enumerate(place.tolist()):
        alike = groups.setdefault((x, y), [])
        for group in alike:
            if shapely.distance(shapes[group], shapes[k]).min() >= least:
                group.append(k)
                break
        else:
            alike.append([k])
    found = sorted(group for alike in groups.values() for group in alike)
    return tuple(tuple(panels[k][0] for k in group) for group in found)


def alone(panels: Panels) -> tuple[tuple[str, ...], ...]:
    """Every panel by itself."""
    return tuple((label,) for label, _ in panels)


def wanted(choice: str, count: int) -> bool:
    """Whether panels share: ``choice`` ``auto``, ``never`` or ``always``, for so many panels."""
    return choice == "always" or (choice == "auto" and count > MANY)


def most_shared(groups: Sequence[Sequence[str]]) -> int | None:
    """Number of the group with the most panels; None where none has two."""
    most = max(range(len(groups)), key=lambda k: len(groups[k]), default=None)
    return most if most is not None and len(groups[most]) > 1 else None
