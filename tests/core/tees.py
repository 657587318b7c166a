"""A slab on line supports with a web below its middle, in spans."""

import numpy as np

from tests.floors import plate, rectangle

L, WIDE, HF, WEB, H = 8.0, 2.0, 0.15, 0.3, 0.6


def tee(spans=1, standard="EN 1992-1-1", q=30.0, width=WIDE, web=WEB, **more):
    """A tee on line supports: a slab ``width`` wide with a web below its middle."""
    lines = [{"id": f"L{i}", "kind": "line", "line": [[x, 0.0], [x, width]]} for i, x in enumerate(np.arange(spans + 1) * L)]
    beam = {"id": "B", "line": [[0.0, width / 2], [L * spans, width / 2]], "width_m": web, "depth_m": H, "concrete": "C"}
    data = plate(rectangle(L * spans, width), HF, 0.0, 0.25, lines, beams=[beam])
    data["standard"] = standard
    data["slabs"][0].update(cover_top_mm=25.0, cover_bottom_mm=25.0)
    data["concretes"][0].update(strength_MPa=30, E_MPa=30000.0, poisson=0.0)
    data["rebars"] = [{"id": data["slabs"][0]["rebar"], "yield_MPa": 500 if standard.startswith("EN") else 420}]
    data["loads"] = [{"id": "q", "case": "Q", "kind": "area", "q_kPa": q}]
    data["combinations"] = [
        {"id": s, "limit_state": s, "factors": {"Q": 1.0}} for s in ("ultimate", "quasi_permanent", "service")
    ]
    return {**data, **more}
