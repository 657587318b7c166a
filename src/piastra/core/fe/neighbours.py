"""Which elements lie side by side in one section, with nothing between them that holds the floor."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import scipy.sparse as sp
from scipy.sparse.csgraph import connected_components

Ints = npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class Corners:
    """All corners of a mesh's elements, family after family: their ``element`` (c,) and ``node`` (c,)."""

    element: Ints
    node: Ints


@dataclass(frozen=True, slots=True)
class Neighbours:
    """Pairs of elements (k, 2) that share an edge, and the nodes (k, 2) at its ends."""

    pairs: Ints
    ends: Ints


def corners_of(families: Sequence[Ints]) -> Corners:
    """Corners of families of elements, each given by its nodes (e, corners)."""
    start = np.cumsum([0] + [len(nodes) for nodes in families])
    element = [np.repeat(np.arange(len(nodes)) + k, nodes.shape[1]) for nodes, k in zip(families, start, strict=False)]
    return Corners(np.concatenate(element), np.concatenate([nodes.ravel() for nodes in families]))


def neighbours(families: Sequence[Ints], part: Ints, lines: Ints) -> Neighbours:
    """Neighbours of one ``part`` (e,), but for those with one of the edges ``lines`` (l, 2) between them."""
    corners = corners_of(families)
    after = np.concatenate([np.roll(nodes, -1, axis=1).ravel() for nodes in families])
    edge = np.sort(np.column_stack([corners.node, after]), axis=1)
    base = int(edge.max()) + 1
    key = edge[:, 0] * base + edge[:, 1]
    held = np.sort(lines, axis=1)
    loose = ~np.isin(key, held[:, 0] * base + held[:, 1])
    key, edge, element = key[loose], edge[loose], corners.element[loose]
    order = np.argsort(key, kind="stable")
    key, edge, element = key[order], edge[order], element[order]
    first = np.flatnonzero(key[1:] == key[:-1])
    pairs = np.column_stack([element[first], element[first + 1]])
    same = part[pairs[:, 0]] == part[pairs[:, 1]]
    return Neighbours(pairs[same], edge[first[same]])


def joined(corners: Corners, found: Neighbours) -> Ints:
    """Group (c,) of every corner: corners at one node whose elements are joined around it by shared edges."""
    base = int(corners.node.max()) + 1
    key = corners.element * base + corners.node
    order = np.argsort(key)

    def of(side: int, end: int) -> Ints:
        return order[np.searchsorted(key, found.pairs[:, side] * base + found.ends[:, end], sorter=order)]

    links = np.concatenate([np.stack([of(0, end), of(1, end)]) for end in (0, 1)], axis=1)
    graph = sp.coo_matrix((np.ones(links.shape[1], dtype=np.int8), (links[0], links[1])), shape=(len(key), len(key)))
    return np.asarray(connected_components(graph, directed=False)[1], dtype=np.int64)
