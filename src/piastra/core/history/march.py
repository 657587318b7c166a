"""Step by step through the life of a floor.

In every step the section forces and the strains agree in each element: strains are interpolated between the uncracked and the
fully cracked section (EN 1992-1-1, 7.4.3 (3)), each with the creep of all stress increments before. The floor is solved with the sections'
stiffness and what is beyond it as initial strains, again and again, until forces and strains agree.

Directions: the sections of both bar directions are computed for themselves. Uncracked, they are coupled by Poisson's ratio; a twist
cracks both (its stress adds to that of the moments), and its stiffness falls with the mean of theirs.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from piastra.core.fe.nearby import Reached, solve_near
from piastra.core.fe.states import Frozen, initial_forces, split
from piastra.core.fe.system import System, blocks_of, in_turn, renewed
from piastra.core.fe.threads import at_once
from piastra.core.history.body import Body
from piastra.core.history.cracks import Branches, share_by_curvature, share_of
from piastra.core.history.law import Law, TimeStep
from piastra.core.history.section import LAYERS, Bars, Bent, coupled, cracked, inverse, uncracked

Array = npt.NDArray[np.float64]
Floats = npt.NDArray[np.float32]

CLOSE_W = 0.002
"""A step has converged when its deflections change by so little of the greatest,"""
CLOSE_FORCE = 3e-3
"""and forces that are out of balance are so small a share of the load."""
ROUNDS = 24
AT_REST = 0.01
"""After that many rounds a floor is at rest if the forces out of balance are below this share, and its deflections move no more."""
DECAY_DAYS = 7.0
"""Tension stiffening falls to half, with this time constant: some twenty days (Scott and Beeby 2005)."""


class Pace(NamedTuple):
    """Which share of the way to the cracks that are asked for a section goes in a round: at ``most`` and at ``least``, so many times ``more`` where it
    goes on the same way, and half of it where it turns back by more than the share ``turns`` of its last move."""

    most: float
    least: float
    more: float
    turns: float


BY_FORCES = Pace(0.6, 0.02, 1.3, 0.0)
BY_STRAIN = Pace(1.0, 0.1, 1.3, 0.7)
AWAKE = 0.3
"""The cracked state of a section is followed from this share of its cracking stress on: below it, what it has crept is next to nothing."""
LEAST_CREPT = 0.15
"""Concrete creeps to no less than this share of its stiffness."""
LINEAR = 0.45
"""Stress over strength beyond which creep grows faster: EN 1992-1-1, 3.1.4 (4)."""


@dataclass(frozen=True, slots=True)
class Numbers:
    """A step's numbers of all elements (e,): see :class:`piastra.core.history.law.Law`; ``creep`` (k, e) of the steps before; whether concrete
    between cracks takes part, and ``decay``: whether that falls in this step, from ``begins`` on over ``ends``."""

    stiff: Array
    elastic: Array
    creep: Array
    shrinkage: Array
    tension: Array
    strength: Array
    ends: float
    stiffening: bool
    beta: float | None = None


def numbers_of(laws: Sequence[Law], kind: npt.NDArray[np.int64], k: int, ends: float, stiffening: bool) -> Numbers:
    """The numbers of step ``k``."""

    def of(name: str) -> Array:
        return np.array([getattr(l, name)[k] for l in laws])[kind]

    creep = np.array([l.creep[k, :k] for l in laws]).T[:, kind] if k else np.zeros((0, len(kind)))
    return Numbers(of("stiff"), of("elastic"), creep, of("shrinkage"), of("tension"), of("strength"), ends, stiffening)


@dataclass(frozen=True, slots=True)
class State:
    """What later steps need to know, and the floor at the end of a step.

    Stress of the uncracked concrete (2, e, 2): at the middle plane and its slope; of the same from shrinkage alone; of the cracked
    concrete's layers (2, e, l); of shear in the plane and twist (e, 2). Of each its ``now``, the elastic strain of all increments, and the
    increments themselves. ``worst`` (2, e): the greatest tensile stress over the strength so far; ``since`` (2, e) days, when it passed one.
    """

    now: tuple[Array, ...]
    elastic: tuple[Array, ...]
    increments: tuple[tuple[Floats, ...], ...]
    worst: Array
    since: Array
    zeta: Array
    forces: Array
    bent: tuple[Array, Array]
    u: Array
    load: float

    @property
    def cracked(self) -> npt.NDArray[np.bool_]:
        """Which sections (2, e) have cracked."""
        return self.worst > 1.0


def beginning(count: int, nodes: int) -> State:
    """Before the first load."""
    shapes = ((2, count, 2), (2, count, 2), (2, count, LAYERS), (count, 2))
    zeros = tuple(np.zeros(s) for s in shapes)
    nothing = np.zeros((2, count))
    return State(
        zeros, zeros, (), nothing, np.full((2, count), np.inf), nothing, np.zeros((count, 6)), (nothing, nothing), np.zeros((nodes, 5)), 0.0
    )  # fmt: skip


@dataclass(frozen=True, slots=True)
class Trial:
    """Sections under trial forces: ``strain`` (e, 6), ``law`` (e, 6, 6) kN/m, kN, kNm; the new stresses, and what becomes of the cracks.
    ``parts`` (2, e) curvatures: elastic, of shrinkage, of both with creep uncracked, and all. ``lost``: cracked sections that found no equilibrium; ``missing``
    (e, 6) the strain that is still to come where cracks follow slowly."""

    strain: Array
    law: Array
    now: tuple[Array, ...]
    worst: Array
    since: Array
    zeta: Array
    bent: tuple[Array, Array]
    parts: tuple[Array, ...]
    steel: Array
    pace: Array
    move: Array
    lost: npt.NDArray[np.bool_]
    missing: Array


@dataclass(frozen=True, slots=True)
class Report:
    """How a step was solved: its rounds, the change of deflections and the forces out of balance at their end, and whether both were small
    enough; else ``where`` (element) sections differ most."""

    step: TimeStep
    rounds: int
    change: float
    unbalanced: float
    converged: bool
    where: int


def _free(numbers: Numbers, state: State, which: int) -> Array:
    """Free strain of one kind of stress before the step's own increment, shrinkage apart."""
    held = state.elastic[which].copy()
    for creep, made in zip(numbers.creep, state.increments, strict=True):
        held += creep[:, None] * made[which]
    return held


def tension(h: Array, sigma: Array, twist: Array) -> Array:
    """Greatest tension (2, e) at the faces of uncracked sections, with that of the ``twist`` (e,) kNm/m added; kN/m2."""
    return np.abs(sigma[..., 1]) * h / 2 + sigma[..., 0] + 6 * np.abs(twist) / h**2


def _side(sigma: Array) -> Array:
    """1 where the bottom of a section is stretched more than its top, -1 elsewhere, by the stress (..., 2) and its slope."""
    return np.where(sigma[..., 1] < 0, -1.0, 1.0)


class March:
    """A floor on its way through time."""

    def __init__(self, system: System, families: tuple[Frozen, ...], body: Body, once: bool = False) -> None:
        """``once``: no step follows another, so that nothing has to be known of the cracked state of sections that are whole."""
        self._base, self._families, self._body, self._once = system, families, body, once
        self._current: System | None = None
        self._reached: Reached | None = None
        self._laws: list[Array] = []
        self._stiffness: list[Array] = []
        self._bars, self._held = (
            Bars(body.area * body.E_s, body.z),
            Bars(body.EA, body.z, body.yields),
        )

    def close(self) -> None:
        """Give the factorisation's memory back."""
        if self._current is not None:
            self._current.factor.free()
            self._current = None

    def follow(self, last: March) -> None:
        """Go on with the factorisation of another one of the same pattern, which lets go of it."""
        self._current, last._current = last._current, None

    def restrained(self, system: System) -> None:
        """From now on with other restraints of the same floor."""
        self._base = system

    def trial(
        self, numbers: Numbers, state: State, stars: tuple[Array, ...], forces: Array, last: Trial | None, strain: Array | None = None
    ) -> Trial:  # fmt: skip
        """The sections under ``forces`` (e, 6): n_x, n_y, n_xy, m_x, m_y, m_xy in the elements' axes about their middle planes. Cracks follow the
        ``strain`` (e, 6) that the floor gave the elements with those of the ``last`` trial, if it is given, else the forces, each at its own pace."""
        body, E = self._body, numbers.stiff
        h, soft = body.h, body.soft
        acting = forces * soft
        two = np.broadcast_to(E, (2, len(E)))
        thick = np.broadcast_to(h, (2, len(h)))
        zeta = state.zeta if last is None else last.zeta
        nu = body.nu * (1 - zeta[0]) * (1 - zeta[1])
        N, M = acting[:, :2].T, acting[:, 3:5].T
        star = stars[0] - state.now[0] / E[None, :, None]
        star[..., 0] -= numbers.shrinkage[None]
        one = uncracked(two, thick, self._bars, (star[..., 0], star[..., 1]), N - nu * N[::-1], M - nu * M[::-1])
        sigma = E[None, :, None] * (np.stack([one.a, one.b], axis=-1) - star)
        alone = stars[1] - state.now[1] / E[None, :, None]
        alone[..., 0] -= numbers.shrinkage[None]
        nothing = np.zeros_like(N)
        dry = uncracked(two, thick, self._bars, (alone[..., 0], alone[..., 1]), nothing, nothing)
        sigma_dry = E[None, :, None] * (np.stack([dry.a, dry.b], axis=-1) - alone)
        worst, since, zeta = self._cracks(numbers, state, sigma, acting[:, 5])
        free = stars[2] - numbers.shrinkage[None, :, None] - state.now[2] / E[None, :, None]
        start = state.bent if last is None else last.bent
        curvature = None if strain is None else (strain / soft)[:, 3:5].T
        awake = worst > AWAKE
        if self._once:
            awake &= self._may_open(numbers, one, sigma, acting[:, 5], zeta, last, curvature)
        both, layers, lost = self._opened(np.nonzero(awake), two, thick, free, N, M, start, one, state.now[2])
        shear = stars[3] - state.now[3] / E[:, None]
        stress = np.column_stack([acting[:, 2] / h, 12 * acting[:, 5] / h**3])
        twist = 2 * (1 + body.nu)[:, None] * (stress / E[:, None] + shear)
        # Sections that crack draw less moment, and close again: each follows at its own pace, slower where it turns back.
        at = BY_FORCES if strain is None else BY_STRAIN
        wanted, pace, move = zeta, np.full_like(zeta, at.most), np.zeros_like(zeta)
        if last is not None:
            if curvature is not None:
                wanted = self._bent_open(numbers, state, one, both, sigma, acting[:, 5], since, curvature)
            move = wanted - last.zeta
            turned = (move * last.move < 0) & (np.abs(move) > at.turns * np.abs(last.move))
            pace = np.clip(np.where(turned, 0.5, at.more) * last.pace, at.least, at.most)
            zeta = last.zeta + pace * move
        # What the step's own stiffness is of the whole strain's, by the twist of the elements; those that are not twisted have none to lose.
        made = stress[:, 1] / E + shear[:, 1]
        with np.errstate(divide="ignore", invalid="ignore"):
            crept = np.where(np.abs(made) > 1e-12, stress[:, 1] / E / made, 1.0)
        crept = np.where(np.isfinite(crept), np.clip(crept, LEAST_CREPT, 1.0), 1.0)
        strain, law, parts = self._joined(numbers, one, both, dry, zeta, nu, twist, N, M, crept)
        tense, _ = self._held.tension(both.a, both.b)
        missing = (wanted - zeta) * np.array([both.a - one.a, both.b - one.b])
        return Trial(strain, law, (sigma, sigma_dry, layers, stress), worst, since, zeta, (both.a, both.b), parts, tense, pace, move, lost & (zeta > 0),
                     np.concatenate([missing[0].T, np.zeros((len(h), 1)), missing[1].T, np.zeros((len(h), 1))], axis=1))  # fmt: skip

    def _opened(self, awake: tuple[npt.NDArray[np.int64], ...], E: Array, h: Array, free: Array, N: Array, M: Array, start: tuple[Array, Array],
                one: Bent, before: Array) -> tuple[Bent, Array, npt.NDArray[np.bool_]]:  # fmt: skip
        """The cracked sections, of those that are ``awake``, and which of them (2, e) found no equilibrium; the others' layers stay without stress,
        and are never asked for."""
        a, b, F, layers = one.a.copy(), one.b.copy(), one.flexibility.copy(), before.copy()
        lost = np.zeros(h.shape, dtype=bool)

        def fill(some: slice) -> None:
            k = tuple(i[some] for i in awake)
            found, stress, open_ = cracked(E[k], h[k], self._held.at(k), free[k], N[k], M[k], (start[0][k], start[1][k]))
            a[k], b[k], F[k], layers[k], lost[k] = found.a, found.b, found.flexibility, stress, open_

        # In blocks: their layers stay in the processor's cache, and those of a large floor would take gigabytes.
        at_once(fill, blocks_of(len(awake[0])))
        return Bent(a, b, F), layers, lost

    def _cracks(self, numbers: Numbers, state: State, sigma: Array, twist: Array) -> tuple[Array, Array, Array]:
        """Greatest tension over strength so far, when it passed one, and the share of the cracked section."""
        worst = np.where(self._body.cracks, np.maximum(state.worst, tension(self._body.h, sigma, twist) / numbers.tension), 0.0)
        since = np.where((worst > 1) & np.isinf(state.since), numbers.ends, state.since)
        return worst, since, share_of(worst, self._beta(numbers, since))

    def _beta(self, numbers: Numbers, since: Array) -> Array:
        """(2, e) of the tension stiffening that is left."""
        if not numbers.stiffening:
            return np.zeros_like(since)
        if numbers.beta is not None:
            return np.full_like(since, numbers.beta)
        passed = np.where(np.isinf(since), 0.0, numbers.ends - np.where(np.isinf(since), 0.0, since))
        return np.asarray(0.5 + 0.5 * np.exp(-passed / DECAY_DAYS))

    def _bent_open(
        self, numbers: Numbers, state: State, one: Bent, both: Bent, sigma: Array, twist: Array, since: Array, curvature: Array
    ) -> Array:  # fmt: skip
        """Shares (2, e) of the cracked sections by the ``curvature`` (2, e) that the floor gives them."""
        side = _side(sigma)
        at = self._branches(numbers, state.worst, one, both, sigma, twist)
        return np.where(self._body.cracks, share_by_curvature(at, side * curvature, self._beta(numbers, since)), 0.0)

    def _branches(self, numbers: Numbers, before: Array, one: Bent, both: Bent, sigma: Array, twist: Array) -> Branches:
        E, h, side = numbers.stiff, self._body.h, _side(sigma)
        grows = E * (one.flexibility[..., 1, 1] * h / 2 + side * one.flexibility[..., 0, 1]) / numbers.tension
        now = tension(h, sigma, twist) / numbers.tension
        return Branches(
            now, grows, (side * one.b, one.flexibility[..., 1, 1]), (side * both.b, both.flexibility[..., 1, 1]), before
        )

    def _may_open(
        self, numbers: Numbers, one: Bent, sigma: Array, twist: Array, zeta: Array, last: Trial | None, curvature: Array | None
    ) -> npt.NDArray[np.bool_]:
        """Which sections (2, e) that have borne nothing before may be cracked in part in this trial, by their forces, by the one before or by the ``curvature`` (2, e)."""
        found = zeta > 0
        if last is not None:
            found |= last.zeta > 0
        if curvature is not None:
            at = self._branches(numbers, np.zeros_like(zeta), one, one, sigma, twist)
            found |= _side(sigma) * curvature > at.cracking
        return np.asarray(found)

    def _joined(self, numbers: Numbers, one: Bent, both: Bent, dry: Bent, zeta: Array, nu: Array, twist: Array, N: Array,
                M: Array, crept: Array) -> tuple[Array, Array, tuple[Array, ...]]:  # fmt: skip
        body = self._body
        count = len(body.h)
        strain, law = np.zeros((count, 6)), np.zeros((count, 6, 6))
        share = [(1 - zeta[d])[:, None, None] * one.flexibility[d] for d in (0, 1)]
        bent = [share[d] + zeta[d][:, None, None] * both.flexibility[d] for d in (0, 1)]
        for d in (0, 1):
            strain[:, d] = (1 - zeta[d]) * one.a[d] + zeta[d] * both.a[d]
            strain[:, 3 + d] = (1 - zeta[d]) * one.b[d] + zeta[d] * both.b[d]
        mean = (one.flexibility[0, :, 1, 1] / bent[0][:, 1, 1] + one.flexibility[1, :, 1, 1] / bent[1][:, 1, 1]) / 2
        # Poisson's ratio couples both directions; shear in the plane and twist stand alone.
        x, y = ([[0], [3]], [0, 3]), ([[1], [4]], [1, 4])
        side = -nu[:, None, None] * (share[0] + share[1]) / 2
        law[:, x[0], x[1]], law[:, y[0], y[1]], between = coupled(bent[0], bent[1], side)
        law[:, x[0], y[1]], law[:, y[0], x[1]] = between, between.transpose(0, 2, 1)
        modulus = numbers.stiff / (2 * (1 + body.nu))
        law[:, 2, 2], law[:, 5, 5] = modulus * body.h, modulus * body.h**3 * mean / 12
        strain[:, 2], strain[:, 5] = twist[:, 0], twist[:, 1] / self._left_in_twist(numbers, one, both, zeta, crept)
        law /= body.soft[:, :, None] * body.soft[:, None, :]
        elastic = self._elastic(numbers, N - nu * N[::-1], M - nu * M[::-1])
        return strain * body.soft, law, (elastic, dry.b, one.b, strain[:, 3:5].T)

    def _left_in_twist(self, numbers: Numbers, one: Bent, both: Bent, zeta: Array, crept: Array) -> Array:
        """What is left (e,) of the stiffness in twist in the long run: the mean of both directions' bending stiffness over that of the uncracked
        section, with concrete as much softer as it has ``crept`` (e,) in twist. A cracked section creeps less than an uncracked one, as only
        its pressed zone does."""
        softer = []
        for bent, bars in ((one, self._bars), (both, self._held)):
            K = inverse(bent.flexibility)
            s0, s1, s2 = bars.sums()
            k11, k12, k22 = (crept * (K[..., i, j] - s) + s for (i, j), s in (((0, 0), s0), ((0, 1), s1), ((1, 1), s2)))
            # The entry for bending of the inverse.
            softer.append(k11 / (k11 * k22 - k12**2))
        whole = (1 - zeta) * softer[0] + zeta * softer[1]
        return np.asarray((softer[0] / whole).mean(axis=0))

    def _elastic(self, numbers: Numbers, N: Array, M: Array) -> Array:
        """Curvatures of the uncracked sections if all forces came at once now."""
        E = np.broadcast_to(1 / numbers.elastic, N.shape)
        zero = np.zeros_like(N)
        return uncracked(E, np.broadcast_to(self._body.h, N.shape), self._bars, (zero, zero), N, M).b

    def solve(self, load: Array, trial: Trial, forces: Array) -> tuple[Array, Array, Array]:
        """Displacements, forces and strains that balance ``load`` (n, 5) with the sections of a trial."""
        self._current = self._made(trial.law)
        right, held = self._right(load, trial, forces)
        self._reached = Reached(self._current.factor.solve(right[:, None])[:, 0], right)
        return self._balanced(trial, held)

    def solve_near(self, load: Array, trial: Trial, forces: Array, share: float) -> tuple[Array, Array, Array]:
        """As :meth:`solve`, by the factorisation of an earlier trial from the last solution on where that comes near soon: what deflections still lack is
        some ``share`` of what they have moved. Of the trial's stiffness no factorisation is made then."""
        assert self._current is not None
        assert self._reached is not None
        T, n = self._current.T, len(load)
        more = [law - last for law, last in zip(split(self._families, trial.law), self._laws, strict=True)]
        new = [np.flatnonzero(m.any(axis=(1, 2))) for m in more]

        def stiffer(x: Array) -> Array:
            u = (T @ x).reshape(n, 5)
            out = sum(f.stiffer(m[k], k, u) for f, m, k in zip(self._families, more, new, strict=True))
            return np.asarray(T.T @ np.asarray(out).ravel())

        def close(way: Array, left: Array) -> bool:
            moved, lacking = (np.abs((T @ v).reshape(n, 5)[:, 2]).max() for v in (way, left))
            return bool(lacking <= share * moved)

        right, held = self._right(load, trial, forces)
        found = solve_near(self._current.factor, stiffer, right, self._reached, close)
        if found is None:
            return self.solve(load, trial, forces)
        self._reached = found
        return self._balanced(trial, held)

    def _right(self, load: Array, trial: Trial, forces: Array) -> tuple[Array, Array]:
        """Loads of the free unknowns (m,), and the section forces (e, 6) among them that sections without any strain hold."""
        held = (trial.law @ trial.strain[..., None])[..., 0] - forces
        return np.asarray(self._base.T.T @ (load + initial_forces(self._families, len(load), held)).ravel()), held

    def _balanced(self, trial: Trial, held: Array) -> tuple[Array, Array, Array]:
        assert self._reached is not None
        u = np.asarray(self._base.T @ self._reached.x).reshape(-1, 5)
        strain = np.concatenate([f.strains(u) for f in self._families])
        return u, (trial.law @ strain[..., None])[..., 0] - held, strain

    def units(self, vectors: Array) -> Array:
        """Displacements (n, 5, r) of load vectors with the sections' stiffness of the last solution."""
        assert self._current is not None
        n, _, r = vectors.shape
        T = self._current.T
        return np.asarray(T @ self._current.factor.solve(T.T @ vectors.reshape(5 * n, r))).reshape(n, 5, r)

    def step(
        self, at: TimeStep, numbers: Numbers, state: State, load: Array, tick: Callable[[], None]
    ) -> tuple[State, Trial, Report]:
        """One step: from a state to the next, under ``load`` (n, 5) at its end."""
        stars = tuple(_free(numbers, state, which) for which in range(4))
        size = float(np.abs(load[:, 2]).sum()) or 1.0
        forces, u = state.forces, state.u
        trial = self.trial(numbers, state, stars, forces, None)
        change = unbalanced = np.inf
        gap = np.zeros(len(self._body.h))
        rounds = 0
        while rounds < ROUNDS:
            rounds += 1
            tick()
            law = trial.law
            new, forces, strain = self.solve(load, trial, forces)
            change = float(np.abs(new[:, 2] - u[:, 2]).max() / max(np.abs(new[:, 2]).max(), 1e-9))
            u = new
            trial = self.trial(numbers, state, stars, forces, trial)
            off = (law @ (trial.strain + trial.missing - strain)[..., None])[..., 0]
            out = initial_forces(self._families, len(u), off)
            unbalanced = float(np.abs(out[:, 2]).sum()) / size
            gap = np.abs(off[:, 3:5]).max(axis=1)
            if change < CLOSE_W and unbalanced < CLOSE_FORCE:
                break
        done = change < CLOSE_W and unbalanced < AT_REST and not trial.lost.any()
        if trial.lost.any():
            gap = np.where(trial.lost.any(axis=0), np.inf, gap)
        report = Report(at, rounds, change, unbalanced, done, int(gap.argmax()))
        return self._committed(numbers, state, trial, forces, u, size), trial, report

    def followed(self, numbers: Numbers, state: State, forces: Array) -> tuple[State, Trial]:
        """One step of sections whose ``forces`` (e, 6) at its end are given."""
        trial = self.trial(numbers, state, tuple(_free(numbers, state, which) for which in range(4)), forces, None)
        return self._committed(numbers, state, trial, forces, state.u, state.load), trial

    def moved(self, law: Array, strains: Sequence[Array]) -> Array:
        """Displacements (n, 5, k) of a floor whose sections have the stiffness ``law`` (e, 6, 6), and of their own ``strains`` (e, 6) each."""
        self._current = self._made(law)
        n = len(self._base.mesh.xy)
        held = [initial_forces(self._families, n, (law @ s[..., None])[..., 0]) for s in strains]
        return self.units(np.stack(held, axis=2))

    def _made(self, law: Array) -> System:
        laws, families = split(self._families, law), []
        for k, (family, own) in enumerate(zip(self._families, laws, strict=True)):
            if self._laws:
                # Most sections stay as they were from one round to the next.
                new = np.flatnonzero((own != self._laws[k]).any(axis=(1, 2)))
                families.append(family.with_law(own, self._stiffness[k], new))
            else:
                families.append(family.with_law(own))
        self._laws, self._stiffness = laws, [f.stiffness for f in families]
        return renewed(in_turn(self._base, self._current), tuple(families))

    def _committed(self, numbers: Numbers, state: State, trial: Trial, forces: Array, u: Array, load: float) -> State:
        """The state after a step: cracks that have opened stay open."""
        by = (numbers.elastic[None, :, None],) * 3 + (numbers.elastic[:, None],)
        made = [new - old for new, old in zip(trial.now, state.now, strict=True)]
        elastic = tuple(old + e * d for old, e, d in zip(state.elastic, by, made, strict=True))
        # Creep of highly stressed layers grows faster than their stress.
        pressed = -trial.now[2] / numbers.strength[None, :, None]
        made[2] = made[2] * np.where(pressed > LINEAR, np.exp(1.5 * (pressed - LINEAR)), 1.0)
        increments = (*state.increments, tuple(d.astype(np.float32) for d in made))
        return State(
            trial.now,
            elastic,
            increments,
            trial.worst,
            trial.since,
            trial.zeta,
            forces,
            trial.bent,
            u,
            load,
        )
