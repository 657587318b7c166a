"""Building models as real ones come: floors of Piastra written in IFC4 with a turned site, in feet, with mapped and clipped shapes and slabs in layers."""

from __future__ import annotations

import math
from typing import Any

import ifcopenshell
import ifcopenshell.guid
import numpy as np

from piastra.core.geometry.arcs import chords, polygon
from piastra.core.model.project import storeys
from piastra.demo.ground import boat_store
from piastra.demo.library import library
from piastra.demo.saltmarsh import level_1, project, roof
from piastra.exchange.floor_file import document

FOOT = 0.3048


class Model:
    """An IFC4 model in a unit (m) of length, on a site that is turned (degrees) and lies far away."""

    def __init__(self, unit: float = FOOT, turned: float = 0.0, at: tuple[float, float, float] = (0.0, 0.0, 0.0)) -> None:
        self.f, self.unit = ifcopenshell.file(schema="IFC4"), unit
        self.world = self.placed((0, 0, 0))
        axes = self.f.createIfcAxis2Placement3D(self.point((0, 0, 0)))
        self.context = self.f.createIfcGeometricRepresentationContext(None, "Model", 3, 1e-5, axes, None)
        si = self.f.createIfcSIUnit(None, "LENGTHUNIT", None, "METRE")
        length = si
        if unit != 1.0:
            size = self.f.createIfcDimensionalExponents(1, 0, 0, 0, 0, 0, 0)
            measure = self.f.createIfcMeasureWithUnit(self.f.createIfcLengthMeasure(unit), si)
            length = self.f.createIfcConversionBasedUnit(size, "LENGTHUNIT", "FOOT", measure)
        units = self.f.createIfcUnitAssignment([length, self.f.createIfcSIUnit(None, "PLANEANGLEUNIT", None, "RADIAN")])
        project = self.f.createIfcProject(self.id(), None, "Station", None, None, None, None, [self.context], units)
        site = self.f.createIfcSite(self.id(), None, "Site", None, None, self.placed(at, None, turned))
        self.building = self.f.createIfcBuilding(
            self.id(), None, "Field station", None, None, self.placed((0, 0, 0), site.ObjectPlacement)
        )
        self.group(project, [site])
        self.group(site, [self.building])
        self.storeys: list[Any] = []
        self.contained: dict[Any, list[Any]] = {}

    def id(self) -> str:
        """A new global id."""
        return ifcopenshell.guid.new()

    def point(self, xyz: Any) -> Any:
        """A point given in metres, kept in the model's unit."""
        return self.f.createIfcCartesianPoint([float(v) / self.unit for v in xyz])

    def placed(self, xyz: Any, under: Any = None, turned: float = 0.0) -> Any:
        """A placement under another one."""
        a = math.radians(turned)
        x = self.f.createIfcDirection((math.cos(a), math.sin(a), 0.0))
        axes = self.f.createIfcAxis2Placement3D(self.point(xyz), self.f.createIfcDirection((0.0, 0.0, 1.0)), x)
        return self.f.createIfcLocalPlacement(under, axes)

    def group(self, whole: Any, parts: list[Any]) -> None:
        """Parts of a whole."""
        self.f.createIfcRelAggregates(self.id(), None, None, None, whole, parts)

    def storey(self, name: str, level: float) -> Any:
        """A storey at a level."""
        made = self.f.createIfcBuildingStorey(
            self.id(), None, name, None, None, self.placed((0, 0, level), self.building.ObjectPlacement), None, None, "ELEMENT", level / self.unit
        )  # fmt: skip
        self.storeys.append(made)
        return made

    def extruded(self, ring: Any, bottom: float, height: float) -> Any:
        """A prism over a ring of corners."""
        points = [self.f.createIfcCartesianPoint([float(v) / self.unit for v in p]) for p in [*ring, ring[0]]]
        profile = self.f.createIfcArbitraryClosedProfileDef("AREA", None, self.f.createIfcPolyline(points))
        axes = self.f.createIfcAxis2Placement3D(self.point((0, 0, bottom)))
        return self.f.createIfcExtrudedAreaSolid(profile, axes, self.f.createIfcDirection((0.0, 0.0, 1.0)), height / self.unit)

    def shape(self, *items: Any, kind: str = "SweptSolid") -> Any:
        """The body of a product."""
        return self.f.createIfcProductDefinitionShape(
            None, None, [self.f.createIfcShapeRepresentation(self.context, "Body", kind, list(items))]
        )

    def product(
        self, kind: str, name: str, storey: Any, shape: Any, at: Any = (0, 0, 0), turned: float = 0.0, **more: Any
    ) -> Any:
        """A product in a storey, placed in metres from the storey's own place."""
        placement = self.placed(at, storey.ObjectPlacement, turned)
        made = self.f.create_entity(
            kind,
            GlobalId=more.pop("guid", None) or self.id(),
            Name=name,
            Tag=name,
            ObjectPlacement=placement,
            Representation=shape,
            **more,
        )
        self.contained.setdefault(storey, []).append(made)
        return made

    def made_of(self, products: list[Any], material: str) -> None:
        """Products of a material."""
        self.f.createIfcRelAssociatesMaterial(self.id(), None, None, None, products, self.f.createIfcMaterial(material))

    def hole(self, slab: Any, ring: Any, bottom: float, height: float) -> None:
        """An opening in a slab."""
        void = self.f.createIfcOpeningElement(
            self.id(), None, "Opening", None, None, self.placed((0, 0, 0), slab.ObjectPlacement), self.shape(self.extruded(ring, bottom, height))
        )  # fmt: skip
        self.f.createIfcRelVoidsElement(self.id(), None, None, None, slab, void)

    def content(self) -> bytes:
        """The model as a file."""
        self.group(self.building, self.storeys)
        for storey, products in self.contained.items():
            self.f.createIfcRelContainedInSpatialStructure(self.id(), None, None, None, products, storey)
        return self.f.to_string().encode()


def of_floors(
    floors: list[tuple[str, float, float, dict[str, Any]]],
    moved: dict[tuple[str, str], tuple[float, float]] | None = None,
    **how: Any,
) -> bytes:
    """Floors by name, level (m), height of the storey below (m) and floor file. Columns are mapped from a type, walls clipped at the top, the first slab
    of each floor in layers; ``moved``: columns by floor and label that stand elsewhere."""
    model = Model(**how)
    for name, level, below, floor in floors:
        storey = model.storey(name, level)
        parts: dict[str, list[Any]] = {}
        for n, slab in enumerate(floor["slabs"]):
            ring, h, top = chords(slab["outline"]), slab["thickness_m"], slab.get("top_offset_m", 0.0)
            body = model.shape(model.extruded(ring, top - h, h))
            if n == 0:
                whole = model.product("IfcSlab", slab["id"], storey, None, PredefinedType="FLOOR")
                layers = [
                    model.f.createIfcBuildingElementPart(model.id(), None, what, None, None, model.placed((0, 0, 0), storey.ObjectPlacement), shape)
                    for what, shape in (("core", body), ("screed", model.shape(model.extruded(ring, top, 0.06))))
                ]  # fmt: skip
                model.group(whole, layers)
                model.made_of([layers[1]], "Screed")
                parts.setdefault(slab["concrete"], []).append(layers[0])
                whole = layers[0]
            else:
                whole = model.product("IfcSlab", slab["id"], storey, body, PredefinedType="FLOOR")
                parts.setdefault(slab["concrete"], []).append(whole)
            holes = [o for o in floor.get("openings", []) if polygon(o["outline"]).intersects(polygon(slab["outline"]))]
            for opening in holes:
                model.hole(whole, chords(opening["outline"]), top - h - 0.1, h + 0.2)
        for t in floor.get("thickenings", []):
            top = t.get("top_offset_m", 0.0) - floor["slabs"][0]["thickness_m"]
            deep = t["thickness_m"] - floor["slabs"][0]["thickness_m"]
            if deep > 0:
                body = model.shape(model.extruded(chords(t["outline"]), top - deep, deep))
                parts[floor["slabs"][0]["concrete"]].append(
                    model.product("IfcSlab", t["id"], storey, body, PredefinedType="FLOOR")
                )
        for c in floor.get("columns", []):
            if not c.get("below"):
                continue
            shape, size = c["shape"], below - floor["slabs"][0]["thickness_m"]
            if shape["kind"] == "circle":
                ring = [
                    (shape["diameter_m"] / 2 * math.cos(a), shape["diameter_m"] / 2 * math.sin(a))
                    for a in np.arange(24) * math.pi / 12
                ]
            else:
                b, d = shape["b_m"] / 2, shape["d_m"] / 2
                ring = [(-b, -d), (b, -d), (b, d), (-b, d)]
            origin = model.f.createIfcAxis2Placement3D(model.point((0, 0, 0)))
            kept = model.f.createIfcShapeRepresentation(model.context, "Body", "SweptSolid", [model.extruded(ring, 0.0, size)])
            source = model.f.createIfcRepresentationMap(origin, kept)
            operator = model.f.createIfcCartesianTransformationOperator3D(None, None, model.point((0, 0, 0)), 1.0, None)
            item = model.f.createIfcMappedItem(source, operator)
            x, y = (moved or {}).get((name, c["id"]), c["at"])
            made = model.product(
                "IfcColumn",
                c["id"],
                storey,
                model.shape(item, kind="MappedRepresentation"),
                (x, y, -below),
                c.get("angle_deg", 0.0),
            )
            parts.setdefault(c["concrete"], []).append(made)
        for w in floor.get("walls", []):
            if not w.get("below"):
                continue
            (ax, ay), (bx, by) = (p[:2] for p in w["line"])
            length, size = math.hypot(bx - ax, by - ay), below - floor["slabs"][0]["thickness_m"]
            t = w["thickness_m"] / 2
            raw = model.extruded([(0, -t), (length, -t), (length, t), (0, t)], 0.0, size + 0.5)
            plane = model.f.createIfcPlane(model.f.createIfcAxis2Placement3D(model.point((0, 0, size))))
            clipped = model.f.createIfcBooleanClippingResult("DIFFERENCE", raw, model.f.createIfcHalfSpaceSolid(plane, False))
            turned = math.degrees(math.atan2(by - ay, bx - ax))
            made = model.product("IfcWall", w["id"], storey, model.shape(clipped, kind="Clipping"), (ax, ay, -below), turned)
            parts.setdefault(w["concrete"], []).append(made)
        for concrete, products in parts.items():
            model.made_of(products, f"Concrete {concrete}")
    return model.content()


def station() -> list[tuple[str, float, float, dict[str, Any]]]:
    """The demo's four levels."""
    documents = {"Ground": boat_store(), "Level 1": level_1(), "Level 2": library(), "Roof": roof()}
    return [(s.id, s.elevation, s.below, document(documents[s.id])) for s in storeys(project())]
