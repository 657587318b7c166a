"""A building model as a project: its levels, setting-out lines and materials, and a floor for each storey that has slabs."""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import Any

import numpy as np
import shapely
from shapely.geometry import LineString, Point

from piastra.core.geometry.arcs import polygon
from piastra.core.model import RefusedError, floor_from
from piastra.core.model.floor import Floor
from piastra.core.model.project import project_from
from piastra.core.model.refusal import Refusal
from piastra.core.standards.beginnings import new_floor, new_project
from piastra.exchange.floor_file import document as document_of
from piastra.exchange.ifc.reading import Building, ColumnPart, LinePart, SlabPart, StoreyPart, Told

REACH = 0.35
"""A column or wall carries a slab where it ends no further than this (m) below its soffit or above its top."""
SAME = 0.6
"""One that ends so near (m) to the next level follows the height of the storey."""
STRENGTH = re.compile(r"\bC ?(\d+(?:\.\d+)?)(?:/\d+)?\b")
WEAKEST, STRONGEST = 8.0, 120.0
"""Strengths (MPa) that a name may tell; a greater figure is one in psi or a number of something else."""
CLOSE = 0.012
"""A drop lies so close (m) under its slab."""
BASE = 3.0
"""Height (m) below the lowest level where nothing stands below it."""


def as_project(
    building: Building, standard: str = "EN 1992-1-1", units: str = "SI"
) -> tuple[dict[str, Any], list[tuple[str, dict[str, Any]]], list[Told]]:
    """The document of a project, its floors by their levels from the lowest, and what had to be told besides. Raises :class:`RefusedError`."""
    storeys = [s for s in building.storeys if s.slabs]
    if not storeys:
        raise RefusedError([Refusal("the model", "has no storey with a slab that could be read")])
    told: list[Told] = []
    levels = _levels(storeys, building)
    project = {**new_project(_label(building.name) or "Building", units, standard), "levels": levels[1], "base_m": levels[0]}
    named = _concretes(building, project, told)
    project["grid_sets"] = _grid(building)
    shared = project_from(project)
    out = []
    for k, storey in enumerate(storeys):
        above = storeys[k + 1].level if k + 1 < len(storeys) else None
        below = storeys[k - 1].level if k else levels[0]
        level = levels[1][k]["id"]
        out.append((level, _floor(new_floor(shared, level), storey, building, named, (below, above), told)))
    return project, out, [*told, *_left_over(building, storeys)]


def _left_over(building: Building, storeys: list[StoreyPart]) -> list[Told]:
    """What stands in the model and on no floor that was read."""
    out = []
    for what, parts in (("column", building.columns), ("wall", building.walls)):
        lone = [p for p in parts if all(_ends(p, s, building, (s.level, None)) is None for s in storeys)]
        if lone:
            out.append(Told(what, len(lone), f"touches no floor that was read, as {lone[0].name or lone[0].guid}"))
    lone_beams = [b for b in building.beams if not any(_at(b.top, s) for s in storeys)]
    if lone_beams:
        out.append(
            Told("beam", len(lone_beams), f"lies at no floor that was read, as {lone_beams[0].name or lone_beams[0].guid}")
        )
    return out


def _levels(storeys: list[StoreyPart], building: Building) -> tuple[float, list[dict[str, Any]]]:
    lowest = storeys[0].level
    carrying: list[ColumnPart | LinePart] = [*building.columns, *building.walls]
    feet = [p.bottom for p in carrying if p.bottom < lowest - SAME and p.top > lowest - SAME]
    base = round(min(feet, default=lowest - BASE), 4)
    ids = _once(_label(s.name) or "Level" for s in storeys)
    steps = [storeys[0].level - base, *(b.level - a.level for a, b in zip(storeys, storeys[1:], strict=False))]
    if min(steps) <= 0:
        raise RefusedError([Refusal("the model", "has two storeys with slabs at one level; give each its own level")])
    return base, [{"id": i, "height_m": round(h, 4)} for i, h in zip(ids, steps, strict=True)]


def _concretes(building: Building, project: dict[str, Any], told: list[Told]) -> dict[str, str]:
    """Concretes of the project by the names that the model has: a strength in a name is taken over, other names are the project's own."""
    first = project["concretes"][0]
    out = {}
    lines = [*building.walls, *building.beams]
    names = [p.concrete for s in building.storeys for p in s.slabs]
    names += [p.concrete for p in building.columns] + [p.concrete for p in lines]
    for name in dict.fromkeys(names):
        match = STRENGTH.search(name)
        label = match.group(0).replace(" ", "") if match else ""
        if not match or not WEAKEST <= float(match.group(1)) <= STRONGEST:
            out[name] = first["id"]
            told.append(Told("material", 1, f"{name or 'without a name'} is taken as {first['id']}; look at it"))
            continue
        if label not in {c["id"] for c in project["concretes"]}:
            project["concretes"].append({"id": label, "strength_MPa": float(match.group(1))})
        out[name] = label
    return out


def _grid(building: Building) -> list[dict[str, Any]]:
    lines = [(label, line) for label, line in building.grid if label]
    ids = _once(_label(label) or "G" for label, _ in lines)
    return [{"id": i, "kind": "single", "line": line} for i, (_, line) in zip(ids, lines, strict=True)]


def _floor(
    document: dict[str, Any], storey: StoreyPart, building: Building, named: dict[str, str], beside: tuple[float, float | None],
    told: list[Told],
) -> dict[str, Any]:  # fmt: skip
    rebar = document["rebars"][0]["id"]
    zero = storey.level
    thick = [(s, whole) for s in storey.slabs if (whole := _hangs_from(s, storey.slabs)) is not None]
    own = [s for s in storey.slabs if all(s is not d for d, _ in thick)]
    labels = _once(_label(s.name) or "S1" for s in own)
    slabs = [
        {"id": i, "outline": s.outline, "thickness_m": s.thickness, "concrete": named[s.concrete], "rebar": rebar,
         **({"top_offset_m": round(s.top - zero, 4)} if abs(s.top - zero) > 1e-3 else {})}
        for i, s in zip(labels, own, strict=True)
    ]  # fmt: skip
    # An opening that another slab fills, as a step does, is none.
    solid = [polygon(s.outline).difference(shapely.union_all([polygon(h) for h in s.holes])) for s in own]
    open_ones = [h for s in own for h in s.holes if not any(polygon(h).representative_point().within(shape) for shape in solid)]
    columns = [
        {**_column(c, named), **ends} for c in building.columns if (ends := _ends(c, storey, building, beside)) is not None
    ]
    walls = [{**_wall(w, named), **ends} for w in building.walls if (ends := _ends(w, storey, building, beside)) is not None]
    columns, walls = _through(columns, "at", "shape"), _through(walls, "line", "thickness_m")
    beams = [_beam(b, zero, named) for b in building.beams if _at(b.top, storey)]
    document = {
        **document, "slabs": slabs, "openings": [{"id": f"O{k + 1}", "outline": h} for k, h in enumerate(open_ones)],
        "thickenings": [
            {"id": i, "kind": "drop_panel", "outline": s.outline, "thickness_m": round(s.thickness + whole.thickness, 4),
             **({"top_offset_m": round(whole.top - zero, 4)} if abs(whole.top - zero) > 1e-3 else {})}
            for i, (s, whole) in zip(_once(_label(s.name) or "D1" for s, _ in thick), thick, strict=True)
        ],
        "columns": _labelled(columns, "C"), "walls": _labelled(walls, "W"), "beams": _labelled(beams, "B"),
    }  # fmt: skip
    if not any(m["below"] for m in (*document["columns"], *document["walls"])):
        told.append(
            Told(
                "storey",
                1,
                f"{storey.name} has nothing below that carries it; give it supports, or a bedding if it lies on the ground",
            )
        )
    return document_of(_checked(document, storey.name))


def _hangs_from(slab: SlabPart, slabs: list[SlabPart]) -> SlabPart | None:
    """The slab that another one lies close under, as a drop does; None for one that lies under none."""
    shape = polygon(slab.outline)
    over = [w for w in slabs if w is not slab and abs(slab.top - w.top + w.thickness) < CLOSE]
    if over and shape.within(shapely.union_all([polygon(w.outline) for w in over]).buffer(CLOSE)):
        return max(over, key=lambda w: polygon(w.outline).intersection(shape).area)
    return None


def _checked(document: dict[str, Any], name: str) -> Floor:
    try:
        return floor_from(document)
    except RefusedError as error:
        raise RefusedError([Refusal(f"{name}: {r.path}", r.sentence) for r in error.refusals]) from None


def _at(level: float, storey: StoreyPart) -> bool:
    tops = [s.top for s in storey.slabs]
    deep = max(s.thickness for s in storey.slabs)
    return min(tops) - deep - REACH <= level <= max(tops) + REACH


def _ends(
    part: ColumnPart | LinePart, storey: StoreyPart, building: Building, beside: tuple[float, float | None]
) -> dict[str, Any] | None:
    """The parts of a column or wall below and above a floor; None for one that does not touch it."""
    place = Point(part.at) if isinstance(part, ColumnPart) else LineString(part.line)
    reach = part.width / 2 if isinstance(part, LinePart) else max(part.b, part.d or 0.0) / 2
    if not any(polygon(s.outline).distance(place) <= reach for s in storey.slabs):
        return None
    # It may end below a drop, or below a beam, however deep that is.
    soffits = [s.top - s.thickness for s in storey.slabs]
    soffits += [b.bottom for b in building.beams if _at(b.top, storey) and LineString(b.line).distance(place) <= reach + b.width]
    low, high = min(soffits), storey.level
    below = high - part.bottom if part.bottom < low - REACH and part.top >= low - REACH else None
    above = part.top - high if part.top > high + REACH and part.bottom <= high + REACH else None
    if below is None and above is None:
        return None

    def held(height: float | None, other: float | None) -> dict[str, Any] | None:
        if height is None:
            return None
        storey_height = None if other is None else abs(high - other)
        if storey_height is not None and (abs(height - storey_height) < SAME or height > storey_height):
            return {"height_m": round(storey_height, 4), "by_level": True}
        return {"height_m": round(height, 4)}

    return {"below": held(below, beside[0]), "above": held(above, beside[1])}


def _column(c: ColumnPart, named: dict[str, str]) -> dict[str, Any]:
    shape = {"kind": "circle", "diameter_m": c.b} if c.d is None else {"kind": "rectangle", "b_m": c.b, "d_m": c.d}
    turned = {"angle_deg": c.angle} if abs(c.angle) > 1e-3 else {}
    return {"id": _label(c.name), "at": list(c.at), "shape": shape, **turned, "concrete": named[c.concrete]}


def _wall(w: LinePart, named: dict[str, str]) -> dict[str, Any]:
    return {"id": _label(w.name), "line": w.line, "thickness_m": w.width, "concrete": named[w.concrete]}


def _beam(b: LinePart, zero: float, named: dict[str, str]) -> dict[str, Any]:
    made = {
        "id": _label(b.name),
        "line": b.line,
        "width_m": b.width,
        "depth_m": round(b.top - b.bottom, 4),
        "concrete": named[b.concrete],
    }
    return {**made, "top_offset_m": round(b.top - zero, 4)} if abs(b.top - zero) > 1e-3 else made


def _through(items: list[dict[str, Any]], *same: str) -> list[dict[str, Any]]:
    """Members below and above a floor, those that stand one on the other as one."""
    out = [i for i in items if i["below"] is not None]
    for item in (i for i in items if i["below"] is None):
        for k, lower in enumerate(out):
            if lower["above"] is None and all(_equal(lower[key], item[key]) for key in same):
                out[k] = {**lower, "above": item["above"]}
                break
        else:
            out.append(item)
    return out


def _equal(a: Any, b: Any) -> bool:
    """Whether places (m) or sections are the same."""
    if isinstance(a, dict):
        return a == b
    return bool(np.allclose(a, b, atol=CLOSE))


def _labelled(items: list[dict[str, Any]], letter: str) -> list[dict[str, Any]]:
    ids = _once(i["id"] or f"{letter}{k + 1}" for k, i in enumerate(items))
    return [{**item, "id": i} for i, item in zip(ids, items, strict=True)]


def _once(names: Iterable[str]) -> list[str]:
    """Labels, each once: what comes again gets a number behind it."""
    out: list[str] = []
    for name in names:
        label, n = name, 2
        while label in out:
            label, n = f"{name[:54]} {n}", n + 1
        out.append(label)
    return out


def _label(name: str) -> str:
    """A name as a label; empty for one that is none."""
    tidy = "".join(c for c in " ".join(name.split()) if c.isprintable())[:60].strip()
    return tidy
