"""Rows of checks: what was checked, by identity, with its outcome."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from shapely.geometry import Polygon

from piastra.core.trace import Trace

Status = Literal["pass", "fail", "unchecked", "uncovered"]


@dataclass(frozen=True, slots=True)
class Ref:
    """Something of a floor: its ``kind`` (a list of the floor file, ``strips``, ``lines``, or ``floor``) and its id there."""

    kind: str
    id: str


@dataclass(frozen=True, slots=True)
class RowId:
    """What a row is about. ``part`` tells perimeters, pieces and the like apart, ``face`` top from bottom, ``station`` is
    m along a strip's axis."""

    check: str
    of: Ref
    part: str = ""
    face: str = ""
    station: float | None = None

    @property
    def key(self) -> str:
        """The identity as one text, unique in a run."""
        station = "" if self.station is None else f"{self.station:.4f}"
        return "/".join((self.check, self.of.kind, self.of.id, self.part, self.face, station))


@dataclass(frozen=True, slots=True)
class Region:
    """A part of the floor, m, and the direction of bars that it is about."""

    outline: Polygon
    direction: Literal["x", "y"]


@dataclass(frozen=True, slots=True)
class Row:
    """One row: its identity and label, the utilisation with the combination and trace behind it, its place (m). A row with
    the status ``uncovered`` is about what the check does not reach, with the ``reason``."""

    id: RowId
    label: str
    utilisation: float | None
    status: Status
    combination: str = ""
    at: tuple[float, float] | None = None
    explain: Callable[[], Trace] | None = None
    """Makes the trace, once; few are read."""
    reason: str = ""
    region: Region | None = None

    @property
    def trace(self) -> Trace | None:
        """Why the utilisation is what it is."""
        return self.explain() if self.explain is not None else None

    @property
    def check(self) -> str:
        """The check that it belongs to."""
        return self.id.check


@dataclass(frozen=True, slots=True)
class Unchecked:
    """A check that could not be made, and why."""

    reason: str


LIMIT = 1.0 + 1e-9
"""The utilisation up to which a check passes: what is laid to its limit is so but for rounding."""


def checked(id: RowId, label: str, utilisation: float, at: tuple[float, float] | None, trace: Trace) -> Row:
    """The row of a check that was made."""
    return explained(id, label, utilisation, at, trace.combination, lambda: trace)


class _Once:
    """A trace that is made when it is first asked for. Rows are made by the thousand, most of them never read: a cache of the library's takes each
    more time than all else about it."""

    __slots__ = ("_made", "_make")

    def __init__(self, make: Callable[[], Trace]) -> None:
        self._make = make
        self._made: Trace | None = None

    def __call__(self) -> Trace:
        if self._made is None:
            self._made = self._make()
        return self._made


def explained(
    id: RowId, label: str, utilisation: float, at: tuple[float, float] | None, combination: str, explain: Callable[[], Trace]
) -> Row:
    """The row of a check that was made, whose trace is made when it is read."""
    status: Status = "pass" if utilisation <= LIMIT else "fail"
    return Row(id, label, utilisation, status, combination, at, _Once(explain))


def uncovered(id: RowId, label: str, reason: str, at: tuple[float, float] | None = None, region: Region | None = None) -> Row:
    """The row of what a check does not reach."""
    return Row(id, label, None, "uncovered", at=at, reason=reason, region=region)


NOTHING = "nothing of this floor is reached by it"


def worst(check: str, found: list[Row] | Unchecked) -> Row:
    """A check's row of the verdict: the greatest utilisation; it passes only where nothing is uncovered."""
    if isinstance(found, Unchecked):
        return Row(RowId(check, Ref("floor", "")), "", None, "unchecked", reason=found.reason)
    made = [r for r in found if r.utilisation is not None]
    beyond = [r for r in found if r.status == "uncovered"]
    if not made and not beyond:
        return Row(RowId(check, Ref("floor", "")), "", None, "unchecked", reason=NOTHING)
    if not made:
        first = beyond[0]
        told = first.reason if len(beyond) == 1 else f"{first.reason}; and {len(beyond) - 1} more"
        return Row(RowId(check, Ref("floor", "")), "", None, "uncovered", at=first.at, reason=told)
    top = max(made, key=lambda r: r.utilisation or 0.0)
    if top.status == "fail" or not beyond:
        return top
    places = ", ".join(dict.fromkeys(r.label for r in beyond[:3])) + (" …" if len(beyond) > 3 else "")
    return Row(top.id, top.label, top.utilisation, "uncovered", top.combination, top.at, top.explain,
               f"not all is covered by this check: {places}")  # fmt: skip
