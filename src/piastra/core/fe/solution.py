"""Displacements and reactions."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.fe.linear_solver import residual
from piastra.core.fe.system import System, renewed
from piastra.core.model import Refusal, RefusedError

Array = npt.NDArray[np.float64]

LIFT_ROUNDS = 40
UNHELD = 1e-6
"""Residual of a solution, over the load, above which the floor was not held."""


@dataclass(frozen=True, slots=True)
class Solution:
    """Response to ``r`` load vectors.

    ``u`` (n, 5, r) displacements; ``reactions`` (s, 3, r) per support the force up (kN) and the moments about x
    and y (kNm, right-hand rule, z up) with which it acts on the floor, at the support's own centre.
    """

    u: Array
    reactions: Array


def solve(system: System, loads: Array) -> Solution:
    """Solve for load vectors (n, 5, r), all right-hand sides together."""
    n, _, r = loads.shape
    free = system.factor.solve(system.T.T @ loads.reshape(5 * n, r))
    u = (system.T @ free).reshape(n, 5, r)
    return Solution(u, _reactions(system, u, free, loads))


def _reactions(system: System, u: Array, free: Array, loads: Array, live: npt.NDArray[np.bool_] | None = None) -> Array:
    held, xy = system.held, system.mesh.xy
    centre = np.array(held.centre).reshape(-1, 2)
    out = np.zeros((len(held.labels), 3, u.shape[2]))

    def act(owner: npt.NDArray[np.int64], at: Array, force: Array) -> None:
        """Add forces (k, 3, r) on w, beta_x, beta_y at points (k, 2)."""
        up = -force[:, 0]
        arm = (at - centre[owner])[..., None]
        moment_x = force[:, 2] + arm[:, 1] * up
        moment_y = -force[:, 1] - arm[:, 0] * up
        np.add.at(out, owner, np.stack([up, moment_x, moment_y], axis=1))

    node, owner, block, _ = held.springs()
    if len(node):
        force = -np.einsum("kij,kjr->kir", block, u[node])
        if live is not None:
            force[~live] = 0.0
        act(owner, xy[node], force[:, 2:])
    if held.masters:
        at_axis = free[system.masters.ravel()].reshape(len(held.masters), 3, -1)
        force = -np.einsum("kij,kjr->kir", np.array(held.master_block), at_axis)
        act(np.array(held.masters), np.array(held.master_at), force)
    if held.fixed or held.clamped:
        residual = _residual(system, u, loads, live)
        weight: dict[int, float] = {}
        for n, _, w in held.fixed:
            weight[n] = weight.get(n, 0.0) + w
        for n, o, w in held.fixed:
            force = np.zeros((1, 3, u.shape[2]))
            force[0, 0] = residual[n, 2] * w / weight[n]
            act(np.array([o]), xy[n : n + 1], force)
        owners: dict[int, set[int]] = {}
        for n, o, _, _ in held.clamped:
            owners.setdefault(n, set()).add(o)
        for n, of_node in owners.items():
            for o in of_node:
                force = np.zeros((1, 3, u.shape[2]))
                force[0, 1:] = residual[n, 3:] / len(of_node)
                act(np.array([o]), xy[n : n + 1], force)
    return out


def _residual(system: System, u: Array, loads: Array, live: npt.NDArray[np.bool_] | None) -> Array:
    """Forces (n, 5, r) that the elements and springs need beyond the loads, at nodes that are held."""
    wanted = np.zeros(len(system.mesh.xy), dtype=bool)
    wanted[[f[0] for f in system.held.fixed] + [c[0] for c in system.held.clamped]] = True
    out = -loads * wanted[:, None, None]
    for family in system.families:
        near = wanted[family.nodes].any(axis=1)
        nodes = family.nodes[near]
        local = u[nodes].reshape(len(nodes), 5 * nodes.shape[1], u.shape[2])
        force = (family.stiffness[near] @ local).reshape(len(nodes), nodes.shape[1], 5, u.shape[2])
        np.add.at(out, nodes, force)
    node, _, block, _ = system.held.springs()
    if len(node):
        force = np.einsum("kij,kjr->kir", block, u[node])
        if live is not None:
            force[~live] = 0.0
        np.add.at(out, node, force)
    return out


def can_lift(system: System) -> bool:
    """Whether any spring lets go in tension."""
    return bool(system.held.springs()[3].any())


def lifts(system: System, u: Array) -> bool:
    """Whether a compression-only bedding is in tension anywhere under displacements (n, 5)."""
    node, _, _, lifting = system.held.springs()
    return bool((u[node[lifting], 2] < -1e-12).any())


def solve_lifting(system: System, load: Array, name: str) -> Solution:
    """Solve one load vector (n, 5) with the springs in tension taken out, until the active set stands.

    Raises :class:`RefusedError` when the floor lifts off so far that nothing holds it, or the set does not settle.
    """
    node, _, _, lifting = system.held.springs()
    ignore = np.zeros(len(node), dtype=bool)
    current = system
    n = len(system.mesh.xy)
    try:
        for _ in range(LIFT_ROUNDS):
            right = system.T.T @ load.reshape(5 * n, 1)
            free = current.factor.solve(right)
            # What nothing holds any more may still be factorised, by rounding.
            if not residual(current.matrix, free, right) < UNHELD:
                raise _lifted_off(name)
            u = (system.T @ free).reshape(n, 5, 1)
            now = lifting & (u[node, 2, 0] < 0)
            if (now == ignore).all():
                return Solution(u, _reactions(current, u, free, load[..., None], ~ignore))
            ignore = now
            current = _without(current, ignore, name)
    finally:
        if current is not system:
            current.factor.free()
    raise RefusedError(
        [
            Refusal(
                "supports",
                f"the bedding's contact does not settle under {name} in {LIFT_ROUNDS} rounds; refine the mesh or hold the floor down",
            )
        ]
    )


def _without(system: System, ignore: npt.NDArray[np.bool_], name: str) -> System:
    try:
        return renewed(system, ignore=ignore)
    except RefusedError:
        raise _lifted_off(name) from None


def _lifted_off(name: str) -> RefusedError:
    return RefusedError(
        [Refusal("supports", f"the floor lifts off its bedding entirely under {name}; add weight or hold it down")]
    )
