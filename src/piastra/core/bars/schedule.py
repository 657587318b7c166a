"""Bars counted, cut to length and weighed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import LineString, Polygon
from shapely.geometry.base import BaseGeometry

from piastra.core.geometry.arcs import polygon
from piastra.core.model import Floor
from piastra.core.reinforcement.groups import AT_EDGE, Group
from piastra.core.standards import Standard

Array = npt.NDArray[np.float64]

DENSITY = 7850.0
"""Of steel, kg/m3."""
SHORTEST = 0.2
"""A shorter piece of a bar (m) is none."""


@dataclass(frozen=True, slots=True)
class Scheduled:
    """Bars of one mark: ``count`` and the ``length`` m of the longest, ``total`` m of all of them without laps; how many bars are
    lapped and the length that laps add (m); ``shape`` straight, or bent at one or both ends; masses in kg. ``row``: key of the row of the verdict that
    explains bars which are no groups of a slab."""

    group: Group
    layer: str
    count: int
    length: float
    total: float
    laps: float
    shape: str
    row: str = ""

    @property
    def kg_m(self) -> float:
        """Mass of a metre of bar."""
        return float(np.pi * self.group.bar**2 / 4 * DENSITY)

    @property
    def mass(self) -> float:
        """With laps."""
        return self.kg_m * (self.total + self.laps)

    @property
    def laps_kg(self) -> float:
        """Of laps alone."""
        return self.kg_m * self.laps


def pieces_of(g: Group, region: BaseGeometry) -> list[LineString]:
    """The group's bars on plan as far as there is concrete, spread evenly from side to side."""
    way = np.array([np.cos(g.angle), np.sin(g.angle)])
    aside = np.array([-way[1], way[0]])
    xy = shapely.get_coordinates(g.outline.exterior)
    low, high = float((xy @ aside).min()), float((xy @ aside).max())
    number = max(round((high - low) / g.spacing), 1)
    offsets = low + (np.arange(number) + 0.5) * (high - low) / number
    ends = float((xy @ way).min()) - 1.0, float((xy @ way).max()) + 1.0
    lines = shapely.linestrings(offsets[:, None, None] * aside + np.array(ends)[None, :, None] * way)
    parts = shapely.get_parts(shapely.intersection(lines, g.outline.intersection(region)))
    long = (shapely.get_type_id(parts) == shapely.GeometryType.LINESTRING) & (shapely.length(parts) > SHORTEST)
    return list(parts[long])


def mats_as_groups(floor: Floor, region: BaseGeometry) -> list[Group]:
    """The floor's mats as groups: each over its outline, in the direction of the first slab's bars that it lies in."""
    out = []
    for m in floor.mats:
        where = region if m.outline is None else polygon(m.outline).intersection(region)
        for s in floor.slabs:
            turn = 90.0 if m.direction == "y" else 0.0
            shared = where.intersection(polygon(s.outline)) if len({x.bar_angle_deg for x in floor.slabs}) > 1 else where
            parts = [p for p in shapely.get_parts(shared) if isinstance(p, Polygon) and p.area > 1e-6]
            out += [
                Group(m.id, int(m.face == "top"), m.direction, float(np.radians(s.bar_angle_deg + turn)), m.bar_mm / 1e3, m.spacing_mm / 1e3, p,
                      0.0, "mat", True)
                for p in parts
            ]  # fmt: skip
            if shared is where:
                break
    return out


def schedule(floor: Floor, standard: Standard, groups: Sequence[Group], region: BaseGeometry) -> list[Scheduled]:
    """Every group counted. Bars longer than the stock are lapped by the standard's length."""
    layers: dict[tuple[str, str], str] = {(m.face, m.direction): m.layer for m in floor.mats if m.layer}
    concretes, rebars = {c.id: c for c in floor.concretes}, {r.id: r for r in floor.rebars}
    slab = floor.slabs[0]
    out = []
    for g in groups:
        pieces = pieces_of(g, region)
        if not pieces:
            continue
        lengths = shapely.length(pieces)
        joints = np.ceil(lengths / floor.stock_length_m - 1e-9) - 1
        lap = 0.0
        if joints.any():
            lap = 40 * g.bar
            if standard.anchorage is not None:
                lap = standard.anchorage.lap(g.bar, slab.thickness_m, g.face == 1, concretes[slab.concrete], rebars[slab.rebar])
        face = ("bottom", "top")[g.face]
        layer = layers.get((face, g.direction)) or ("outer" if g.direction == "x" else "inner")
        out.append(
            Scheduled(
                g,
                layer,
                len(pieces),
                float(lengths.max()),
                float(lengths.sum()),
                float(joints.sum() * lap),
                _shape(pieces, g, region),
            )
        )
    return out


def _shape(pieces: Sequence[LineString], g: Group, region: BaseGeometry) -> str:
    """By the middle bar: an end at an edge of the concrete is bent."""
    xy = shapely.get_coordinates(pieces[len(pieces) // 2])
    way = np.array([np.cos(g.angle), np.sin(g.angle)])
    beyond = [xy[0] - AT_EDGE * way, xy[-1] + AT_EDGE * way]
    bent = sum(not shapely.contains_xy(region, *p) for p in beyond)
    return ("straight", "hook", "hooks")[bent]
