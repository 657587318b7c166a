"""Work in pieces that need nothing of each other, a few at once: numpy's products and the sparse ones hold no lock of the interpreter's."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable
from concurrent.futures import ThreadPoolExecutor
from functools import cache
from threading import local
from typing import TypeVar

T = TypeVar("T")
R = TypeVar("R")

_inside = local()


def threads() -> int:
    """How many a run may use: what the solver is given by ``OMP_NUM_THREADS``, or as many as there are cores."""
    given = os.environ.get("OMP_NUM_THREADS", "")
    return max(1, int(given) if given.isdecimal() else len(os.sched_getaffinity(0)))


@cache
def _pool() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(threads(), "pieces", lambda: setattr(_inside, "own", True))


# A process that is forked off has none of the threads.
os.register_at_fork(after_in_child=_pool.cache_clear)


def at_once(make: Callable[[T], R], pieces: Iterable[T]) -> list[R]:
    """What ``make`` gives for each of the pieces, in their order. Pieces of pieces follow one another: none waits for a thread that waits for it."""
    its = list(pieces)
    if len(its) < 2 or threads() < 2 or hasattr(_inside, "own"):
        return [make(piece) for piece in its]
    return list(_pool().map(make, its))
