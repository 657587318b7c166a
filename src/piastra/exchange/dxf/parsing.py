"""Takes a DXF file apart, in a process of its own that has little time and memory: ``python -m piastra.exchange.dxf.parsing``. It reads nothing of the
computation, which would take longer than most drawings."""

from __future__ import annotations

import io
import re
import time
from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass, field
from itertools import pairwise
from typing import Any

import numpy as np

from piastra.exchange.confined import Confined
from piastra.exchange.dxf.drawing import Drawing, Path, Text, Unread

SECONDS = 20
READER = Confined("piastra.exchange.dxf.parsing", SECONDS, memory=1_500_000_000)
VALUES = 240_000
"""Values, each a code and what it stands for, that a file may hold: reading so many takes some seconds."""
MENDED = 150_000
"""Values of the largest file that is mended where it is not as it should be: that takes three times as long."""
OBJECTS = 80_000
"""Objects that a file may hold."""
BESIDE = 5
"""Times as many of both with what is taken out before."""
POINTS = 100_000
"""Points of lines that are taken out before."""
HEAD = 200
"""Lines of an object within which its layer stands."""
ENTITIES = 200_000
"""Pieces that are taken out of it, those of blocks at every place where they stand,"""
TAKING = 2.0
"""within so many seconds of computing."""

UNITS = {"mm": 0.001, "cm": 0.01, "m": 1.0, "in": 0.0254, "ft": 0.3048}
_INSUNITS = {1: "in", 2: "ft", 4: "mm", 5: "cm", 6: "m"}

SKIPPED = {
    "DIMENSION": "dimensions are not needed",
    "HATCH": "hatches are not needed; their outlines are read where they are drawn as lines",
    "LEADER": "leaders are not needed",
    "MULTILEADER": "leaders are not needed",
    "VIEWPORT": "viewports belong to the sheet",
    "IMAGE": "images cannot be read",
    "3DSOLID": "solids cannot be read; draw their outlines as lines",
}


class UnfitError(ValueError):
    """A drawing that is not taken, in a sentence about it."""


def _document(content: bytes) -> tuple[Any, _Before]:
    """The file as a document, and what was taken out of it before. One that is as it should be is read in a third of the time."""
    import ezdxf
    from ezdxf import recover

    _bounded(content.count(b"\n") // 2, BESIDE * VALUES, "values")
    # The reader takes lines that end with CR LF, as most programs write them, for those of another version, and finds nothing.
    lines, before = _lightened([_spelt_out(line) for line in _text(content).replace("\r\n", "\n").split("\n")])
    _bounded(len(_begin(lines)), OBJECTS, "objects")
    _bounded(len(lines) // 2, VALUES, "values")
    try:
        return ezdxf.read(io.StringIO("\n".join(lines))), before
    except (ezdxf.DXFError, ValueError):
        if content.count(b"\n") > 2 * MENDED:
            raise
        return recover.read(io.BytesIO(content))[0], _Before()


def _bounded(count: int, most: int, what: str) -> None:
    if count > most:
        raise UnfitError(
            f"has {count:,} {what}; {most:,} can be read. Remove layers and blocks that are not needed and export it again"
        )


def _begin(lines: list[str]) -> list[int]:
    """Numbers of the lines at which objects begin: every other line is a code, and theirs is nought."""
    return [2 * k for k, code in enumerate(lines[::2]) if code.strip() == "0"]


def _text(content: bytes) -> str:
    """The file's text: older ones are written with the code page that they name."""
    from ezdxf import DXFError
    from ezdxf.lldxf.validator import dxf_info

    try:
        return content.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = content.decode("latin-1")
    try:
        return content.decode(dxf_info(io.StringIO(text)).encoding, errors="replace")
    except (DXFError, ValueError):
        return text


def _spelt_out(line: str) -> str:
    """A line with the characters that files of one code page write as ``\\U+`` and four digits."""
    if "\\U+" not in line:
        return line
    # One that ends a line, or none at all, would spoil what follows.
    return re.sub(r"\\U\+([0-9A-Fa-f]{4})", lambda spelt: c if (c := chr(int(spelt[1], 16))).isprintable() else spelt[0], line)


@dataclass(slots=True)
class _Before:
    """What is taken out of a file's model space before the rest is read as a document: lines (layer, vertices, closed), and by layer and kind what is not
    read anyway. Together they often are most of it, and the document takes ten times as long for them."""

    paths: list[tuple[str, list[list[float]], bool]] = field(default_factory=list)
    left: Counter[tuple[str, str]] = field(default_factory=Counter)

    def takes(self, kind: str, codes: list[str], values: list[str]) -> bool:
        """Whether an object of codes and values is one of these."""
        own = dict(zip(codes[::-1], values[::-1], strict=True))
        layer = own.get("8", "0")
        if kind in SKIPPED:
            # Those of sheets are told nowhere.
            if own.get("67", "0") == "0":
                self.left[layer, kind] += 1
            return True
        if own.get("67", "0") != "0":
            return False
        try:
            if kind == "LINE":
                self.paths.append((layer, [[float(own["10"]), float(own["20"])], [float(own["11"]), float(own["21"])]], False))
                return True
            if kind == "LWPOLYLINE" and "AcDbPolyline" in values and "230" not in own:
                points: list[list[float]] = []
                for code, value in zip(codes, values, strict=True):
                    if code == "10":
                        points.append([float(value), 0.0, 0.0])
                    elif code in ("20", "42"):
                        points[-1][1 if code == "20" else 2] = float(value)
                self.paths.append((layer, points, bool(int(own.get("70", "0")) & 1)))
                return True
        except (KeyError, IndexError, ValueError):
            # What is wrong with it, who reads the document tells or mends.
            return False
        return False


def _lightened(lines: list[str]) -> tuple[list[str], _Before]:
    """The lines without what is taken out before."""
    begin = _begin(lines)
    _bounded(len(begin), BESIDE * OBJECTS, "objects")
    kept, before, section, taken = [], _Before(), "", 0
    for start, end in pairwise([*begin, len(lines) - len(lines) % 2]):
        kind = lines[start + 1].strip() if start + 1 < end else ""
        if kind == "SECTION":
            section = lines[start + 3].strip() if start + 3 < end else ""
        elif section == "ENTITIES" and (kind in SKIPPED or kind in ("LINE", "LWPOLYLINE")):
            own = [line.strip() for line in lines[start + 2 : min(end, start + HEAD) if kind in SKIPPED else end]]
            if before.takes(kind, own[::2], own[1::2]):
                kept += lines[taken:start]
                taken = end
    _bounded(sum(len(points) for _, points, _ in before.paths), POINTS, "points")
    return kept + lines[taken:], before


def parse(content: bytes, name: str, unit: str | None, to_origin: bool) -> Drawing:
    """The drawing, read in this process. Raises :class:`UnfitError`, and whatever the reader raises."""
    document, before = _document(content)
    space = document.modelspace()
    notes: list[str] = []
    said = _INSUNITS.get(int(document.header.get("$INSUNITS", 0)))
    collected = _Collected()
    for path in before.paths:
        collected.path(*path)
    collected.take(space)
    collected.unread += before.left
    if unit is None:
        unit = said or collected.likely_unit()
        if said is None:
            notes.append(f"The file does not tell its unit; by its size it is in {unit}. Choose another if that is wrong.")
    scale = UNITS[unit]
    x0, y0 = collected.corner()
    far = max(abs(x0), abs(y0)) * scale > 20_000
    shift = [0.0, 0.0]
    if to_origin or far:
        shift = [-x0 * scale, -y0 * scale]
        if far and not to_origin:
            notes.append(
                f"It lies {max(abs(x0), abs(y0)) * scale / 1000:.0f} km off the origin; its lower left corner was moved there."
            )
    if collected.cut_off:
        notes.append(f"Only the first {collected.cut_off:,} pieces were read; the others are missing.")
    # All of them at once: to round one number after the other takes longer than to read it.
    drawn = np.array([v[:2] for _, vertices, _ in collected.paths for v in vertices]).reshape(-1, 2)
    placed = iter(np.round(drawn * scale + shift, 6).tolist())
    paths = [
        Path(layer, [[*xy, *v[2:]] for v, xy in zip(vertices, placed, strict=False)], closed)
        for layer, vertices, closed in collected.paths
    ]
    texts = [
        Text(layer, [round(x * scale + shift[0], 4), round(y * scale + shift[1], 4)], text)
        for layer, (x, y), text in collected.texts
    ]
    unread = [
        Unread(layer, what, count, SKIPPED.get(what, "this kind of object cannot be read"))
        for (layer, what), count in sorted(collected.unread.items())
    ]
    return Drawing(name, unit, shift, paths, texts, unread, notes)


class _Collected:
    """Paths and texts in the file's own units, blocks taken apart."""

    def __init__(self) -> None:
        self.paths: list[tuple[str, list[list[float]], bool]] = []
        self.texts: list[tuple[str, tuple[float, float], str]] = []
        self.unread: Counter[tuple[str, str]] = Counter()
        self.cut_off = 0
        self._met = 0
        self._until = time.process_time() + TAKING

    def take(self, entities: Iterable[Any], layer: str | None = None, depth: int = 0) -> None:
        """Read entities; those of a block on layer 0 lie on the layer of their insert."""
        for entity in entities:
            self._met += 1
            if self._met > ENTITIES or time.process_time() > self._until:
                self.cut_off = self.cut_off or self._met - 1
                return
            own = entity.dxf.get("layer", "0")
            here = layer if layer and own == "0" else own
            kind = entity.dxftype()
            try:
                if kind == "INSERT":
                    if depth > 8:
                        self.unread[here, "INSERT"] += 1
                    else:
                        self.take(entity.virtual_entities(), here, depth + 1)
                else:
                    self._one(entity, kind, here)
            except Exception:
                # A single spoilt entity must not cost the rest of the drawing.
                self.unread[here, kind] += 1

    def _one(self, entity: Any, kind: str, layer: str) -> None:
        if kind == "LINE":
            a, b = entity.dxf.start, entity.dxf.end
            self.path(layer, [[a.x, a.y], [b.x, b.y]], False)
        elif kind == "LWPOLYLINE":
            # The bulges are in the entity's own plane; looked at from below, arcs run the other way round.
            sign = -1.0 if entity.dxf.extrusion.z < 0 else 1.0
            points = [[sign * x, y, sign * b] for x, y, _, _, b in entity.lwpoints.values.reshape(-1, 5).tolist()]
            self.path(layer, points, bool(entity.closed))
        elif kind == "POLYLINE" and entity.is_2d_polyline:
            points = [[v.dxf.location.x, v.dxf.location.y, v.dxf.get("bulge", 0.0)] for v in entity.vertices]
            self.path(layer, points, bool(entity.is_closed))
        elif kind in ("ARC", "CIRCLE", "ELLIPSE", "SPLINE", "SOLID", "TRACE", "3DFACE"):
            self._curve(entity, kind, layer)
        elif kind in ("TEXT", "MTEXT", "ATTRIB", "ATTDEF"):
            at = entity.dxf.insert
            text = entity.plain_text() if kind in ("TEXT", "MTEXT") else entity.dxf.text
            self.texts.append((layer, (at.x, at.y), text.strip()[:200]))
        elif kind != "POINT":
            self.unread[layer, kind] += 1

    def _curve(self, entity: Any, kind: str, layer: str) -> None:
        import math

        if kind == "CIRCLE":
            c, r = entity.ocs().to_wcs(entity.dxf.center), entity.dxf.radius
            self.path(layer, [[c.x - r, c.y, 1.0], [c.x + r, c.y, 1.0]], True)
        elif kind == "ARC":
            a, b = entity.start_point, entity.end_point
            sweep = (entity.dxf.end_angle - entity.dxf.start_angle) % 360.0 or 360.0
            sign = -1.0 if entity.dxf.extrusion.z < 0 else 1.0
            if sweep > 350.0:
                c, r = entity.ocs().to_wcs(entity.dxf.center), entity.dxf.radius
                self.path(layer, [[c.x - r, c.y, 1.0], [c.x + r, c.y, 1.0]], True)
            else:
                self.path(layer, [[a.x, a.y, sign * math.tan(math.radians(sweep) / 4)], [b.x, b.y]], False)
        else:
            from ezdxf.path import make_path

            way = make_path(entity)
            size = max(
                1e-9, (way.control_vertices()[0] - way.control_vertices()[-1]).magnitude if way.control_vertices() else 1.0
            )
            points = [[p.x, p.y] for p in way.flattening(size / 500)]
            self.path(layer, points[:-1] if way.is_closed else points, bool(way.is_closed))

    def path(self, layer: str, vertices: list[list[float]], closed: bool) -> None:
        """Keep a line, unless it has no length or lies beyond all measure."""
        tidy = [v if len(v) > 2 and v[2] else v[:2] for v in vertices]
        if len(tidy) >= 2 and all(abs(c) < 1e12 for v in tidy for c in v):
            self.paths.append((layer, tidy, closed))

    def corner(self) -> tuple[float, float]:
        """The lower left corner of everything."""
        xy = [v for _, vertices, _ in self.paths for v in vertices] or [[0.0, 0.0]]
        return min(v[0] for v in xy), min(v[1] for v in xy)

    def likely_unit(self) -> str:
        """The unit that makes the drawing as large as a building: 5 to 500 m."""
        xy = [v for _, vertices, _ in self.paths for v in vertices] or [[0.0, 0.0]]
        size = max(max(v[k] for v in xy) - min(v[k] for v in xy) for k in (0, 1))
        return "m" if size < 500 else "mm" if size > 5_000 else "cm"


def _answer(ask: dict[str, Any], content: bytes) -> Any:
    try:
        drawing = parse(content, ask["name"], ask["unit"], ask["to_origin"])
    except UnfitError as error:
        return {"refused": str(error)}
    if not drawing.paths and not drawing.texts:
        return {"refused": "has nothing that can be read in its model space; draw or export lines and polylines there"}
    return drawing.plain()


if __name__ == "__main__":
    READER.answer(_answer)
