"""Random floors with all that design knows, which must end with a verdict: ``python -m tests.random_designs [COUNT] [FIRST]``.

To the floors of ``tests.random_floors`` come, at random: a standard, bars at angles, mats or none, designed bars and links, fire, young concrete, a beam and a
tendon between two columns, combinations of every kind or some of them lacking, a history.
"""

from __future__ import annotations

import json
import random
import sys
import traceback
from typing import Any

import numpy as np

from piastra.core import pipeline
from piastra.core.model import RefusedError, floor_from
from piastra.exchange.results_file import results
from tests.random_floors import random_floor

SERVICE = {"EN 1992-1-1": ("quasi_permanent", "characteristic", "frequent"), "ACI 318-19": ("service", "sustained")}
STRAND = {"id": "s", "area_mm2": 150, "fpk_MPa": 1860, "fp01k_MPa": 1640, "duct_mm": 20}


def random_design(seed: int) -> dict[str, Any]:
    """The floor of a seed."""
    r, out = random.Random(seed), random_floor(seed)
    standard = out["standard"] = r.choice(list(SERVICE))
    out["design_bars"], out["design_links"] = r.random() < 0.7, r.random() < 0.4
    if r.random() < 0.6:
        out["fire"] = {"resistance": r.choice(["R30", "R60", "R90", "R120"])}
    if r.random() < 0.5:
        out["construction"] = {"age_days": 7}
    if r.random() < 0.5:
        out["slabs"][0]["bar_angle_deg"] = r.choice([15.0, 30.0, 45.0])
    ways = [(f, d) for f in ("top", "bottom") for d in "xy" if r.random() < 0.7]
    out["mats"] = [
        {"id": f + d, "face": f, "direction": d, "bar_mm": r.choice([10, 12, 16]), "spacing_mm": r.choice([125, 200, 250])}
        for f, d in ways
    ]
    ends = r.sample([c["at"] for c in out["columns"]], 2) if len(out.get("columns", [])) > 1 else None
    apart = float(np.hypot(*np.subtract(*ends))) if ends else 0.0
    if ends and apart > 2 and r.random() < 0.6:
        beam = {"id": "RB", "line": ends, "width_m": 0.3, "depth_m": 0.55, "concrete": out["concretes"][0]["id"]}
        out["beams"] = [*out.get("beams", []), {**beam, "torsion": r.choice(["equilibrium", "compatibility"])}]
    own = dict.fromkeys((c["id"] for c in out["load_cases"]), 1.0)
    pressed: dict[str, float] = {}
    secondary: dict[str, float] = {}
    if ends and apart > 2 and r.random() < 0.6:
        profile = [{"s_m": apart * k, "z_mm": z} for k, z in ((0.0, -100), (0.5, -150), (1.0, -100))]
        out["strands"] = [{**STRAND, "bond": r.choice(["bonded", "unbonded"])}]
        out["tendons"] = [{"id": "T", "strand": "s", "count": 3, "line": ends, "jack_MPa": 1300, "profile": profile}]
        out["load_cases"] += [{"id": f"P{e[0]}", "nature": "prestress", "effect": e} for e in ("final", "secondary", "transfer")]
        pressed, secondary = {"Pf": 1.0}, {"Ps": 1.0}
    made = [("ultimate", {**dict.fromkeys(own, 1.4), **secondary})]
    made += [(s, {**own, **pressed}) for s in SERVICE[standard] if r.random() < 0.8]
    made += [
        (s, own) for s in ("accidental", "construction", *(("fire",) if standard.startswith("EN") else ())) if r.random() < 0.4
    ]
    if pressed and r.random() < 0.7:
        made.append(("transfer", {next(iter(own)): 1.0, "Pt": 1.0}))
    out["combinations"] = [{"id": s, "limit_state": s, "factors": f} for s, f in made]
    if len(made) > 1 and made[1][0] == SERVICE[standard][0] and r.random() < 0.3:
        out["history"] = {"stages": [{"id": "a", "start_days": 10, "combination": made[1][0]}], "end_days": 3650}
    return out


def ended(document: dict[str, Any]) -> str:
    """How many rows and what is no pass; or the sentence of a refusal. Every trace is made, and the results document written."""
    try:
        outcome = pipeline.solve_floor(floor_from(document), rigorous=False, remedies=False)
    except RefusedError as error:
        return f"refused: {error}"
    json.dumps(results(outcome), allow_nan=False)
    assert all(row.trace is None or row.trace.steps is not None for row in outcome.rows)
    return f"{len(outcome.rows)} rows; {', '.join(f'{r.check} {r.status}' for r in outcome.verdict if r.status != 'pass')}"


def main() -> None:
    count, first = (int(a) for a in (*sys.argv[1:3], *("60", "0")[len(sys.argv) - 1 :]))
    broke = 0
    for seed in range(first, first + count):
        try:
            print(seed, ended(random_design(seed))[:160], flush=True)
        except Exception:
            broke += 1
            print(seed, "broke", traceback.format_exc(), flush=True)
    print(f"{broke} of {count} broke")


if __name__ == "__main__":
    main()
