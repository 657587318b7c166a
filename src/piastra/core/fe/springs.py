"""The springs by which columns and walls hold the floor, and how they follow from size, height, material and fixity."""

from __future__ import annotations

from typing import Literal

import numpy as np
from shapely.geometry import LineString

from piastra.core.geometry.arcs import polyline
from piastra.core.model import Floor
from piastra.core.model.members import Column, Rectangle, Storey, Wall
from piastra.core.trace import Step, Value

Steps = tuple[Step, ...]

_PLACES: tuple[Literal["below", "above"], ...] = ("below", "above")
_FIXITY = {"fixed": (4.0, 12.0), "pinned": (3.0, 3.0)}
"""Of a member whose end at the floor turns or sways alone: multiples of EI/L and EI/L3 (Ghali, Neville 1978, app. D)."""


def springs(floor: Floor, list_: Literal["columns", "walls"], id_: str, E: float) -> Steps:
    """The springs of one column or wall as a whole, as the analysis has them: upright, against turning and
    against sway of the floor in its plane.

    ``E`` is the modulus of its concrete, kN/m2. Results in kN/m and kNm/rad. Raises KeyError where there is no such
    member. Turning and sway of the storeys below and above add up.
    """
    if list_ == "columns":
        return _column({c.id: c for c in floor.columns}[id_], E)
    wall = {w.id: w for w in floor.walls}[id_]
    return _wall(wall, E, next(c.poisson for c in floor.concretes if c.id == wall.concrete))


def _column(column: Column, E: float) -> Steps:
    shape, modulus = column.shape, Value("E", E / 1e3, "stress", f"of concrete {column.concrete}")
    steps: list[Step] = []
    if column.below is None:
        steps.append(_HANGS)
    else:
        L = _height(column.below, "below")
        if isinstance(shape, Rectangle):
            b, d = Value("b", shape.b_m, "size"), Value("d", shape.d_m, "size")
            k = Value("k_z", E * shape.b_m * shape.d_m / column.below.height_m, "force_per_m", "shortening of the column below")
            steps.append(Step("Upright", "", "k_z = E · b · d / L", (modulus, b, d, L), k))
        else:
            D = Value("D", shape.diameter_m, "size")
            k = Value(
                "k_z",
                E * np.pi * shape.diameter_m**2 / 4 / column.below.height_m,
                "force_per_m",
                "shortening of the column below",
            )
            steps.append(Step("Upright", "", "k_z = E · pi · D ^ 2 / (4 · L)", (modulus, _PI, D, L), k))
    for place in _PLACES:
        storey = getattr(column, place)
        if storey is None:
            continue
        if not isinstance(shape, Rectangle):
            steps += _round(storey, place, E, shape.diameter_m, modulus)
            continue
        steps += _rectangle(storey, place, E, shape.d_m, shape.b_m, modulus, "along its width b")
        if abs(shape.b_m - shape.d_m) > 1e-9:
            steps += _rectangle(storey, place, E, shape.b_m, shape.d_m, modulus, "along its depth d")
    return (*steps, _SUM) if column.below and column.above else tuple(steps)


def _wall(wall: Wall, E: float, poisson: float) -> Steps:
    modulus, t = Value("E", E / 1e3, "stress", f"of concrete {wall.concrete}"), Value("t", wall.thickness_m, "size")
    long = LineString(polyline(wall.line)).length
    l = Value("l", long, "length", "length of the wall")
    steps: list[Step] = []
    if wall.below is None:
        steps.append(_HANGS)
    else:
        k = Value("k_z", E * wall.thickness_m * long / wall.below.height_m, "force_per_m", "shortening of the wall below")
        steps.append(Step("Upright", "", "k_z = E · t · l / L", (modulus, t, l, _height(wall.below, "below")), k))
    for place in _PLACES:
        storey = getattr(wall, place)
        if storey is None:
            continue
        L, (n, _) = _height(storey, place), _FIXITY[storey.far_end]
        if wall.top == "monolithic":
            k = Value("k_t", n * E * wall.thickness_m**3 / 12 * long / storey.height_m, "moment", f"across the wall, {place}")
            steps.append(Step("Turning", "", "k_t = n · E · t ^ 3 · l / (12 · L)", (_multiple("n", n, storey), modulus, t, l, L), k,
                              note=f"Per radian, across the wall, {place} the floor."))  # fmt: skip
        k = Value(
            "k_s",
            5 / 6 * E / (2 * (1 + poisson)) * wall.thickness_m * long / storey.height_m,
            "force_per_m",
            f"along the wall, {place}",
        )
        steps.append(Step("Racking", "", "k_s = 5 · E · t · l / (12 · (1 + nu) · L)", (modulus, Value("nu", poisson), t, l, L), k,
                          note=f"Along the wall, {place} the floor."))  # fmt: skip
    if wall.top == "hinged":
        steps.append(Step("Turning", note="Its top is hinged: it does not hold the floor against turning."))
    return (*steps, _SUM) if wall.below and wall.above else tuple(steps)


def _rectangle(storey: Storey, place: str, E: float, w: float, h: float, modulus: Value, way: str) -> Steps:
    """Of a section ``w`` wide and ``h`` deep in the direction of bending."""
    (n, m), L = _FIXITY[storey.far_end], storey.height_m
    size = (Value("w", w, "size", "across"), Value("h", h, "size", way))
    turn = Value("k_t", n * E * w * h**3 / 12 / L, "moment", f"{way}, {place}")
    sway = Value("k_s", m * E * w * h**3 / 12 / L**3, "force_per_m", f"{way}, {place}")
    return (
        Step("Turning", "", "k_t = n · E · w · h ^ 3 / (12 · L)", (_multiple("n", n, storey), modulus, *size, _height(storey, place)), turn,
             note=f"Per radian, {way}, {place} the floor."),
        Step("Sway of the floor in its plane", "", "k_s = m · E · w · h ^ 3 / (12 · L ^ 3)", (_multiple("m", m, storey), modulus, *size, _height(storey, place)), sway),
    )  # fmt: skip


def _round(storey: Storey, place: str, E: float, D: float, modulus: Value) -> Steps:
    (n, m), L = _FIXITY[storey.far_end], storey.height_m
    size = Value("D", D, "size")
    turn = Value("k_t", n * E * np.pi * D**4 / 64 / L, "moment", place)
    sway = Value("k_s", m * E * np.pi * D**4 / 64 / L**3, "force_per_m", place)
    return (
        Step("Turning", "", "k_t = n · E · pi · D ^ 4 / (64 · L)", (_multiple("n", n, storey), modulus, _PI, size, _height(storey, place)), turn,
             note=f"Per radian, in every direction, {place} the floor."),
        Step("Sway of the floor in its plane", "", "k_s = m · E · pi · D ^ 4 / (64 · L ^ 3)", (_multiple("m", m, storey), modulus, _PI, size, _height(storey, place)),
             sway),
    )  # fmt: skip


def _height(storey: Storey, place: str) -> Value:
    return Value("L", storey.height_m, "length", f"height {place}")


def _multiple(symbol: str, value: float, storey: Storey) -> Value:
    return Value(symbol, value, meaning=f"far end {storey.far_end}")


_PI = Value("pi", float(np.pi))
_HANGS = Step("Upright", note="There is nothing below: it does not hold the floor up.")
_SUM = Step("Together", note="What is below and above the floor adds up against turning and sway.")
