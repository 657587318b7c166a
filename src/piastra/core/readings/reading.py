"""Values at places, along slices and of supports, with the arrangements behind them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.combine.arrangements import shares_of
from piastra.core.combine.envelope import Factors, envelope, governing_panels
from piastra.core.mesh.locate import find, weights
from piastra.core.readings.quantities import DIRECTED, QUANTITIES, Sense, acting, direction_of, extreme, functionals, plain
from piastra.core.readings.responses import ROWS, Responses
from piastra.core.trace import Loaded

Array = npt.NDArray[np.float64]

ON = 2e-3
"""Points so near (m) to the floor's edge lie on it."""
STEP = 0.1
"""Distance (m) of the points of a slice, at most; long slices have ``MOST`` points."""
MOST = 600
ACROSS = 9
"""Lines over which a slice of some width is averaged."""


class UnknownReadingError(LookupError):
    """A case, combination, arrangement, support or quantity that the run does not have."""


@dataclass(frozen=True, slots=True)
class Chosen:
    """What of the results is read: a case or combination ``of``, and its ``kind``: ``all`` live load, ``least``,
    ``greatest``, or the ``arrangement`` of that name (or of panels joined by commas)."""

    of: str
    kind: str = "all"
    arrangement: str | None = None


@dataclass(frozen=True, slots=True)
class Governed:
    """A value and the arrangement that gives it: the panels that are loaded."""

    value: float
    panels: tuple[Loaded, ...]


@dataclass(frozen=True, slots=True)
class Under:
    """The value under one named arrangement."""

    arrangement: str
    value: float
    required: bool


@dataclass(frozen=True, slots=True)
class Reading:
    """One quantity at one place under one combination: with ``all`` live load and with ``none``, least and greatest
    with their arrangements, and the value under each named arrangement."""

    quantity: str
    unit: str
    all: float
    none: float
    least: Governed | None
    greatest: Governed | None
    under: tuple[Under, ...]


@dataclass(frozen=True, slots=True)
class Diagram:
    """A quantity along a slice.

    ``s`` (k,) m along it; ``all`` (k,) with all live load, ``least`` and ``greatest`` (k,) over arrangements, nil
    where the floor has none and not a number beside the floor. ``low`` and ``high``: the extreme values with their
    places (m along the slice) and loaded panels. ``area``: integral over the slice; ``length`` m of it on the floor.
    """

    s: Array
    all: Array
    least: Array
    greatest: Array
    low: Governed
    low_at: float
    high: Governed
    high_at: float
    area: float
    length: float


def combination_of(responses: Responses, of: str) -> Factors:
    """Factors of a combination, or of a case by itself. Raises :class:`UnknownReadingError`."""
    for f in responses.combinations:
        if f.combination == of:
            return f
    if of not in responses.cases:
        raise UnknownReadingError(f"there is no case or combination {of} in this run")
    pick = np.array([float(u.case == of) for u in responses.units])
    pattern = np.array([u.panel is not None for u in responses.units])
    shares = responses.combinations[0].shares if responses.combinations else None
    return Factors(of, "case", np.where(pattern, 0.0, pick), np.where(pattern, pick, 0.0), shares)


def loaded(responses: Responses, name: str) -> Array:
    """Share (r,) of each unit's load in a named arrangement, or on panels joined by commas."""
    found = next((a for a in responses.arrangements if a.name == name), None)
    if found is not None:
        return shares_of([found], responses.units)[0]
    labels = {p.strip() for p in name.split(",") if p.strip()}
    strange = labels - {label for label, _ in responses.panels}
    if strange:
        raise UnknownReadingError(f"there is no arrangement and no panel {', '.join(sorted(strange))} in this run")
    return np.array([float(u.panel is None or not labels.isdisjoint(u.panels)) for u in responses.units])


def vector(responses: Responses, chosen: Chosen) -> Array:
    """Factors (r,) of what is chosen, where it is one arrangement. Raises :class:`UnknownReadingError`."""
    f = combination_of(responses, chosen.of)
    if chosen.kind == "arrangement":
        return f.always + f.pattern * loaded(responses, chosen.arrangement or "")
    return f.full


def known(key: str) -> None:
    """Raises :class:`UnknownReadingError` for a quantity that cannot be read."""
    if key not in QUANTITIES:
        raise UnknownReadingError(f"{key} cannot be read; choose one of {', '.join(QUANTITIES)}")


def field(responses: Responses, key: str, chosen: Chosen, by_element: bool = False) -> Array:
    """A quantity at every place (p,), or by element (e,) without averaging between elements.

    Raises :class:`UnknownReadingError`.
    """
    known(key)
    values, bars, bed = responses.at_places, responses.bars, responses.bed
    if by_element:
        corner = np.maximum(responses.elements.nodes, 0)
        if responses.at_centres is None:
            raise UnknownReadingError("this run's values by element are not kept; read the averaged ones")
        values, bars, bed = responses.at_centres, bars[corner[:, 0]], bed[corner].mean(axis=1)
    if chosen.kind in ("least", "greatest"):
        factors = combination_of(responses, chosen.of)
        if key in ("m1", "m2", "v"):
            return _swept(key, values, bars, bed, factors, chosen.kind)
        family = functionals(key, values, bars, bed)
        return extreme(key, family, [factors], chosen.kind)[:, 0]  # type: ignore[arg-type]
    lifted = responses.lifted.get(chosen.of)
    if chosen.kind == "all" and lifted is not None and not by_element:
        return plain(key, lifted[0], bars, bed)
    return plain(key, values @ vector(responses, chosen), bars, bed)


def directions(responses: Responses, key: str, chosen: Chosen) -> Array:
    """Direction (p,) rad of a quantity of ``DIRECTED`` at every place; with all live load where arrangements are chosen,
    because each place has its own. Raises :class:`UnknownReadingError`."""
    if key not in DIRECTED:
        raise UnknownReadingError(f"{key} has no direction of its own; those of {', '.join(DIRECTED)} can be read")
    return direction_of(key, responses.at_places @ vector(responses, chosen))


def _swept(key: str, values: Array, bars: Array, bed: Array, factors: Factors, kind: str) -> Array:
    """A principal value over a whole floor, some places at a time."""
    sense: Sense = "least" if kind == "least" else "greatest"
    parts = []
    for start in range(0, len(values), 2000):
        part = slice(start, start + 2000)
        parts.append(extreme(key, functionals(key, values[part], bars[part], bed[part]), [factors], sense)[:, 0])
    return np.concatenate(parts)


def _at(responses: Responses, xy: Array) -> tuple[Array, Array, Array, npt.NDArray[np.bool_]]:
    """Values (k, 9, r), bars (k,) and bedding (k,) at points (k, 2) m, and which of them lie on the floor."""
    elements = responses.elements
    element = find(elements, xy, within=ON)
    inside = np.maximum(element, 0)
    share = weights(elements, inside, xy)
    corner = np.maximum(elements.nodes[inside], 0)
    values = np.einsum("kc,kcqr->kqr", share, responses.at_places[corner])
    return values, responses.bars[corner[:, 0]], (share * responses.bed[corner]).sum(axis=1), element >= 0


def _read(responses: Responses, key: str, unit: str, family: Array, factors: Factors, whole: float | None = None) -> Reading:
    """A reading from a family (f, r) of functionals at one place."""
    senses = QUANTITIES[key].senses if key in QUANTITIES else ("least", "greatest")
    wood_armer = key.startswith("wa_")

    def value(f: Array) -> float:
        found = float(f.min() if key == "m2" else f.max())
        return max(found, 0.0) if wood_armer else found

    governed: dict[str, Governed | None] = {"least": None, "greatest": None}
    for sense in senses:
        one = acting(family, factors, sense)
        low, high = envelope(one, factors)
        panels = governing_panels(one, factors, responses.units, sense == "greatest")
        extreme_value = float(low if sense == "least" else high)
        governed[sense] = Governed(max(extreme_value, 0.0) if wood_armer else extreme_value, panels)
    under = []
    if factors.pattern.any():
        for a in responses.arrangements:
            share = loaded(responses, a.name)
            under.append(Under(a.name, value(family @ (factors.always + factors.pattern * share)), a.name in responses.required))
    full = value(family @ factors.full) if whole is None else whole
    return Reading(key, unit, full, value(family @ factors.always), governed["least"], governed["greatest"], tuple(under))


def at_point(responses: Responses, at: tuple[float, float], key: str, of: str) -> Reading | None:
    """A quantity at a point of the plan, m; None beside the floor. Raises :class:`UnknownReadingError`."""
    known(key)
    values, bars, bed, inside = _at(responses, np.array([at]))
    if not inside[0]:
        return None
    family = functionals(key, values, bars, bed)[:, 0]
    return _read(responses, key, QUANTITIES[key].unit, family, combination_of(responses, of))


PLACE_ROWS = ("w", "mx", "my", "mxy", "vx", "vy")


def at_places(responses: Responses, xy: Array, of: str) -> Array:
    """``PLACE_ROWS`` (k, 6) at points (k, 2) m under a case or combination with all live load; not a number beside the floor.
    Raises :class:`UnknownReadingError`."""
    elements = responses.elements
    element = find(elements, xy, within=ON)
    inside = np.maximum(element, 0)
    corner = np.maximum(elements.nodes[inside], 0)
    factors, lifted = vector(responses, Chosen(of)), responses.lifted.get(of)
    values = lifted[0][corner] if lifted is not None else responses.at_places[corner] @ factors
    found = np.einsum("kc,kcq->kq", weights(elements, inside, xy), values)
    found = found[:, [ROWS.index(name) for name in PLACE_ROWS]]
    return np.where((element >= 0)[:, None], found, np.nan)


COMPONENTS = {"F": (0, "kN"), "Mx": (1, "kNm"), "My": (2, "kNm")}


def at_support(responses: Responses, label: str, component: str, of: str) -> Reading:
    """A component of a support's reaction: ``F`` (kN, up), ``Mx``, ``My`` (kNm). Raises :class:`UnknownReadingError`."""
    if label not in responses.supports or component not in COMPONENTS:
        raise UnknownReadingError(f"there is no reaction {component} of {label} in this run")
    row, unit = COMPONENTS[component]
    number = responses.supports.index(label)
    lifted = responses.lifted.get(of)
    whole = float(lifted[1][number, row]) if lifted is not None else None
    return _read(responses, component, unit, responses.reactions[number, row][None], combination_of(responses, of), whole)


def reactions(responses: Responses, chosen: Chosen) -> Array:
    """Reactions (s, 3) of all supports; least and greatest are those of each component by itself."""
    if chosen.kind in ("least", "greatest"):
        return envelope(responses.reactions, combination_of(responses, chosen.of))[chosen.kind == "greatest"]
    lifted = responses.lifted.get(chosen.of)
    if chosen.kind == "all" and lifted is not None:
        return lifted[1]
    return responses.reactions @ vector(responses, chosen)


@dataclass(frozen=True, slots=True)
class Sliced:
    """A slice through a run before anything is combined: points ``s`` (k,) m along it, the quantity's ``family``
    (f, k, r) of functionals there, and which points lie ``on`` (k,) the floor."""

    key: str
    s: Array
    family: Array
    on: npt.NDArray[np.bool_]


def slice_through(
    responses: Responses, line: tuple[tuple[float, float], tuple[float, float]], key: str, width: float = 0.0
) -> Sliced:
    """Lay a slice (m) through a run; values are averaged over ``width`` m square to it. Raises :class:`UnknownReadingError`."""
    known(key)
    start, end = np.array(line[0]), np.array(line[1])
    length = float(np.hypot(*(end - start)))
    way = (end - start) / length
    side = np.array([-way[1], way[0]])
    count = min(max(round(length / STEP) + 1, 21), MOST)
    s = np.linspace(0.0, length, count)
    offsets = (np.arange(ACROSS) + 0.5) / ACROSS * width - width / 2 if width > 0 else np.zeros(1)
    xy = (start + s[:, None, None] * way + offsets[:, None] * side).reshape(-1, 2)
    values, bars, bed, inside = _at(responses, xy)
    # The direction in which bars cross the slice.
    across = float(np.arctan2(side[1], side[0]))
    by_point = inside.reshape(count, -1)
    share = by_point / np.maximum(by_point.sum(axis=1, keepdims=True), 1)
    family = functionals(key, values, bars, bed, across)
    family = np.einsum("kj,fkjr->fkr", share, family.reshape(len(family), count, len(offsets), -1))
    return Sliced(key, s, family, np.asarray(by_point.any(axis=1)))


def diagram(responses: Responses, sliced: Sliced, of: str) -> Diagram:
    """The diagram of a slice under a case or combination. Raises :class:`UnknownReadingError`."""
    factors = combination_of(responses, of)
    key, family, on, s = sliced.key, sliced.family, sliced.on, sliced.s

    def hidden(found: Array) -> Array:
        return np.where(on, found, np.nan)

    full = family @ factors.full
    whole = full.min(axis=0) if key == "m2" else full.max(axis=0)
    whole = hidden(np.maximum(whole, 0.0) if key.startswith("wa_") else whole)
    senses = QUANTITIES[key].senses
    least = hidden(extreme(key, family, [factors], "least")[:, 0]) if "least" in senses else whole
    greatest = hidden(extreme(key, family, [factors], "greatest")[:, 0]) if "greatest" in senses else whole
    if not on.any():
        none = Governed(float("nan"), ())
        return Diagram(s, whole, least, greatest, none, 0.0, none, 0.0, 0.0, 0.0)

    def peak(values: Array, sense: Sense) -> tuple[Governed, float]:
        k = int(np.nanargmin(values) if sense == "least" else np.nanargmax(values))
        panels: tuple[Loaded, ...] = ()
        if sense in senses:
            panels = governing_panels(acting(family[:, k], factors, sense), factors, responses.units, sense == "greatest")
        return Governed(float(values[k]), panels), float(s[k])

    low, low_at = peak(least, "least")
    high, high_at = peak(greatest, "greatest")
    return Diagram(s, whole, least, greatest, low, low_at, high, high_at, *_integral(s, whole, on))


def along(
    responses: Responses, line: tuple[tuple[float, float], tuple[float, float]], key: str, of: str, width: float = 0.0
) -> Diagram:
    """A quantity along a slice (m), averaged over ``width`` m square to it. Raises :class:`UnknownReadingError`."""
    return diagram(responses, slice_through(responses, line, key, width), of)


def _integral(s: Array, values: Array, on: npt.NDArray[np.bool_]) -> tuple[float, float]:
    """Integral of values over the parts of a slice on the floor, and their length (m), by the trapezoidal rule."""
    both = on[1:] & on[:-1]
    ds = np.diff(s)[both]
    mean = ((values[1:] + values[:-1]) / 2)[both]
    return float(ds @ mean), float(ds.sum())
