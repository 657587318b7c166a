"""What holds the floor up: columns, walls and supports on the floor, and pieces that nothing holds."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
import shapely
from shapely.geometry import LineString, Point
from shapely.geometry.base import BaseGeometry

from piastra.core.audit.finding import Finding, Mend, Remove, Set
from piastra.core.audit.site import TOLERANCE, Site, at, nearest_shift
from piastra.core.geometry.arcs import polygon, polyline
from piastra.core.trace.amounts import amount

NEAR = 0.3
"""What lies beside the slab by less than this (m) was meant to be on it."""


def columns(site: Site) -> Iterable[Finding]:
    """Columns beside the floor, in openings, and on top of each other."""
    if not site.floor.slabs:
        return
    holes = shapely.unary_union(site.openings).difference(shapely.unary_union(site.beams))
    for item, shape in zip(site.floor.columns, site.columns, strict=True):
        place = (item.at[0], item.at[1])
        if shape.intersection(site.concrete).area < 0.02 * shape.area:
            near = shape.distance(site.concrete) < NEAR
            dx, dy = nearest_shift(Point(item.at), site.concrete)
            spot = [round(item.at[0] + dx, 4), round(item.at[1] + dy, 4)]
            yield Finding(
                "column outside", "columns", item.id, "stands outside the floor", "It holds nothing up.", place,
                Mend(f"Column {item.id}: moved to the slab's edge", (Set("columns", item.id, "at", spot),)) if near
                else Mend(f"Column {item.id}: deleted", (Remove("columns", item.id),)),
            )  # fmt: skip
        elif not holes.is_empty and shape.intersection(holes).area > 0.5 * shape.area:
            yield Finding(
                "column in opening",
                "columns",
                item.id,
                "stands in an opening",
                "There is no floor there for it to hold.",
                place,
            )
    if len(site.columns) > 1:
        tree = shapely.STRtree(list(site.columns))
        for i, j in sorted(zip(*tree.query(list(site.columns), predicate="intersects").tolist(), strict=True)):
            if i < j and site.columns[i].intersection(site.columns[j]).area > 1e-6:
                a, b = site.floor.columns[i], site.floor.columns[j]
                yield Finding(
                    "columns overlap", "columns", b.id, f"stands in column {a.id}",
                    "Both would hold the same spot, and the load between them is a matter of luck.", (b.at[0], b.at[1]),
                    Mend(f"Column {b.id}: deleted, {a.id} stands there", (Remove("columns", b.id),)),
                )  # fmt: skip


def lines(site: Site) -> Iterable[Finding]:
    """Walls and line supports that miss the slab, or run under openings."""
    if not site.floor.slabs:
        return
    held = [("walls", w.id, w.line, s) for w, s in zip(site.floor.walls, site.walls, strict=True)]
    held += [("supports", s.id, s.line, LineString(polyline(s.line))) for s in site.floor.supports if s.kind == "line"]
    reach = site.concrete.buffer(1e-3)
    for name, label, path, line in held:
        kind = "wall" if name == "walls" else "support"
        inside = line.intersection(reach).length
        if inside < 0.01 * line.length:
            gap = line.distance(site.concrete)
            if line.distance(site.concrete) < NEAR:
                # The farthest end decides: the whole line is to lie on the slab.
                shifts = [nearest_shift(Point(p), site.concrete) for p in line.coords]
                dx, dy = max(shifts, key=lambda s: np.hypot(*s))
                moved = [[round(v[0] + dx, 6), round(v[1] + dy, 6), *v[2:]] for v in path]
                yield Finding(
                    f"{kind} misses", name, label, f"runs {amount(gap, 'size')} beside the slab",
                    "It does not hold the slab although it looks as if it did.", at(line),
                    Mend(f"{kind.capitalize()} {label}: moved under the slab's edge", (Set(name, label, "line", moved),)),
                )  # fmt: skip
            else:
                yield Finding(
                    f"{kind} outside", name, label, "lies outside the floor", "It holds nothing up.", at(line),
                    Mend(f"{kind.capitalize()} {label}: deleted", (Remove(name, label),)),
                )  # fmt: skip
            continue
        out = line.difference(reach)
        if 1e-3 < out.length < NEAR and len(path) == 2:
            ends = line.intersection(site.concrete)
            if isinstance(ends, LineString) and not ends.is_empty:
                cut = [[round(x, 6), round(y, 6)] for x, y in (ends.coords[0], ends.coords[-1])]
                yield Finding(
                    f"{kind} sticks out", name, label, f"sticks {amount(out.length, 'size')} out of the slab",
                    "That part holds nothing.", at(out),
                    Mend(f"{kind.capitalize()} {label}: cut at the slab's edge", (Set(name, label, "line", cut),)),
                )  # fmt: skip
        for opening, hole in zip(site.floor.openings, site.openings, strict=True):
            under = line.intersection(hole.buffer(-1e-3)).difference(shapely.unary_union(site.beams))
            if under.length > max(0.1, 0.02 * line.length):
                yield Finding(
                    f"{kind} under opening", name, label, f"runs {amount(under.length, 'length')} under opening {opening.id}",
                    "It holds nothing there; end it at the opening.", at(under),
                )  # fmt: skip
    for support in site.floor.supports:
        if support.kind == "point" and Point(support.at).distance(site.region) > 1e-3:
            inside = Point(support.at).distance(site.concrete) < 1e-3
            yield Finding(
                "support under opening" if inside else "support outside", "supports", support.id,
                "is a point in an opening" if inside else "is a point outside the floor", "It holds nothing up.",
                (support.at[0], support.at[1]), Mend(f"Support {support.id}: deleted", (Remove("supports", support.id),)),
            )  # fmt: skip
        if support.kind == "area" and polygon(support.outline).intersection(site.region).area < 1e-4:
            yield Finding(
                "support outside", "supports", support.id, "is a bedding outside the floor", "It holds nothing up.",
                at(polygon(support.outline)), Mend(f"Support {support.id}: deleted", (Remove("supports", support.id),)),
            )  # fmt: skip


def joints(site: Site) -> Iterable[Finding]:
    """Walls whose ends nearly meet another wall."""
    for i, wall in enumerate(site.floor.walls):
        for end in (0, -1):
            tip = Point(wall.line[end][:2])
            others = [s for j, s in enumerate(site.walls) if j != i]
            if not others:
                return
            nearest = min(others, key=tip.distance)
            gap = tip.distance(nearest)
            # Within half a wall's thickness they meet as bodies, whatever their centre lines do.
            if 1e-3 < gap < TOLERANCE:
                foot = shapely.shortest_line(tip, nearest).coords[-1]
                path = [list(v) for v in wall.line]
                path[end] = [round(foot[0], 6), round(foot[1], 6), *path[end][2:]]
                yield Finding(
                    "walls nearly meet", "walls", wall.id, f"ends {amount(gap, 'size')} short of the next wall's line",
                    "The pieces of slab between them are slivers.", (tip.x, tip.y),
                    Mend(f"Wall {wall.id}: brought to the next wall", (Set("walls", wall.id, "line", path),)),
                )  # fmt: skip


def pieces(site: Site) -> Iterable[Finding]:
    """Pieces of the floor that nothing holds, or that can turn over."""
    floor = site.floor
    if not floor.slabs:
        return
    stiff: list[BaseGeometry] = [s for c, s in zip(floor.columns, site.columns, strict=True) if c.below is not None]
    stiff += [s for w, s in zip(floor.walls, site.walls, strict=True) if w.below is not None and w.top == "monolithic"]
    stiff += [polygon(s.outline) for s in floor.supports if s.kind == "area"]
    loose: list[BaseGeometry] = [
        s for w, s in zip(floor.walls, site.walls, strict=True) if w.below is not None and w.top == "hinged"
    ]
    for s in floor.supports:
        if s.kind == "line" and s.vertical not in ("free", 0.0):
            (stiff if s.rotation not in ("free", 0.0) else loose).append(LineString(polyline(s.line)))
        elif s.kind == "point" and s.vertical not in ("free", 0.0):
            (stiff if s.rotation not in ("free", 0.0) else loose).append(Point(s.at))
    parts = shapely.get_parts(site.region)
    for part in parts:
        body = part.buffer(2e-3)
        if any(body.intersects(s) for s in stiff):
            continue
        name = next(
            (
                s.id
                for s, p in zip(floor.slabs, site.slabs, strict=True)
                if p.intersection(part).area > 0.5 * min(p.area, part.area)
            ),
            floor.slabs[0].id,
        )
        spots = [p for s in loose if body.intersects(s) for p in shapely.get_coordinates(s.intersection(body))]
        spread = np.array(spots).reshape(-1, 2)
        if not len(spread):
            what = "has no support at all" if len(parts) == 1 else "is a piece apart that nothing holds up"
            yield Finding("unsupported", "slabs", name, what, "It would fall; columns, walls or supports are missing.", at(part))
        elif np.linalg.matrix_rank(spread - spread.mean(axis=0), tol=1e-3) < 2:
            yield Finding(
                "mechanism", "slabs", name, "rests on one line only, free to turn about it",
                "It would tip over: it needs a support off that line, or one that resists turning.", at(part),
            )  # fmt: skip
