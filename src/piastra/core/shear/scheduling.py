"""Links of slabs in the schedule."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from piastra.core.bars.schedule import Scheduled
from piastra.core.beams.bars import BENDS
from piastra.core.model import Floor
from piastra.core.reinforcement.groups import Group
from piastra.core.shear.shear import ShearUse


def links_of_slabs(floor: Floor, uses: Sequence[ShearUse], row: Callable[[ShearUse], str]) -> list[Scheduled]:
    """Single legs with a hook at each end, as many as their grid has on every piece of the floor where they lie; ``row``: the verdict's row of a line."""
    cover = sum(max(getattr(s, f"cover_{face}_mm") for s in floor.slabs) for face in ("top", "bottom")) / 1e3
    out = []
    numbers: dict[str, int] = {}
    for use in uses:
        links = use.links
        if links is None:
            continue
        length = float(use.place.h[0]) - cover + BENDS
        # Across what carries the slab, as the shear runs.
        angle = float(use.angle)
        direction = "x" if abs(np.cos(angle)) >= abs(np.sin(angle)) else "y"
        for piece in links.places:
            count = int(np.ceil(piece.area / (links.along * links.across)))
            # A wall and a beam of one name have marks of their own.
            number = numbers[use.of[1]] = numbers.get(use.of[1], 0) + 1
            mark = f"{use.of[1]}.S{number}"
            group = Group(mark, 0, direction, angle, links.bar, links.along, piece, 0.0, "designed", False)
            out.append(Scheduled(group, "link", count, length, count * length, 0.0, "link", row(use)))
    return out
