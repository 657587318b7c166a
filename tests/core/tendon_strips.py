"""Strips along x with tendons, which the tests of tendons share."""

import numpy as np

FREE = {"friction_mu": 0.0, "wobble_rad_m": 0.0, "draw_in_mm": 0.0}
STRAND = {"id": "S", "area_mm2": 150.0, "fpk_MPa": 1860.0, "fp01k_MPa": 1640.0}
NO_LOSS = {"long_term_loss": {"MPa": 0.0}, "elastic": "none"}
P = 150.0 * 1.0
"""kN of one strand at 1000 MPa."""


def points(*some):
    """Profile points of (s, z mm, tangent)."""
    return [{"s_m": float(s), "z_mm": float(z), "tangent": t} for s, z, t in some]


def strip(spans, tendons, h=0.3, width=1.0, **more):
    """A strip along x that line supports across hold at the ends of its spans, with cases for all three effects."""
    at = np.concatenate([[0.0], np.cumsum(spans)])
    return {
        "format": "piastra-floor", "version": 1,
        "concretes": [{"id": "C", "strength_MPa": 40.0, "E_MPa": 30000.0, "poisson": 0.0}],
        "rebars": [{"id": "B", "yield_MPa": 500.0}],
        "slabs": [{"id": "S", "outline": [[0, 0], [float(at[-1]), 0], [float(at[-1]), width], [0, width]], "thickness_m": h, "concrete": "C",
                   "rebar": "B", "cover_top_mm": 25.0, "cover_bottom_mm": 25.0}],
        "supports": [{"id": f"L{k}", "kind": "line", "line": [[float(x), 0.0], [float(x), width]], "rotation": "free"} for k, x in enumerate(at)],
        "strands": [{**STRAND, **FREE}], "tendons": tendons, "prestress": NO_LOSS,
        "load_cases": [{"id": "G", "nature": "self_weight"}, {"id": "PT", "nature": "prestress", "effect": "transfer"},
                       {"id": "PF", "nature": "prestress", "effect": "final"}, {"id": "PS", "nature": "prestress", "effect": "secondary"}],
        "combinations": [{"id": "U", "limit_state": "ultimate", "factors": {"G": 1.35, "PS": 1.0}},
                         {"id": "C", "limit_state": "characteristic", "factors": {"G": 1.0, "PF": 1.0}}],
        "mesh": {"size_m": 0.25}, **more,
    }  # fmt: skip


def tendon(profile, y=0.5, length=None, **more):
    end = profile[-1]["s_m"] if length is None else length
    return {"id": "T", "strand": "S", "line": [[0.0, y], [end, y]], "jack_MPa": 1000.0, "profile": profile, **more}


def cut_forces(outcome, case):
    """Moment and axial force (c,) of the whole strip at its stations along x under a case, and where (m)."""
    cuts, layout = outcome.strips.cuts, outcome.strips.layout
    along = np.array([layout.strips[k].direction == "x" for k in cuts.strip])
    unit = outcome.loads.of_case(case)[0]
    return cuts.ends[along].mean(axis=1)[:, 0], cuts.forces[along][:, 0, unit], cuts.forces[along][:, 3, unit]


def reactions(outcome, case):
    unit = outcome.loads.of_case(case)[0]
    return outcome.solution.reactions[:, 0, unit]


# Curves


def rows_of(outcome, check):
    return [r for r in outcome.rows if r.check == check]


def checked_strip(**more):
    """10 m, 300 mm, eight strands at e 100 mm in the middle: P 1200 kN; with a live load and steel."""
    data = strip([10.0], [tendon(points((0, -150, "free"), (5, -250, "level"), (10, -150, "free")), count=8)], **more)
    data["load_cases"].append({"id": "Q", "nature": "live", "pattern": True})
    data["loads"] = [{"id": "q", "case": "Q", "kind": "area", "q_kPa": 10.0}]
    data["combinations"] = [
        {"id": "U", "limit_state": "ultimate", "factors": {"G": 1.35, "Q": 1.5, "PS": 1.0}},
        {"id": "C", "limit_state": "characteristic", "factors": {"G": 1.0, "Q": 1.0, "PF": 1.0}},
        {"id": "T", "limit_state": "transfer", "factors": {"G": 1.0, "PT": 1.0}},
        {"id": "K", "limit_state": "quasi_permanent", "factors": {"G": 1.0, "Q": 0.3, "PF": 1.0}},
    ]
    data["mats"] = [
        {"id": f"{f} {d}", "face": f, "direction": d, "bar_mm": 16, "spacing_mm": 150} for f in ("bottom", "top") for d in "xy"
    ]
    return data


def middle_cut(outcome, case="G"):
    """Number of the cut nearest to the middle of the strip along x."""
    cuts, layout = outcome.strips.cuts, outcome.strips.layout
    along = np.array([layout.strips[k].direction == "x" for k in cuts.strip])
    x = np.where(along, cuts.ends.mean(axis=1)[:, 0], np.inf)
    return int(np.abs(x - 5.0).argmin())
