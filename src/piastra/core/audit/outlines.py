"""Slabs, openings, thickenings and beams against each other."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np
import shapely
from shapely.geometry import Point, Polygon
from shapely.geometry.base import BaseGeometry

from piastra.core.audit.finding import Finding, Mend, Remove, Set
from piastra.core.audit.site import TOLERANCE, Site, at
from piastra.core.model.members import Slab
from piastra.core.model.shapes import Record
from piastra.core.trace.amounts import amount

Corners = list[list[float]]

JOINT = 0.02
"""Slabs so far apart (m) are kept apart on purpose, up to a joint of ``WIDEST``."""
WIDEST = 0.1


def _pairs(shapes: Sequence[BaseGeometry], within: float) -> Iterable[tuple[int, int]]:
    """Pairs (i < j) of shapes that lie within a distance (m)."""
    if len(shapes) < 2:
        return
    tree = shapely.STRtree(list(shapes))
    found = tree.query(list(shapes), predicate="dwithin", distance=within)
    for i, j in sorted(zip(*found.tolist(), strict=True)):
        if i < j:
            yield i, j


def _is_sliver(shape: BaseGeometry) -> bool:
    return bool(shape.buffer(-TOLERANCE / 2).is_empty)


def _fitted(outline: Corners, other: Polygon) -> Corners | None:
    """The outline with its corners near another polygon pulled onto that; None if that spoils it."""
    moved = []
    for vertex in outline:
        here = Point(vertex[:2])
        if 0 < here.distance(other.boundary) <= TOLERANCE:
            # A corner of the other is the better partner than the foot on its edge.
            corners = [Point(c) for c in other.exterior.coords]
            nearest = min(corners, key=here.distance)
            to = (
                nearest
                if here.distance(nearest) <= TOLERANCE
                else shapely.shortest_line(here, other.boundary).interpolate(1, True)
            )
            moved.append([round(to.x, 6), round(to.y, 6), *vertex[2:]])
        else:
            moved.append(list(vertex))
    if moved == [list(v) for v in outline] or any(len(v) > 2 and v[2] for v in outline):
        return None
    shape = Polygon([v[:2] for v in moved])
    return moved if shape.is_valid and shape.area > 1e-3 else None


def slabs(site: Site) -> Iterable[Finding]:
    """Overlaps, slivers and narrow gaps between slabs."""
    items = site.floor.slabs
    for i, j in _pairs(site.slabs, WIDEST):
        a, b = sorted((i, j), key=lambda k: site.slabs[k].area)
        small, large = items[a], items[b]
        common = site.slabs[i].intersection(site.slabs[j])
        if common.area > 1e-4:
            if site.slabs[i].equals(site.slabs[j]) and _essence(small) == _essence(large):
                continue  # told as a duplicate
            fitted = _fitted(small.outline, site.slabs[b]) if _is_sliver(common) else None
            if _is_sliver(common):
                yield Finding(
                    "sliver", "slabs", small.id, f"overlaps slab {large.id} by a strip narrower than {amount(TOLERANCE, 'size')}",
                    "A sliver makes tiny elements, and the thickness there is a matter of luck.", at(common),
                    Mend(f"Slab {small.id}: fitted to {large.id}", (Set("slabs", small.id, "outline", fitted),)) if fitted else None,
                )  # fmt: skip
            elif small.priority == large.priority:
                differ = (small.thickness_m, small.top_offset_m) != (large.thickness_m, large.top_offset_m)
                yield Finding(
                    "overlap", "slabs", small.id, f"overlaps slab {large.id} over {amount(common.area, 'area')}",
                    "Neither is told to hold there; the thicker one is used." if differ else "The concrete is meant once; it counts once.",
                    at(common),
                    Mend(f"Slab {small.id}: holds over {large.id}", (Set("slabs", small.id, "priority", large.priority + 1),)),
                )  # fmt: skip
            continue
        gap = site.slabs[i].distance(site.slabs[j])
        if gap >= JOINT:
            yield Finding(
                "movement joint", "slabs", small.id, f"lies {amount(gap, 'size')} off slab {large.id}, as at a movement joint",
                "No force passes the joint: each side stands on supports of its own.",
                at(site.slabs[a].boundary.intersection(site.slabs[b].buffer(1.01 * gap + 1e-4))),
            )  # fmt: skip
        elif gap > 1e-4:
            line = site.slabs[a].boundary.intersection(site.slabs[b].buffer(1.01 * gap + 1e-4))
            fitted = _fitted(small.outline, site.slabs[b]) or None
            closed = gap < site.narrow
            yield Finding(
                "gap", "slabs", small.id, f"lies {amount(1000 * gap, 'deflection')} off slab {large.id}",
                "So narrow a gap is closed by the computation." if closed else "They look joined and are not: no force passes the gap.",
                at(line),
                Mend(f"Slab {small.id}: joined to {large.id}", (Set("slabs", small.id, "outline", fitted),)) if fitted else None,
            )  # fmt: skip
        if gap < max(site.narrow, 1e-4):
            # Borders along a slope meet but for rounding.
            near = site.slabs[j].boundary.buffer(gap + 1e-4, cap_style="flat")
            yield from _step(small, large, site.slabs[i].boundary.intersection(near))


def _step(small: Slab, large: Slab, border: BaseGeometry) -> Iterable[Finding]:
    """Slabs that meet along an edge without concrete in common."""
    low, high = sorted((small, large), key=lambda s: s.top_offset_m)
    common = low.top_offset_m - (high.top_offset_m - high.thickness_m)
    if border.length > JOINT and common <= 0:
        yield Finding(
            "step", "slabs", small.id, f"shares no concrete with slab {large.id}: the step is {amount(-common, 'size')} deeper than the slab",
            "The computation joins them at the step as if there were concrete; a beam or a wall has to be there.", at(border),
        )  # fmt: skip


def corners(site: Site) -> Iterable[Finding]:
    """Edges too short to mean anything, and needle-sharp corners."""
    for name, items in (("slabs", site.floor.slabs), ("openings", site.floor.openings), ("thickenings", site.floor.thickenings)):
        for item in items:
            outline: Corners = item.outline
            xy = np.array([v[:2] for v in outline])
            ahead = np.roll(xy, -1, axis=0) - xy
            length = np.hypot(*ahead.T)
            for k in np.flatnonzero(length < 0.02):
                rest = [list(v) for i, v in enumerate(outline) if i != k]
                curved = any(len(v) > 2 and v[2] for v in outline)
                ok = len(rest) > 2 and not curved and Polygon([v[:2] for v in rest]).is_valid
                yield Finding(
                    "short edge", name, item.id, f"has an edge of {amount(1000 * length[k], 'deflection')}",
                    "So short an edge is a slip of drawing, and makes tiny elements.", (float(xy[k, 0]), float(xy[k, 1])),
                    Mend(f"{item.id}: corner removed", (Set(name, item.id, "outline", rest),)) if ok else None,
                )  # fmt: skip
            if len(outline) < 3 or any(len(v) > 2 and v[2] for v in outline):
                continue
            back = -np.roll(ahead, 1, axis=0)
            cosine = (ahead * back).sum(axis=1) / np.maximum(length * np.roll(length, 1), 1e-12)
            for k in np.flatnonzero(cosine > np.cos(np.radians(8.0))):
                yield Finding(
                    "sharp corner", name, item.id, f"has a corner of {np.degrees(np.arccos(min(1.0, cosine[k]))):.1f}°",
                    "A needle of concrete cannot be cast or meshed well.", (float(xy[k, 0]), float(xy[k, 1])),
                )  # fmt: skip


def openings(site: Site) -> Iterable[Finding]:
    """Openings beside the slabs, and openings that leave narrow ribs."""
    for item, shape in zip(site.floor.openings, site.openings, strict=True):
        if not site.floor.slabs:
            return
        if shape.intersection(site.concrete).area < 1e-4:
            yield Finding(
                "opening outside", "openings", item.id, "lies outside every slab", "It cuts nothing; it was meant for another place.",
                at(shape), Mend(f"Opening {item.id}: deleted", (Remove("openings", item.id),)),
            )  # fmt: skip
            continue
        inner = shape.intersection(site.concrete)
        edge = site.concrete.boundary.difference(shape.buffer(1e-6))
        gap = inner.distance(edge) if not edge.is_empty else np.inf
        if shape.within(site.concrete) and 1e-4 < gap < TOLERANCE:
            line = shapely.shortest_line(shape, site.concrete.boundary)
            yield Finding(
                "narrow rib", "openings", item.id, f"leaves {amount(gap, 'size')} of concrete to the slab's edge",
                "So narrow a rib cannot be built; the opening should reach the edge or stay clear of it.", at(line),
            )  # fmt: skip


def thickenings(site: Site) -> Iterable[Finding]:
    """Thickenings that leave the slab or do not thicken it."""
    tree = shapely.STRtree(list(site.slabs)) if site.slabs else None
    for item, shape in zip(site.floor.thickenings, site.thickenings, strict=True):
        if tree is None:
            return
        outside = shape.difference(site.concrete.buffer(1e-3)).area
        name = item.kind.replace("_", " ")
        if outside > 0.999 * shape.area:
            yield Finding(
                "thickening outside", "thickenings", item.id, f"is a {name} outside every slab", "It has no effect there.", at(shape),
                Mend(f"Thickening {item.id}: deleted", (Remove("thickenings", item.id),)),
            )  # fmt: skip
            continue
        if outside > 1e-3:
            kept = shape.intersection(site.concrete)
            plain = isinstance(kept, Polygon) and not kept.interiors and not any(len(v) > 2 and v[2] for v in item.outline)
            value = [[round(x, 6), round(y, 6)] for x, y in kept.exterior.coords[:-1]] if isinstance(kept, Polygon) else None
            yield Finding(
                "thickening outside", "thickenings", item.id, f"is a {name} that stands {amount(outside, 'area')} out of the slab",
                "What is outside has no effect, so the drawing promises more than there is.", at(shape.difference(site.concrete)),
                Mend(f"Thickening {item.id}: cut to the slab", (Set("thickenings", item.id, "outline", value),)) if plain else None,
            )  # fmt: skip
        hosts = [
            int(k) for k in tree.query(shape, predicate="intersects") if site.slabs[k].intersection(shape).area > 0.2 * shape.area
        ]
        if not hosts:
            continue
        host = site.floor.slabs[max(hosts, key=lambda k: (site.floor.slabs[k].priority, site.slabs[k].intersection(shape).area))]
        if item.kind in ("drop_panel", "column_head") and item.thickness_m <= host.thickness_m + 1e-9:
            yield Finding(
                "no thickening", "thickenings", item.id,
                f"is a {name} of {amount(item.thickness_m, 'size')} in slab {host.id} of {amount(host.thickness_m, 'size')}",
                "It is no thicker than its slab, so it strengthens nothing.", at(shape),
            )  # fmt: skip
        if item.kind == "recess" and item.top_offset_m >= host.top_offset_m - 1e-9:
            yield Finding(
                "no recess", "thickenings", item.id, f"is a recess whose top is not below that of slab {host.id}",
                "A recess is set down; give it a negative top offset.", at(shape),
            )  # fmt: skip


def beams(site: Site) -> Iterable[Finding]:
    """Beams that are no deeper than their slab, or beside it."""
    for item, shape in zip(site.floor.beams, site.beams, strict=True):
        if not site.floor.slabs:
            return
        share = [s.intersection(shape).area for s in site.slabs]
        k = int(np.argmax(share))
        if share[k] < 1e-4:
            touches = min(s.distance(shape) for s in site.slabs) < 1e-3
            if not touches:
                yield Finding(
                    "beam outside", "beams", item.id, "lies outside every slab", "It carries nothing of the floor.", at(shape),
                    Mend(f"Beam {item.id}: deleted", (Remove("beams", item.id),)),
                )  # fmt: skip
            continue
        host = site.floor.slabs[k]
        if item.depth_m <= host.thickness_m + 1e-9:
            yield Finding(
                "shallow beam", "beams", item.id,
                f"is {amount(item.depth_m, 'size')} deep overall, its slab {host.id} {amount(host.thickness_m, 'size')}",
                "The depth counts from the slab's top, so the beam is no stiffer than the slab.", at(shape),
                Mend(f"Beam {item.id}: depth counted below the slab",
                     (Set("beams", item.id, "depth_m", round(item.depth_m + host.thickness_m, 6)),)),
            )  # fmt: skip


def _essence(item: Record) -> str:
    return item.model_dump_json(exclude={"id", "outline"})
