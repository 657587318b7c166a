"""How many elements lie along the edges of the plan: a face can be filled with quadrilaterals alone if their sum is even."""

from __future__ import annotations

import heapq
from collections.abc import Collection

import numpy as np
import numpy.typing as npt

from piastra.core.geometry.partition import Partition

Ints = npt.NDArray[np.int64]


def to_lengthen(parts: Partition, count: Ints, fixed: Collection[int] = ()) -> Ints:
    """Edges that should get one element more than ``count`` (edges,), so that the sum around every face is even;
    none of the ``fixed`` ones, so that a face with no other edges stays as it is.

    An edge that is bordered by one face changes that one, any other edge two: odd faces are paired, or led to the border,
    along the branches of a tree of faces that goes over the edges with the most elements, where one more matters least.
    """
    outside = len(parts.rings)
    bordering: list[list[int]] = [[] for _ in range(len(count))]
    odd = np.zeros(outside, dtype=bool)
    for f, rings in enumerate(parts.rings):
        for ring in rings:
            for e, _ in ring:
                bordering[e].append(f)
                odd[f] ^= bool(count[e] % 2)
    across: list[list[tuple[int, int]]] = [[] for _ in range(outside + 1)]
    for e, faces in enumerate(bordering):
        if e not in fixed and faces and (len(faces) == 1 or faces[0] != faces[1]):
            a, b = faces[0], faces[1] if len(faces) == 2 else outside
            across[a].append((b, e))
            across[b].append((a, e))
    way: dict[int, tuple[int, int]] = {}
    order: list[int] = []
    heap = [(-int(count[e]), f, e, outside) for f, e in across[outside]]
    heapq.heapify(heap)
    while heap:
        _, f, e, back = heapq.heappop(heap)
        if f in way or f == outside:
            continue
        way[f] = (back, e)
        order.append(f)
        for g, further in across[f]:
            heapq.heappush(heap, (-int(count[further]), g, further, f))
    chosen = []
    for f in reversed(order):
        if odd[f]:
            back, e = way[f]
            chosen.append(e)
            if back != outside:
                odd[back] ^= True
    return np.array(chosen, dtype=np.int64)
