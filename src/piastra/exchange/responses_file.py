"""Unit responses of a run as one file: NumPy's open ``npz`` format, the names as JSON inside."""

from __future__ import annotations

import io
import json
from typing import Any

import numpy as np
import shapely
from shapely.geometry import Polygon

from piastra.core.combine.arrangements import Arrangement
from piastra.core.combine.envelope import Factors
from piastra.core.loads.vectors import Unit
from piastra.core.mesh.locate import indexed
from piastra.core.readings.bodies import FreeBodies
from piastra.core.readings.responses import Responses, StripForces


def packed(r: Responses) -> bytes:
    """The file of a run's responses but for those by element. Values are kept in single precision."""
    names = {
        "supports": r.supports, "units": [(u.case, u.panel, u.others) for u in r.units], "cases": r.cases,
        "combinations": [(f.combination, f.limit_state) for f in r.combinations],
        "panels": [(label, p.wkt) for label, p in r.panels],
        "arrangements": [(a.name, sorted(a.rules), sorted(a.panels), a.share) for a in r.arrangements],
        "required": r.required, "lifted": list(r.lifted), "quads": r.elements.quads,
    }  # fmt: skip
    single: dict[str, Any] = {"at_places": r.at_places, "bars": r.bars, "bed": r.bed}
    for k, (values, reactions) in enumerate(r.lifted.values()):
        single[f"lifted_{k}"], single[f"lifted_reactions_{k}"] = values, reactions
    if r.combinations and r.combinations[0].shares is not None:
        single["shares"] = r.combinations[0].shares
    strips: dict[str, Any] = {}
    if r.strips is not None:
        names["strips"] = r.strips.labels
        strips = {"strip": r.strips.strip.astype(np.int32), "strip_s": r.strips.s}
        single["strip_width"], single["strip_forces"] = r.strips.width, r.strips.forces
    buffer = io.BytesIO()
    np.savez(
        buffer, **strips, xy=r.elements.xy, nodes=r.elements.nodes.astype(np.int32), support_at=r.support_at, reactions=r.reactions, applied=r.applied,
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
    shares = double.get("shares")
    panels: list[tuple[str, Polygon]] = []
    for label, text in names["panels"]:
        shape = shapely.from_wkt(text)
        assert isinstance(shape, Polygon)
        panels.append((label, shape))
    return Responses(
        indexed(a["xy"], a["nodes"].astype(np.int64), names["quads"]), double["at_places"], None, double["bars"],
        double["bed"], tuple(names["supports"]), a["support_at"], a["reactions"], a["applied"],
        {name: (double[f"lifted_{k}"], double[f"lifted_reactions_{k}"]) for k, name in enumerate(names["lifted"])},
        tuple(Unit(case, panel, tuple(others)) for case, panel, others in names["units"]), tuple(names["cases"]),
        tuple(
            Factors(name, state, always, pattern, shares)
            for (name, state), always, pattern in zip(names["combinations"], a["always"], a["pattern"], strict=True)
        ),
        tuple(panels),
        tuple(Arrangement(name, frozenset(rules), frozenset(on), share) for name, rules, on, share in names["arrangements"]),
        tuple(names["required"]),
        StripForces(tuple(names["strips"]), a["strip"].astype(np.int64), a["strip_s"], double["strip_width"], double["strip_forces"])
        if "strips" in names else None,
    )  # fmt: skip


def packed_bodies(found: FreeBodies) -> bytes:
    """The file of a run's free bodies. Displacements are kept in double precision: forces are differences of theirs."""
    buffer = io.BytesIO()
    np.savez(
        buffer, u=found.u, node=found.node, which=found.which, law=found.law, h=found.h, zeta=found.zeta, secondary=found.secondary,
        threaded=found.threaded, pull=found.pull, stress=found.stress,
    )  # fmt: skip
    return buffer.getvalue()


def unpacked_bodies(content: bytes) -> FreeBodies:
    """The free bodies in a file that :func:`packed_bodies` made."""
    with np.load(io.BytesIO(content), allow_pickle=False) as file:
        return FreeBodies(**{k: file[k] for k in file.files})
