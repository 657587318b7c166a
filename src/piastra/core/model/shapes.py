"""Numbers, points, lines and outlines as the floor file writes them."""

from __future__ import annotations

from itertools import pairwise
from typing import Annotated

import shapely
from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from piastra.core.geometry.arcs import polygon, polyline
from piastra.core.model.quantities import with_quantities

Number = Annotated[float, Field(strict=True, allow_inf_nan=False)]
Positive = Annotated[float, Field(strict=True, allow_inf_nan=False, gt=0)]
NotNegative = Annotated[float, Field(strict=True, allow_inf_nan=False, ge=0)]
Coordinate = Annotated[float, Field(strict=True, allow_inf_nan=False, ge=-1e5, le=1e5)]
UNSEEN = r"\x00-\x1f\x7f-\x9f\u2028-\u202e\u2066-\u2069"
"""Characters that no name has: controls, line breaks, and what turns the direction of writing."""
NAME = rf"^[^\s{UNSEEN}]([^{UNSEEN}]*[^\s{UNSEEN}])?$"
Label = Annotated[str, Field(strict=True, min_length=1, max_length=60, pattern=NAME)]


class Record(BaseModel):
    """Base of everything in the floor file: unknown keys are refused, values are not changed later."""

    model_config = ConfigDict(extra="forbid", frozen=True, use_attribute_docstrings=True, json_schema_extra=with_quantities)


def _a_point(value: list[float]) -> list[float]:
    if len(value) != 2:
        raise ValueError(f"must be a point [x, y] in metres, but has {len(value)} numbers")
    return value


def _a_vertex(value: list[float]) -> list[float]:
    if len(value) not in (2, 3):
        raise ValueError(f"must be [x, y] or [x, y, bulge], but has {len(value)} numbers")
    if len(value) == 3 and abs(value[2]) > 20:
        raise ValueError(f"has a bulge of {value[2]:g}; a bulge beyond 20 is not an arc that can be built")
    return value


Point = Annotated[list[Coordinate], AfterValidator(_a_point)]
Vertex = Annotated[list[Coordinate], AfterValidator(_a_vertex)]


def _a_line(value: list[list[float]]) -> list[list[float]]:
    if len(value) != 2:
        raise ValueError(f"must have two points, start and end, but has {len(value)}")
    (ax, ay), (bx, by) = value
    if (ax - bx) ** 2 + (ay - by) ** 2 < 1e-6:
        raise ValueError("starts and ends at the same point; give it a length of at least 1 mm")
    return value


def _an_outline(value: list[list[float]]) -> list[list[float]]:
    # Closing the outline by repeating its first vertex is common in drawings, and harmless.
    if len(value) > 2 and value[0][:2] == value[-1][:2]:
        value = value[:-1]
    curved = any(len(v) == 3 and v[2] for v in value)
    if len(value) < (2 if curved else 3):
        raise ValueError(f"needs at least three corners, but has {len(value)}")
    for i, v in enumerate(value):
        w = value[(i + 1) % len(value)]
        if (v[0] - w[0]) ** 2 + (v[1] - w[1]) ** 2 < 1e-8:
            raise ValueError(f"has two corners in one place at ({v[0]:g}, {v[1]:g}); remove one of them")
    shape = polygon(value)
    if not shape.is_valid:
        raise ValueError("crosses or touches itself" + _place(shapely.is_valid_reason(shape)) + "; put its corners in order")
    if shape.area < 1e-4:
        raise ValueError("encloses no area; move its corners apart")
    return value


def _place(reason: str) -> str:
    if "[" not in reason:
        return ""
    x, y = reason.split("[")[1].rstrip("]").split()[:2]
    return f" at ({float(x):.3f}, {float(y):.3f})"


def _a_path(value: list[list[float]]) -> list[list[float]]:
    if len(value) < 2:
        raise ValueError(f"must have at least two points, but has {len(value)}")
    for a, b in pairwise(value):
        if (a[0] - b[0]) ** 2 + (a[1] - b[1]) ** 2 < 1e-6:
            raise ValueError(f"has two points in one place at ({a[0]:g}, {a[1]:g}); give each stretch a length of at least 1 mm")
    if not shapely.is_simple(shapely.LineString(polyline(value))):
        raise ValueError("crosses itself; put its points in order")
    return value


Path = Annotated[list[Vertex], AfterValidator(_a_path)]
"""An open line of straight and arc stretches; the bulge of its last point has no meaning."""
Line = Annotated[list[Point], AfterValidator(_a_line)]
Outline = Annotated[list[Vertex], AfterValidator(_an_outline)]


class Patch(Record):
    """A rectangle over which a force is spread."""

    b_m: Positive
    d_m: Positive
    angle_deg: Number = 0.0
