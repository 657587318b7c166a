"""A building model in IFC read as storeys with slabs, openings, columns, walls, beams and setting-out lines, in metres on the building's own axes.

Bodies are read as what they enclose, however they are described: extruded, mapped, clipped, faceted. Slabs are cut at half their depth, columns and walls at half
their height. Each part names what it is called in the model (its global id), and what could not be read is told.
"""

from __future__ import annotations

import re
import threading
from collections import Counter
from collections.abc import Iterator
from dataclasses import asdict, dataclass, field
from importlib import import_module
from typing import Any

import numpy as np

from piastra.core.model.refusal import Refusal, RefusedError
from piastra.exchange.confined import Confined, UnreadableError
from piastra.exchange.ifc.solids import Bar, Solid, bar_of, circle_of, outline_of

SECONDS = 240
READER = Confined("piastra.exchange.ifc.reading", SECONDS, memory=3_000_000_000)
WAIT_SECONDS = 60.0
"""Models are read one after the other: so long one waits for those before it."""
_ONE = threading.Semaphore(1)
LARGEST = 100_000_000
"""Bytes of a model."""
MOST = 20_000
"""Parts of a model that are read."""
HEAD, SCHEMAS = 100_000, ("IFC4", "IFC2X3")
"""Bytes in which a model tells its schema, and those that are read."""
EVEN = 0.02
"""A slab whose cuts differ by more than this share is not of one thickness."""
NEAR = 1.0
"""A slab belongs to the storey that it is in, if its top is no further than this (m) from that storey's level; else to the nearest."""

Pair = tuple[float, float]


@dataclass(frozen=True, slots=True)
class Told:
    """What could not be read, or was read as something else: how many of ``what``, and ``why``."""

    what: str
    count: int
    why: str


@dataclass(frozen=True, slots=True)
class SlabPart:
    """A slab: its outline, holes in it, thickness and level of its top, m."""

    guid: str
    name: str
    outline: list[list[float]]
    holes: list[list[list[float]]]
    thickness: float
    top: float
    concrete: str


@dataclass(frozen=True, slots=True)
class ColumnPart:
    """A column: its middle, section (``d`` None: round, of diameter ``b``), direction of ``b`` in degrees, bottom and top, m."""

    guid: str
    name: str
    at: Pair
    b: float
    d: float | None
    angle: float
    bottom: float
    top: float
    concrete: str


@dataclass(frozen=True, slots=True)
class LinePart:
    """A wall or beam: its centre line, width across it, bottom and top, m."""

    guid: str
    name: str
    line: list[list[float]]
    width: float
    bottom: float
    top: float
    concrete: str


@dataclass(frozen=True, slots=True)
class StoreyPart:
    """A storey with its level, m, and its slabs."""

    guid: str
    name: str
    level: float
    slabs: list[SlabPart] = field(default_factory=list)


@dataclass(frozen=True, slots=True)
class Building:
    """What was read: storeys from the lowest, parts that carry them, setting-out lines by label, and what could not be read."""

    name: str
    storeys: list[StoreyPart]
    columns: list[ColumnPart]
    walls: list[LinePart]
    beams: list[LinePart]
    grid: list[tuple[str, list[list[float]]]]
    told: list[Told]


def read_ifc(content: bytes, name: str) -> Building:
    """A model in a process of its own. Raises :class:`RefusedError`."""
    if len(content) > LARGEST:
        raise RefusedError([Refusal(name, f"has more than {LARGEST // 1_000_000} MB; export the structure alone")])
    # What is none at its first glance needs no process of its own.
    schema = re.search(rb"FILE_SCHEMA\s*\(\s*\(\s*'([^']{1,40})'", content[:HEAD])
    if not content.lstrip()[:12].upper().startswith(b"ISO-10303-21") or schema is None:
        raise RefusedError([Refusal(name, "is no IFC model in STEP form; export it as IFC4 (.ifc)")])
    kind = schema.group(1).decode("ascii", "replace").upper()
    if not kind.startswith(SCHEMAS):
        raise RefusedError([Refusal(name, f"is written in {kind}, which is not read; export it as IFC4 (.ifc)")])
    if not _ONE.acquire(timeout=WAIT_SECONDS):
        raise RefusedError([Refusal(name, "waits for other models that are being read; try again in a minute")])
    try:
        found = READER.read({"name": name}, content)
    except TimeoutError:
        raise RefusedError([Refusal(name, f"takes longer than {SECONDS} s to read; export the structure alone")]) from None
    except UnreadableError:
        raise RefusedError([Refusal(name, "cannot be read as an IFC model; export it as IFC4 in STEP form (.ifc)")]) from None
    finally:
        _ONE.release()
    if "refused" in found:
        raise RefusedError([Refusal(name, found["refused"])])
    return building_from(found)


def building_from(data: dict[str, Any]) -> Building:
    """A building out of its JSON."""
    storeys = [StoreyPart(s["guid"], s["name"], s["level"], [SlabPart(**p) for p in s["slabs"]]) for s in data["storeys"]]
    return Building(
        data["name"], storeys, [ColumnPart(**{**c, "at": tuple(c["at"])}) for c in data["columns"]],
        [LinePart(**w) for w in data["walls"]], [LinePart(**b) for b in data["beams"]], [(g[0], g[1]) for g in data["grid"]],
        [Told(**t) for t in data["told"]],
    )  # fmt: skip


class _Reading:
    """One model while it is read."""

    def __init__(self, model: Any) -> None:
        self.model = model
        self._geom, self._element, self._placement, unit = (
            import_module(f"ifcopenshell.{name}") for name in ("geom", "util.element", "util.placement", "util.unit")
        )
        self.scale = float(unit.calculate_unit_scale(model))
        buildings = model.by_type("IfcBuilding")
        self.building = buildings[0] if buildings else None
        matrix = np.eye(4)
        if self.building is not None and self.building.ObjectPlacement is not None:
            matrix = np.array(self._placement.get_local_placement(self.building.ObjectPlacement), dtype=float)
        matrix[:3, 3] *= self.scale
        # A site that is turned or lies far away is not the building's concern: it is read on its own axes.
        self.inverse = np.linalg.inv(matrix)
        self.settings = self._geom.settings()
        self.settings.set("use-world-coords", True)
        self.settings.set("mesher-linear-deflection", 0.002)
        self.settings.set("mesher-angular-deflection", 0.2)
        self.told: Counter[tuple[str, str]] = Counter()
        if len(buildings) > 1:
            self.told[("building", "only the first one is read")] += len(buildings) - 1

    def tell(self, product: Any, why: str) -> None:
        """Something that is not read, or not as it is."""
        self.told[(product.is_a().removeprefix("Ifc").removeprefix("BuildingElement").lower(), why)] += 1

    def solid(self, product: Any) -> Solid | None:
        """The body of a product; None, and told, where it has none that can be had."""
        if product.Representation is None:
            self.tell(product, "has no body")
            return None
        try:
            shape = self._geom.create_shape(self.settings, product)
        except RuntimeError:
            self.tell(product, "has a body that cannot be made")
            return None
        points = np.array(shape.geometry.verts, dtype=float).reshape(-1, 3)
        faces = np.array(shape.geometry.faces, dtype=np.int64).reshape(-1, 3)
        if not len(faces):
            self.tell(product, "has no body")
            return None
        return Solid(points @ self.inverse[:3, :3].T + self.inverse[:3, 3], faces)

    def name(self, product: Any) -> str:
        """What a product is called: its tag or its name."""
        return str(getattr(product, "Tag", None) or product.Name or "").strip()

    def materials(self, product: Any) -> list[str]:
        """Names of a product's materials."""
        return [str(m.Name or "") for m in self._element.get_materials(product)]

    def concrete(self, product: Any) -> str:
        """The first of its materials."""
        return next((m for m in self.materials(product) if m), "")

    def parts(self, kind: str) -> Iterator[tuple[Any, Any]]:
        """Products of a kind with what has their body: themselves, or of those in layers the ones of concrete."""
        for product in self.model.by_type(kind):
            layers = [p for r in getattr(product, "IsDecomposedBy", ()) for p in r.RelatedObjects if p.Representation is not None]
            if product.Representation is not None or not layers:
                yield product, product
                continue
            structural = [p for p in layers if any(_is_concrete(m) for m in self.materials(p))]
            for p in layers:
                if p not in structural:
                    self.tell(p, "is a layer without concrete, and left out")
            for p in structural:
                yield product, p

    def level(self, storey: Any) -> float:
        """The level of a storey above the building's own zero, m."""
        if storey.ObjectPlacement is not None:
            matrix = np.array(self._placement.get_local_placement(storey.ObjectPlacement), dtype=float)
            return round(float((self.inverse @ np.append(matrix[:3, 3] * self.scale, 1.0))[2]), 4)
        return round(float(storey.Elevation or 0.0) * self.scale, 4)

    def storey(self, product: Any) -> Any:
        """The storey that a product is contained in, by itself or by what it is a part of."""
        found: Any = self._element.get_container(product)
        return found if found is not None and found.is_a("IfcBuildingStorey") else None


def _is_concrete(material: str) -> bool:
    return bool(re.search(r"concrete|beton|béton|\bC ?\d\d", material, re.IGNORECASE))


def _section(bar: Bar) -> tuple[Pair, float, float, float]:
    """A rectangle as the section of a column: of its sides the one nearer to the plan's x axis is b."""
    degrees = float(np.degrees(bar.angle))
    if abs(degrees) <= 45 + 1e-6:
        return bar.middle, bar.length, bar.width, degrees
    return bar.middle, bar.width, bar.length, degrees - 90 if degrees > 0 else degrees + 90


def _columns(read: _Reading) -> list[ColumnPart]:
    out = []
    for product, body in read.parts("IfcColumn"):
        solid = read.solid(body)
        if solid is None:
            continue
        shapes = solid.cut()
        if not shapes:
            read.tell(product, "cannot be cut: its body is not closed")
            continue
        shape, b, d, angle = shapes[0], 0.0, None, 0.0
        at: Pair = (shape.centroid.x, shape.centroid.y)
        if (bar := bar_of(shape)) is not None:
            at, b, d, angle = _section(bar)
        elif (circle := circle_of(shape)) is not None:
            at, b = circle
        elif (around := bar_of(shape, 0.0)) is not None:
            read.tell(product, "is neither a rectangle nor round; the rectangle about it is taken")
            at, b, d, angle = _section(around)
        else:
            read.tell(product, "has no section")
            continue
        out.append(
            ColumnPart(
                product.GlobalId, read.name(product), (round(at[0], 4), round(at[1], 4)), round(b, 4), None if d is None else round(d, 4),
                round(angle, 4), round(solid.bottom, 4), round(solid.top, 4), read.concrete(body),
            )
        )  # fmt: skip
    return out


def _lines(read: _Reading, kind: str, least: float) -> list[LinePart]:
    """Walls or beams; doors and windows cut walls, so that the level that cuts most of them counts."""
    out = []
    for product, body in read.parts(kind):
        solid = read.solid(body)
        if solid is None:
            continue
        cuts = [solid.cut(share) for share in ((0.5,) if kind == "IfcBeam" else (0.5, 0.97, 0.03))]
        shapes = max(cuts, key=lambda c: sum(p.area for p in c), default=[])
        if not shapes:
            read.tell(product, "cannot be cut: its body is not closed")
            continue
        for shape in shapes:
            bar = bar_of(shape, least)
            if bar is None or bar.length < 0.05:
                read.tell(product, "is not straight and of one thickness")
                continue
            out.append(
                LinePart(product.GlobalId, read.name(product), bar.line, round(bar.width, 4), round(solid.bottom, 4), round(solid.top, 4), read.concrete(body))
            )  # fmt: skip
    return out


def _storeys(read: _Reading) -> list[StoreyPart]:
    found = {
        s.GlobalId: StoreyPart(s.GlobalId, str(s.Name or "Level"), read.level(s)) for s in read.model.by_type("IfcBuildingStorey")
    }
    if not found:
        raise RefusedError([Refusal("the model", "has no storeys; export it with its levels")])
    for product, body in read.parts("IfcSlab"):
        if product.PredefinedType == "ROOF" and product.Representation is None:
            continue
        solid = read.solid(body)
        if solid is None:
            continue
        shapes = solid.cut()
        area = sum(p.area for p in shapes)
        if area < 0.01 or solid.height < 0.02:
            read.tell(product, "has no plan")
            continue
        # A slope may cut as much at half its depth as a plate does: it cuts more, and less, near its faces.
        near_faces = [sum(p.area for p in solid.cut(share)) for share in (0.04, 0.96)]
        if max(abs(a - area) for a in (*near_faces, solid.volume / solid.height)) > EVEN * area:
            read.tell(product, "slopes or is not of one thickness, and is left out")
            continue
        mine = read.storey(product)
        storey = found.get(mine.GlobalId) if mine is not None else None
        if storey is None or abs(storey.level - solid.top) > NEAR:
            storey = min(found.values(), key=lambda s: abs(s.level - solid.top))
        for shape in shapes:
            storey.slabs.append(
                SlabPart(
                    product.GlobalId, read.name(product), outline_of(np.array(shape.exterior.coords)[:-1]),
                    [outline_of(np.array(hole.coords)[:-1][::-1]) for hole in shape.interiors],
                    round(solid.height, 4), round(solid.top, 4), read.concrete(body),
                )
            )  # fmt: skip
    return sorted(found.values(), key=lambda s: s.level)


def _grid(read: _Reading) -> list[tuple[str, list[list[float]]]]:
    out = []
    for grid in read.model.by_type("IfcGrid"):
        matrix = np.eye(4)
        if grid.ObjectPlacement is not None:
            matrix = np.array(read._placement.get_local_placement(grid.ObjectPlacement), dtype=float)
        matrix[:3, 3] *= read.scale
        for axis in (*(grid.UAxes or ()), *(grid.VAxes or ()), *(grid.WAxes or ())):
            curve = axis.AxisCurve
            if not curve.is_a("IfcPolyline") or len(curve.Points) != 2:
                read.tell(axis, "is no straight line")
                continue
            points = np.array([[*p.Coordinates, 0.0][:3] for p in curve.Points], dtype=float) * read.scale
            placed = (np.column_stack([points, np.ones(2)]) @ (read.inverse @ matrix).T)[:, :2]
            out.append((str(axis.AxisTag or ""), placed.round(4).tolist()))
    return out


def read_model(content: bytes) -> Building:
    """A model in this process. Raises :class:`RefusedError` for what is no model, or one without storeys."""
    library: Any = import_module("ifcopenshell")
    try:
        model = library.file.from_string(content.decode("utf-8", "replace"))
    except Exception:
        raise RefusedError([Refusal("the model", "is no IFC model in STEP form (.ifc)")]) from None
    if model is None or not model.by_type("IfcProject"):
        raise RefusedError([Refusal("the model", "is no IFC model in STEP form (.ifc)")])
    count = sum(len(model.by_type(kind)) for kind in ("IfcSlab", "IfcColumn", "IfcWall", "IfcBeam"))
    if count > MOST:
        raise RefusedError(
            [Refusal("the model", f"has {count:,} parts, and {MOST:,} are read at most; export the structure alone")]
        )
    read = _Reading(model)
    storeys = _storeys(read)
    columns, walls, beams = _columns(read), _lines(read, "IfcWall", 0.95), _lines(read, "IfcBeam", 0.95)
    for kind in ("IfcFooting", "IfcPile", "IfcStair", "IfcRamp", "IfcRoof", "IfcMember", "IfcPlate"):
        if some := model.by_type(kind):
            read.told[(kind.removeprefix("Ifc").lower(), "is not read as a part of a floor")] += len(some)
    told = [Told(what, n, why) for (what, why), n in read.told.items()]
    name = str(getattr(read.building, "Name", None) or model.by_type("IfcProject")[0].Name or "Building")
    return Building(name, storeys, columns, walls, beams, _grid(read), told)


def _answer(ask: dict[str, Any], content: bytes) -> Any:
    try:
        return asdict(read_model(content))
    except RefusedError as error:
        return {"refused": error.refusals[0].sentence}


if __name__ == "__main__":
    READER.answer(_answer)
