"""The load stage: unit load vectors, one a case, and one a panel for a pattern case."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import LineString, Polygon
from shapely.geometry.base import BaseGeometry

from piastra.core.geometry.arcs import polygon
from piastra.core.loads.integrate import along_line, element_weights, over_area
from piastra.core.mesh.locate import Elements, find, weights
from piastra.core.model import Floor
from piastra.core.model.loading import AreaLoad, LineLoad, Load
from piastra.core.model.message import Message

Array = npt.NDArray[np.float64]

NEGLIGIBLE = 1e-4
"""A share of a pattern case that lies on no panel up to this is rounding of the panels' borders."""
TOLD_LOSS = 0.005
"""A share of a load off the floor beyond this is told; chords of curved edges stay below it."""


@dataclass(frozen=True, slots=True)
class Unit:
    """One load vector: a case, and the panel that it covers (None: all of the case)."""

    case: str
    panel: str | None


@dataclass(frozen=True, slots=True)
class LoadSum:
    """What a load amounts to (kN): as given, on the floor, and lost beside it."""

    load: str
    case: str
    given_kN: float
    on_floor_kN: float
    lost_kN: float


@dataclass(frozen=True, slots=True)
class Piece:
    """The part of a load that belongs to a unit: numbers of both, and its shape (None: the whole floor)."""

    load: int
    unit: int
    shape: BaseGeometry | None


@dataclass(frozen=True, slots=True)
class LoadVectors:
    """``vectors`` (n, 5, r) for the r ``units``; ``applied`` (r,) kN downwards; ``panels`` by label; the sums of
    each load; the ``pieces`` that the loads fall into; ``weight`` (e,) kN/m2 of the elements."""

    units: tuple[Unit, ...]
    vectors: Array
    applied: Array
    panels: tuple[tuple[str, Polygon], ...]
    sums: tuple[LoadSum, ...]
    pieces: tuple[Piece, ...]
    weight: Array
    messages: tuple[Message, ...]

    def of_case(self, case: str) -> list[int]:
        """Columns of a case."""
        return [k for k, u in enumerate(self.units) if u.case == case]


def load_vectors(
    floor: Floor, elements: Elements, weight: Array, panels: tuple[tuple[str, Polygon], ...], mesh_area: BaseGeometry
) -> LoadVectors:
    """All unit load vectors of a floor.

    ``weight`` (e,) kN/m2 is the elements' self-weight, ``mesh_area`` the meshed floor. A pattern case has one unit a panel, and one more for
    what lies on no panel. Loads need not fit the mesh; what falls off the floor is told.
    """
    n = len(elements.mesh.xy)
    whole = element_weights(elements)
    units: list[Unit] = []
    vectors: list[Array] = []
    sums: list[LoadSum] = []
    pieces: list[Piece] = []
    messages: list[Message] = []
    for case in floor.load_cases:
        mine = [i for i, l in enumerate(floor.loads) if l.case == case.id]
        total = np.zeros((n + 1, 5))
        if case.nature == "self_weight":
            np.add.at(total[:, 2], elements.nodes, whole * weight[:, None])
            own = float((whole * weight[:, None]).sum())
            sums.append(LoadSum("self-weight", case.id, own, own, 0.0))
        total = total[:-1]
        for i in mine:
            vector = _vector(floor.loads[i], elements, whole, None)
            total = total + vector
            sums.append(_sum(floor.loads[i], float(vector[:, 2].sum()), mesh_area, messages))
        if not case.pattern or not panels:
            pieces += [Piece(i, len(units), _shape(floor.loads[i])) for i in mine]
            units.append(Unit(case.id, None))
            vectors.append(total)
            continue
        cut = [_cut(floor.loads[i], panels) for i in mine]
        rest = total
        for k, (label, _) in enumerate(panels):
            part = np.zeros((n, 5))
            found = [(i, shapes[k]) for i, shapes in zip(mine, cut, strict=True) if not shapes[k].is_empty]
            for i, shape in found:
                part += _vector(floor.loads[i], elements, whole, shape)
            if np.abs(part).max() > 0:
                pieces += [Piece(i, len(units), shape) for i, shape in found]
                units.append(Unit(case.id, label))
                vectors.append(part)
                rest = rest - part
        left = np.abs(rest).sum()
        if 0 < left <= NEGLIGIBLE * np.abs(total).sum() and len(vectors) and units[-1].case == case.id:
            # Panels cut on the noder's grid miss a hair of the floor: it belongs to the last of them.
            vectors[-1] = vectors[-1] + rest
        elif left > NEGLIGIBLE * np.abs(total).sum():
            beside = shapely.unary_union([p for _, p in panels])
            for i in mine:
                shape = (_shape(floor.loads[i]) or mesh_area).difference(beside.buffer(1e-6))
                pieces.append(Piece(i, len(units), shape))
            units.append(Unit(case.id, "beside the panels"))
            vectors.append(rest)
    stacked = np.stack(vectors, axis=2) if vectors else np.zeros((n, 5, 0))
    return LoadVectors(
        tuple(units), stacked, stacked[:, 2].sum(axis=0), panels, tuple(sums), tuple(pieces), weight, tuple(messages)
    )


def _shape(load: Load) -> BaseGeometry | None:
    if isinstance(load, AreaLoad):
        return polygon(load.outline) if load.outline else None
    if isinstance(load, LineLoad):
        return LineString(load.line)
    return shapely.Point(load.at)


def _cut(load: Load, panels: tuple[tuple[str, Polygon], ...]) -> list[BaseGeometry]:
    """The load's part on each panel; what runs along a common border belongs to the first."""
    left = _shape(load)
    parts: list[BaseGeometry] = []
    for _, panel in panels:
        if left is None:
            parts.append(panel)
            continue
        part = left.intersection(panel)
        parts.append(part)
        if not isinstance(load, AreaLoad) and not part.is_empty:
            left = left.difference(part.buffer(1e-7))
    return parts


def _given(load: Load, mesh_area: BaseGeometry) -> float:
    if isinstance(load, AreaLoad):
        return load.q_kPa * (polygon(load.outline).area if load.outline else mesh_area.area)
    if isinstance(load, LineLoad):
        return LineString(load.line).length * (load.q_kN_m[0] + load.q_kN_m[1]) / 2
    return load.F_kN


def _sum(load: Load, on: float, mesh_area: BaseGeometry, messages: list[Message]) -> LoadSum:
    given = _given(load, mesh_area)
    lost = given - on
    size = abs(given)
    if isinstance(load, LineLoad):
        size = LineString(load.line).length * max(map(abs, load.q_kN_m))
    off = isinstance(load, LineLoad | AreaLoad) and abs(lost) > TOLD_LOSS * size
    if not isinstance(load, LineLoad | AreaLoad):
        off = shapely.Point(load.at).distance(mesh_area) > 1e-6
    if off:
        at = load.at if hasattr(load, "at") else _centre(load)
        share = f"{lost:.1f} of {given:.1f} kN" if given else "all of it"
        messages.append(
            Message("warning", load.id, f"lies partly or wholly beside the floor: {share} is lost; move or shorten it", (at[0], at[1]))
        )  # fmt: skip
    return LoadSum(load.id, load.case, given, on, lost)


def _centre(load: AreaLoad | LineLoad) -> tuple[float, float]:
    shape = LineString(load.line) if isinstance(load, LineLoad) else polygon(load.outline or [])
    return shape.centroid.x, shape.centroid.y


def _vector(load: Load, elements: Elements, whole: Array, part: BaseGeometry | None) -> Array:
    """Nodal vector (n, 5) of a load, or of the part of it with the given shape."""
    n = len(elements.mesh.xy)
    out = np.zeros((n + 1, 5))
    shape = _shape(load) if part is None else part
    if isinstance(load, AreaLoad):
        if shape is None:
            np.add.at(out[:, 2], elements.nodes, whole * load.q_kPa)
        elif shape.area > 0:
            out[:-1, 2] = load.q_kPa * over_area(elements, whole, shape)
    elif isinstance(load, LineLoad):
        line = LineString(load.line)
        for run in shapely.get_parts(shape):
            if isinstance(run, LineString) and run.length > 0:
                ends = [_value_at(load, line, shapely.Point(p)) for p in (run.coords[0], run.coords[-1])]
                out[:-1, 2] += along_line(elements, run, (ends[0], ends[1]))[0]
    else:
        at = np.array([load.at])
        element = find(elements, at)
        if element[0] >= 0:
            share = weights(elements, element, at)[0]
            force = np.array([0.0, 0.0, load.F_kN, -load.My_kNm, load.Mx_kNm])
            np.add.at(out, elements.nodes[element[0]], share[:, None] * force)
    return out[:-1]


def _value_at(load: LineLoad, line: LineString, point: shapely.Point) -> float:
    return load.q_kN_m[0] + (load.q_kN_m[1] - load.q_kN_m[0]) * line.project(point) / line.length


def load_within(floor: Floor, elements: Elements, loads: LoadVectors, areas: list[BaseGeometry]) -> Array:
    """Load (kN) of each unit inside each of ``areas``, (areas, units)."""
    out = np.zeros((len(areas), len(loads.units)))
    heavy = {c.id for c in floor.load_cases if c.nature == "self_weight"}
    heavy_units = [k for k, u in enumerate(loads.units) if u.case in heavy]
    for a, area in enumerate(areas):
        if area.is_empty:
            continue
        near = elements.tree.query(area, predicate="intersects")
        clipped = shapely.area(shapely.intersection(elements.shapes[near], area))
        out[a, heavy_units] += float((clipped * loads.weight[near]).sum())
        for piece in loads.pieces:
            load = floor.loads[piece.load]
            if piece.shape is None:
                assert isinstance(load, AreaLoad)
                out[a, piece.unit] += load.q_kPa * float(clipped.sum())
                continue
            common = piece.shape.intersection(area)
            if common.is_empty:
                continue
            if isinstance(load, AreaLoad):
                out[a, piece.unit] += load.q_kPa * common.area
            elif isinstance(load, LineLoad):
                line = LineString(load.line)
                out[a, piece.unit] += sum(
                    run.length * _value_at(load, line, run.interpolate(0.5, normalized=True))
                    for run in shapely.get_parts(common) if isinstance(run, LineString)
                )  # fmt: skip
            else:
                out[a, piece.unit] += load.F_kN
    return out
