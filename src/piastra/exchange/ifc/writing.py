"""Floors of a building as a model in IFC4: slabs with openings, drops, columns, walls and beams; bars by groups and tendons of what was computed.

Outlines keep their arcs. What stands below a floor is written with it, from its soffit to the next level below. A group of bars is one bar at its middle below the slab's cover, with the
number and spacing of all of them in its properties. Global ids follow from the project, the floor and the label, so that a later model names the same things alike.
"""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from importlib import import_module
from itertools import pairwise
from typing import Any

import numpy as np
import shapely

from piastra.core.geometry.arcs import arc_of, polygon, stretch_outlines
from piastra.core.model import Floor
from piastra.core.model.footprint import beam_outline
from piastra.exchange.ifc.floors import STRENGTH

SPACE = uuid.UUID("6a0f6f0e-5d0e-4d1c-9a55-0d6c0d8a7c11")
"""Of global ids that Piastra makes."""
NEAR = 1e-3
"""Levels (m) that differ by less are one."""


@dataclass(frozen=True, slots=True)
class Written:
    """A floor to write: the name and elevation (m) of its level, the floor, and its ``results`` document, None without one."""

    level: str
    elevation: float
    floor: Floor
    results: dict[str, Any] | None = None


class _Model:
    """One model while it is written; lengths in m."""

    def __init__(self, project: str) -> None:
        library: Any = import_module("ifcopenshell")
        self._compress = import_module("ifcopenshell.guid").compress
        self.f, self.project = library.file(schema="IFC4"), project
        self.up = self.f.createIfcDirection((0.0, 0.0, 1.0))
        self.zero = self.f.createIfcAxis2Placement3D(self.f.createIfcCartesianPoint((0.0, 0.0, 0.0)))
        self.context = self.f.createIfcGeometricRepresentationContext(None, "Model", 3, 1e-5, self.zero, None)
        units = [
            self.f.createIfcSIUnit(None, "LENGTHUNIT", None, "METRE"), self.f.createIfcSIUnit(None, "AREAUNIT", None, "SQUARE_METRE"),
            self.f.createIfcSIUnit(None, "VOLUMEUNIT", None, "CUBIC_METRE"), self.f.createIfcSIUnit(None, "PLANEANGLEUNIT", None, "RADIAN"),
            self.f.createIfcSIUnit(None, "FORCEUNIT", None, "NEWTON"), self.f.createIfcSIUnit(None, "PRESSUREUNIT", None, "PASCAL"),
        ]  # fmt: skip
        top = self.f.createIfcProject(
            self.guid("project"), None, project, None, None, None, None, [self.context], self.f.createIfcUnitAssignment(units)
        )
        site = self.f.createIfcSite(self.guid("site"), None, "Site", None, None, self.placed(None, 0.0))
        self.building = self.f.createIfcBuilding(self.guid("building"), None, project, None, None, self.placed(site, 0.0))
        self.together("project of", top, [site])
        self.together("site of", site, [self.building])
        self.storeys: list[Any] = []
        self._contained: dict[str, list[Any]] = {}
        self._materials: dict[str, list[Any]] = {}

    def guid(self, *names: str) -> str:
        """The global id of what has these names."""
        return str(self._compress(uuid.uuid5(SPACE, "\n".join([self.project, *names])).hex))

    def placed(self, under: Any, z: float) -> Any:
        """A placement at a level above that of something."""
        axes = self.f.createIfcAxis2Placement3D(self.f.createIfcCartesianPoint((0.0, 0.0, float(z))))
        return self.f.createIfcLocalPlacement(None if under is None else under.ObjectPlacement, axes)

    def together(self, name: str, whole: Any, parts: list[Any]) -> None:
        """Parts of a whole."""
        self.f.createIfcRelAggregates(self.guid(name, whole.GlobalId), None, None, None, whole, parts)

    def storey(self, level: str, elevation: float) -> Any:
        """A storey at an elevation."""
        made = self.f.createIfcBuildingStorey(
            self.guid("storey", level),
            None,
            level,
            None,
            None,
            self.placed(self.building, elevation),
            None,
            None,
            "ELEMENT",
            elevation,
        )
        self.storeys.append(made)
        return made

    def curve(self, outline: Sequence[Sequence[float]]) -> Any:
        """A closed outline with its arcs."""
        points: list[tuple[float, float]] = []
        segments = []
        for v in outline:
            points.append((float(v[0]), float(v[1])))
            if len(v) > 2 and abs(v[2]) > 1e-9:
                points.append((0.0, 0.0))
        at, n = 0, len(points)
        for k, v in enumerate(outline):
            w = outline[(k + 1) % len(outline)]
            bent = len(v) > 2 and abs(v[2]) > 1e-9
            ends = (at + 1, (at + (2 if bent else 1)) % n + 1)
            if bent:
                x, y = arc_of(v[:2], w[:2], float(v[2])).at(np.array([0.5]))[0]
                points[at + 1] = (float(x), float(y))
                segments.append(self.f.createIfcArcIndex((ends[0], at + 2, ends[1])))
            else:
                segments.append(self.f.createIfcLineIndex(ends))
            at += 2 if bent else 1
        return self.f.createIfcIndexedPolyCurve(self.f.createIfcCartesianPointList2D(points), segments, False)

    def prism(self, outline: Sequence[Sequence[float]], bottom: float, top: float) -> Any:
        """What stands over an outline between two levels of a storey."""
        profile = self.f.createIfcArbitraryClosedProfileDef("AREA", None, self.curve(outline))
        return self._extruded(
            profile, self.f.createIfcAxis2Placement3D(self.f.createIfcCartesianPoint((0.0, 0.0, float(bottom)))), top - bottom
        )

    def post(self, column: Any, bottom: float, top: float) -> Any:
        """A column between two levels of a storey."""
        s = column.shape
        profile = (
            self.f.createIfcCircleProfileDef("AREA", None, None, s.diameter_m / 2)
            if s.kind == "circle"
            else self.f.createIfcRectangleProfileDef("AREA", None, None, s.b_m, s.d_m)
        )
        turn = np.radians(column.angle_deg)
        at = self.f.createIfcCartesianPoint((*map(float, column.at), float(bottom)))
        axes = self.f.createIfcAxis2Placement3D(
            at, self.up, self.f.createIfcDirection((float(np.cos(turn)), float(np.sin(turn)), 0.0))
        )
        return self._extruded(profile, axes, top - bottom)

    def _extruded(self, profile: Any, axes: Any, height: float) -> Any:
        return self.f.createIfcExtrudedAreaSolid(profile, axes, self.up, float(height))

    def disk(self, points: np.ndarray[Any, Any], radius: float) -> Any:
        """A round bar along a line of points (n, 3)."""
        line = self.f.createIfcPolyline([self.f.createIfcCartesianPoint(tuple(map(float, p))) for p in points])
        return self.f.createIfcSweptDiskSolid(line, float(radius))

    def product(
        self, kind: str, storey: Any, label: str, items: list[Any], how: str = "SweptSolid", material: str = "", **more: Any
    ) -> Any:
        """A product of a storey with its body and its material."""
        body = self.f.createIfcShapeRepresentation(self.context, "Body", how, items)
        made = self.f.create_entity(
            kind, GlobalId=self.guid(storey.Name, kind, label), Name=label, Tag=label, ObjectPlacement=self.placed(storey, 0.0),
            Representation=self.f.createIfcProductDefinitionShape(None, None, [body]), **more,
        )  # fmt: skip
        self._contained.setdefault(storey.Name, []).append(made)
        if material:
            self._materials.setdefault(material, []).append(made)
        return made

    def hole(self, storey: Any, slab: Any, label: str, item: Any) -> None:
        """A void in a slab."""
        shape = self.f.createIfcProductDefinitionShape(
            None, None, [self.f.createIfcShapeRepresentation(self.context, "Body", "SweptSolid", [item])]
        )
        void = self.f.createIfcOpeningElement(
            self.guid(storey.Name, "void", slab.Name, label),
            None,
            label,
            None,
            None,
            self.placed(storey, 0.0),
            shape,
            label,
            "OPENING",
        )
        self.f.createIfcRelVoidsElement(self.guid(storey.Name, "voids", slab.Name, label), None, None, None, slab, void)

    def properties(self, product: Any, values: dict[str, str | float | int]) -> None:
        """Properties of a product that IFC has no attributes for."""
        made = []
        for name, value in values.items():
            kind = "IfcLabel" if isinstance(value, str) else "IfcInteger" if isinstance(value, int) else "IfcReal"
            made.append(self.f.createIfcPropertySingleValue(name, None, self.f.create_entity(kind, value), None))
        kept = self.f.createIfcPropertySet(self.guid("set", product.GlobalId), None, "Piastra_Bars", None, made)
        self.f.createIfcRelDefinesByProperties(self.guid("has set", product.GlobalId), None, None, None, [product], kept)

    def content(self) -> bytes:
        """The model as a file."""
        self.together("building of", self.building, self.storeys)
        for storey in self.storeys:
            if found := self._contained.get(storey.Name):
                self.f.createIfcRelContainedInSpatialStructure(self.guid("in", storey.Name), None, None, None, found, storey)
        for name, products in self._materials.items():
            material = self.f.createIfcMaterial(name, None, "concrete" if name.startswith("Concrete") else "steel")
            self.f.createIfcRelAssociatesMaterial(self.guid("of", name), None, None, None, products, material)
        return str(self.f.to_string()).encode()


def write_ifc(project: str, floors: Sequence[Written]) -> bytes:
    """A building of floors from the lowest level up. Strengths of concrete are in the names of materials; walls along arcs are written as such."""
    model = _Model(project)
    for k, written in enumerate(floors):
        below = floors[k - 1].elevation if k else None
        _floor(model, written, below)
    return model.content()


def _material(floor: Floor, label: str) -> str:
    """The name of a concrete, from which its strength is read: the first figure behind a C."""
    strength = next(c.strength_MPa for c in floor.concretes if c.id == label)
    told = STRENGTH.search(label)
    return f"Concrete {label}" if told and float(told.group(1)) == strength else f"Concrete C{strength:g} {label}"


def _floor(model: _Model, written: Written, next_below: float | None) -> None:
    floor = written.floor
    storey = model.storey(written.level, written.elevation)
    slabs = [
        (s, model.product("IfcSlab", storey, s.id, [model.prism(s.outline, s.top_offset_m - s.thickness_m, s.top_offset_m)],
                          material=_material(floor, s.concrete), PredefinedType="FLOOR"))
        for s in floor.slabs
    ]  # fmt: skip
    for opening in floor.openings:
        for s, slab in slabs:
            if not polygon(opening.outline).intersects(polygon(s.outline)):
                continue
            item = model.prism(opening.outline, s.top_offset_m - s.thickness_m - 0.05, s.top_offset_m + 0.05)
            model.hole(storey, slab, opening.id, item)
    deep = max((s.thickness_m - s.top_offset_m for s in floor.slabs), default=0.0)
    for t in floor.thickenings:
        # What hangs below the slab that most of it lies in; what lies lower is a void of it.
        host = max(floor.slabs, key=lambda s: polygon(s.outline).intersection(polygon(t.outline)).area)
        soffit, own = host.top_offset_m - host.thickness_m, t.top_offset_m - t.thickness_m
        if own < soffit - NEAR:
            item = model.prism(t.outline, own, soffit)
            model.product("IfcSlab", storey, t.id, [item], material=_material(floor, host.concrete), PredefinedType="FLOOR")
        if t.top_offset_m < host.top_offset_m - NEAR:
            for s, slab in slabs:
                model.hole(storey, slab, t.id, model.prism(t.outline, t.top_offset_m, s.top_offset_m + 0.05))
    for b in floor.beams:
        item = model.prism(_corners(beam_outline(b)), b.top_offset_m - b.depth_m, b.top_offset_m)
        model.product("IfcBeam", storey, b.id, [item], material=_material(floor, b.concrete))
    for c in floor.columns:
        if c.below is not None:
            foot = _foot(c.below, written, next_below)
            model.product("IfcColumn", storey, c.id, [model.post(c, foot, -deep)], material=_material(floor, c.concrete))
    for w in floor.walls:
        if w.below is not None:
            foot = _foot(w.below, written, next_below)
            items = [model.prism(o, foot, -deep) for o in stretch_outlines(w.line, w.thickness_m)]
            model.product("IfcWall", storey, w.id, items, material=_material(floor, w.concrete))
    if written.results is not None:
        _steel(model, storey, floor, written.results)


def _foot(storey: Any, written: Written, next_below: float | None) -> float:
    """Where a member below ends, as a level of its floor: on the next level where it follows the storey's height."""
    if storey.by_level and next_below is not None:
        return next_below - written.elevation
    return -float(storey.height_m)


def _corners(shape: Any) -> list[list[float]]:
    return np.array(shape.exterior.coords)[:-1].tolist()


def _level_of(floor: Floor, at: Any, face: str, diameter: float) -> float:
    """The level of an outermost bar below its cover, in the slab at a place."""
    place = shapely.Point(at)
    slab = min(floor.slabs, key=lambda s: polygon(s.outline).distance(place))
    if face == "top":
        return slab.top_offset_m - slab.cover_top_mm / 1e3 - diameter / 2
    return slab.top_offset_m - slab.thickness_m + slab.cover_bottom_mm / 1e3 + diameter / 2


def _steel(model: _Model, storey: Any, floor: Floor, results: dict[str, Any]) -> None:
    for b in results["bars"]:
        if b["shape"] == "link" or b["length_m"] <= 0:
            continue
        turn = np.radians(b["angle_deg"])
        along, across = np.array([np.cos(turn), np.sin(turn)]), np.array([-np.sin(turn), np.cos(turn)])
        outline = np.array(b["outline"])
        middle = 0.5 * (outline @ along).min() + 0.5 * (outline @ along).max()
        aside = 0.5 * (outline @ across).min() + 0.5 * (outline @ across).max()
        z = _level_of(floor, middle * along + aside * across, b["face"], b["bar_mm"] / 1e3)
        ends = [(middle + s * b["length_m"] / 2) * along + aside * across for s in (-1, 1)]
        radius = b["bar_mm"] / 2000
        made = model.product(
            "IfcReinforcingBar", storey, b["mark"], [model.disk(np.array([[*p, z] for p in ends]), radius)], "AdvancedSweptSolid", "Reinforcement",
            NominalDiameter=b["bar_mm"] / 1e3, CrossSectionArea=np.pi * radius**2, BarLength=b["length_m"], PredefinedType="MAIN",
        )  # fmt: skip
        model.properties(
            made, {"Count": int(b["count"]), "Spacing_mm": float(b["spacing_mm"]), "Face": b["face"], "Direction": b["direction"],
                   "Mass_kg": float(b["mass_kg"])},
        )  # fmt: skip
    for t in results["tendons"]:
        points = np.column_stack([np.array(t["at"]), np.array(t["z_mm"]) / 1e3])
        points = points[[True, *(np.hypot(*(q - p)[:2]) > 1e-6 for p, q in pairwise(points))]]
        model.product(
            "IfcTendon", storey, t["id"], [model.disk(points, np.sqrt(t["area_mm2"] / np.pi) / 1e3)], "AdvancedSweptSolid", "Prestressing steel",
            CrossSectionArea=t["area_mm2"] / 1e6, TensionForce=1e3 * max(t["jacking_kN"]), PredefinedType="STRAND",
        )  # fmt: skip
