"""Sag between supports, measured from the straight line that joins them."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt
import scipy.sparse as sp
import shapely
from scipy.spatial import Delaunay, QhullError
from shapely.geometry import LineString, MultiPoint, Polygon
from shapely.geometry.base import BaseGeometry

from piastra.core.combine.envelope import Factors, companion, envelope, governing_panels
from piastra.core.geometry.axes import Held
from piastra.core.loads.vectors import Unit
from piastra.core.mesh.locate import Elements, find, onto, weights
from piastra.core.strips.layout import held_by
from piastra.core.trace import Loaded

Array = npt.NDArray[np.float64]

FRACTIONS = np.linspace(0.0, 1.0, 21)
ALONG = 0.5
"""The chord of a support's curve is no span where its middle is so near (m) to the support, or a twentieth of its length."""
LEAST_OVERHANG = 0.6
"""An edge that stands out so far (m) from the supports is checked as a cantilever."""
ON_FLOOR = 0.9
"""What lies between supports with less of its area on the floor than this share is a courtyard, or a bay that the edge cuts."""
AROUND = 0.5
"""An opening that leaves less than this share of what lies between three supports is an atrium: its edge is one of the floor's. What passes a smaller
one does not stand out."""
APART = 1.0
"""No two places along an edge are looked at that lie nearer than this, m."""
CORNER = np.radians(20.0)
"""An edge that turns by more than this has a corner."""


@dataclass(frozen=True, slots=True)
class Line:
    """A line between two supports, or from the supports' outline to an overhanging edge (``cantilever``).

    ``ends`` (2, 2) m; ``span`` m, of a cantilever twice its length. ``number`` counts lines of the same supports.
    """

    labels: tuple[str, ...]
    ends: Array
    span: float
    cantilever: bool
    number: int = 1

    @property
    def id(self) -> str:
        """The line's identity in its floor."""
        name = "~".join(self.labels) + ("~edge" if self.cantilever else "")
        return name if self.number == 1 else f"{name}~{self.number}"

    @property
    def label(self) -> str:
        """How the line is called."""
        if not self.cantilever:
            return "–".join(self.labels)
        return f"cantilever off {self.labels[0]}" + (f" ({self.number})" if self.number > 1 else "")


@dataclass(frozen=True, slots=True)
class Sag:
    """The greatest sag of one line: ``sag`` and ``limit`` m, where, and under which combination and panels."""

    line: Line
    sag: float
    limit: float
    at: tuple[float, float]
    w_at: float
    w_ends: tuple[float, float]
    fraction: float
    combination: str
    panels: tuple[Loaded, ...]

    @property
    def utilisation(self) -> float:
        return max(self.sag, 0.0) / self.limit


def _spots(held: Sequence[Held]) -> tuple[list[str], Array, dict[int, BaseGeometry]]:
    """Points at which supports hold: columns' middles, points along lines; and the footprints of those that are columns, by their numbers."""
    labels: list[str] = []
    faces: dict[int, BaseGeometry] = {}
    xy: list[tuple[float, ...]] = []
    for h in held:
        if h.is_line:
            count = max(2, int(np.ceil(h.shape.length / 2.0)) + 1)
            at = [h.shape.interpolate(t, normalized=True).coords[0] for t in np.linspace(0, 1, count)]
        else:
            at = [h.shape.centroid.coords[0]]
        for p in at:
            if all(np.hypot(p[0] - q[0], p[1] - q[1]) > 0.15 for q in xy):
                if not h.is_line:
                    faces[len(xy)] = h.shape
                labels.append(h.label)
                xy.append(p)
    return labels, np.array(xy).reshape(-1, 2), faces


def lines(held: Sequence[Held], region: BaseGeometry) -> list[Line]:
    """Lines between neighbouring supports, across and along bays, and cantilevers.

    Neighbours are the sides of a Delaunay triangulation of the supports of one part of the floor, and the other diagonal of each of
    its quadrilaterals. A line that leaves the floor, spans an atrium or passes over a third support is no span.
    """
    parts = [p for p in shapely.get_parts(region) if isinstance(p, Polygon)]
    return _numbered([line for part in parts for line in _lines_of(held_by(held, Polygon(part.exterior)), part)])


def _lines_of(held: Sequence[Held], part: Polygon) -> list[Line]:
    labels, xy, faces = _spots(held)
    solid = Polygon(part.exterior)
    between: list[BaseGeometry] = []
    pairs: set[tuple[int, int]] = set()
    if len(xy) >= 3 and np.linalg.matrix_rank(xy - xy.mean(axis=0), tol=1e-6) == 2:
        try:
            mesh = Delaunay(xy)
        except QhullError:  # pragma: no cover - ruled out by the rank
            mesh = None
        if mesh is not None:
            # From the columns' faces on.
            corners_of = [shapely.get_coordinates(faces.get(k, shapely.Point(p))) for k, p in enumerate(xy)]
            bays = shapely.convex_hull([MultiPoint(np.concatenate([corners_of[k] for k in t])) for t in mesh.simplices])
            area = shapely.area(bays)
            atria = [
                o for o in part.interiors if (shapely.area(shapely.intersection(bays, Polygon(o))) > (1 - AROUND) * area).any()
            ]
            solid = Polygon(part.exterior, atria)
            between = list(bays[shapely.area(shapely.intersection(bays, solid)) > ON_FLOOR * area])
            for t, corners in enumerate(mesh.simplices):
                for k in range(3):
                    i, j = int(corners[(k + 1) % 3]), int(corners[(k + 2) % 3])
                    pairs.add((min(i, j), max(i, j)))
                    other = mesh.neighbors[t, k]
                    if other >= 0:
                        far = next(int(c) for c in mesh.simplices[other] if c not in (i, j))
                        side, cross = LineString(xy[[i, j]]), LineString(xy[[int(corners[k]), far]])
                        if side.crosses(cross):
                            a, b = sorted((int(corners[k]), far))
                            pairs.add((a, b))
    elif len(xy) == 2:
        pairs.add((0, 1))
    found = []
    shapes = {name: shapely.unary_union([h.shape for h in held if h.label == name]) for name in set(labels)}
    tree = shapely.STRtree(shapely.points(xy)) if len(xy) else None
    on_floor = solid.buffer(0.01)
    for i, j in sorted(pairs):
        line = LineString(xy[[i, j]])
        if (
            (labels[i] == labels[j] and _runs_along(line, shapes[labels[i]]))
            or line.length < 1.0
            or line.intersection(on_floor).length < 0.98 * line.length
        ):
            continue
        assert tree is not None
        near = set(map(int, tree.query(line, predicate="dwithin", distance=0.25))) - {i, j}
        if any(0.3 < line.project(shapely.Point(xy[n])) < line.length - 0.3 for n in near):
            continue
        found.append(Line((labels[i], labels[j]), xy[[i, j]], float(line.length), False))
    return found + _overhangs(held, solid, between)


def _runs_along(line: LineString, support: BaseGeometry) -> bool:
    """Whether a line between two points of one support lies on it, and does not cross the floor between its legs."""
    return bool(line.interpolate(0.5, normalized=True).distance(support) < max(ALONG, 0.05 * line.length))


def _numbered(found: list[Line]) -> list[Line]:
    seen: Counter[str] = Counter()
    out = []
    for line in found:
        seen[line.id] += 1
        out.append(replace(line, number=seen[line.id]))
    return out


def _overhangs(held: Sequence[Held], solid: Polygon, between: Sequence[BaseGeometry]) -> list[Line]:
    """Out to the edges, where they stand out most, at their corners, straight off supports, and half way between these places: it may sag most in any.
    What lies ``between`` supports on the floor does not stand out; of supports in a row that is their hull."""
    if not held:
        return []
    found = []
    labels, shapes = [h.label for h in held], np.array([h.shape for h in held], dtype=object)
    row = MultiPoint(np.concatenate([shapely.get_coordinates(shape) for shape in shapes])).convex_hull
    inner = shapely.union_all([*between, *shapes]) if between else row
    for tip in (tip for ring in (solid.exterior, *solid.interiors) for tip in _along_edge(ring, inner, shapes)):
        foot = shapely.shortest_line(tip, inner).coords[-1]
        nearest = labels[int(shapely.distance(shapes, shapely.Point(foot)).argmin())]
        found.append(Line((nearest,), np.array([foot, tip.coords[0]]), 2 * float(tip.distance(inner)), True))
    return found


def _along_edge(edge: shapely.LinearRing, inner: BaseGeometry, supports: npt.NDArray[np.object_]) -> list[shapely.Point]:
    """Places on an edge at which its overhang from what lies between the supports, ``inner``, is looked at."""
    if inner.covers(edge):
        return []
    xy = shapely.get_coordinates(edge)[:-1]
    before, after = xy - np.roll(xy, 1, axis=0), np.roll(xy, -1, axis=0) - xy
    turn = np.abs(np.angle(np.exp(1j * (np.arctan2(*after.T[::-1]) - np.arctan2(*before.T[::-1])))))
    first = int((turn > CORNER).argmax())
    xy, turn = np.roll(xy, -first, axis=0), np.roll(turn, -first)
    ring = shapely.LinearRing(xy)
    begins = np.concatenate([[0.0], np.cumsum(np.hypot(*(np.roll(xy, -1, axis=0) - xy).T))])
    at = np.flatnonzero(turn > CORNER) if turn[0] > CORNER else np.array([0])
    closed = np.vstack([xy, xy[:1]])
    sides = [(begins[a], LineString(closed[a : b + 1])) for a, b in zip(at, [*at[1:], len(xy)], strict=True)]
    corners = begins[at] if turn[0] > CORNER else np.zeros(0)
    off = np.concatenate([start + shapely.line_locate_point(side, shapely.centroid(supports)) for start, side in sides])
    feet = shapely.get_point(shapely.shortest_line(shapely.line_interpolate_point(ring, off), inner), -1)
    # A support is straight behind its own places alone.
    off = off[shapely.distance(feet, np.tile(supports, len(sides))) < ALONG]
    places = np.unique(np.concatenate([corners, off]))
    between = (places + np.append(places[1:], places[:1] + ring.length)) / 2 % ring.length
    sampled = np.arange(0.0, ring.length, 0.5)
    out = shapely.distance(shapely.line_interpolate_point(ring, sampled), inner)
    over = out > LEAST_OVERHANG
    runs = np.split(np.arange(len(sampled)), np.flatnonzero(np.diff(over.astype(int))) + 1)
    most = [sampled[run[out[run].argmax()]] for run in runs if over[run[0]]]
    kept: list[float] = []
    for s in (*corners, *np.setdiff1d(off, corners), *between, *most):
        apart = [abs(s - k) for k in kept]
        if ring.interpolate(s).distance(inner) > LEAST_OVERHANG and all(min(d, ring.length - d) > APART for d in apart):
            kept.append(float(s))
    return [ring.interpolate(s) for s in sorted(kept)]


@dataclass(frozen=True, slots=True)
class Samples:
    """Places of every line, ``xy`` (l * 21, 2) m, in ``on`` (l, 21) the floor, and the ``operator`` from values of the nodes to the lines' sags."""

    lines: Sequence[Line]
    xy: Array
    on: npt.NDArray[np.bool_]
    element: npt.NDArray[np.int64]
    operator: sp.csr_matrix

    def relative(self, w: Array) -> tuple[Array, Array]:
        """Values (l, 21, r) at the places, and beyond the straight line between the ends (of a cantilever: beyond its foot)."""
        at = np.asarray(self.operator @ w).reshape(len(self.lines), len(FRACTIONS), -1)
        cantilever = np.array([l.cantilever for l in self.lines])[:, None, None]
        chord = at[:, :1] * (1 - FRACTIONS[:, None]) + at[:, -1:] * FRACTIONS[:, None]
        return at, at - np.where(cantilever, at[:, :1], chord)


def sampled(checked: Sequence[Line], elements: Elements, nodes: int) -> Samples:
    """The places of lines, of a mesh with so many ``nodes``."""
    ends = np.array([l.ends for l in checked]).reshape(-1, 2, 2)
    xy = (ends[:, None, 0] * (1 - FRACTIONS[:, None]) + ends[:, None, 1] * FRACTIONS[:, None]).reshape(-1, 2)
    element = find(elements, xy, within=0.05)
    there = np.maximum(element, 0)
    of = np.maximum(elements.nodes[element], 0)
    # Beside a chord of an arc a place may lie a little off its element, which tells nothing of what is beyond it.
    share = np.where((element >= 0)[:, None], weights(elements, there, onto(elements, there, xy)), 0.0)
    rows = np.repeat(np.arange(len(xy)), 4)
    operator = sp.csr_matrix((share.ravel(), (rows, of.ravel())), shape=(len(xy), nodes))
    return Samples(checked, xy, (element >= 0).reshape(len(checked), len(FRACTIONS)), element, operator)


def sags(checked: Sequence[Line], elements: Elements, w: Array, combinations: list[Factors], units: tuple[Unit, ...],
         span_over: float) -> list[Sag]:  # fmt: skip
    """The greatest sag of every line over combinations and arrangements; ``w`` (n, r) m of the unit loads, and of what is always there where the
    combinations have one unit more."""
    if not checked or not combinations:
        return []
    places = sampled(checked, elements, len(w))
    at, relative = places.relative(w)
    best: list[Sag] = []
    for i, line in enumerate(checked):
        worst: Sag | None = None
        for factors in combinations:
            greatest = np.where(places.on[i], envelope(relative[i], factors)[1], -np.inf)
            k = int(greatest.argmax())
            if worst is not None and greatest[k] <= worst.sag:
                continue
            both = [float(companion(relative[i, k], at[i, e], factors, greatest=True)) for e in (k, 0, -1)]
            place = places.xy[i * len(FRACTIONS) + k]
            worst = Sag(
                line, float(greatest[k]), line.span / span_over, (float(place[0]), float(place[1])), both[0],
                (both[1], both[2]), float(FRACTIONS[k]), factors.combination,
                governing_panels(relative[i, k], factors, units, greatest=True),
            )  # fmt: skip
        if worst is not None and np.isfinite(worst.sag):
            best.append(worst)
    return best
