"""Result fields for drawing, as one binary array: little-endian float32 with a JSON header.

Layout: four bytes length of the header (little-endian), the header (UTF-8 JSON), padding to a multiple of four,
then the arrays named in the header one after another.
"""

from __future__ import annotations

import io
import json
import struct
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from piastra.core.combine.envelope import envelope, with_constant
from piastra.core.history.served import crack_widths, steel_stress
from piastra.core.pipeline import Outcome
from piastra.core.reinforcement.mats import ROWS
from piastra.exchange.planes import along_curve, planes, values_of

Array = npt.NDArray[np.float64]

VALUE_BITS = 17
"""Fields are kept to 4e-6 of their peak, which no picture shows."""

UNITS = {"w": "mm", "steel": "mm²/m", "steel_stress": "MPa", "crack_width": "mm"}


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


def _greatest(outcome: Outcome, values: Array) -> Array:
    """At every place the greatest of values (e,) of the elements about it."""
    kept = outcome.stiffness.kept
    valid = kept.of >= 0
    out = np.zeros(len(kept.node))
    np.maximum.at(out, kept.of[valid], np.broadcast_to(values[:, None], kept.of.shape)[valid])
    return out


def _cracked(outcome: Outcome, worst: Array) -> Array:
    """Greatest tension over strength so far at every place, the mean of the elements about it."""
    kept = outcome.stiffness.kept
    valid = kept.of >= 0
    each = np.broadcast_to(worst.max(axis=0)[:, None], kept.of.shape)[valid]
    count = np.bincount(kept.of[valid], minlength=len(kept.node))
    return np.asarray(np.bincount(kept.of[valid], each, minlength=len(kept.node)) / np.maximum(count, 1))


def fields(outcome: Outcome) -> bytes:
    """The mesh of a run for drawing, with the fields that are no sums of unit responses: steel by face and
    long-term deflection. All others are read from the responses (:mod:`piastra.core.readings`)."""
    kept = outcome.stiffness.kept
    arrays: list[tuple[dict[str, Any], Array]] = []

    def add(values: Array, **about: Any) -> None:
        arrays.append((about, values))

    for f in outcome.combinations:
        if outcome.long_term is not None and f.lasting:
            lasting = envelope(1e3 * outcome.long_term.w[kept.node], with_constant(f))[1]
            add(lasting, quantity="w", of=f.combination, kind="with creep", limit_state=f.limit_state)
    if outcome.life is not None and outcome.floor.history is not None:
        rules = outcome.standard.cracking
        for lived, stage in zip(outcome.life.stages, outcome.floor.history.stages, strict=True):
            add(1e3 * lived.w[0][kept.node].astype(np.float64), quantity="w", of=stage.id, kind="loaded", limit_state=None)
            stress = 1e-3 * steel_stress(lived, outcome.body)
            widths = crack_widths(rules, lived, outcome.body) if rules is not None else None
            for number, face in enumerate(("bottom", "top")):
                about: dict[str, Any] = {"of": stage.id, "kind": face, "limit_state": None}
                add(_greatest(outcome, stress[number].max(axis=0)), quantity="steel_stress", **about)
                if widths is not None:
                    add(_greatest(outcome, 1e3 * widths[number].max(axis=0)), quantity="crack_width", **about)
            add(1e3 * lived.w[-1][kept.node].astype(np.float64), quantity="w", of=stage.id, kind="history", limit_state=None)
            add(_cracked(outcome, lived.state.worst), quantity="cracked", of=stage.id, kind="history", limit_state=None)
    steel = outcome.steel_everywhere
    if steel is not None:
        for r, (face, direction) in enumerate(ROWS):
            add(1e6 * steel.required[r], quantity="steel", of=f"{face} {direction}", kind="required", limit_state=None)
            shortfall = np.maximum(steel.required[r] - steel.given[r], 0.0)
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


def kept_fields(content: bytes) -> bytes:
    """The file in which the :func:`fields` of a run are kept."""
    header, xy, index, edges, values = _parts(content)
    found, peak = planes(values.astype(np.float64), along_curve(xy.astype(np.float64)), VALUE_BITS)
    buffer = io.BytesIO()
    np.savez_compressed(
        buffer, header=np.frombuffer(header, dtype=np.uint8), xy=xy, index=index, edges=edges, values=found, peak=peak
    )
    return buffer.getvalue()


def read_fields(content: bytes) -> bytes:
    """The :func:`fields` in a file that :func:`kept_fields` made."""
    with np.load(io.BytesIO(content), allow_pickle=False) as file:
        a = {k: file[k] for k in file.files}
    values = values_of(a["values"], a["peak"], along_curve(a["xy"].astype(np.float64)), VALUE_BITS)
    return a["header"].tobytes() + b"".join(part.tobytes() for part in (a["xy"], a["index"], a["edges"], values.astype("<f4")))


@dataclass(frozen=True, slots=True)
class Drawn:
    """The fields of a run: what each of them is ``about``, places (p, 2) m, the triangles (t, 3) between them, and values (f, p)."""

    about: list[dict[str, Any]]
    xy: Array
    triangles: npt.NDArray[np.int64]
    values: Array


def drawn_fields(content: bytes) -> Drawn:
    """The fields in a file that :func:`kept_fields` made."""
    header, xy, index, _, values = _parts(read_fields(content))
    about = json.loads(header[4:])["fields"]
    return Drawn(about, xy.astype(np.float64), index.astype(np.int64), values.astype(np.float64))


def _parts(
    content: bytes,
) -> tuple[bytes, npt.NDArray[np.float32], npt.NDArray[np.uint32], npt.NDArray[np.uint32], npt.NDArray[np.float32]]:
    """Header with its length, places (p, 2), triangles (t, 3), sides (s, 2) and values (f, p)."""
    start = 4 + struct.unpack("<I", content[:4])[0]
    about = json.loads(content[4:start])
    counts = [2 * about["places"], 3 * about["triangles"], 2 * about["edges"]]
    body = np.frombuffer(content, dtype="<u4", offset=start)
    xy, index, edges, values = np.split(body, np.cumsum(counts))
    return (
        content[:start], xy.view("<f4").reshape(-1, 2), index.reshape(-1, 3), edges.reshape(-1, 2),
        values.view("<f4").reshape(len(about["fields"]), about["places"]),
    )  # fmt: skip
