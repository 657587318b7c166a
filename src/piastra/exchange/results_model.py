"""The results document as a schema: what its keys mean and in which units, for the interface and for others."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, ConfigDict

from piastra.core.model.quantities import Quantity, with_quantities

Pair = tuple[float, float]


class Told(BaseModel):
    """Base of everything in the results document."""

    model_config = ConfigDict(extra="forbid", use_attribute_docstrings=True, json_schema_extra=with_quantities)


class LoadedPanel(Told):
    """A panel that a pattern case loads; null: all of the case."""

    case: str
    panel: str | None


class TraceValue(Told):
    """A number of a step, in the ``unit`` of its ``quantity``."""

    symbol: str
    value: float
    quantity: Quantity
    unit: str
    meaning: str


class TraceStep(Told):
    """A step of a trace. ``formula`` is over the symbols of ``values`` and gives ``result``; an ``empirical`` one holds in the
    units in which its values are told."""

    title: str
    clause: str
    formula: str
    values: list[TraceValue]
    result: TraceValue | None
    note: str
    said: str
    empirical: bool


class TraceState(Told):
    """Why a utilisation is what it is."""

    combination: str
    factors: dict[str, float]
    panels: list[LoadedPanel]
    steps: list[TraceStep]


class RefState(Told):
    """Something of the floor: a list of the floor file, ``strips``, ``lines`` or ``floor``, and the id in it."""

    kind: str
    id: str


class RowIdState(Told):
    """The identity of a row; ``key`` is it as one text."""

    key: str
    check: str
    of: RefState
    part: str
    face: str
    station: float | None


class CheckRow(Told):
    """A row of a check. ``where`` is how it is called."""

    id: RowIdState
    check: str
    utilisation: float | None
    where: str
    combination: str
    status: Literal["pass", "fail", "unchecked", "uncovered"]
    at: Pair | None
    reason: str
    said: str
    """The reason with its amounts marked, for readers in other units."""
    trace: TraceState | None


class UncoveredState(Told):
    """What no check reached: a region of the floor, or an object by its ``id``, or a place ``at`` it; ``row`` is its key."""

    check: str
    id: str | None
    kind: str
    row: str
    at: Pair | None
    direction: Literal["x", "y"] | None
    outline: list[Pair] | None
    area_m2: float
    reason: str
    said: str
    """The reason with its amounts marked, for readers in other units."""


class FrameState(Told):
    """The moment about the axis across a frame at ``angle_deg``: by the equivalent frame, and by the finite elements."""

    angle_deg: float
    frame_kNm: float
    M_kNm: float


class OpinionState(Told):
    """A column's force by its tributary area and its moments by equivalent frames, beside the finite elements', all live load present;
    no frames where its lines of supports are not regular enough."""

    column: str
    combination: str
    tributary_kN: float
    F_kN: float
    frames: list[FrameState]


class ZoneUseState(Told):
    """One comparison of a zone."""

    part: str
    utilisation: float


class RailState(Told):
    """Shear reinforcement of a zone: as in its setting, with how many rails are ``laid``, their ``lines`` from the first to the last
    stud, and the ``outer`` perimeter."""

    kind: Literal["stud", "link"]
    bar_mm: float
    yield_MPa: float
    rails: int
    per_rail: int
    first_mm: float
    spacing_mm: float
    pattern: Literal["cruciform", "radial"]
    designed: bool
    laid: int
    left_out: int
    lines: list[tuple[Pair, Pair]]
    outer: list[tuple[Pair, Pair]]


class RemedyState(Told):
    """What would mend a zone, by an estimate that keeps the floor's forces: what it adds, what it makes ``worse``, and the ``edit``: objects
    by list of the floor file, each taking the place of the one with its id (of zone settings: its zone), or joining."""

    kind: str
    text: str
    utilisation: float
    concrete_m3: float
    steel_kg: float
    formwork_m2: float
    carbon_kg: float
    cost: float
    worse: str
    said: str
    worse_said: str
    edit: dict[str, list[dict[str, Any]]]


class ZoneState(Told):
    """A perimeter of a punching zone; ``row`` is the key of its row, ``of`` and ``id`` what presses, ``together`` what else stands on the
    same thickening. ``stress_kPa`` at the middles of the ``segments``; ``dead``: what openings take of the perimeter."""

    id: str
    of: Literal["columns", "walls", "supports", "loads"]
    together: list[str]
    pushes_up: bool
    kind: Literal["column", "wall_end", "wall_corner", "patch", "point"]
    row: str
    column: str
    place: Literal["interior", "edge", "corner"]
    around: Literal["column", "thickening"]
    at: Pair
    combination: str
    V_Ed_kN: float
    M_x_kNm: float
    M_y_kNm: float
    beta: float | None
    u_m: float
    d_mm: float
    h_mm: float
    v_Ed_kPa: float
    v_Rd_c_kPa: float
    v_Ed_0_kPa: float | None
    v_Rd_max_kPa: float | None
    rho_l: float
    utilisation: float
    panels: list[LoadedPanel]
    segments: list[tuple[Pair, Pair]]
    dead: list[tuple[Pair, Pair]]
    stress_kPa: list[float]
    loaded: list[Pair]
    uses: list[ZoneUseState]
    rails: RailState | None
    A_sw_mm2: float | None
    v_Rd_cs_kPa: float | None
    u_out_m: float | None
    u_laid_m: float | None
    v_Ed_out_kPa: float | None
    remedies: list[RemedyState]


class SagCause(Told):
    """What one standard deviation of a property does to a sag."""

    property: str
    sag_mm: float


class SagState(Told):
    """The sag of a line between supports, or of an overhang; ``row`` is the key of its row. ``by`` a history, against one of its ``limit`` s, with the
    band in which eight of ten floors of the kind lie and the ``chance`` that the limit is passed; or by the quick estimate, which has none."""

    row: str
    where: str
    limit: str
    by: Literal["estimate", "history"]
    band_mm: Pair | None
    chance: float | None
    ends: tuple[Pair, Pair]
    span_m: float
    sag_mm: float
    limit_mm: float
    at: Pair
    combination: str
    utilisation: float
    parts_mm: list[float]
    """The sag shared out as the curvature at its place is made of load, shrinkage, creep and cracking."""
    causes: list[SagCause]
    """What scatters it, the most first."""


class HistoryStageState(Told):
    """The floor at the end of a stage: its greatest deflection and where, the share of its area that has cracked in any direction, the greatest
    stress of bars in cracks and width of cracks at the bars (null: the standard has no formula), and how equilibrium was found: rounds, and the greatest share of the load out of balance."""

    id: str
    start_days: float
    end_days: float
    combination: str
    greatest_w_mm: float
    at: Pair
    cracked_share: float
    steel_MPa: float
    crack_mm: float | None
    rounds: int
    unbalanced: float
    converged: bool


class HistoryCurve(Told):
    """Deflection against time at a place: two values for the day on which a load comes, before and after it."""

    id: str
    at: Pair
    days: list[float]
    w_mm: list[float]
    stage: list[str]
    reach_mm: list[float]
    """How far the band, in which eight of ten floors of the kind lie, reaches to both sides."""


class HistorySag(Told):
    """The sag of a line that comes between the stages of a limit."""

    where: str
    limit: str
    sag_mm: float
    limit_mm: float
    utilisation: float
    band_mm: Pair


class HistoryState(Told):
    """The life of the floor: at the end of its stages, at its probes and at the ``governing`` place, and its sags."""

    stages: list[HistoryStageState]
    probes: list[HistoryCurve]
    governing: HistoryCurve | None
    sags: list[HistorySag]


class FaceSteel(Told):
    """Steel of one face at every station, along the strip; ``band_mm2_m`` is given in the band over a column; ``provisions``: what each asks for, nil where it does not apply.
    ``utilisation`` of the steel; that of the bars' spacing and of cracks beside it."""

    required_mm2_m: list[float]
    provided_mm2_m: list[float]
    band_mm2_m: list[float]
    utilisation: list[float]
    spacing_utilisation: list[float]
    crack_utilisation: list[float] | None
    provisions: dict[str, list[float]]
    d_mm: list[float]


class SlabLinksState(Told):
    """Links of a slab: one leg at every ``along`` by ``across``, from the face to ``reach``."""

    bar_mm: float
    along_mm: float
    across_mm: float
    reach_m: float
    required_mm2_m2: float
    provided_mm2_m2: float


class ShearState(Told):
    """One-way shear of the slab beside what carries it on a line."""

    row: str
    where: str
    at: Pair
    v_Ed_kN_m: float
    v_Rd_c_kN_m: float
    utilisation: float
    combination: str
    links: SlabLinksState | None
    """Where the floor designs links and the concrete alone does not carry the shear."""


class WhyState(Told):
    """A station that asked for bars: its strip, m along the axis, the combination and the provision."""

    strip: str
    station: float
    combination: str
    provision: str


class ShortfallState(WhyState):
    """Where a kept group leaves over most of what is required: what mats and kept groups give there, what all bars give, and the marks of
    those that are designed beside it."""

    required_mm2_m: float
    kept_mm2_m: float
    provided_mm2_m: float
    filling: list[str]


class BarState(Told):
    """Bars of one mark: ``length_m`` of the longest, mass with laps. ``angle_deg`` anticlockwise from the plan's x axis;
    ``shape``: straight, or bent at one end or both. ``row``: the verdict's row that explains bars of beams and links of slabs, whose
    ``why`` is empty. ``shortfall``: of groups that an engineer drew or locked; null where none of their stations would fall short with
    nothing but them and the mats."""

    mark: str
    face: Literal["top", "bottom"]
    direction: Literal["x", "y"]
    layer: str
    bar_mm: float
    spacing_mm: float
    count: int
    length_m: float
    shape: Literal["straight", "hook", "hooks", "link"]
    mass_kg: float
    laps_kg: float
    angle_deg: float
    outline: list[Pair]
    origin: Literal["mat", "designed", "drawn"]
    locked: bool
    why: list[WhyState]
    row: str | None
    shortfall: ShortfallState | None = None


class SteelTotals(Told):
    """Mass of all bars, of their laps alone, by the square metre of floor and by diameter (mm)."""

    mass_kg: float
    kg_m2: float
    laps_kg: float
    by_bar_kg: dict[str, float]


class TakeoffState(Told):
    """What the floor is made of: concrete of slabs, thickenings and beams; bars, strands; carbon of them by the floor's factors."""

    concrete_m3: float
    bars_kg: float
    strands_kg: float
    carbon_kg: float


class BeamState(Told):
    """A span of a beam: forces and steel at its stations over the width with its flanges; the bars that are chosen, as written on
    drawings. Torsion of beams that only follow the floor is left out. ``pieces``: other beams in this span that go on in line with it,
    of the same section, with no bearing between, and that are designed with it as one. ``asked``: what a face's bars have to give, with what
    is shifted along the beam, what torsion asks for, and what ends and fire ask for, at the depth at which they lie."""

    id: str
    pieces: list[str] = []
    span: int
    strip: str
    row: str
    s_m: list[float]
    at: list[Pair]
    M_kNm: tuple[list[float], list[float]]
    V_Ed_kN: list[float]
    T_Ed_kNm: list[float]
    flange_m: list[float]
    bottom_mm2: list[float]
    top_mm2: list[float]
    bottom_given_mm2: list[float]
    top_given_mm2: list[float]
    links_mm2_m: list[float]
    links_given_mm2_m: float | None = None
    bottom_asked_mm2: list[float] = []
    top_asked_mm2: list[float] = []
    utilisation: list[float]
    bottom: str
    top: str
    links: str


class StripState(Told):
    """A strip with its stations; ``M_kNm`` the least and the greatest ultimate moments. ``outline``: the concrete that it
    serves, and no other strip of its direction."""

    id: str
    label: str
    direction: Literal["x", "y"]
    kind: Literal["column", "middle", "whole", "beam"]
    cantilever: bool
    angle_deg: float
    span_m: float
    on_wall: bool
    area_m2: float
    outline: list[list[Pair]]
    axis: list[Pair]
    ends: list[tuple[Pair, Pair]]
    s_m: list[float]
    width_m: list[float]
    M_kNm: tuple[list[float], list[float]]
    bottom: FaceSteel | None = None
    top: FaceSteel | None = None


class MeshState(Told):
    """Size and quality of the mesh."""

    nodes: int
    elements: int
    dof: int
    quads: int
    triangles: int
    least_angle_deg: float
    least_angle_at: Pair
    greatest_aspect: float
    target_size_m: float


class Balance(Told):
    """Load against reaction of one case."""

    case: str
    applied_kN: float
    reaction_kN: float
    residual: float
    given_kN: float
    lost_kN: float


class ProbeValues(Told):
    """Values at a probe by case and combination, with all live load; null beside the floor."""

    id: str
    values: dict[str, dict[str, float | None]]


class ProbeEnvelope(Told):
    """Least and greatest values at a probe over arrangements."""

    combination: str
    probe: str
    w_mm: tuple[float | None, float | None]
    mx_kNm_m: tuple[float | None, float | None]
    my_kNm_m: tuple[float | None, float | None]
    mxy_kNm_m: tuple[float | None, float | None]
    vx_kN_m: tuple[float | None, float | None]
    vy_kN_m: tuple[float | None, float | None]
    nx_kN_m: tuple[float | None, float | None]
    ny_kN_m: tuple[float | None, float | None]


class TendonState(Told):
    """A tendon along its length: level and force when it is jacked, locked, at transfer and in the end. ``felt_m``: how far from
    either end locking is felt; ``EA_kN`` of all its strands; ``bursting_kN`` behind its
    anchors with the steel for it."""

    id: str
    length_m: float
    extension_mm: float
    extension_locked_mm: float
    area_mm2: float
    EA_kN: float
    felt_m: Pair
    s_m: list[float]
    z_mm: list[float]
    at: list[Pair]
    jacking_kN: list[float]
    locked_kN: list[float]
    transfer_kN: list[float]
    final_kN: list[float]
    least_kN: float
    mean_kN: float
    shortening_loss_MPa: float
    time_loss_MPa: float
    jack_MPa: float
    jack_limit_MPa: float | None
    bursting_kN: float
    bursting_mm2: float
    mass_kg: float


class StripStress(Told):
    """Least and greatest stress of the concrete at the stations of a strip under one combination, tension positive: of the strip itself,
    and of the whole design strip."""

    strip: str
    label: str
    combination: str
    s_m: list[float]
    top_MPa: tuple[list[float], list[float]]
    bottom_MPa: tuple[list[float], list[float]]
    design_strip_top_MPa: tuple[list[float], list[float]]
    design_strip_bottom_MPa: tuple[list[float], list[float]]


class StripPrecompression(Told):
    """Mean precompression of a strip, and of the whole design strip: force over area, and what the analysis finds in the concrete; ``balanced_share`` of its lasting load."""

    strip: str
    label: str
    P_over_A_MPa: float
    analysis_MPa: float
    balanced_share: float | None
    design_strip_P_over_A_MPa: float
    design_strip_analysis_MPa: float


class TributaryState(Told):
    """What of the floor is nearer to a column, wall or support (by the list of the floor file that it is in) than to any other, or to a beam than to
    any other beam, wall or line of support: its outlines and area, and by case the load that lies there."""

    kind: Literal["columns", "walls", "supports", "beams"]
    id: str
    outlines: list[list[Pair]]
    area_m2: float
    loads_kN: dict[str, float]


class FrameSection(Told):
    """The gross section of one of the frames that cross at a column, across the plan; ``governs``: no other one there is greater. Of floors with tendons to
    standards that ask for bonded bars by it."""

    column: str
    direction: Literal["x", "y"]
    ends: tuple[Pair, Pair]
    area_m2: float
    governs: bool


class SlicePeak(Told):
    """An extreme value along a slice."""

    value: float | None
    at_m: float
    panels: list[LoadedPanel]


class SliceValues(Told):
    """Extreme values of a slice under a combination."""

    slice: str
    quantity: str
    unit: str
    combination: str
    least: SlicePeak
    greatest: SlicePeak
    area: float
    total: float | None
    """Of the free body on one side, for moments and shears of slices without width; null for others."""
    length_m: float


class SupportState(Told):
    """A support's middle."""

    id: str
    at: Pair


class SupportForce(Told):
    """A reaction; F is positive where the support pushes up."""

    F_kN: float
    Mx_kNm: float
    My_kNm: float


class SupportReactions(Told):
    """Reactions of a support by case and combination, with all live load."""

    support: str
    values: dict[str, SupportForce]


class PanelState(Told):
    """A panel of pattern load."""

    id: str
    outline: list[Pair]


class NamedArrangement(Told):
    """An arrangement of the live load that has a name."""

    name: str
    panels: list[str]
    required: bool


class LoadSumState(Told):
    """What a load amounts to."""

    load: str
    case: str
    given_kN: float
    on_floor_kN: float
    lost_kN: float
    area_m2: float
    length_m: float


class MessageState(Told):
    """What the computation has to tell."""

    severity: Literal["note", "warning"]
    where: str
    sentence: str
    said: str
    """The sentence with its amounts marked, for readers in other units."""
    at: Pair | None


class MendedRow(Told):
    """What would mend one row."""

    row: str
    remedies: list[RemedyState]


class ResultsDocument(Told):
    """Everything that one run of a floor tells."""

    format: Literal["piastra-results"]
    version: Literal[1]
    engine: str
    name: str
    mesh: MeshState
    seconds: dict[str, float]
    stages_run: dict[str, int]
    equilibrium: list[Balance]
    probes: list[ProbeValues]
    envelopes: list[ProbeEnvelope]
    slices: list[SliceValues]
    supports: list[SupportState]
    reactions: list[SupportReactions]
    tributary: list[TributaryState]
    verdict: list[CheckRow]
    rows: list[CheckRow]
    uncovered: list[UncoveredState]
    zones: list[ZoneState]
    second_opinion: list[OpinionState]
    sags: list[SagState]
    mends: list[MendedRow]
    """What would mend rows of flexure and deflection that fail, the worst of them; that of zones stands with them."""
    history: HistoryState | None
    """Of a floor that has one."""
    shear: list[ShearState]
    strips: list[StripState]
    beams: list[BeamState]
    bars: list[BarState]
    steel: SteelTotals
    takeoff: TakeoffState
    tendons: list[TendonState]
    stresses: list[StripStress]
    precompression: list[StripPrecompression]
    frames: list[FrameSection]
    panels: list[PanelState]
    arrangements: list[NamedArrangement]
    loads: list[LoadSumState]
    area_m2: float
    messages: list[MessageState]


def conforms(document: Any) -> ResultsDocument:
    """The document, validated. Raises :class:`pydantic.ValidationError`."""
    return ResultsDocument.model_validate(document)
