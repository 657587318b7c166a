"""Responses to load vectors that were met before, up to their magnitude.

A changed live load most often scales its vectors: what they cause is known already.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

DIGITS = 11
"""Vectors whose entries over the greatest one agree to so many decimals are one vector times a number."""


@dataclass(slots=True)
class Basis:
    """Known vectors and, for each, several responses: arrays whose last axis runs over the vectors."""

    keys: list[bytes] = field(default_factory=list)
    responses: tuple[Array, ...] = ()
    solved: int = 0
    seconds: dict[str, float] = field(default_factory=dict)
    """Time of the parts of the newest response, as ``make`` told them."""

    def respond(self, vectors: Array, make: Callable[[Array], tuple[Array, ...]]) -> tuple[Array, ...]:
        """Responses to ``vectors`` (n, 5, r), each array with a last axis of r.

        ``make`` finds the responses to vectors that are new; those no longer asked for are forgotten. ``solved``
        tells how many were new.
        """
        count = vectors.shape[2]
        if count == 0:
            # A floor without loads has no response, but its arrays keep their shapes.
            return tuple(a[..., :0] for a in make(np.zeros((*vectors.shape[:2], 1))))
        flat = vectors.reshape(-1, count)
        first = np.abs(flat).argmax(axis=0)
        size = flat[first, np.arange(count)]
        unit = np.round(flat / np.where(size == 0, 1.0, size), DIGITS) + 0.0
        keys = [unit[:, k].tobytes() for k in range(count)]
        new = [k for k in dict(zip(keys, range(count), strict=True)).values() if keys[k] not in self.keys]
        self.solved = len(new)
        self.seconds = {}
        if new or not self.responses:
            scale = np.where(size[new] == 0, 1.0, size[new])
            made = make(vectors[..., new] / scale)
            if self.responses:
                made = tuple(np.concatenate(pair, axis=-1) for pair in zip(self.responses, made, strict=True))
            self.responses = made
            self.keys += [keys[k] for k in new]
        where = {key: k for k, key in enumerate(self.keys)}
        pick = np.array([where[k] for k in keys], dtype=np.int64)
        if not np.array_equal(pick, np.arange(len(self.keys))):
            self.responses = tuple(r[..., pick] for r in self.responses)
            self.keys = keys
        return tuple(r * size for r in self.responses)
