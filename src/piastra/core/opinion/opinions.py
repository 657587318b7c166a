"""Forces and moments of columns by tributary areas and equivalent frames, beside the finite elements'."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry.base import BaseGeometry

from piastra.core.fe.restraints import turning
from piastra.core.geometry.tributary import tributary
from piastra.core.loads.vectors import LoadVectors
from piastra.core.loads.within import Clipped, clip, load_within
from piastra.core.mesh.locate import Elements
from piastra.core.model import Floor
from piastra.core.model.footprint import footprint, section_values
from piastra.core.model.members import Column
from piastra.core.opinion.frame import Frame, equivalent_column, torsion_constant
from piastra.core.strips.cuts import Cuts
from piastra.core.strips.layout import Layout

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

LEAST_JOINTS = 3
"""A frame of fewer supports is none to compare with."""
UNLIKE = 2.0
"""Neighbouring spans that differ by more than this factor make a frame that is not regular enough."""


@dataclass(frozen=True, slots=True)
class Opinion:
    """For one column: the ``force`` (r,) kN by its tributary area, and by the ``direction`` of each frame that it belongs to (rad) the
    ``moments`` (r,) kNm that the slab gives it about the axis across."""

    column: str
    force: Array
    frames: tuple[tuple[float, Array], ...]


@dataclass(frozen=True, slots=True)
class Line:
    """A line of columns that is regular enough for a frame: the ``frame``, its columns' ``labels`` at ``at`` (n,) m along the unit vector ``way``,
    the numbers of the ``areas`` whose load its spans carry, and how long (m) these are; those of the cantilevers off its ends."""

    angle: float
    way: Array
    labels: tuple[str, ...]
    at: Array
    frame: Frame
    areas: tuple[int, ...]
    lengths: Array
    ends: tuple[int, int]


@dataclass(frozen=True, slots=True)
class Places:
    """What of opinions does not depend on loads: the ``columns``, the ``areas`` cut out of the mesh, of which the first are the columns'
    tributary ones, and the ``lines``."""

    columns: tuple[str, ...]
    areas: tuple[Clipped, ...]
    lines: tuple[Line, ...]


def places(
    floor: Floor, elements: Elements, slab_of: Ints, region: BaseGeometry, layout: Layout, cuts: Cuts, moduli: Mapping[str, float],
    torsional: bool,
) -> Places:  # fmt: skip
    """Of every column that carries the floor; frames where a line of columns is regular enough. ``slab_of`` (e,) of each element;
    ``moduli`` kN/m2 by concrete; ``torsional``: with torsional members beside the columns (ACI), or without (EN)."""
    columns = [c for c in floor.columns if c.below is not None]
    areas = _tributary(floor, region, columns)
    known = {c.id: c for c in columns}
    # The modulus at each cut: of the slab in which its first sample lies.
    E = np.array([moduli[s.concrete] for s in floor.slabs])
    first = np.searchsorted(cuts.samples.cut, np.arange(len(cuts.strip)))
    of_cut = E[slab_of[cuts.samples.element[first]]] if len(cuts.strip) else np.zeros(0)
    lines = []
    for number in range(len(layout.axes)):
        line = _line(layout, cuts, of_cut, moduli, torsional, number, known, areas)
        if line is not None:
            lines.append(line)
    return Places(tuple(c.id for c in columns), tuple(clip(elements, a) for a in areas), tuple(lines))


def opinions(floor: Floor, loads: LoadVectors, where: Places) -> tuple[Opinion, ...]:
    """By unit loads."""
    found = load_within(floor, loads, where.areas)
    frames: dict[str, list[tuple[float, Array]]] = {c: [] for c in where.columns}
    for line in where.lines:
        w = np.array([found[a, 0] for a in line.areas]) / line.lengths[:, None]
        first, last = (found[e] for e in line.ends)
        arms = [
            first[0] * line.at[0] - (first[1] * line.way[0] + first[2] * line.way[1]),
            last[1] * line.way[0] + last[2] * line.way[1] - last[0] * line.at[-1],
        ]
        for label, moments in zip(line.labels, line.frame.moments(w, np.array(arms)), strict=True):
            frames[label].append((line.angle, moments))
    return tuple(Opinion(c, found[k, 0], tuple(frames[c])) for k, c in enumerate(where.columns))


def _tributary(floor: Floor, region: BaseGeometry, columns: Sequence[Column]) -> list[BaseGeometry]:
    """What is nearer to each column than to any other support; without others all of it."""
    lines = {w.id: w.line for w in floor.walls if w.below is not None}
    lines |= {f"line {s.id}": s.line for s in floor.supports if s.kind == "line" and s.vertical not in ("free", 0.0)}
    points = {c.id: (c.at[0], c.at[1]) for c in columns}
    others = {
        f"point {s.id}": (s.at[0], s.at[1]) for s in floor.supports if s.kind == "point" and s.vertical not in ("free", 0.0)
    }
    found = tributary(region, {**points, **others}, lines)
    return [found[c.id] for c in columns]


def _line(
    layout: Layout, cuts: Cuts, of_cut: Array, moduli: Mapping[str, float], torsional: bool, number: int, known: Mapping[str, Column],
    into: list[BaseGeometry],
) -> Line | None:  # fmt: skip
    """The frame on one axis, its areas put ``into`` the list; None where its supports are no single columns or its spans too unlike."""
    axis = layout.axes[number]
    bearings = axis.bearings
    if len(bearings) < LEAST_JOINTS or not all(len(b.labels) == 1 and b.labels[0] in known for b in bearings):
        return None
    at = np.array([b.middle for b in bearings])
    lengths = np.diff(at)
    if (np.maximum(lengths[1:], lengths[:-1]) / np.minimum(lengths[1:], lengths[:-1]) > UNLIKE).any():
        return None
    strips = [k for k, s in enumerate(layout.strips) if s.axis == number and not s.beam]
    EI, areas, widths = [], [], []
    for b, o in zip(bearings, bearings[1:], strict=False):
        mine = [
            k
            for k in strips
            if not layout.strips[k].cantilever
            and b.middle - 0.1 < (layout.strips[k].start + layout.strips[k].end) / 2 < o.middle + 0.1
        ]
        if not mine:
            return None
        middle = (b.middle + o.middle) / 2
        stiff_span, modulus, left, right, h = 0.0, 0.0, 0.0, 0.0, 0.0
        for k in mine:
            own = np.flatnonzero(cuts.strip == k)
            if not len(own):
                continue
            c = own[np.abs(cuts.s[own] - middle).argmin()]
            stiff_span += float(of_cut[c] * cuts.width[c] * cuts.h[c] ** 3 / 12)
            modulus = max(modulus, float(of_cut[c]))
            aside = cuts.ends[c] @ (-np.sin(axis.angle), np.cos(axis.angle)) - axis.offset
            left, right, h = max(left, float(aside.max())), max(right, -float(aside.min())), max(h, float(cuts.h[c]))
        EI.append(stiff_span)
        areas.append(shapely.union_all([layout.strips[k].outline for k in mine]))
        widths.append((left, right, h, modulus))
    ends = [shapely.union_all([layout.strips[k].outline for k in strips if layout.strips[k].cantilever and side * (layout.strips[k].start - at.mean()) > 0])
            for side in (-1.0, 1.0)]  # fmt: skip
    way = np.array([np.cos(axis.angle), np.sin(axis.angle)])
    extents = np.array([np.ptp(shapely.get_coordinates(a) @ way) for a in areas])
    stiff = []
    for k, b in enumerate(bearings):
        column = known[b.labels[0]]
        values = section_values(column)
        turn = axis.angle - np.radians(column.angle_deg)
        # Bending along the axis turns the column about the axis across: its stiffness for bending along its own x is i_x.
        inertia = values.i_y * np.sin(turn) ** 2 + values.i_x * np.cos(turn) ** 2
        stiffness = sum(turning(s, moduli[column.concrete] * inertia) for s in (column.below, column.above))
        if torsional:
            near = widths[max(k - 1, 0)], widths[min(k, len(widths) - 1)]
            xy = shapely.get_coordinates(footprint(column))
            c1, c2 = float(np.ptp(xy @ way)), float(np.ptp(xy @ (-way[1], way[0])))
            across = [float(2 * np.mean([n[j] for n in near])) for j in (0, 1)]
            # Beyond an edge there is no member.
            sides = tuple(s for s in across if s > 2 * c2)
            stiffness = equivalent_column(
                stiffness, max(n[3] for n in near), torsion_constant(max(n[2] for n in near), c1), c2, sides
            )
        stiff.append(stiffness)
    first = len(into)
    into += [*areas, *ends]
    return Line(
        axis.angle, way, tuple(b.labels[0] for b in bearings), at, Frame(lengths, np.array(EI), np.array(stiff)),
        tuple(range(first, first + len(areas))), extents, (first + len(areas), first + len(areas) + 1),
    )  # fmt: skip
