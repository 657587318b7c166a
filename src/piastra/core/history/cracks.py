"""What share of a section is cracked, of all that it may be: by the forces on it, or by how the floor bends it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]

HALVINGS = 40
"""Steps of a bisection, by which its bracket is next to nothing."""


def share_of(worst: Array, beta: Array | float) -> Array:
    """(7.18) of EN 1992-1-1 as the share of the cracked section, of tension over strength ``worst`` (...); ``beta`` of (7.19)."""
    return np.where(worst > 1, 1 - beta / np.maximum(worst, 1.0) ** 2, 0.0)


@dataclass(frozen=True, slots=True)
class Branches:
    """Sections (...) under a trial moment: tension over strength ``worst``, and by how much it ``grows`` by a unit of moment; curvature and flexibility
    of the ``whole`` and of the ``open`` section; ``before``, the greatest tension over strength that the section has borne, below which cracks do not
    close. Moments and curvatures are positive where they stretch the face with the tension."""

    worst: Array
    grows: Array
    whole: tuple[Array, Array]
    open: tuple[Array, Array]
    before: Array

    @property
    def left(self) -> Array:
        """By how much (...) the moment may grow until the section cracks."""
        return (1 - self.worst) / self.grows

    @property
    def cracking(self) -> Array:
        """Curvature (...) of the whole section under its cracking moment."""
        k1, F1 = self.whole
        return k1 + F1 * self.left


def share_by_curvature(at: Branches, curvature: Array, beta: Array | float) -> Array:
    """The share of the cracked section with which a section has a ``curvature`` (...), both branches taken as straight lines.

    By moments the share leaps from nil to ``1 - beta`` where the section cracks, so that of a section near its cracking moment one
    trial finds it cracked and the next one whole, without end. By curvature it is single-valued: over the leap the moment stays
    what it is and the curvature grows.
    """
    (k1, F1), (k2, F2) = at.whole, at.open
    # A section that is not softer cracked than whole has no leap.
    k2, F2 = np.maximum(k2, k1), np.maximum(F2, F1)
    low, high = at.cracking, k2 + F2 * at.left
    leap = np.clip((curvature - low) / np.maximum(high - low, 1e-15), 0.0, 1 - beta)
    found = np.where((at.before <= 1) & (leap < 1 - beta), leap, np.nan)
    rest = np.isnan(found)
    if rest.any():
        k, w, a, w0, b = curvature[rest], at.worst[rest], at.grows[rest], at.before[rest], np.broadcast_to(beta, rest.shape)[rest]
        k1, F1, k2, F2 = k1[rest], F1[rest], k2[rest], F2[rest]
        ends = (k - k1) / F1, (k - k2) / F2
        # Between these the curvature is that of some share of both.
        m, n = np.minimum(*ends), np.maximum(*ends)

        def share(more: Array) -> Array:
            return np.asarray(1 - b / np.maximum(np.maximum(w + a * more, w0), 1.0) ** 2)

        for _ in range(HALVINGS):
            middle = (m + n) / 2
            z = share(middle)
            over = (1 - z) * (k1 + F1 * middle) + z * (k2 + F2 * middle) > k
            m, n = np.where(over, m, middle), np.where(over, middle, n)
        found[rest] = share((m + n) / 2)
    return found
