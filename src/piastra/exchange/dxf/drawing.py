"""A drawing as it lies under a floor: paths and texts by layer, in metres, and what could not be read."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Any


@dataclass(frozen=True, slots=True)
class Path:
    """A line of straight and arc stretches, m: vertices ``[x, y]`` or ``[x, y, bulge]``."""

    layer: str
    vertices: list[list[float]]
    closed: bool


@dataclass(frozen=True, slots=True)
class Text:
    """A text and its place, m."""

    layer: str
    at: list[float]
    text: str


@dataclass(frozen=True, slots=True)
class Unread:
    """What could not be read, or was not used: how many of what, on which layer, and why."""

    layer: str
    what: str
    count: int
    why: str


@dataclass(frozen=True, slots=True)
class Drawing:
    """A drawing in metres. ``unit`` is what its numbers were taken for, ``shift`` (m) was added to every place."""

    name: str
    unit: str
    shift: list[float]
    paths: list[Path]
    texts: list[Text]
    unread: list[Unread]
    notes: list[str]

    @property
    def layers(self) -> list[str]:
        """Names of the layers that hold something, in order."""
        return sorted({p.layer for p in self.paths} | {t.layer for t in self.texts})

    def plain(self) -> dict[str, Any]:
        """The drawing as JSON has it; lists are its own, and are not copied."""
        return {
            "name": self.name, "unit": self.unit, "shift": self.shift,
            "paths": [{"layer": p.layer, "vertices": p.vertices, "closed": p.closed} for p in self.paths],
            "texts": [{"layer": t.layer, "at": t.at, "text": t.text} for t in self.texts],
            "unread": [asdict(u) for u in self.unread], "notes": self.notes,
        }  # fmt: skip


def drawing_from(data: dict[str, Any]) -> Drawing:
    """The drawing of :meth:`Drawing.plain`."""
    return Drawing(
        data["name"], data["unit"], data["shift"], [Path(**p) for p in data["paths"]], [Text(**t) for t in data["texts"]],
        [Unread(**u) for u in data["unread"]], data["notes"],
    )  # fmt: skip
