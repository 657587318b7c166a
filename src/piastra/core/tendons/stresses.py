"""Stresses of the concrete at stations of strips, on gross sections."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt
import scipy.sparse as sp

from piastra.core.combine.envelope import Factors, envelopes
from piastra.core.fe.recovery import Places
from piastra.core.strips.cuts import Cuts
from piastra.core.strips.layout import Layout

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class Sections:
    """Gross sections at c cuts: area ``A`` (c,) m2, second moment ``I`` (c,) m4 about the centroid at ``zeta`` (c,) m below the
    reference plane, and the distances (c,) m of the ``top`` and ``bottom`` fibres from it."""

    A: Array
    I: Array
    zeta: Array
    top: Array
    bottom: Array


@dataclass(frozen=True, slots=True)
class Averaged:
    """Sections of whole design strips: for each of c cuts the number of its ``group`` (c,); the ``sections`` of g groups, and the operator
    (g, c) that sums their cuts. Cuts of one axis, span and place are one group: column strip and middle strips together."""

    group: Ints
    sections: Sections
    sums: sp.csr_matrix


def sections_of(cuts: Cuts, kept: Places) -> Sections:
    """Sections of single strips; steps and drops with their own levels."""
    count, samples = len(cuts.strip), cuts.samples
    h, depth = samples.spread @ kept.h, samples.spread @ kept.zeta
    L, cut = samples.length, samples.cut
    A: Array = np.asarray(np.bincount(cut, L * h, minlength=count), dtype=np.float64)
    zeta = np.bincount(cut, L * h * depth, minlength=count) / np.maximum(A, 1e-12)
    I: Array = np.asarray(np.bincount(cut, L * (h**3 / 12 + h * (depth - zeta[cut]) ** 2), minlength=count), dtype=np.float64)
    top, bottom = np.zeros(count), np.zeros(count)
    np.maximum.at(top, cut, zeta[cut] - depth + h / 2)
    np.maximum.at(bottom, cut, depth + h / 2 - zeta[cut])
    return Sections(A, I, zeta, top, bottom)


def averaged(layout: Layout, cuts: Cuts, own: Sections) -> Averaged:
    """Whole design strips; a beam's strip is one by itself."""
    keys: dict[tuple[int, int, float, str], int] = {}
    group = np.zeros(len(cuts.strip), dtype=np.int64)
    for c, k in enumerate(cuts.strip):
        strip = layout.strips[k]
        key = (strip.axis, strip.number, round(float(cuts.s[c]), 3), strip.beam)
        group[c] = keys.setdefault(key, len(keys))
    g = len(keys)
    A: Array = np.asarray(np.bincount(group, own.A, minlength=g), dtype=np.float64)
    zeta = np.bincount(group, own.A * own.zeta, minlength=g) / np.maximum(A, 1e-12)
    I: Array = np.asarray(np.bincount(group, own.I + own.A * (own.zeta - zeta[group]) ** 2, minlength=g), dtype=np.float64)
    top, bottom = np.zeros(g), np.zeros(g)
    np.maximum.at(top, group, zeta[group] - own.zeta + own.top)
    np.maximum.at(bottom, group, own.zeta - zeta[group] + own.bottom)
    sums = sp.csr_matrix((np.ones(len(group)), (group, np.arange(len(group)))), shape=(g, len(group)))
    return Averaged(group, Sections(A, I, zeta, top, bottom), sums)


def fibre_stress(cuts: Cuts, own: Sections, whole: Averaged | None = None) -> Array:
    """Stress (c, 2, r) kN/m2 at the bottom and top fibre in every unit load, tension positive; of the whole design strips, at the
    cuts of their groups, where these are given."""
    M, N = cuts.forces[:, 0], cuts.forces[:, 3]
    s = own
    if whole is not None:
        s = whole.sections
        M = whole.sums @ (M + N * (own.zeta - s.zeta[whole.group])[:, None])
        N = whole.sums @ N
    mean = N / np.maximum(s.A, 1e-12)[:, None]
    bent = M / np.maximum(s.I, 1e-12)[:, None]
    out = np.stack([mean + bent * s.bottom[:, None], mean - bent * s.top[:, None]], axis=1)
    return out[whole.group] if whole is not None else out


def scaled(f: Factors, units: Ints, by: float) -> Factors:
    """The combination with the prestress of some ``units`` so many times as great."""
    always = f.always.copy()
    always[units] *= by
    return replace(f, always=always)


def extremes(stress: Array, combinations: Sequence[Factors], units: Ints, spread: tuple[float, float]) -> tuple[Array, Array]:
    """Least and greatest (c, 2, C) of fibre stresses over all arrangements and both limits of the prestress."""
    low: Array | None = None
    high: Array | None = None
    for by in sorted(set(spread)):
        a, b = envelopes(stress, [scaled(f, units, by) for f in combinations])
        low = a if low is None else np.minimum(low, a)
        high = b if high is None else np.maximum(high, b)
    assert low is not None
    assert high is not None
    return low, high
