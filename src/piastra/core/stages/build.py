"""The mechanism of the computation as a build: stages that receive only what they declare, keys by content, a cache
bounded in bytes, progress and cancellation."""

from __future__ import annotations

import ctypes
import dataclasses
import hashlib
import os
import time
from collections import Counter, OrderedDict
from collections.abc import Callable, Mapping, Sequence
from concurrent.futures import Future, ThreadPoolExecutor, wait
from dataclasses import dataclass, field
from functools import cache
from typing import Any, Generic, TypeVar

import numpy as np
import scipy.sparse as sp
import shapely
from pydantic import BaseModel
from pydantic_core import PydanticSerializationError, to_json
from shapely.geometry.base import BaseGeometry

from piastra.core.fe.linear_solver import alone
from piastra.core.model import Floor

I = TypeVar("I")
T = TypeVar("T")
T_co = TypeVar("T_co", covariant=True)
U = TypeVar("U")


class CancelledError(Exception):
    """The run was cancelled between two stages."""


class UndeclaredError(LookupError):
    """A stage asked for the result of one that it does not declare."""


def key_of(*parts: Any, met: dict[int, bytes] | None = None) -> str:
    """A hash of content: numbers, texts, arrays, shapes, models, dataclasses and collections of these. ``met``: hashes by ``id`` of models that many
    parts hold, empty as long as they are not known; they must outlive it.

    Raises :class:`TypeError` for anything whose content is not known.
    """
    digest = hashlib.blake2b(digest_size=32)
    for part in parts:
        _feed(digest.update, part, met or {})
    return digest.hexdigest()


def _feed(eat: Callable[[bytes], object], value: Any, met: dict[int, bytes]) -> None:
    if value is None or isinstance(value, bool | int | float | str | np.integer | np.floating):
        # -0.0 and 0.0 compute alike, but a number is not its text.
        eat(f"{type(value).__name__[:1]}{value!r}\0".encode())
    elif isinstance(value, BaseModel):
        if id(value) in met:
            if not met[id(value)]:
                own = hashlib.blake2b(digest_size=32)
                _fields(own.update, value, met)
                met[id(value)] = own.digest()
            eat(b"m" + met[id(value)])
        else:
            _fields(eat, value, met)
    elif isinstance(value, Mapping):
        eat(b"{")
        for name, item in sorted(value.items()):
            _feed(eat, name, met)
            _feed(eat, item, met)
    elif isinstance(value, list | tuple):
        eat(b"[%d" % len(value))
        for item in value:
            _feed(eat, item, met)
    elif isinstance(value, frozenset | set):
        eat(b"s")
        for text in sorted(repr(v) for v in value):
            eat(text.encode() + b"\0")
    elif isinstance(value, np.ndarray):
        if value.dtype == object:
            _feed(eat, value.tolist(), met)
        else:
            eat(f"a{value.dtype.str}{value.shape}".encode())
            eat(np.ascontiguousarray(value).tobytes())
    elif isinstance(value, BaseGeometry):
        eat(b"g" + value.wkb)
    elif dataclasses.is_dataclass(value):
        eat(type(value).__name__.encode() + b"(")
        for f in dataclasses.fields(value):
            _feed(eat, getattr(value, f.name), met)
    else:
        raise TypeError(f"the content of a {type(value).__name__} is not known")


def _fields(eat: Callable[[bytes], object], model: BaseModel, met: dict[int, bytes]) -> None:
    """All that a model holds. What it holds beside lists of models goes as JSON, which the models' own library makes many times faster than this one
    goes through it."""
    plain = {}
    for name, item in model.__dict__.items():
        if isinstance(item, list) and item and isinstance(item[0], BaseModel):
            eat(b"%b[%d" % (name.encode(), len(item)))
            if id(item[0]) in met:
                for one in item:
                    _feed(eat, one, met)
                continue
        plain[name] = item
    try:
        eat(to_json(plain, inf_nan_mode="constants"))
    except PydanticSerializationError:
        for name, item in plain.items():
            eat(name.encode() + b"\0")
            _feed(eat, item, met)


SOME = 12
"""Items of a list that are looked at to know its size."""


def size_of(value: Any, seen: set[int] | None = None) -> int:
    """About how many bytes a result holds; what is met twice counts once, and of a long list some items stand for all."""
    seen = set() if seen is None else seen
    if value is None or id(value) in seen or isinstance(value, bool | int | float | str | bytes):
        return 64
    seen.add(id(value))
    if isinstance(value, np.ndarray):
        if value.dtype == object:
            if value.size and isinstance(value.flat[0], BaseGeometry):
                return int(value.nbytes + 200 * value.size + 16 * int(shapely.count_coordinates(value)))
            return size_of(value.ravel().tolist(), seen) + value.nbytes
        return int(value.nbytes if value.base is None else value.size * value.itemsize)
    if sp.issparse(value):
        return int(value.data.nbytes + value.indices.nbytes + value.indptr.nbytes)
    if isinstance(value, BaseGeometry):
        return 200 + 16 * int(shapely.count_coordinates(value))
    if isinstance(value, shapely.STRtree):
        return size_of(value.geometries, seen) + 100 * len(value.geometries)
    if isinstance(value, Mapping):
        return 64 + sum(size_of(k, seen) + size_of(v, seen) for k, v in value.items())
    if isinstance(value, set | frozenset):
        value = list(value)
    if isinstance(value, list | tuple):
        some = value[:: -(-len(value) // SOME)] if len(value) > SOME else value
        return 64 + int(sum(size_of(v, seen) for v in some) * len(value) / max(len(some), 1))
    held = getattr(value, "bytes_held", None)
    if held is not None:
        return int(held)
    if dataclasses.is_dataclass(value):
        return 64 + sum(size_of(getattr(value, f.name), seen) for f in dataclasses.fields(value))
    if isinstance(value, BaseModel):
        return 64 + sum(size_of(v, seen) for v in value.__dict__.values())
    return 64


LARGE = 200_000_000
"""What a stage of such a result (bytes) needed on the way there is given back to the system at once: the next one needs as much."""

LONG = 5.0
"""So is that of one that takes so many seconds, however little comes of it."""

QUICK = 0.4
"""What a stage makes within so many seconds is not looked through at once, while somebody waits for what comes after it: there is not much of it."""


def _give_back() -> None:
    """Have the allocator give back what is free, where it can."""
    try:
        trim = ctypes.CDLL("libc.so.6").malloc_trim
    except (OSError, AttributeError):
        return
    trim(0)


@dataclass(frozen=True)
class Stage(Generic[I, T_co]):
    """One step of the computation: a pure function from what it declares to a result that nobody changes.

    ``inputs`` picks from a floor what the stage reads; it is what is hashed, and all that ``make`` sees of the floor.
    ``needs`` are the stages whose results it reads. ``content``, where given, is what later stages read of the result: their
    keys then follow that content, so that an edit that leaves it as it was runs nothing after it. ``kin`` names what of
    ``needs`` a result's re-usable parts depend on: ``make`` may take such parts from the last result of equal kin.
    """

    name: str
    inputs: Callable[[Floor], I]
    make: Callable[[I, Made[T_co]], T_co]
    needs: tuple[Stage[Any, Any], ...] = ()
    content: Callable[[T_co], Any] | None = None
    kin: tuple[Stage[Any, Any], ...] = ()


@dataclass(frozen=True)
class Made(Generic[U]):
    """Results of the stages that a stage declares, and the ``earlier`` result of its own kin, if there is one. A long stage calls ``tick``
    now and then with the share that it has done; that raises :class:`CancelledError` when the run is not wanted any more."""

    _results: Mapping[str, Any]
    earlier: U | None = None
    tick: Callable[[float], None] = lambda share: None

    def __getitem__(self, stage: Stage[Any, T]) -> T:
        """A declared stage's result. Raises :class:`UndeclaredError`."""
        if stage.name not in self._results:
            raise UndeclaredError(f"stage {stage.name} is not among those that this one declares")
        result: T = self._results[stage.name]
        return result

    def waits(self) -> None:
        """For who does not know what share is done: raises :class:`CancelledError` when the run is not wanted any more."""
        self.tick(0.0)


@dataclass(slots=True)
class _Entry:
    value: Any
    size: int = 0
    """Bytes, once they have been counted."""
    after: str | None = None
    """What stands for the result in the keys of later stages, once it is known."""


@dataclass(slots=True)
class StageCache:
    """Results of stages by key, the last used ones kept within ``limit`` bytes. Losing it costs time only."""

    limit: int = 1_500_000_000
    kept: OrderedDict[str, _Entry] = field(default_factory=OrderedDict)
    kin: dict[str, str] = field(default_factory=dict)

    @property
    def size(self) -> int:
        """Bytes held."""
        return sum(e.size for e in self.kept.values())

    def get(self, key: str) -> Any | None:
        """The result of a key, if it is kept."""
        entry = self.kept.get(key)
        if entry is None:
            return None
        self.kept.move_to_end(key)
        return entry.value

    def put(self, key: str, value: Any, in_use: set[str]) -> None:
        """Keep a result; those not used for longest go, but none of the keys ``in_use``."""
        self.kept[key] = _Entry(value)
        self.weigh([key], in_use)

    def weigh(self, keys: Sequence[str], in_use: set[str]) -> None:
        """Find out how much the results of ``keys`` hold, and keep within the limit as :meth:`put` does."""
        for key in keys:
            if key in self.kept:
                self.kept[key].size = size_of(self.kept[key].value)
        total = self.size
        for old in list(self.kept):
            if total <= self.limit:
                break
            if old in in_use or old in keys:
                continue
            entry = self.kept.pop(old)
            total -= entry.size
            if hasattr(entry.value, "free"):
                entry.value.free()
        self.kin = {k: v for k, v in self.kin.items() if v in self.kept}


@dataclass(slots=True)
class Run:
    """One pass through the chain: makes each stage's result, or takes it from the cache.

    ``progress`` hears the stage's name and the share done; ``cancelled`` is asked before each stage. ``seconds``
    and ``ran`` tell which stages ran and for how long.
    """

    floor: Floor
    cache: StageCache
    stages: int
    progress: Callable[[str, float], None] = lambda name, share: None
    cancelled: Callable[[], bool] = lambda: False
    seconds: dict[str, float] = field(default_factory=dict)
    ran: Counter[str] = field(default_factory=Counter)
    results: dict[str, Any] = field(default_factory=dict)
    keys: dict[str, str] = field(default_factory=dict)
    passed: int = 0
    _used: set[str] = field(default_factory=set)
    _met: dict[int, bytes] = field(default_factory=dict)
    _begun: dict[str, tuple[str, str, Future[tuple[Any, float]]]] = field(default_factory=dict)
    """Stages that are made beside others: what each is known by in the cache, and its kin there."""
    _uncounted: list[str] = field(default_factory=list)
    """Keys of what was made in a moment."""
    _ended: bool = False

    def __post_init__(self) -> None:
        # Stages read the same objects over and over.
        lists = (v for v in self.floor.__dict__.values() if isinstance(v, list))
        self._met = {id(item): b"" for items in lists for item in items if isinstance(item, BaseModel)}

    def take(self, stage: Stage[Any, T]) -> T:
        """The stage's result. Raises :class:`CancelledError` when the run has been cancelled."""
        given, key, kin = self._met_by(stage)
        for needed in stage.needs:
            self._settle(needed.name)
        # A stage may have nothing to give, and that is a result too.
        if key in self.cache.kept:
            found: T = self.cache.get(key)  # type: ignore[assignment]
        else:
            start = time.perf_counter()
            found = stage.make(
                given, Made({n.name: self.results[n.name] for n in stage.needs}, self._earlier(kin), self._ticking(stage.name))
            )
            self._keep(stage.name, key, kin, found, time.perf_counter() - start)
        self.results[stage.name] = found
        entry = self.cache.kept[key]
        if entry.after is None:
            entry.after = key if stage.content is None else f"{stage.name}:{key_of(stage.content(found))}"
        self.keys[stage.name] = entry.after
        return found

    def begin(self, stage: Stage[Any, Any]) -> None:
        """Have a stage made beside those that are taken next, until one of them needs it: with it comes then what it raises. It has to leave alone what
        is not safe to be used by two at once, and later stages' keys have to follow from its inputs.

        Raises :class:`CancelledError` as :meth:`take` does.
        """
        assert stage.content is None
        given, key, kin = self._met_by(stage)
        self.keys[stage.name] = key
        if key in self.cache.kept:
            self.results[stage.name] = self.cache.get(key)
            self.cache.kept[key].after = key
            return
        earlier = self._earlier(kin)

        def made() -> tuple[Any, float]:
            # Whatever of its needs was begun has been made: there is one thread for all of them.
            others = {
                n.name: self._begun[n.name][2].result()[0] if n.name in self._begun else self.results[n.name] for n in stage.needs
            }
            start = time.perf_counter()
            return stage.make(given, Made(others, earlier, self._while_wanted)), time.perf_counter() - start

        for needed in stage.needs:
            if needed.name not in self._begun:
                assert needed.name in self.results
        self._begun[stage.name] = key, kin, _beside().submit(made)

    def close(self) -> None:
        """End what was begun, and keep what has come of it: nothing of the run is under way after that."""
        self._ended = True
        under_way = {name: coming for name, (_, _, coming) in self._begun.items()}
        # What has not begun yet begins no more, and then what has is waited for.
        for coming in under_way.values():
            coming.cancel()
        wait(under_way.values())
        for name, coming in under_way.items():
            if not coming.cancelled() and coming.exception() is None:
                self._settle(name)
        self._count()

    def _met_by(self, stage: Stage[Any, Any]) -> tuple[Any, str, str]:
        """What a stage reads of the floor, the key of its result, and that of its kin."""
        if self.cancelled():
            raise CancelledError
        self.progress(stage.name, self.passed / self.stages)
        self.passed += 1
        given = stage.inputs(self.floor)
        key = f"{stage.name}:{key_of(given, [self.keys[n.name] for n in stage.needs], met=self._met)}"
        self._used.add(key)
        return given, key, f"{stage.name}:{key_of([self.keys[n.name] for n in stage.kin])}" if stage.kin else ""

    def _earlier(self, kin: str) -> Any | None:
        last = self.cache.kin.get(kin)
        return self.cache.get(last) if last is not None else None

    def _keep(self, name: str, key: str, kin: str, found: Any, seconds: float) -> None:
        self.seconds[name] = seconds
        self.ran[name] += 1
        if kin:
            self.cache.kin[kin] = key
        self.cache.kept[key] = _Entry(found)
        self._uncounted.append(key)
        if seconds > QUICK:
            self._count()
            if self.cache.kept[key].size > LARGE or seconds > LONG:
                _give_back()

    def _count(self) -> None:
        """See how much what was made holds, and that all that is kept stays within its limit."""
        self.cache.weigh(self._uncounted, self._used)
        self._uncounted.clear()

    def _settle(self, name: str) -> None:
        """Wait for a stage that was begun."""
        if name not in self._begun or name in self.results:
            return
        key, kin, coming = self._begun[name]
        found, seconds = coming.result()
        self._keep(name, key, kin, found, seconds)
        self.cache.kept[key].after = key
        self.results[name] = found

    def _while_wanted(self, share: float) -> None:
        if self._ended:
            raise CancelledError

    def _ticking(self, name: str) -> Callable[[float], None]:
        done = self.passed - 1

        def tick(share: float) -> None:
            if self.cancelled():
                raise CancelledError
            self.progress(name, (done + share) / self.stages)

        return tick


@cache
def _beside() -> ThreadPoolExecutor:
    """The thread of what is made beside other stages."""
    return ThreadPoolExecutor(1, "stages", alone)


# A process that is forked off has none of the threads.
os.register_at_fork(after_in_child=_beside.cache_clear)
