"""The floor: everything that the computation of one floor needs (docs/floor-file.md)."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Annotated, Any, ClassVar, Literal, Protocol, get_args, get_origin

from pydantic import Field, model_validator

from piastra.core.geometry.arcs import length_of
from piastra.core.model.fire import Fire
from piastra.core.model.history import Construction, History, refused_history
from piastra.core.model.loading import BuildUp, Combination, Load, LoadCase, LoadMaterial, Occupancy, Partition
from piastra.core.model.materials import Concrete, Rebar
from piastra.core.model.members import Beam, Column, OneWayArea, Opening, Slab, StiffnessArea, Thickening, Wall
from piastra.core.model.refusal import Refusal, RefusedError
from piastra.core.model.shapes import Label, Line, NotNegative, Number, Outline, Path, Point, Positive, Record
from piastra.core.model.standard_names import KNOWN, StandardName
from piastra.core.model.supports import Support
from piastra.core.model.tendons import Prestress, Strand, Tendon
from piastra.core.model.zone_settings import ZoneSetting

FORMAT = "piastra-floor"
VERSION = 1

Quantity = Literal[
    "w", "mx", "my", "mxy", "vx", "vy", "nx", "ny", "nxy", "mn", "mt", "vn",
    "m1", "m2", "v", "wa_bottom_x", "wa_bottom_y", "wa_top_x", "wa_top_y", "bearing",
]  # fmt: skip
"""What can be read of a result. Across a slice: ``mn`` the moment that stresses bars crossing it, ``mt`` the twist,
``vn`` the shear. ``m1`` and ``m2`` are the principal moments, ``v`` the resultant shear, ``wa_`` the moments of Wood
and Armer by face and direction of the bars."""


Exposure = Literal[
    "X0", "XC1", "XC2", "XC3", "XC4", "XD1", "XD2", "XD3", "XS1", "XS2", "XS3", "XF1", "XF2", "XF3", "XF4", "XA1", "XA2", "XA3",
]  # fmt: skip


class Mat(Record):
    """Uniform bars in one face and direction over a region; mats that overlap add up."""

    id: Label
    face: Literal["top", "bottom"]
    direction: Literal["x", "y"]
    bar_mm: Annotated[Number, Field(gt=0, le=60)]
    spacing_mm: Annotated[Number, Field(gt=0, le=1000)]
    layer: Literal["outer", "inner"] | None = None
    """Null: bars along x lie in the outer layer, bars along y in the inner one."""
    outline: Outline | None = None
    """Null: over the whole floor."""


class BarGroup(Record):
    """Bars of one size side by side, beyond the mats: straight ones within an outline, all in one direction."""

    id: Label
    """The mark."""
    face: Literal["top", "bottom"]
    direction: Literal["x", "y"]
    """Whose layer they lie in."""
    bar_mm: Annotated[Number, Field(gt=0, le=60)]
    spacing_mm: Annotated[Number, Field(gt=0, le=1000)]
    outline: Outline
    angle_deg: Number | None = None
    """Direction of the bars, anticlockwise from the plan's x axis; null: that of the slab's bars called x or y."""
    origin: Literal["designed", "drawn"] = "drawn"
    locked: Annotated[bool, Field(strict=True)] = False
    """A locked group is kept when the others are designed anew; drawn groups are always kept."""


BarSize = Annotated[Number, Field(gt=0, le=60)]
Spacing = Annotated[Number, Field(ge=25, le=1000)]


class StripAxis(Record):
    """An axis of strips, drawn by hand: it takes the place of derived ones that lie along it. Where it bends, at a support, the strips of
    one stretch end and those of the next begin."""

    id: Label
    line: Path


class StripBoundary(Record):
    """A line at which strips end sideways, instead of half way to the next axis."""

    id: Label
    line: Line


class StripStation(Record):
    """A place at which the strips of both directions that it lies in get one more station."""

    id: Label
    at: Point


class FloorLevel(Record):
    """The level that a floor lies on, with the heights of the storeys below and above it; none above the topmost."""

    id: Label
    below_m: Positive
    above_m: Positive | None = None


class Panel(Record):
    """A region that pattern load covers or leaves bare."""

    id: Label
    outline: Outline


class GridLine(Record):
    """A labelled setting-out line. It is drawn; nothing is computed from it."""

    computes: ClassVar[bool] = False
    id: Label
    line: Line


class Probe(Record):
    """A point whose values follow every run."""

    computes: ClassVar[bool] = False
    id: Label
    at: Point


class Note(Record):
    """A remark at a place of the plan. It is shown; nothing is computed from it."""

    computes: ClassVar[bool] = False
    id: Label
    at: Point
    text: Annotated[str, Field(max_length=500)] = ""


class Slice(Record):
    """A line across the floor along which results are drawn and read; averaged over ``width_m`` where that is given."""

    computes: ClassVar[bool] = False
    id: Label
    line: Line
    quantity: Quantity = "mn"
    width_m: NotNegative = 0.0


class Refinement(Record):
    """A place around which the mesh is finer: elements of ``size_m`` within ``radius_m``, growing from there."""

    at: Point
    size_m: Annotated[Number, Field(ge=0.001, le=5)]
    radius_m: Positive


class MeshOptions(Record):
    """Greatest size of elements; null: a twelfth of the typical span."""

    size_m: Annotated[Number, Field(ge=0.05, le=5)] | None = None
    refinements: list[Refinement] = []


class DeflectionOptions(Record):
    """Limit of the sag from the line between supports: span / span_over."""

    span_over: Positive = 250.0


class CarbonFactors(Record):
    """Greenhouse gases of materials, as CO2 equivalent from cradle to gate. Assumptions of the project, to be replaced by those of its
    suppliers: ready-mixed concrete of common strength, bars from electric furnaces with some new steel."""

    concrete_kg_m3: NotNegative = 300.0
    steel_kg_per_kg: NotNegative = 1.0


class CostFactors(Record):
    """Prices of what a change adds, placed and finished. Assumptions of the project, to be replaced by those of its region."""

    currency: Annotated[str, Field(min_length=1, max_length=8)] = "EUR"
    concrete_per_m3: NotNegative = 150.0
    steel_per_kg: NotNegative = 2.0
    formwork_per_m2: NotNegative = 50.0


END_OF_LINE = 0.01
"""A profile ends so near (m) to the end of its line."""


class Floor(Record):
    """One floor. Plan in m, x to the right, y up, z up."""

    format: Literal["piastra-floor"]
    version: Literal[1]
    name: Label = "Floor"
    standard: StandardName = "EN 1992-1-1"
    parameters: dict[Label, Number] = {}
    """National values that replace the standard's recommended ones, by key (docs/formulas.md lists them)."""
    concretes: Annotated[list[Concrete], Field(min_length=1)]
    rebars: Annotated[list[Rebar], Field(min_length=1)]
    slabs: list[Slab]
    """A floor that is still empty has none; it can be kept, and is refused when it is to be computed."""
    openings: list[Opening] = []
    thickenings: list[Thickening] = []
    beams: list[Beam] = []
    one_way_areas: list[OneWayArea] = []
    stiffness_areas: list[StiffnessArea] = []
    columns: list[Column] = []
    walls: list[Wall] = []
    supports: list[Support] = []
    strands: list[Strand] = []
    tendons: list[Tendon] = []
    prestress: Prestress = Prestress()
    """How losses of tendons are found."""
    load_materials: list[LoadMaterial] = []
    build_ups: list[BuildUp] = []
    partitions: list[Partition] = []
    occupancies: list[Occupancy] = []
    load_cases: list[LoadCase] = []
    loads: list[Load] = []
    combinations: list[Combination] = []
    panels: list[Panel] = []
    arrangements: Literal["exact", "standard"] = "exact"
    """Which arrangements of pattern load count: all that are possible, or those that the standard names."""
    panels_together: Literal["auto", "never", "always"] = "auto"
    """Whether the pattern load on panels nine bays apart or more acts together: with more than 60 panels, never, or always."""
    probes: list[Probe] = []
    slices: list[Slice] = []
    notes: list[Note] = []
    mats: list[Mat] = []
    designed_bars: list[BarGroup] = []
    """Groups of bars beside the mats: drawn by hand, or designed and kept."""
    design_bars: Annotated[bool, Field(strict=True)] = False
    """Whether a run designs the bars that mats and kept groups leave over."""
    zone_settings: list[ZoneSetting] = []
    """What is fixed for punching zones, one entry a column, wall, support or load."""
    design_rails: Annotated[bool, Field(strict=True)] = True
    """Whether a run designs shear reinforcement where punching needs it."""
    design_links: Annotated[bool, Field(strict=True)] = False
    """Whether a run designs links where the concrete of a slab does not carry one-way shear."""
    strip_axes: list[StripAxis] = []
    strip_boundaries: list[StripBoundary] = []
    strip_stations: list[StripStation] = []
    bar_sizes_mm: Annotated[list[BarSize], Field(min_length=1)] = [8, 10, 12, 16, 20, 25]
    """Diameters that design may choose from."""
    spacings_mm: Annotated[list[Spacing], Field(min_length=1)] = [100, 125, 150, 175, 200, 250]
    """Spacings that design may choose from."""
    extra_in_spans_pct: Annotated[Number, Field(ge=0, le=100)] = 100.0
    """Where design proposes mats: at so many of a hundred stations away from supports they may leave steel to extra bars; 100: wherever that makes the
    mass of both least; fewer: heavier mats, fewer groups."""
    stock_length_m: Annotated[Number, Field(ge=2, le=40)] = 12.0
    """Longest bar that is delivered."""
    grid: list[GridLine] = []
    level: FloorLevel | None = None
    """Where the floor lies in its building; from its project."""
    exposure: Exposure | None = None
    """Exposure class of EN 1992-1-1, table 4.1, by which crack widths are limited; null: XC1."""
    crack_width_limit_mm: Annotated[Number, Field(gt=0, le=5)] | None = None
    """Greatest crack width; null: from the exposure."""
    carbon: CarbonFactors = CarbonFactors()
    costs: CostFactors = CostFactors()
    mesh: MeshOptions = MeshOptions()
    deflection: DeflectionOptions = DeflectionOptions()
    construction: Construction | None = None
    """How old the concrete is while the floor is built; null: combinations under construction are not checked."""
    fire: Fire | None = None
    """The fire that the floor has to bear; null: it is not checked for any."""
    history: History | None = None
    """How the floor is built and used; null: deflection is an estimate by interpolated curvatures."""

    @model_validator(mode="after")
    def _refers_and_labels(self) -> Floor:
        found = [*_repeated(self), *_dangling(self)]
        if found:
            raise RefusedError(found)
        return self


def concretes_used(floor: Floor) -> set[str]:
    """Ids of the concretes that something of a floor is made of."""
    of_members = {m.concrete for m in floor.columns} | {m.concrete for m in floor.walls}
    return of_members | {s.concrete for s in floor.slabs} | {b.concrete for b in floor.beams}


class _Labelled(Protocol):
    @property
    def id(self) -> str: ...


def _item(annotation: object) -> type[Record] | None:
    """The model of a list's items, the first of several; None for what is no list of labelled objects."""
    if get_origin(annotation) is not list:
        return None
    item = get_args(annotation)[0]
    while not isinstance(item, type):
        item = get_args(item)[0]
    return item if issubclass(item, Record) and "id" in item.model_fields else None


_ITEMS = {name: item for name, field in Floor.model_fields.items() if (item := _item(field.annotation))}

LISTS = tuple(_ITEMS)
"""Lists of the floor file that hold labelled objects."""

READ_ONLY = frozenset({"name", *(name for name, item in _ITEMS.items() if not getattr(item, "computes", True))})
"""Keys of the floor file that no computation reads: they are drawn and read, and never make a floor stale."""

PLACED = tuple(name for name, item in _ITEMS.items() if {"at", "line", "outline"} & set(item.model_fields))
"""Of these, the lists whose objects stand somewhere on the plan."""


def _repeated(floor: Floor) -> Iterable[Refusal]:
    for name in LISTS:
        seen: dict[str, int] = {}
        items: Sequence[_Labelled] = getattr(floor, name)
        for i, item in enumerate(items):
            if item.id in seen:
                yield Refusal(f"{name}[{i}].id", f"repeats the id '{item.id}' of {name}[{seen[item.id]}]; give it its own id")
            seen.setdefault(item.id, i)
    # A reaction or a zone is reported by the id alone, so what holds the floor up shares one set of ids.
    holding = [(n, i, item.id) for n in ("columns", "walls", "supports") for i, item in enumerate(getattr(floor, n))]
    first: dict[str, str] = {}
    for name, i, label in holding:
        if label in first and not first[label].startswith(f"{name}["):
            yield Refusal(f"{name}[{i}].id", f"repeats the id '{label}' of {first[label]}; columns, walls and supports share ids")
        first.setdefault(label, f"{name}[{i}]")


def _unknown(path: str, kind: str, label: str, known: Iterable[str]) -> Refusal:
    listed = ", ".join(sorted(known)) or "none"
    return Refusal(path, f"names {kind} '{label}', which does not exist; use one of: {listed}")


def _dangling(floor: Floor) -> Iterable[Refusal]:
    concretes = {c.id for c in floor.concretes}
    rebars = {r.id for r in floor.rebars}
    cases = {c.id for c in floor.load_cases}
    for key in floor.parameters:
        if key not in KNOWN[floor.standard]:
            yield Refusal(f"parameters.{key}", f"is no value that {floor.standard} leaves open; remove it")
    users: list[tuple[str, Sequence[Any]]] = [
        ("slabs", floor.slabs), ("beams", floor.beams), ("columns", floor.columns), ("walls", floor.walls),
    ]  # fmt: skip
    for name, items in users:
        for i, item in enumerate(items):
            if item.concrete not in concretes:
                yield _unknown(f"{name}[{i}].concrete", "concrete", item.concrete, concretes)
    for i, slab in enumerate(floor.slabs):
        if slab.rebar not in rebars:
            yield _unknown(f"slabs[{i}].rebar", "steel", slab.rebar, rebars)
    strands = {s.id for s in floor.strands}
    for i, tendon in enumerate(floor.tendons):
        if tendon.strand not in strands:
            yield _unknown(f"tendons[{i}].strand", "strand", tendon.strand, strands)
        length = length_of(tendon.line)
        if abs(tendon.profile[-1].s_m - length) > END_OF_LINE:
            yield Refusal(
                f"tendons[{i}].profile",
                f"ends at {tendon.profile[-1].s_m:g} m, but the line of tendon {tendon.id} is {length:.3f} m long; put the last point at its end",
            )
    yield from _dangling_loads(floor, cases)
    for i, combination in enumerate(floor.combinations):
        for label in combination.factors:
            if label not in cases:
                yield _unknown(f"combinations[{i}].factors.{label}", "load case", label, cases)
    zones = {z.id for z in (*floor.columns, *floor.walls, *floor.supports, *floor.loads)}
    seen: set[str] = set()
    for i, setting in enumerate(floor.zone_settings):
        if setting.zone not in zones:
            yield _unknown(f"zone_settings[{i}].zone", "column, wall, support or load", setting.zone, zones)
        if setting.zone in seen:
            yield Refusal(f"zone_settings[{i}].zone", f"repeats the zone '{setting.zone}'; keep one of them")
        seen.add(setting.zone)
    if floor.history is not None:
        yield from refused_history(floor.history, [c.id for c in floor.combinations])
    yield from layers_of_nothing(floor.build_ups, floor.partitions, {m.id for m in floor.load_materials})
    natures = [c.id for c in floor.load_cases if c.nature == "self_weight"]
    if len(natures) > 1:
        yield Refusal("load_cases", f"has self-weight {len(natures)} times ({', '.join(natures)}); keep one of them")


def _dangling_loads(floor: Floor, cases: set[str]) -> Iterable[Refusal]:
    slabs = {s.id for s in floor.slabs}
    made = {c.id for c in floor.load_cases if c.effect is not None}
    joints = {c.id for c in floor.columns} | {w.id for w in floor.walls}
    known = {name: {i.id for i in getattr(floor, f"{name[:-1]}ies" if name.endswith("y") else f"{name}s")}
             for name in ("build_up", "partition", "occupancy")}  # fmt: skip
    for i, load in enumerate(floor.loads):
        if load.case not in cases:
            yield _unknown(f"loads[{i}].case", "load case", load.case, cases)
        if load.case in made:
            yield Refusal(
                f"loads[{i}].case",
                f"is '{load.case}', whose loads are those of the tendons; put load {load.id} into another case",
            )
        for name, labels in known.items():
            label = getattr(load, name, None)
            if label is not None and label not in labels:
                yield _unknown(f"loads[{i}].{name}", name.replace("_", "-"), label, labels)
        for label in getattr(load, "slabs", None) or []:
            if label not in slabs:
                yield _unknown(f"loads[{i}].slabs", "slab", label, slabs)
        if load.kind == "joint" and load.support not in joints:
            yield _unknown(f"loads[{i}].support", "column or wall", load.support, joints)


def layers_of_nothing(build_ups: Sequence[BuildUp], partitions: Sequence[Partition], materials: set[str]) -> Iterable[Refusal]:
    """Layers and partitions that name what does not exist."""
    for i, build_up in enumerate(build_ups):
        for j, layer in enumerate(build_up.layers):
            if layer.material not in materials:
                yield _unknown(f"build_ups[{i}].layers[{j}].material", "material of layers", layer.material, materials)
    known = {b.id for b in build_ups}
    for i, partition in enumerate(partitions):
        if partition.build_up not in known:
            yield _unknown(f"partitions[{i}].build_up", "build-up", partition.build_up, known)
