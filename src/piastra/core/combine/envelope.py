"""Sums of unit responses: all live load present, and the least and greatest over all arrangements."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from piastra.core.loads.vectors import Unit
from piastra.core.model import Floor
from piastra.core.model.loading import LASTING, Combination
from piastra.core.trace import Loaded

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class Factors:
    """Factors of the ``r`` units in one combination.

    ``always`` (r,) of what is always present, ``pattern`` (r,) of what each arrangement may leave out. ``shares``
    (a, r) of the pattern load that each of the arrangements has on; None: any choice of units is an arrangement.
    """

    combination: str
    limit_state: str
    always: Array
    pattern: Array
    shares: Array | None = None

    @property
    def lasting(self) -> bool:
        """Whether long-term deflection is checked under it."""
        return self.limit_state in LASTING

    @property
    def full(self) -> Array:
        """Factors with all live load present, (r,)."""
        return self.always + self.pattern


def with_constant(f: Factors) -> Factors:
    """The combination with one more unit that is always there."""
    shares = None if f.shares is None else np.hstack([f.shares, np.zeros((len(f.shares), 1))])
    return replace(f, always=np.append(f.always, 1.0), pattern=np.append(f.pattern, 0.0), shares=shares)


def factors_of(floor: Floor, units: tuple[Unit, ...], combination: Combination, shares: Array | None = None) -> Factors:
    """Factors of a combination. A pattern case without panels is one that may be wholly present or absent."""
    pattern_cases = {c.id for c in floor.load_cases if c.pattern}
    factor = np.array([combination.factors.get(u.case, 0.0) for u in units])
    pattern = np.array([u.case in pattern_cases for u in units], dtype=bool)
    always, live = np.where(pattern, 0.0, factor), np.where(pattern, factor, 0.0)
    return Factors(combination.id, combination.limit_state, always, live, shares)


def envelope(values: Array, factors: Factors) -> tuple[Array, Array]:
    """Least and greatest of quantities over all arrangements.

    ``values`` (..., r) the quantities' unit responses; the results have shape (...). Exact for every quantity
    that is a linear functional of the response.
    """
    least, most = envelopes(values, [factors])
    return least[..., 0], most[..., 0]


def envelopes(values: Array, combinations: Sequence[Factors]) -> tuple[Array, Array]:
    """Least and greatest over all arrangements under each of C combinations, (..., C); ``values`` (..., r)."""
    alike = _alike(combinations)
    if alike is None:
        return -greatest(-values, combinations), greatest(values, combinations)
    base = values @ alike.always
    high, low = np.maximum(values, 0.0) @ alike.members, np.minimum(values, 0.0) @ alike.members
    least, most = base + low @ alike.up, base + high @ alike.up
    if alike.down is not None:
        least += high @ alike.down
        most += low @ alike.down
    return least, most


def greatest(values: Array, combinations: Sequence[Factors]) -> Array:
    """The greatest over all arrangements under each of C combinations, (..., C).

    ``values`` (..., r). Units of one case have one factor, so their adverse sums are made once for all combinations.
    """
    alike = _alike(combinations)
    if alike is not None:
        base = values @ alike.always
        base += np.maximum(values, 0.0) @ alike.members @ alike.up
        if alike.down is not None:
            base += np.minimum(values, 0.0) @ alike.members @ alike.down
        return np.asarray(base)
    base = values @ np.array([f.always for f in combinations]).T
    pattern = np.array([f.pattern for f in combinations])
    if not pattern.any():
        return np.asarray(base)
    shares = combinations[0].shares
    if shares is not None:
        live = np.stack([(values * f.pattern) @ shares.T for f in combinations], axis=-2)
        return np.asarray(base + live.max(axis=-1))
    return np.asarray(base + np.maximum(values * pattern[0], 0.0).sum(axis=-1)[..., None])


@dataclass(frozen=True, slots=True)
class _Alike:
    """Units with the same pattern factors under each of several combinations: ``always`` (r, C), which unit is among the ``members`` (r, g) of which
    group, the groups' factors that are positive, ``up`` (g, C), and those that are not, ``down``, if any."""

    always: Array
    members: Array
    up: Array
    down: Array | None


_KNOWN: dict[tuple[int, ...], tuple[Sequence[Factors], _Alike | None]] = {}
"""Found for combinations that were asked for last, by their identities, which last as long as they are kept here."""
KNOWN = 64
"""So many at most."""


def _alike(combinations: Sequence[Factors]) -> _Alike | None:
    """None where there is no pattern load, one combination only, or where arrangements are named."""
    key = tuple(map(id, combinations))
    known = _KNOWN.get(key)
    if known is None:
        if len(_KNOWN) >= KNOWN:
            _KNOWN.clear()
        known = _KNOWN[key] = tuple(combinations), _grouped(combinations)
    return known[1]


def _grouped(combinations: Sequence[Factors]) -> _Alike | None:
    pattern = np.array([f.pattern for f in combinations])
    if len(combinations) < 2 or not pattern.any() or combinations[0].shares is not None:
        return None
    # Columns that are alike, by their bytes: sorting them with np.unique takes longer than the sums.
    number: dict[bytes, int] = {}
    group = [number.setdefault(column.tobytes(), len(number)) for column in np.ascontiguousarray(pattern.T)]
    factor = pattern[:, [group.index(k) for k in range(len(number))]].T
    down = np.minimum(factor, 0.0) if (factor < 0).any() else None
    always = np.array([f.always for f in combinations]).T
    return _Alike(always, np.eye(len(number))[group], np.maximum(factor, 0.0), down)


def presence(values: Array, factors: Factors, greatest: bool) -> Array:
    """Share (..., r) of each pattern unit that is on in the arrangement which makes ``values`` (..., r) greatest (or
    least); 0 for units that are no pattern load."""
    part = values * factors.pattern if greatest else -values * factors.pattern
    if factors.shares is None:
        return (part > 0).astype(float)
    return np.where(factors.pattern != 0, factors.shares[(part @ factors.shares.T).argmax(axis=-1)], 0.0)


def companion(values: Array, along: Array, factors: Factors, greatest: bool) -> Array:
    """The value of ``along`` (..., r) under the arrangement that makes ``values`` (..., r) greatest (or least)."""
    return along @ factors.always + (along * presence(values, factors, greatest)) @ factors.pattern


def companions(values: Array, along: Array, combinations: Sequence[Factors], chosen: Ints) -> Array:
    """:func:`companion` where ``values`` (k, r) are greatest, each place under its ``chosen`` (k,) combination."""
    out = np.zeros(len(values))
    for c in np.unique(chosen):
        here = chosen == c
        out[here] = companion(values[here], along[here], combinations[c], greatest=True)
    return out


def governing_panels(values: Array, factors: Factors, units: Sequence[Unit], greatest: bool) -> tuple[Loaded, ...]:
    """The loaded panels of the arrangement that makes one quantity (r,) greatest (or least)."""
    on = presence(values, factors, greatest)
    loaded = (units[k] for k in np.flatnonzero(on * factors.pattern).tolist())
    return tuple(Loaded(u.case, panel) for u in loaded for panel in u.panels or (None,))
