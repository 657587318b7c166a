"""The mechanism of the stage chain: content keys, a bounded cache, progress and cancellation."""

from __future__ import annotations

import hashlib
import json
import time
from collections import Counter, OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, TypeVar

T = TypeVar("T")


class CancelledError(Exception):
    """The run was cancelled between two stages."""


def key_of(*parts: Any) -> str:
    """A hash of JSON-like inputs and of the keys of earlier stages."""
    text = json.dumps(parts, sort_keys=True, default=lambda m: m.model_dump(mode="json"))
    return hashlib.sha256(text.encode()).hexdigest()


@dataclass(slots=True)
class StageCache:
    """Results of stages by key, the last used ones kept. Losing it costs time only."""

    limit: int = 60
    kept: OrderedDict[str, Any] = field(default_factory=OrderedDict)

    def get(self, key: str) -> Any | None:
        if key in self.kept:
            self.kept.move_to_end(key)
            return self.kept[key]
        return None

    def put(self, key: str, value: Any) -> None:
        self.kept[key] = value
        while len(self.kept) > self.limit:
            _, old = self.kept.popitem(last=False)
            if hasattr(old, "free"):
                old.free()


@dataclass(slots=True)
class Run:
    """One pass through the chain: runs each stage, or takes it from the cache.

    ``progress`` hears the stage's name and the share done; ``cancelled`` is asked before each stage. ``seconds``
    and ``ran`` tell which stages ran and for how long.
    """

    cache: StageCache
    stages: int
    progress: Callable[[str, float], None] = lambda name, share: None
    cancelled: Callable[[], bool] = lambda: False
    seconds: dict[str, float] = field(default_factory=dict)
    ran: Counter[str] = field(default_factory=Counter)
    passed: int = 0

    def stage(self, name: str, key: str, make: Callable[[], T]) -> T:
        """The stage's result. Raises :class:`CancelledError` when the run has been cancelled."""
        if self.cancelled():
            raise CancelledError
        self.progress(name, self.passed / self.stages)
        self.passed += 1
        found: T | None = self.cache.get(f"{name}:{key}")
        if found is None:
            start = time.perf_counter()
            found = make()
            self.seconds[name] = time.perf_counter() - start
            self.ran[name] += 1
            self.cache.put(f"{name}:{key}", found)
        return found
