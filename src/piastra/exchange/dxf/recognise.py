"""Chosen layers of a drawing made into the objects of a floor, with a report of what was not used."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import shapely
from shapely.geometry import LineString, Point, Polygon

from piastra.core.geometry.arcs import polygon, polyline
from piastra.exchange.dxf.drawing import Drawing, Path, Unread
from piastra.exchange.dxf.linework import Faces, faces_of, joined, meeting, stretches

KINDS = ("slabs", "openings", "drop_panels", "columns", "beams", "walls", "wall_lines", "grid")
"""What a layer can be made into; ``wall_lines`` are walls drawn by their centre lines."""

Item = dict[str, Any]


@dataclass(slots=True)
class Found:
    """Geometry of a floor's objects, by kind, and what was not used."""

    slabs: list[Item] = field(default_factory=list)
    openings: list[Item] = field(default_factory=list)
    drop_panels: list[Item] = field(default_factory=list)
    columns: list[Item] = field(default_factory=list)
    beams: list[Item] = field(default_factory=list)
    walls: list[Item] = field(default_factory=list)
    grid: list[Item] = field(default_factory=list)
    unused: list[Unread] = field(default_factory=list)

    def leave(self, layer: str, what: str, count: int, why: str) -> None:
        """Report something that is not used."""
        if count:
            self.unused.append(Unread(layer, what, count, why))


def recognise(drawing: Drawing, layers: Mapping[str, str], wall_thickness: float = 0.2) -> Found:
    """The floor's objects on a drawing's layers.

    ``layers`` gives the kind (of ``KINDS``) of each layer that is to be used; ``wall_thickness`` m is for walls drawn
    as centre lines. Raises ``ValueError`` for an unknown kind.
    """
    unknown = sorted(set(layers.values()) - set(KINDS))
    if unknown:
        raise ValueError(f"cannot make {', '.join(unknown)} of a layer; choose of: {', '.join(KINDS)}")
    found = Found()
    for kind in KINDS:
        mine = [layer for layer, k in layers.items() if k == kind]
        paths = [p for p in drawing.paths if p.layer in mine]
        if not paths:
            continue
        name = ", ".join(mine)
        if kind == "grid":
            _grid(found, drawing, paths, mine)
        elif kind == "wall_lines":
            for a, b in meeting(stretches(paths))[0]:
                found.walls.append({"line": [a, b], "thickness_m": wall_thickness})
        elif kind == "columns":
            _columns(found, paths, name)
        elif kind == "walls":
            found.walls += _bodies(found, paths, name, "wall")
        elif kind == "beams":
            bodies = _bodies(found, paths, name, "beam")
            found.beams += [{"line": b["line"], "width_m": b["thickness_m"]} for b in bodies]
        else:
            _regions(found, kind, paths, name, "openings" in layers.values())
    counts = Counter(p.layer for p in drawing.paths if p.layer not in layers)
    for layer, count in sorted(counts.items()):
        found.leave(layer, "line", count, "the layer was not chosen")
    texts = Counter(t.layer for t in drawing.texts if layers.get(t.layer) != "grid")
    for layer, count in sorted(texts.items()):
        found.leave(layer, "text", count, "texts are used only as labels of grid lines")
    found.unused += drawing.unread
    return found


def _told(found: Found, faces: Faces, name: str) -> None:
    found.leave(name, "line", faces.doubles, "drawn twice; once is enough")
    found.leave(name, "line", faces.tiny, "shorter than a gap that is closed")
    found.leave(name, "line", len(faces.open_ends), "bounds no closed outline")


def _regions(found: Found, kind: str, paths: Sequence[Path], name: str, holes_apart: bool) -> None:
    """Regions: every closed polyline is one; of loose lines, the faces that they bound.

    A loop inside of a slab is a slab of its own (a set-down) where openings have a layer of their own
    (``holes_apart``), and an opening otherwise.
    """
    whole, rest, doubles = _closed(paths)
    faces = faces_of(rest)
    _told(found, faces, name)
    found.leave(name, "outline", doubles, "drawn twice; once is enough")
    large = [f for f in faces.faces if f.area >= 0.02]
    found.leave(name, "face", len(faces.faces) - len(large), "smaller than 0.02 m2")
    # Diagonals and other marks cut an opening into faces that belong together; slabs that touch stay apart.
    loose = large if kind == "slabs" else joined(large)
    regions = whole + [(f, faces.outline(f)) for f in loose if not any(f.within(w.buffer(1e-3)) for w, _ in whole)]
    for shape, outline in regions:
        inner = any(w is not shape and Polygon(w.exterior).buffer(1e-3).contains(shape) for w, _ in regions)
        if kind != "slabs":
            getattr(found, kind).append({"outline": outline})
        elif not inner:
            found.slabs.append({"outline": outline})
        elif holes_apart:
            found.slabs.append({"outline": outline, "priority": 1})
        else:
            found.openings.append({"outline": outline})


def _closed(paths: Sequence[Path]) -> tuple[list[tuple[Polygon, list[list[float]]]], list[Path], int]:
    """Closed paths that are regions by themselves, each once, with their outlines; the other paths; the doubles."""
    whole: list[tuple[Polygon, list[list[float]]]] = []
    rest, doubles = [], 0
    for path in paths:
        shape = (
            polygon(path.vertices) if path.closed and (len(path.vertices) > 2 or any(len(v) > 2 for v in path.vertices)) else None
        )
        if shape is None or not shape.is_valid or shape.area < 0.02:
            rest.append(path)
        elif any(shape.symmetric_difference(w).area < 1e-3 * shape.area for w, _ in whole):
            doubles += 1
        else:
            whole.append((shape, [list(v) for v in path.vertices]))
    return whole, rest, doubles


def _columns(found: Found, paths: Sequence[Path], name: str) -> None:
    faces = faces_of(paths)
    _told(found, faces, name)
    made: list[tuple[float, float]] = []
    doubles = odd = 0
    for shape in joined(faces.faces):
        solid = Polygon(shape.exterior)
        section = _section(solid)
        if section is None:
            odd += 1
            continue
        x, y = section["at"]
        if any(np.hypot(x - u, y - v) < 0.02 for u, v in made):
            doubles += 1
            continue
        made.append((x, y))
        found.columns.append(section)
    found.leave(name, "outline", odd, "is neither a rectangle nor a circle of a column's size")
    found.leave(name, "column", doubles, "stands where another one stands")


def _section(shape: Polygon) -> Item | None:
    if not 0.01 < shape.area < 9.0:
        return None
    middle = shape.centroid
    at = [round(middle.x, 4), round(middle.y, 4)]
    xy = shapely.get_coordinates(shape.exterior)[:-1]
    radius = np.hypot(*(xy - (middle.x, middle.y)).T)
    # A circle of n chords has its corners on it; its area tells the diameter.
    if len(xy) >= 10 and np.ptp(radius) < 0.02 * radius.mean():
        return {"at": at, "shape": {"kind": "circle", "diameter_m": round(2 * float(radius.mean()), 3)}}
    box = shape.minimum_rotated_rectangle
    if not isinstance(box, Polygon) or shape.area < 0.98 * box.area:
        return None
    a, b, c = shapely.get_coordinates(box.exterior)[:3]
    angle = np.degrees(np.arctan2(*(b - a)[::-1]))
    sides = [float(np.hypot(*(b - a))), float(np.hypot(*(c - b)))]
    turn = (angle + 45) % 90 - 45
    if round((angle - turn) / 90) % 2:
        sides.reverse()
    return {
        "at": at, "shape": {"kind": "rectangle", "b_m": round(sides[0], 3), "d_m": round(sides[1], 3)},
        "angle_deg": round(turn, 2) + 0.0 if abs(turn) > 0.02 else 0.0,
    }  # fmt: skip


THICKEST = 1.0
"""Faces of a wall lie at most so far apart (m)."""


def _bodies(found: Found, paths: Sequence[Path], name: str, word: str) -> list[Item]:
    """Walls or beams by their outlines: centre lines with a thickness."""
    whole = [p for p in paths if p.closed and len(p.vertices) == 4]
    made: list[Item] = []
    rest = list(paths)
    doubles = 0
    for path in whole:
        wall = _bar(path.vertices)
        if wall is None:
            continue
        rest.remove(path)
        if any(_same(wall, w) for w in made):
            doubles += 1
        else:
            made.append(wall)
    faces = faces_of(rest)
    _told(found, faces, name)
    for shape in joined(faces.faces):
        walls = _pairs(shape)
        if not walls:
            found.leave(name, "outline", 1, f"has no two faces within {THICKEST:g} m of each other")
        made += [w for w in walls if not any(_same(w, m) for m in made)]
    found.leave(name, word, doubles, "drawn twice; once is enough")
    return made


def _same(a: Item, b: Item) -> bool:
    p, q = LineString(polyline(a["line"])), LineString(polyline(b["line"]))
    return bool(p.hausdorff_distance(q) < 0.02)


def _bar(vertices: list[list[float]]) -> Item | None:
    """A rectangle longer than wide, or one bent along an arc, as a centre line with a thickness."""
    bulges = [v[2] if len(v) > 2 else 0.0 for v in vertices]
    if any(bulges):
        i = next(k for k, b in enumerate(bulges) if b)
        a, b, c, d = (np.array(vertices[(i + k) % 4][:2]) for k in range(4))
        ends = [float(np.hypot(*(d - a))), float(np.hypot(*(c - b)))]
        one_centre = abs(bulges[i] + bulges[(i + 2) % 4]) < 1e-3 and not (bulges[(i + 1) % 4] or bulges[(i + 3) % 4])
        if not one_centre or abs(ends[0] - ends[1]) > 2e-3 or max(ends) > THICKEST:
            return None
        p, q = (a + d) / 2, (b + c) / 2
        line = [[round(float(p[0]), 4), round(float(p[1]), 4), bulges[i]], [round(float(q[0]), 4), round(float(q[1]), 4)]]
        return {"line": line, "thickness_m": round(sum(ends) / 2, 3)}
    shape = Polygon(vertices)
    box = shape.minimum_rotated_rectangle
    if not shape.is_valid or not isinstance(box, Polygon) or shape.area < 0.99 * box.area:
        return None
    xy = shapely.get_coordinates(box.exterior)[:4]
    sides = [np.hypot(*(xy[(k + 1) % 4] - xy[k])) for k in range(4)]
    k = int(np.argmin(sides))
    if sides[k] > THICKEST or sides[k - 1] < 1.2 * sides[k]:
        return None
    a, b = (xy[k] + xy[(k + 1) % 4]) / 2, (xy[(k + 2) % 4] + xy[(k + 3) % 4]) / 2
    return {"line": [[round(float(v), 4) for v in p] for p in (a, b)], "thickness_m": round(float(sides[k]), 3)}


def _pairs(shape: Polygon) -> list[Item]:
    """Walls between the facing edges of a shape, brought together where they meet."""
    edges = []
    for ring in (shape.exterior, *shape.interiors):
        xy = shapely.get_coordinates(ring.simplify(1e-3))
        edges += [(xy[k], xy[k + 1]) for k in range(len(xy) - 1) if np.hypot(*(xy[k + 1] - xy[k])) > 0.05]
    walls: list[tuple[np.ndarray[Any, Any], np.ndarray[Any, Any], float]] = []
    for i, (a, b) in enumerate(edges):
        u = (b - a) / np.hypot(*(b - a))
        normal = np.array([-u[1], u[0]])
        for c, d in edges[i + 1 :]:
            v = (d - c) / np.hypot(*(d - c))
            if abs(u[0] * v[1] - u[1] * v[0]) > 0.01:
                continue
            t = float((c - a) @ normal)
            lo, hi = sorted(((c - a) @ u, (d - a) @ u))
            lo, hi = max(0.0, float(lo)), min(float(np.hypot(*(b - a))), float(hi))
            if not 0.05 < abs(t) <= THICKEST or hi - lo < 1.05 * abs(t):
                continue
            p, q = a + u * lo + normal * t / 2, a + u * hi + normal * t / 2
            # The wall's body, not the room between two walls, lies between the two faces.
            if shape.buffer(-1e-3).intersection(LineString([p, q])).length > 0.9 * (hi - lo - 0.01):
                walls.append((p, q, abs(t)))
    out = []
    for k, (p, q, t) in enumerate(walls):
        ends = []
        for end, inwards in ((p, q), (q, p)):
            best = end
            for j, (r, s, w) in enumerate(walls):
                if j == k:
                    continue
                det = (q - p)[0] * (s - r)[1] - (q - p)[1] * (s - r)[0]
                if abs(det) < 1e-9:
                    continue
                f = ((r - p)[0] * (s - r)[1] - (r - p)[1] * (s - r)[0]) / det
                meet = p + f * (q - p)
                near = np.hypot(*(meet - end)) <= 0.75 * max(t, w) + 1e-3
                if (
                    near
                    and Point(meet).distance(LineString([r, s])) <= 0.75 * max(t, w) + 1e-3
                    and np.hypot(*(meet - inwards)) > t
                ):
                    best = meet
            ends.append([round(float(best[0]), 4), round(float(best[1]), 4)])
        out.append({"line": ends, "thickness_m": round(t, 3)})
    return out


def _grid(found: Found, drawing: Drawing, paths: Sequence[Path], layers: Sequence[str]) -> None:
    """Straight lines of at least 2 m, split ones merged; each takes the nearest text at its ends as its label."""
    kept, doubles, _ = meeting(stretches([p for p in paths if not (p.closed and len(p.vertices) == 2)]))
    found.leave(", ".join(layers), "line", doubles, "drawn twice; once is enough")
    merged: list[LineString] = []
    for a, b in kept:
        if len(a) == 2:
            merged.append(LineString([a, b]))
    merged = _collinear(merged)
    texts = [t for t in drawing.texts if t.layer in layers]
    taken: set[int] = set()
    short = 0
    for line in merged:
        if line.length < 2.0:
            short += 1
            continue
        ends = [Point(line.coords[0]), Point(line.coords[-1])]
        near = [(min(e.distance(Point(t.at)) for e in ends), k) for k, t in enumerate(texts) if len(t.text) <= 6]
        near.sort()
        label = texts[near[0][1]].text if near and near[0][0] < 2.5 else ""
        if label:
            taken |= {k for d, k in near if d < 2.5 and texts[k].text == label}
        coords = [[round(c, 4) for c in p] for p in (line.coords[0], line.coords[-1])]
        found.grid.append({"label": label, "line": coords})
    found.leave(", ".join(layers), "line", short, "shorter than 2 m")
    found.leave(", ".join(layers), "text", len(texts) - len(taken), "stands at no end of a grid line")


def _collinear(lines: list[LineString]) -> list[LineString]:
    """Lines in one line, overlapping or end to end within 2 m, as one."""
    work = list(lines)
    changed = True
    while changed:
        changed = False
        for i in range(len(work)):
            a, b = (np.array(c) for c in work[i].coords)
            u = (b - a) / np.hypot(*(b - a))
            for j in range(i + 1, len(work)):
                c, d = (np.array(p) for p in work[j].coords)
                off = [abs((p - a)[0] * u[1] - (p - a)[1] * u[0]) for p in (c, d)]
                if max(off) > 0.005 or work[i].distance(work[j]) > 2.0:
                    continue
                s = [float((p - a) @ u) for p in (a, b, c, d)]
                work[i] = LineString([a + u * min(s), a + u * max(s)])
                work.pop(j)
                changed = True
                break
            if changed:
                break
    return work
