"""Responses to load vectors that were met before, up to their magnitude.

A changed live load most often scales its vectors: what they cause is known already.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from dataclasses import dataclass
from threading import Lock

import numpy as np
import numpy.typing as npt
import scipy.sparse as sp

from piastra.core.fe.threads import at_once

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

NEAR = 1e-11
"""Vectors whose entries over the greatest one agree so far are one vector times a number. They are compared entry by entry: of some ten thousand, cut
to so many decimals, one is always cut in another way after a change of the size."""
EVEN = 1e-9
"""Entries whose sizes agree so far are equally great: the first of them is the one that the others are measured by."""


@dataclass(frozen=True, slots=True)
class Directions:
    """Load vectors told apart by direction: a key of each (a hash of its content), equal for those that differ by a factor, the ``size`` (r,) of each
    along it, and what it is of, ``units``: the rows that are loaded, and the values there over the size, as they were when first met."""

    keys: tuple[bytes, ...]
    size: Array
    units: tuple[tuple[Ints, Array], ...]


def directions_of(vectors: sp.csc_matrix, known: Directions | None = None) -> Directions:
    """Directions of load vectors, the columns (m, r) of a matrix with sorted rows; those that are ``known`` have the keys that they have there."""
    count = vectors.shape[1]
    size, keys, units = np.zeros(count), [], []
    met: dict[int, list[tuple[bytes, tuple[Ints, Array]]]] = {}
    for key, unit in zip(known.keys, known.units, strict=True) if known else ():
        met.setdefault(len(unit[0]), []).append((key, unit))
    for k in range(count):
        mine = slice(vectors.indptr[k], vectors.indptr[k + 1])
        rows, values = vectors.indices[mine], vectors.data[mine]
        much = np.abs(values)
        size[k] = values[(much >= much.max() * (1 - EVEN)).argmax()] if len(values) else 0.0
        unit = values / (size[k] or 1.0)
        there = np.abs(unit) > NEAR
        if not there.all():
            rows, unit = rows[there], unit[there]
        alike = met.setdefault(len(rows), [])
        for key, (own, of_it) in alike:
            if np.array_equal(rows, own) and (np.abs(unit - of_it) <= NEAR).all():
                keys.append(key)
                units.append((own, of_it))
                break
        else:
            keys.append(hashlib.sha256(rows.tobytes() + unit.tobytes()).digest())
            units.append((rows, unit))
            alike.append((keys[k], units[k]))
    return Directions(tuple(keys), size, tuple(units))


@dataclass(frozen=True, slots=True)
class Known:
    """Responses to vectors of some directions: arrays whose last axis runs over them."""

    directions: Directions
    responses: tuple[Array, ...]


def responses(wanted: Directions, known: Known | None, make: Callable[[Ints], tuple[Array, ...]]) -> tuple[Array, ...]:
    """Responses to vectors of the ``wanted`` directions, each with a last axis of r.

    ``make`` finds the responses to the vectors of the given numbers; it is asked only for directions that are neither
    ``known`` nor met twice. A floor without loads asks it for none, so that its arrays keep their shapes.
    """
    number = {key: k for k, key in enumerate(known.directions.keys)} if known else {}
    first: dict[bytes, int] = {}
    for k, key in enumerate(wanted.keys):
        if key not in number:
            first.setdefault(key, k)
    new = np.array(list(first.values()), dtype=np.int64)
    made = make(new) if len(new) or known is None else None
    if made is not None and len(new) == len(wanted.keys):
        return made
    place = {key: k for k, key in enumerate(first)}
    # Where each wanted vector's direction is found, in what is made now or known before, and how many times it is met there.
    source = np.array([place.get(key, number.get(key, 0)) for key in wanted.keys], dtype=np.int64)
    is_new = np.array([key in place for key in wanted.keys], dtype=bool)
    base = np.array([wanted.size[first[k]] if k in place else known.directions.size[number[k]] for k in wanted.keys])  # type: ignore[union-attr]
    # A vector of nought has no direction, and causes nothing.
    times = np.where(base == wanted.size, 1.0, np.divide(wanted.size, base, out=np.zeros(len(base)), where=base != 0))
    out = []
    for a in range(len(made) if made is not None else len(known.responses) if known else 0):
        if not is_new.any() and known is not None:
            whole = np.arange(known.responses[a].shape[-1])
            own = known.responses[a] if np.array_equal(source, whole) else known.responses[a][..., source]
            out.append(own if (times == 1.0).all() else own * times.astype(own.dtype))
            continue
        like = made[a] if made is not None else known.responses[a]  # type: ignore[union-attr]
        found = np.zeros((*like.shape[:-1], len(wanted.keys)), dtype=like.dtype)
        for fresh, stock in ((True, made), (False, known.responses if known else None)):
            mine = np.flatnonzero(is_new == fresh)
            if len(mine) and stock is not None:
                found[..., mine] = stock[a][..., source[mine]] * times[mine].astype(like.dtype)
        out.append(found)
    return tuple(out)


def columns_of(values: Array, columns: Ints) -> Array:
    """Some of the last axis: a view where they follow one another, which in blocks they mostly do."""
    first, last = int(columns[0]), int(columns[-1]) + 1
    return values[..., first:last] if np.array_equal(columns, np.arange(first, last)) else values[..., columns]


BLOCK = 12
"""Columns that are worked on at once: what they need on the way there is freed before the next ones."""


def in_blocks(
    columns: Ints, make: Callable[[Ints], tuple[Array, ...]], block: int = BLOCK, together: bool = True
) -> tuple[Array, ...]:
    """What ``make`` gives for all columns, block by block; ``together``: it may work on several at once."""
    # Of those at once as many for each of two threads: they are the same whatever there are, and so is what comes out.
    count = -(-len(columns) // block)
    count += count % 2 if together else 0
    if min(count, len(columns)) < 2:
        return make(columns)
    blocks = np.array_split(np.arange(len(columns)), count)
    out: list[Array] = []
    first = Lock()

    def fill(some: Ints) -> None:
        found = make(columns[some])
        with first:
            if not out:
                out.extend(np.empty((*f.shape[:-1], len(columns)), dtype=f.dtype) for f in found)
        for whole, part in zip(out, found, strict=True):
            whole[..., some[0] : some[-1] + 1] = part

    if together:
        at_once(fill, blocks)
    else:
        for some in blocks:
            fill(some)
    return tuple(out)
