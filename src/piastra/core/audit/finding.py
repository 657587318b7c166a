"""What the audit finds, and how it can be mended."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True, slots=True)
class Remove:
    """Take an object away."""

    list: str
    id: str


@dataclass(frozen=True, slots=True)
class Set:
    """Set one value of an object."""

    list: str
    id: str
    key: str
    value: Any


@dataclass(frozen=True, slots=True)
class Add:
    """Put an object at the end of a list."""

    list: str
    item: dict[str, Any]


@dataclass(frozen=True, slots=True)
class Mend:
    """What one click does: its line in the history, and the steps. ``shared``: they are steps on the project."""

    line: str
    steps: tuple[Remove | Set | Add, ...]
    shared: bool = False


@dataclass(frozen=True, slots=True)
class Finding:
    """One thing that is doubtful or wrong.

    ``rule`` names the kind of mistake; ``list`` and ``id`` the object; ``what`` and ``why`` are sentences;
    ``at`` (m) is its place on the plan.
    """

    rule: str
    list: str
    id: str
    what: str
    why: str
    at: tuple[float, float] | None = None
    mend: Mend | None = None
