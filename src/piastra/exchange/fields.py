"""Result fields for drawing, as one binary array: little-endian float32 with a JSON header.

Layout: four bytes length of the header (little-endian), the header (UTF-8 JSON), padding to a multiple of four,
then the arrays named in the header one after another.
"""

from __future__ import annotations

import json
import struct
from typing import Any

import numpy as np
import numpy.typing as npt

from piastra.core.combine.envelope import envelope
from piastra.core.pipeline import Outcome
from piastra.core.reinforcement.mats import ROWS

Array = npt.NDArray[np.float64]

UNITS = {"w": "mm", "steel": "mm²/m"}


def triangles(outcome: Outcome) -> npt.NDArray[np.int64]:
    """Triangles (t, 3) of places that draw the mesh."""
    of = outcome.stiffness.kept.of
    quads = len(outcome.meshed.mesh.quads)
    return np.concatenate([of[:quads, [0, 1, 2]], of[:quads, [0, 2, 3]], of[quads:, :3]])


def sides(outcome: Outcome) -> npt.NDArray[np.int64]:
    """Sides (s, 2) of the elements as places, each once."""
    of = outcome.stiffness.kept.of
    quads = len(outcome.meshed.mesh.quads)
    loops = [(of[:quads, k], of[:quads, (k + 1) % 4]) for k in range(4)] + [
        (of[quads:, k], of[quads:, (k + 1) % 3]) for k in range(3)
    ]
    both = np.concatenate([np.column_stack(loop) for loop in loops])
    return np.unique(np.sort(both, axis=1), axis=0)


def fields(outcome: Outcome) -> bytes:
    """The mesh of a run for drawing, with the fields that are no sums of unit responses: steel by face and
    long-term deflection. All others are read from the responses (:mod:`piastra.core.readings`)."""
    kept = outcome.stiffness.kept
    arrays: list[tuple[dict[str, Any], Array]] = []

    def add(values: Array, **about: Any) -> None:
        arrays.append((about, values))

    for f in outcome.combinations:
        if outcome.long_term is not None and f.lasting:
            lasting = envelope(1e3 * outcome.long_term[kept.node], f)[1]
            add(lasting, quantity="w", of=f.combination, kind="with creep", limit_state=f.limit_state)
    if outcome.steel.required is not None and outcome.steel.given is not None:
        for r, (face, direction) in enumerate(ROWS):
            add(1e6 * outcome.steel.required[r], quantity="steel", of=f"{face} {direction}", kind="required", limit_state=None)
            shortfall = np.maximum(outcome.steel.required[r] - outcome.steel.given[r], 0.0)
            add(1e6 * shortfall, quantity="steel", of=f"{face} {direction}", kind="shortfall", limit_state=None)
    index, edges = triangles(outcome), sides(outcome)
    xy = outcome.meshed.mesh.xy[kept.node]
    header = {
        "version": 1, "places": len(kept.node), "triangles": len(index), "edges": len(edges), "units": UNITS,
        "fields": [{**about, "least": float(v.min(initial=0.0)), "greatest": float(v.max(initial=0.0))} for about, v in arrays],
    }  # fmt: skip
    text = json.dumps(header).encode()
    text += b" " * (-len(text) % 4)
    body = [
        xy.astype("<f4").tobytes(),
        index.astype("<u4").tobytes(),
        edges.astype("<u4").tobytes(),
        *(v.astype("<f4").tobytes() for _, v in arrays),
    ]
    return struct.pack("<I", len(text)) + text + b"".join(body)
