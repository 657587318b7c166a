"""Unit responses of a run as one file: NumPy's open ``npz`` format, the names as JSON inside."""

from __future__ import annotations

import io
import json
from typing import Any

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import Polygon

from piastra.core.combine.arrangements import Arrangement
from piastra.core.combine.envelope import Factors
from piastra.core.loads.vectors import Unit
from piastra.core.mesh.locate import Elements, indexed
from piastra.core.readings.bodies import FreeBodies
from piastra.core.readings.responses import Responses, StripForces
from piastra.exchange.planes import along_curve, planes, values_of

VALUE_BITS = 19
"""Values by unit load are kept to 1e-6 of their peak: fifty of them add up to less than the last figure that is shown."""
DISPLACEMENT_BITS = 31
"""Displacements are kept to 2e-10 of their peak: forces at nodes are differences of theirs."""

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]


def _written(values: Array, order: Ints, bits: int, name: str) -> dict[str, Any]:
    """Unit responses (p, ..., r) at the points of an ``order``, as they stand in a file."""
    found, peak = planes(np.moveaxis(values, 0, -1), order, bits)
    return {name: found, f"{name}_peak": peak}


def _read(a: dict[str, Any], order: Ints, bits: int, name: str) -> Array:
    return np.ascontiguousarray(np.moveaxis(values_of(a[name], a[f"{name}_peak"], order, bits), -1, 0))


def packed(r: Responses) -> bytes:
    """The file of a run's responses but for those by element. Values by unit load are kept to ``VALUE_BITS`` of their peak, others in
    single precision."""
    names = {
        "supports": r.supports, "units": [(u.case, u.panel, u.others) for u in r.units], "cases": r.cases,
        "combinations": [(f.combination, f.limit_state) for f in r.combinations],
        "panels": [(label, p.wkt) for label, p in r.panels],
        "arrangements": [(a.name, sorted(a.rules), sorted(a.panels), a.share) for a in r.arrangements],
        "required": r.required, "lifted": list(r.lifted), "quads": r.elements.quads,
    }  # fmt: skip
    single: dict[str, Any] = {"bars": r.bars, "bed": r.bed}
    order = along_curve(r.elements.xy)
    whole = _written(r.at_places, order, VALUE_BITS, "at_places")
    for k, (values, reactions) in enumerate(r.lifted.values()):
        whole |= _written(values, order, VALUE_BITS, f"lifted_{k}")
        single[f"lifted_reactions_{k}"] = reactions
    if r.combinations and r.combinations[0].shares is not None:
        single["shares"] = r.combinations[0].shares
    strips: dict[str, Any] = {}
    if r.strips is not None:
        names["strips"] = r.strips.labels
        strips = {"strip": r.strips.strip.astype(np.int32), "strip_s": r.strips.s}
        single["strip_width"] = r.strips.width
        # Stations follow each other along their strip.
        whole |= _written(r.strips.forces, np.arange(len(r.strips.s)), VALUE_BITS, "strip_forces")
    buffer = io.BytesIO()
    np.savez_compressed(
        buffer, **strips, **whole, xy=r.elements.xy, nodes=r.elements.nodes.astype(np.int32), support_at=r.support_at, reactions=r.reactions, applied=r.applied,
        always=np.array([f.always for f in r.combinations]), pattern=np.array([f.pattern for f in r.combinations]),
        names=np.frombuffer(json.dumps(names).encode(), dtype=np.uint8),
        **{k: np.asarray(v, dtype=np.float32) for k, v in single.items()},  # type: ignore[arg-type]  # taken for its option
    )  # fmt: skip
    return buffer.getvalue()


def unpacked(content: bytes) -> Responses:
    """The responses in a file that :func:`packed` made."""
    with np.load(io.BytesIO(content), allow_pickle=False) as file:
        a = {k: file[k] for k in file.files}
    names = json.loads(a["names"].tobytes())
    double = {k: v.astype(np.float64) for k, v in a.items() if v.dtype == np.float32}
    shares, order = double.get("shares"), along_curve(a["xy"])
    panels: list[tuple[str, Polygon]] = []
    for label, text in names["panels"]:
        shape = shapely.from_wkt(text)
        assert isinstance(shape, Polygon)
        panels.append((label, shape))
    return Responses(
        indexed(a["xy"], a["nodes"].astype(np.int64), names["quads"]), _read(a, order, VALUE_BITS, "at_places"), None, double["bars"],
        double["bed"], tuple(names["supports"]), a["support_at"], a["reactions"], a["applied"],
        {name: (_read(a, order, VALUE_BITS, f"lifted_{k}"), double[f"lifted_reactions_{k}"]) for k, name in enumerate(names["lifted"])},
        tuple(Unit(case, panel, tuple(others)) for case, panel, others in names["units"]), tuple(names["cases"]),
        tuple(
            Factors(name, state, always, pattern, shares)
            for (name, state), always, pattern in zip(names["combinations"], a["always"], a["pattern"], strict=True)
        ),
        tuple(panels),
        tuple(Arrangement(name, frozenset(rules), frozenset(on), share) for name, rules, on, share in names["arrangements"]),
        tuple(names["required"]),
        StripForces(tuple(names["strips"]), a["strip"].astype(np.int64), a["strip_s"], double["strip_width"], _read(a, np.arange(len(a["strip_s"])), VALUE_BITS, "strip_forces"))
        if "strips" in names else None,
    )  # fmt: skip


def packed_bodies(found: FreeBodies, elements: Elements) -> bytes:
    """The file of a run's free bodies on its ``elements``, displacements kept to ``DISPLACEMENT_BITS`` of their peak."""
    buffer = io.BytesIO()
    at = np.zeros((len(found.u), 2))
    at[found.node] = elements.xy
    order = along_curve(at)
    np.savez_compressed(
        buffer, **_written(found.u, order, DISPLACEMENT_BITS, "u"), order=order.astype(np.int32), node=found.node.astype(np.int32), which=found.which.astype(np.int32),
        law=found.law, h=found.h, zeta=found.zeta, secondary=found.secondary, threaded=found.threaded, pull=found.pull, stress=found.stress,
    )  # fmt: skip
    return buffer.getvalue()


def unpacked_bodies(content: bytes) -> FreeBodies:
    """The free bodies in a file that :func:`packed_bodies` made."""
    with np.load(io.BytesIO(content), allow_pickle=False) as file:
        a = {k: file[k] for k in file.files}
    u = _read(a, a["order"].astype(np.int64), DISPLACEMENT_BITS, "u")
    return FreeBodies(
        u, a["node"].astype(np.int64), a["which"].astype(np.int64),
        *(a[k] for k in ("law", "h", "zeta", "secondary", "threaded", "pull", "stress")),
    )  # fmt: skip
