"""Whether the floor is held: pieces, mechanisms, and the least restraint in its plane."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
import scipy.sparse as sp
from scipy.sparse.csgraph import connected_components

from piastra.core.fe.restraints import Restraints
from piastra.core.mesh.mesher import Mesh
from piastra.core.model import Refusal, RefusedError
from piastra.core.model.message import Message
from piastra.core.trace.amounts import spot

Array = npt.NDArray[np.float64]


def pieces(mesh: Mesh) -> tuple[int, npt.NDArray[np.int64]]:
    """Number of pieces of the mesh that share no node, and the piece of each node."""
    pairs = [np.column_stack([e.ravel(), np.roll(e, -1, axis=1).ravel()]) for e in (mesh.quads, mesh.tris)]
    a, b = np.concatenate(pairs).T
    n = len(mesh.xy)
    count, piece = connected_components(sp.coo_matrix((np.ones(len(a)), (a, b)), shape=(n, n)), directed=False)
    return int(count), piece.astype(np.int64)


def _rank(rows: list[list[float]]) -> int:
    if not rows:
        return 0
    singular = np.linalg.svd(np.array(rows), compute_uv=False)
    return int((singular > 1e-6 * singular[0]).sum())


def hold(mesh: Mesh, held: Restraints) -> list[tuple[int, int]]:
    """Check every piece; return (node, unknown) pairs to be fixed so that none is free in its plane.

    Raises :class:`RefusedError` naming each piece that can move vertically or tip over.
    """
    count, piece = pieces(mesh)
    node, _, block, _ = held.springs()
    extra: list[tuple[int, int]] = []
    refused: list[Refusal] = []
    for k in range(count):
        nodes = np.flatnonzero(piece == k)
        origin = mesh.xy[nodes].mean(axis=0)
        scale = float(np.ptp(mesh.xy[nodes], axis=0).max())
        upright: list[list[float]] = []
        plane: list[list[float]] = []
        stiffest: tuple[float, int] = (-1.0, int(nodes[0]))

        def vertical(xy: Array, o: Array = origin, s: float = scale, rows: list[list[float]] = upright) -> None:
            rows.append([1.0, (xy[0] - o[0]) / s, (xy[1] - o[1]) / s])

        def turning(blocks: Array, rows: list[list[float]] = upright) -> None:
            axes, _ = _axes(blocks)
            rows.extend([0.0, *axis] for axis in axes.tolist())

        def level(xy: Array, blocks: Array, o: Array = origin, s: float = scale, rows: list[list[float]] = plane) -> None:
            axes, of = _axes(blocks)
            arm = (xy[of] - o) / s
            rows.extend(np.column_stack([axes, axes[:, 1] * arm[:, 0] - axes[:, 0] * arm[:, 1]]).tolist())

        for n, _, _ in held.fixed:
            if piece[n] == k:
                vertical(mesh.xy[n])
                stiffest = max(stiffest, (RIGID_RANK, n))
        for n, _, ax, ay in held.clamped:
            if piece[n] == k:
                upright.append([0.0, ax, ay])
        here = piece[node] == k
        for n, b in zip(node[here], block[here], strict=True):
            if b[2, 2] > 0:
                vertical(mesh.xy[n])
                stiffest = max(stiffest, (float(b[2, 2]), int(n)))
        turning(block[here][:, 3:, 3:])
        level(mesh.xy[node[here]], block[here][:, :2, :2])
        its = [c for c, slaves in enumerate(held.slaves) if piece[slaves[0]] == k]
        for c in its:
            b = held.master_block[c]
            if b[0, 0] > 0:
                vertical(np.array(held.master_at[c]))
                stiffest = max(stiffest, (float(b[0, 0]), int(held.slaves[c][0])))
        if its:
            turning(np.array([held.master_block[c][1:, 1:] for c in its]))
            level(np.array([held.master_at[c] for c in its]), np.array([held.master_sway[c] for c in its]))
        if _rank(upright) < 3:
            size = f"the floor's piece around ({origin[0]:.2f}, {origin[1]:.2f})" if count > 1 else "the floor"
            what = (
                "rests on nothing"
                if not any(r[0] for r in upright)
                else "can tip over: its supports lie in one line and do not hold its slope"
            )
            refused.append(Refusal("supports", f"{size} {what}; add columns, walls or supports under it"))
            continue
        extra += _least_plane_restraint(mesh, nodes, plane, stiffest[1], origin, scale, held)
    if refused:
        raise RefusedError(refused)
    return extra


RIGID_RANK = 1e30


def _axes(blocks: Array) -> tuple[Array, npt.NDArray[np.int64]]:
    """Directions (a, 2) in which some of the matrices (k, 2, 2) hold, and of which each is one (a,)."""
    values, vectors = np.linalg.eigh(blocks)
    of, which = np.nonzero(values > 1e-9)
    return vectors.transpose(0, 2, 1)[of, which], of


def _least_plane_restraint(
    mesh: Mesh, nodes: npt.NDArray[np.int64], plane: list[list[float]], a: int, origin: Array, scale: float, held: Restraints
) -> list[tuple[int, int]]:
    """Fix u and v at the stiffest support and the turn at the farthest node, as far as they are free."""
    rank = _rank(plane)
    if rank == 3:
        return []
    d = mesh.xy[nodes] - mesh.xy[a]
    far = int(nodes[np.hypot(*d.T).argmax()])
    across = 1 if abs(mesh.xy[far, 0] - mesh.xy[a, 0]) > abs(mesh.xy[far, 1] - mesh.xy[a, 1]) else 0
    chosen: list[tuple[int, int]] = []
    for n, unknown in ((a, 0), (a, 1), (far, across)):
        x, y = (mesh.xy[n] - origin) / scale
        row = [1.0, 0.0, -y] if unknown == 0 else [0.0, 1.0, x]
        if _rank([*plane, row]) > rank:
            plane = [*plane, row]
            rank += 1
            chosen.append((n, unknown))
    x, y = mesh.xy[a]
    held.messages.append(
        Message("note", "floor", "is not held in its own plane by columns or walls; it is held there without restraint "
                f"at its stiffest support, near {spot(x, y)}", (float(x), float(y)))
    )  # fmt: skip
    return chosen
