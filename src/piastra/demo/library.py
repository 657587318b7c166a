"""Level 2 of the demo project: a post-tensioned flat slab, banded along x and distributed along y."""

from __future__ import annotations

from typing import Any

from piastra.core.model import Floor, floor_from
from piastra.core.model.loading import LoadCase
from piastra.core.standards.generating import joined
from piastra.core.standards.registry import generated
from piastra.core.tendons.profiles import levels_of, over_spans

LEVEL = "Level 2"
BAY, BAYS = 9.0, 3
EDGE = 0.7
"""The slab stands out so far beyond the outer columns' lines (m)."""
COLUMN = 0.4
H = 0.225
COVER, SHEATH = 30.0, 16.0
LINES = [k * BAY for k in range(BAYS + 1)]
CORE = (11.6, 11.4, 15.4, 15.6)
DROP, DROP_H = 1.3, 0.42
SHAFT = [[3.6, 8.3], [4.8, 8.3], [4.8, 9.7], [3.6, 9.7]]
"""An opening on a column line, which the band goes round."""
ASIDE = (7.75, 10.25)
"""Where the two halves of that band pass it (y, m)."""


def _storeys() -> dict[str, Any]:
    return {"below": {"height_m": 3.4, "far_end": "fixed"}, "above": {"height_m": 3.4, "far_end": "fixed"}}


def _profile(length: float, supports: list[float], lower: float = 0.0) -> list[dict[str, Any]]:
    """Points by cover; those of bands lie ``lower`` mm under the others over the columns."""
    at = levels_of(0.0, 1e3 * H, COVER, SHEATH)
    points = over_spans(length, supports, at)
    out = [p.model_dump(mode="json") for p in points]
    for p in out:
        if p["z_mm"] == at.high:
            p["z_mm"] = at.high - lower
        elif p["z_mm"] == at.low:
            p["z_mm"] = at.low + (SHEATH if not lower else 0.0)
        p["z_mm"] = round(p["z_mm"], 1)
    return out


def _bands(strands: int) -> list[dict[str, Any]]:
    length = LINES[-1] + 2 * EDGE
    supports = [x + EDGE for x in LINES]
    out = []
    for k, y in enumerate(LINES):
        inner = 0 < k < BAYS
        count = strands if inner else (strands + 1) // 2
        for n, offset in enumerate((-0.35, -0.12, 0.12, 0.35) if inner else (-0.1, 0.1)):
            line = [[-EDGE, y + offset], [LINES[-1] + EDGE, y + offset]]
            profile = _profile(length, supports, SHEATH + 10.0)
            if k == 1:
                # Round the shaft: straight on plan with bends well before and after it.
                aside = ASIDE[0] - 0.12 * (1 - n % 2) if offset < 0 else ASIDE[1] + 0.12 * (n % 2)
                line = [
                    [-EDGE, y + offset],
                    [1.2, y + offset],
                    [3.0, aside],
                    [5.4, aside],
                    [7.2, y + offset],
                    [LINES[-1] + EDGE, y + offset],
                ]
                run = sum(((b[0] - a[0]) ** 2 + (b[1] - a[1]) ** 2) ** 0.5 for a, b in zip(line, line[1:]))
                more = run - length
                for p in profile:
                    p["s_m"] = round(p["s_m"] + (more if p["s_m"] > 8 else more / 2 if p["s_m"] > 3 else 0.0), 4)
                profile[-1]["s_m"] = run
            out.append({"id": f"X{k + 1}.{n + 1}", "strand": "mono 15.7", "count": count, "line": line, "jack_MPa": 1395.0,
                        "stressed_from": "start" if n % 2 else "end", "profile": profile, "group": f"band {k + 1}"})  # fmt: skip
    return out


def _distributed(spacing: float, count: int) -> list[dict[str, Any]]:
    length = LINES[-1] + 2 * EDGE
    number = int(LINES[-1] / spacing)
    xs = [round(-0.3 + (LINES[-1] + 0.6) * k / number, 3) for k in range(number + 1)]
    out = []
    for k, x in enumerate(xs):
        supports = [y + EDGE for y in LINES]
        if CORE[0] - 0.4 < x < CORE[2] + 0.4:
            # Into the core and out of it: two tendons, anchored at its walls.
            for n, (a, b) in enumerate(((-EDGE, CORE[1] - 0.1), (CORE[3] + 0.1, LINES[-1] + EDGE))):
                held = [y - a for y in LINES if a - 0.3 < y < b] + [(b if n == 0 else a) - a]
                out.append({"id": f"Y{k + 1}.{n + 1}", "strand": "mono 15.7", "count": count, "line": [[x, a], [x, b]], "jack_MPa": 1395.0,
                            "stressed_from": "start" if n == 0 else "end", "profile": _profile(b - a, held), "group": "distributed"})  # fmt: skip
            continue
        if SHAFT[0][0] - 0.1 < x < SHAFT[1][0] + 0.1:
            x = SHAFT[0][0] - 0.2 if x < (SHAFT[0][0] + SHAFT[1][0]) / 2 else SHAFT[1][0] + 0.2
        out.append({"id": f"Y{k + 1}", "strand": "mono 15.7", "count": count, "line": [[x, -EDGE], [x, LINES[-1] + EDGE]], "jack_MPa": 1395.0,
                    "stressed_from": "end" if k % 2 else "start", "profile": _profile(length, supports), "group": "distributed"})  # fmt: skip
    return out


def _drops(far: float) -> list[dict[str, Any]]:
    """A drop panel at every column, as far as the slab goes and the shaft lets it."""
    out = []
    for j, y in enumerate(LINES):
        for i, x in enumerate(LINES):
            x0, x1, y0, y1 = x - min(DROP, x + EDGE), min(x + DROP, far), y - min(DROP, y + EDGE), min(y + DROP, far)
            out.append({"id": f"DP-{'ABCD'[i]}{j + 1}", "kind": "drop_panel", "outline": [[x0, y0], [x1, y0], [x1, y1], [x0, y1]],
                        "thickness_m": DROP_H})  # fmt: skip
    return out


def _document(name: str, band: int, spacing: float) -> dict[str, Any]:
    cases: list[dict[str, Any]] = [
        {"id": "G", "nature": "self_weight"}, {"id": "D", "nature": "dead"}, {"id": "Q", "nature": "live", "category": "B", "pattern": True},
        {"id": "PT", "nature": "prestress", "effect": "transfer"}, {"id": "PF", "nature": "prestress", "effect": "final"},
        {"id": "PS", "nature": "prestress", "effect": "secondary"},
    ]  # fmt: skip
    x0, y0, x1, y1 = CORE
    far = LINES[-1] + EDGE
    columns = [
        {"id": f"{'ABCD'[i]}{j + 1}", "at": [x, y], "shape": {"kind": "rectangle", "b_m": COLUMN, "d_m": COLUMN}, "concrete": "C40", **_storeys()}
        for j, y in enumerate(LINES) for i, x in enumerate(LINES)
    ]  # fmt: skip
    lines = {"W1": [[x0, y0], [x0, y1]], "W2": [[x0, y1], [x1, y1]], "W3": [[x1, y1], [x1, y0]]}
    return {
        "format": "piastra-floor", "version": 1, "name": name, "standard": "EN 1992-1-1",
        "concretes": [{"id": "C40", "strength_MPa": 40, "unit_weight_kN_m3": 25, "E_MPa": None, "poisson": 0.2, "creep_coefficient": 2.2}],
        "rebars": [{"id": "B500", "yield_MPa": 500, "E_MPa": 200000}],
        "slabs": [{"id": "S1", "outline": [[-EDGE, -EDGE], [far, -EDGE], [far, far], [-EDGE, far]], "thickness_m": H, "concrete": "C40",
                   "rebar": "B500", "cover_top_mm": 25, "cover_bottom_mm": 25}],
        "openings": [{"id": "shaft", "outline": SHAFT},
                     {"id": "stair", "outline": [[x0 + 0.6, y0 + 0.6], [x1 - 0.6, y0 + 0.6], [x1 - 0.6, y1 - 0.6], [x0 + 0.6, y1 - 0.6]]}],
        "thickenings": _drops(far),
        "columns": columns,
        "walls": [{"id": k, "line": v, "thickness_m": 0.2, "concrete": "C40", **_storeys()} for k, v in lines.items()],
        "strands": [{"id": "mono 15.7", "area_mm2": 150.0, "fpk_MPa": 1860.0, "fp01k_MPa": 1640.0, "E_MPa": 195000.0, "bond": "unbonded",
                     "friction_mu": 0.06, "wobble_rad_m": 0.05, "draw_in_mm": 6.0, "relaxation_class": 2, "rho1000_pct": 2.5, "duct_mm": SHEATH}],
        "tendons": [*_bands(band), *_distributed(spacing, 1)],
        "prestress": {"long_term_loss": "computed", "transfer_days": 4.0, "humidity_pct": 50.0},
        "load_cases": cases,
        "loads": [
            {"id": "finishes", "case": "D", "kind": "area", "q_kPa": 1.5},
            {"id": "offices", "case": "Q", "kind": "area", "q_kPa": 3.0},
            {"id": "facade", "case": "D", "kind": "line", "line": [[0.0, 0.0], [LINES[-1], 0.0]], "q_kN_m": [4.0, 4.0]},
        ],
        "combinations": [
            c.model_dump(exclude_defaults=True) for c in joined([], generated("EN 1992-1-1", [LoadCase(**c) for c in cases], {}))
        ],
        "design_bars": True,
        "probes": [{"id": "corner bay", "at": [4.2, 4.5]}],
        "mesh": {"size_m": 0.5},
    }  # fmt: skip


def library() -> Floor:
    """Level 2 as it works."""
    return floor_from(_document("Level 2: library and offices", 4, 1.0))


def library_fewer_strands() -> Floor:
    """Level 2 with half the prestress and light mats: it is not strong enough."""
    data = _document("Level 2, fewer strands", 2, 2.0)
    data["design_bars"] = False
    data["mats"] = [
        {"id": f"{face} {way}", "face": face, "direction": way, "bar_mm": 10, "spacing_mm": 250}
        for face in ("bottom", "top") for way in "xy"
    ]  # fmt: skip
    return floor_from(data)
