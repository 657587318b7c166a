"""Arrangements of pattern load that standards name, over panels of any shape."""

from __future__ import annotations

from collections import deque
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from piastra.core.geometry.axes import Held
from piastra.core.loads.vectors import Unit

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]
Panels = tuple[tuple[str, Polygon], ...]

COMMON = 1.0
"""Panels are neighbours if they share so much (m) of a border."""
TOUCH = 0.35
"""A support within this distance (m) of a panel holds it up."""


@dataclass(frozen=True, slots=True)
class Arrangement:
    """One choice of loaded panels: its name, the ``rules`` that lead to it (all, alternate, strips, around a support),
    and the ``share`` of the live load on them."""

    name: str
    rules: frozenset[str]
    panels: frozenset[str]
    share: float = 1.0


def places_of(panels: Panels, angle: float) -> Ints:
    """Column and row (k, 2) of every panel, counted from neighbour to neighbour along ``angle`` (rad) and across.

    Pieces of a floor that do not touch are counted apart. In an irregular floor a panel's number follows the
    shortest way to it.
    """
    shapes = [p for _, p in panels]
    turn = np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]])
    at = np.array([[p.centroid.x, p.centroid.y] for p in shapes]).reshape(-1, 2) @ turn.T
    tree = shapely.STRtree(shapes)
    next_to: list[list[tuple[int, int, int]]] = [[] for _ in shapes]
    for i, j in zip(*tree.query(shapes, predicate="dwithin", distance=0.02).tolist(), strict=True):
        if i == j:
            continue
        border = shapes[i].buffer(0.02).intersection(shapes[j].boundary)
        if border.length < COMMON:
            continue
        xy = shapely.get_coordinates(border) @ turn.T
        wide, high = xy.max(axis=0) - xy.min(axis=0)
        # A border that runs across the direction has the neighbour before or behind it.
        step = (int(np.sign(at[j, 0] - at[i, 0])), 0) if high >= wide else (0, int(np.sign(at[j, 1] - at[i, 1])))
        next_to[i].append((j, *step))
    place = np.full((len(shapes), 2), np.iinfo(np.int64).min)
    for start in np.lexsort((at[:, 0], at[:, 1])):
        if place[start, 0] != np.iinfo(np.int64).min:
            continue
        place[start] = 0
        open_ends = deque([int(start)])
        while open_ends:
            i = open_ends.popleft()
            for j, dx, dy in next_to[i]:
                if place[j, 0] == np.iinfo(np.int64).min:
                    place[j] = place[i] + (dx, dy)
                    open_ends.append(j)
    return place


def arrangements(panels: Panels, angle: float, supports: Sequence[Held]) -> list[Arrangement]:
    """All, both chequerboards, alternate strips and two adjacent strips in each direction, and the panels around each
    support; each choice of panels once. A standard says which of them it asks for.
    """
    if not panels:
        return []
    labels = [label for label, _ in panels]
    place = places_of(panels, angle)
    column, row = place[:, 0], place[:, 1]
    found: list[tuple[str, str, npt.NDArray[np.bool_]]] = [("all panels", "all", np.ones(len(labels), dtype=bool))]
    found += [(f"chequerboard {name}", "alternate", (column + row) % 2 == k) for k, name in enumerate("AB")]
    for name, number in (("x", column), ("y", row)):
        found += [(f"alternate along {name}, {which}", "alternate", number % 2 == k) for k, which in enumerate("AB")]
    for name, number in (("x", column), ("y", row)):
        for k in range(int(number.min()), int(number.max())):
            # Strips are named by a panel in each: numbers of strips are nowhere to be seen.
            pair = [labels[int(np.flatnonzero(number == n)[0])] for n in (k, k + 1) if (number == n).any()]
            found.append((f"{name} strips at {'–'.join(pair)}", "strips", (number == k) | (number == k + 1)))
    shapes: list[BaseGeometry] = [p for _, p in panels]
    by_label: dict[str, list[BaseGeometry]] = {}
    for held in supports:
        by_label.setdefault(held.label, []).append(held.shape)
    for label, parts in by_label.items():
        near = shapely.dwithin(np.array(shapes, dtype=object), shapely.union_all(parts), TOUCH)
        found.append((f"around {label}", "around", near))
    # Several rules may lead to one choice of panels: it is told once, and belongs to all of them.
    out: dict[frozenset[str], Arrangement] = {}
    for name, rule, on in found:
        chosen = frozenset(label for label, o in zip(labels, on, strict=True) if o)
        if chosen in out:
            out[chosen] = replace(out[chosen], rules=out[chosen].rules | {rule})
        elif chosen:
            out[chosen] = Arrangement(name, frozenset({rule}), chosen)
    return list(out.values())


def shares_of(found: Sequence[Arrangement], units: Sequence[Unit]) -> Array:
    """Share (a, r) of each unit's load that is on in each arrangement, with none of it in a last one.

    A pattern case without panels, and what lies beside the panels, counts as on throughout.
    """
    out = np.zeros((len(found) + 1, len(units)))
    for a, arrangement in enumerate(found):
        for k, unit in enumerate(units):
            if unit.panel is None or unit.panel == "beside the panels":
                out[a, k] = 1.0
            elif not arrangement.panels.isdisjoint(unit.panels):
                out[a, k] = arrangement.share
    return out
