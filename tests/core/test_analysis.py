"""Laws that every floor obeys: equilibrium, superposition, rotation of the plan, the exact envelope."""

import copy
import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from piastra.core.combine.envelope import Factors, envelope, governing_panels
from piastra.core.model import RefusedError, floor_from
from piastra.core.model.computed import computed_from
from piastra.core.pipeline import STAGES, probed, solve_floor
from piastra.core.stages import CancelledError, StageCache
from piastra.core.trace import Loaded
from piastra.core.trace.amounts import plain
from piastra.demo.saltmarsh import floors
from piastra.exchange.results_file import equilibrium
from tests.core.test_traces import agreeing
from tests.floors import edges, flat_slab, one_bay, plate, rectangle, spans, turned


def solved(document, **how):
    return solve_floor(floor_from(document), **how)


OTHERS = ("Roof", "fewer", "first draft")
"""They have nothing that others have not."""


@pytest.mark.parametrize(
    "floor",
    [pytest.param(f, marks=pytest.mark.study) if any(word in f.name for word in OTHERS) else f for f in floors()],
    ids=lambda f: f.name,
)
def test_demo_floors_balance_and_say_what_they_should(floor):
    # With the quick estimate of deflections, and without remedies: lives take minutes, remedies half a minute, and both have tests of their own.
    outcome = solve_floor(floor, rigorous=False, remedies=False)
    agreeing(outcome)
    for row in equilibrium(outcome):
        assert row["residual"] < 1e-6
        assert abs(row["lost_kN"]) <= 1e-3 * row["given_kN"]
    assert not [m for m in outcome.messages if m.severity == "warning"]
    if "boat" in floor.name:
        # On the ground there is no span whose sag could be limited, and the verdict says so.
        assert {r.check for r in outcome.verdict if r.status != "pass"} == {"deflection"}
        assert {z.source.kind for z in outcome.zones} == {"patch"}
        return
    if "fewer" in floor.name:
        assert {r.check for r in outcome.verdict if r.status != "pass"} == {"flexure", "crack_width", "stress_limits"}
        return
    if "draft" not in floor.name:
        # Nothing fails, and no check leaves anything out: the core's corners and ends and the winch have zones of their own.
        assert {r.status for r in outcome.verdict} == {"pass"}
        assert {z.source.kind for z in outcome.zones} >= {"column", "wall_end", "wall_corner"}
        return
    # Its mats over the columns are not gathered as an inner column asks for.
    assert {r.label.split(",")[0] for r in outcome.rows if r.status == "fail" and r.check == "flexure"} == {"top y"}
    assert {r.label for r in outcome.rows if r.status == "fail" and r.check == "punching"} == {"C2", "F1", "F3"}
    assert {r.label for r in outcome.rows if r.status == "fail" and r.check == "deflection"} == {"cantilever off F2"}
    # The balance of moments about the origin as well: every load acts down through its own point.
    for k in range(len(outcome.loads.units)):
        xy, w = outcome.meshed.mesh.xy, outcome.loads.vectors()[:, 2, k]
        moment = (xy * w[:, None]).sum(axis=0) + [
            -outcome.loads.vectors()[:, 3, k].sum(),
            -outcome.loads.vectors()[:, 4, k].sum(),
        ]
        held = outcome.stiffness.system.held
        F, Mx, My = outcome.solution.reactions[:, :, k].T
        at = np.array(held.centre)
        assert (F @ at + [-My.sum(), Mx.sum()]) == pytest.approx(moment, rel=1e-6, abs=1e-4)


def test_one_bay_with_every_support_and_load_balances():
    outcome = solved(one_bay())
    # The area load lies over the opening in part, and says so; all 14 strips fail, and eight have remedies.
    assert {(m.severity, m.where) for m in outcome.messages} == {("warning", "a2"), ("note", "remedies of strips")}
    for row in equilibrium(outcome):
        assert row["residual"] < 1e-6
    area = 36 - 1
    self_weight = 25 * (area * 0.25 + 1 * 0.15)
    assert outcome.loads.applied[0] == pytest.approx(self_weight, rel=1e-9)
    line = np.hypot(6, 0.7) * 6.5
    assert outcome.loads.applied[1] == pytest.approx(1.5 * area + line, rel=1e-9)


def test_bedded_slab_balances_and_lets_go_of_its_bed():
    bed = [{"id": "A", "kind": "area", "outline": rectangle(8, 3), "modulus_kN_m3": 30000, "compression_only": True}]
    document = plate(rectangle(8, 3), 0.3, 0.2, 0.4, bed)
    document["loads"] = [{"id": "p", "case": "Q", "kind": "point", "at": [0.6, 1.5], "F_kN": 200}]
    document["combinations"] = [{"id": "C", "limit_state": "characteristic", "factors": {"Q": 1.0}}]
    outcome = solved(document)
    assert equilibrium(outcome)[0]["residual"] < 1e-6
    u = outcome.combined.u["C"]
    w = u[:, 2]
    assert w.min() < 0 < w.max()
    held = outcome.stiffness.system.held
    node, _, block, _ = held.springs()
    contact = block[:, 2, 2] * np.maximum(w[node], 0.0)
    assert contact.sum() == pytest.approx(200.0, rel=1e-6)
    assert (contact * outcome.meshed.mesh.xy[node, 0]).sum() == pytest.approx(200.0 * 0.6, rel=1e-5)


def test_a_floor_that_lifts_off_entirely_is_refused():
    bed = [{"id": "A", "kind": "area", "outline": rectangle(4, 3), "modulus_kN_m3": 30000, "compression_only": True}]
    document = plate(rectangle(4, 3), 0.3, 0.2, 0.5, bed, q=-1.0)
    document["combinations"] = [{"id": "C", "limit_state": "ultimate", "factors": {"Q": 1.0}}]
    with pytest.raises(RefusedError, match="lifts off its bedding entirely under combination C"):
        solved(document)


def test_exact_envelope_is_the_worst_of_all_eight_arrangements():
    outcome = solved(spans(3))
    factors = outcome.combinations[0]
    points = np.array([[x, 0.4] for x in (1.0, 3.0, 6.0, 8.1, 9.0, 12.0, 16.7)])
    unit = np.concatenate(
        [
            probed(outcome, points).reshape(-1, 3),
            outcome.solution.reactions.reshape(-1, 3),
            outcome.strips.cuts.forces.reshape(-1, 3),
        ]
    )
    least, greatest = envelope(unit, factors)
    runs = []
    for chosen in itertools.product([0, 1], repeat=3):
        document = spans(3, pattern=False)
        document["loads"] = [
            {"id": f"q{i}", "case": "Q", "kind": "area", "q_kPa": 1.0, "outline": [[6 * i, 0], [6 * i + 6, 0], [6 * i + 6, 1], [6 * i, 1]]}
            for i in range(3) if chosen[i]
        ]  # fmt: skip
        one = solved(document)
        runs.append(np.concatenate([probed(one, points).ravel(), one.solution.reactions.ravel(), one.strips.cuts.forces.ravel()]))
    size = np.abs(greatest).max()
    assert np.abs(np.min(runs, axis=0) - least).max() < 1e-9 * size
    assert np.abs(np.max(runs, axis=0) - greatest).max() < 1e-9 * size
    hog = probed(outcome, np.array([[6.0, 0.5]]))[0, 1]
    assert governing_panels(hog, factors, outcome.loads.units, greatest=False) == (Loaded("Q", "P0"), Loaded("Q", "P1"))


def test_derived_panels_of_parallel_supports_are_the_spans():
    document = spans(3)
    del document["panels"]
    panels = solved(document).loads.panels
    assert sorted(round(p.area, 6) for _, p in panels) == [6.0, 6.0, 6.0]


@settings(max_examples=60, deadline=None)
@given(
    st.lists(st.floats(-50, 50), min_size=1, max_size=8),
    st.lists(st.floats(-2, 2), min_size=8, max_size=8),
    st.lists(st.booleans(), min_size=8, max_size=8),
)
def test_envelope_is_the_worst_arrangement_of_any_numbers(values, factor, pattern):
    n = len(values)
    f, p = np.array(factor[:n]), np.array(pattern[:n])
    factors = Factors("U", "ultimate", np.where(p, 0, f), np.where(p, f, 0))
    least, greatest = envelope(np.array(values), factors)
    every = [
        sum(v * a if not q else v * a * c for v, a, q, c in zip(values, f, p, chosen, strict=True))
        for chosen in itertools.product([0, 1], repeat=n)
    ]
    assert least == pytest.approx(min(every), abs=1e-9)
    assert greatest == pytest.approx(max(every), abs=1e-9)


def test_turning_the_plan_by_37_degrees_changes_nothing():
    document = one_bay()
    document["mesh"]["size_m"] = 0.25
    document["columns"][0]["shape"]["d_m"] = 0.6
    a, b = solved(document), solved(turned(document, 37.0))
    for case in range(2):
        F, G = a.solution.reactions[:, 0, case], b.solution.reactions[:, 0, case]
        assert np.abs(F - G).max() < 0.005 * np.abs(F).max()
        M, N = (np.hypot(*o.solution.reactions[0, 1:, case]) for o in (a, b))
        assert pytest.approx(N, rel=0.005) == M
    for place in ([4.0, 4.0], [1.5, 4.2], [4.5, 1.5]):
        c, s = np.cos(np.radians(37.0)), np.sin(np.radians(37.0))
        there = [c * place[0] - s * place[1], s * place[0] + c * place[1]]
        p, q = (probed(o, np.array([at]))[0, :, 1] for o, at in ((a, place), (b, there)))
        assert q[0] == pytest.approx(p[0], rel=0.005)
        principal = [np.array([(v[1] + v[2]) / 2 + r * np.hypot((v[1] - v[2]) / 2, v[3]) for r in (1, -1)]) for v in (p, q)]
        assert np.abs(principal[0] - principal[1]).max() < 0.005 * np.abs(principal[0]).max()
    use = [{r.label: r.utilisation for r in o.rows if r.check == "punching" and r.utilisation} for o in (a, b)]
    assert use[0] == pytest.approx(use[1], rel=0.01)


def test_a_floor_is_the_same_wherever_it_lies():
    """Columns beside edges and corners, a shaft whose walls stand on its opening's edge, and axes that are askew: far from the origin, and turned by a
    quarter, it has the same strips and zones, and nothing is left out."""
    document = flat_slab(2, 2, size=0.9)
    document["slabs"][0]["outline"] = [[-0.7, -0.7], [12.9, -0.7], [12.4, 12.7], [-0.7, 12.7]]
    for column, aside in zip(document["columns"], (0.0, 0.02, 0.05) * 3, strict=True):
        column["at"] = [column["at"][0], column["at"][1] + aside]
    shaft = [[8.0, 7.6], [9.7, 8.2], [9.1, 9.9], [7.4, 9.3]]
    document["openings"] = [{"id": "O", "outline": shaft}]
    document["walls"] = [
        {
            "id": "K",
            "line": [*shaft, shaft[0]],
            "thickness_m": 0.2,
            "concrete": "C30",
            "below": {"height_m": 3.2, "far_end": "fixed"},
        }
    ]
    away = copy.deepcopy(document)
    for item in [i for name in ("slabs", "columns", "openings", "walls") for i in away[name]]:
        for key in {"outline", "line"} & set(item):
            item[key] = [[p[0] + 3000.25, p[1] - 2000.5] for p in item[key]]
        if "at" in item:
            item["at"] = [item["at"][0] + 3000.25, item["at"][1] - 2000.5]
    here, *others = (solved(d) for d in (document, away, turned(document, 90.0)))
    assert len([z for z in here.zones if z.source.kind == "wall_corner"]) == 4
    for there, near in zip(others, (1e-6, 0.02), strict=True):
        assert not [r.label for o in (here, there) for r in o.rows if r.check == "punching" and r.status == "uncovered"]
        areas, lengths, use = zip(*((
            sorted(s.outline.area for s in o.strips.layout.strips), sorted(z.place.outline.perimeter.length for z in o.zones),
            {z.id: z.uses[0].utilisation for z in o.zones if z.source.list == "columns"},
        ) for o in (here, there)), strict=True)  # fmt: skip
        assert areas[1] == pytest.approx(areas[0], rel=1e-3)
        assert lengths[1] == pytest.approx(lengths[0], rel=1e-6)
        assert use[1] == pytest.approx(use[0], rel=near)


def test_doubling_a_load_doubles_its_effects_and_loads_superpose():
    base = one_bay()
    # Laws of any mesh.
    base["mesh"]["size_m"] = 0.5
    twice = copy.deepcopy(base)
    for load in twice["loads"]:
        for key in ("q_kPa", "F_kN", "Mx_kNm", "My_kNm"):
            if key in load:
                load[key] *= 2
        if "q_kN_m" in load:
            load["q_kN_m"] = [2 * q for q in load["q_kN_m"]]
    a, b = solved(base), solved(twice)
    u, v = a.solution.u[..., 1:], b.solution.u[..., 1:]
    assert np.abs(v - 2 * u).max() < 1e-9 * np.abs(u).max()
    assert np.abs(b.forces[..., 1:] - 2 * a.forces[..., 1:]).max() < 1e-9 * np.abs(a.forces).max()
    alone = []
    for k in range(1, 4):
        part = copy.deepcopy(base)
        # A point load refines the mesh, so a still one stays.
        part["loads"] = [
            {**part["loads"][k], "case": "D"},
            {"id": "still", "case": "D", "kind": "point", "at": base["loads"][3]["at"]},
        ]
        alone.append(solved(part).solution.u[..., 1])
    whole = copy.deepcopy(base)
    whole["loads"] = [{**l, "case": "D"} for l in whole["loads"][1:]]
    together = solved(whole).solution.u[..., 1]
    assert np.abs(sum(alone) - together).max() < 1e-9 * np.abs(together).max()


def test_stages_rerun_only_where_their_inputs_changed():
    cache = StageCache()
    document = flat_slab(2, 2, size=1.0)
    first = solved(document, cache=cache)
    assert set(first.ran) == {s.name for s in STAGES}
    document["loads"][0]["q_kPa"] = 5.0
    edited = solved(document, cache=cache).ran
    assert not {"plan", "mesh", "stiffness", "zone outlines", "shear lines"} & set(edited)
    assert {"loads", "solutions", "zones", "checks"} <= set(edited)
    document["mats"][0]["spacing_mm"] = 200
    # The bars' depths at the columns are as they were, so the zones' perimeters stand.
    assert set(solved(document, cache=cache).ran) == {
        "mats", "steel", "steel beside strips", "steel everywhere", "mats over zones", "bar groups", "bar reasons", "shear", "column bars", "columns met by bars", "tendon arrangement", "zone places", "zones", "remedies", "checks", "lasting checks",
        # Its sections crack otherwise, so the slab sags otherwise.
        "flanges", "body", "long term", "sags", "mends",
    }  # fmt: skip
    document["combinations"][0]["factors"]["Q"] = 1.6
    assert "solutions" not in solved(document, cache=cache).ran
    assert solved(document, cache=cache).ran == {}
    for name, items in (("probes", [{"id": "K", "at": [1, 1]}]), ("slices", [{"id": "X", "line": [[0, 3], [12, 3]]}]),
                        ("grid", [{"id": "A", "line": [[0, 0], [12, 0]]}]), ("name", "Another")):  # fmt: skip
        before = computed_from(floor_from(document))
        document[name] = items
        assert solved(document, cache=cache).ran == {}
        assert computed_from(floor_from(document)) == before


def test_a_thickness_that_changes_its_rank_meshes_nothing():
    """Two slabs side by side with a drop panel: the thinner slab becomes the thickest part, and no line moves."""
    cache = StageCache()
    document = flat_slab(2, 1, size=1.0)
    slab = document["slabs"][0]
    document["slabs"] = [
        {**slab, "id": "A", "outline": rectangle(6, 6)},
        {**slab, "id": "B", "outline": [[6, 0], [12, 0], [12, 6], [6, 6]]},
    ]
    document["thickenings"] = [{"id": "D", "outline": [[5, 2], [7, 2], [7, 4], [5, 4]], "thickness_m": 0.4}]
    solved(document, cache=cache)
    document["slabs"][1]["thickness_m"] = 0.5
    ran = solved(document, cache=cache).ran
    assert "stiffness" in ran
    assert not {"linework", "mesh", "ground"} & set(ran)


def test_a_run_can_be_cancelled_between_stages():
    seen = []
    with pytest.raises(CancelledError):
        solved(one_bay(), progress=lambda stage, share: seen.append(stage), cancelled=lambda: "mesh" in seen)
    assert seen[-1] == "mesh"


def test_mechanisms_are_refused_and_loose_floors_held_in_plane():
    one_line = [{"id": "L", "kind": "line", "line": [[0, 0], [0, 4]]}]
    with pytest.raises(RefusedError, match="can tip over"):
        solved(plate(rectangle(6, 4), 0.2, 0.2, 0.5, one_line))
    two = plate(rectangle(6, 4), 0.2, 0.2, 0.5, edges(rectangle(6, 4), "free"))
    two["slabs"].append({**two["slabs"][0], "id": "T", "outline": [[10, 0], [12, 0], [12, 2], [10, 2]]})
    with pytest.raises(RefusedError, match=r"piece around \(11.00, 1.00\) rests on nothing"):
        solved(two)
    outcome = solved(plate(rectangle(6, 4), 0.2, 0.2, 0.5, edges(rectangle(6, 4), "free")))
    assert any("not held in its own plane" in m.sentence for m in outcome.messages)


def test_what_stands_or_lies_beside_the_floor_is_told():
    document = one_bay()
    document["columns"].append({**document["columns"][0], "id": "C9", "at": [20, 20]})
    document["loads"].append(
        {"id": "off", "case": "D", "kind": "area", "outline": [[5, 5], [7, 5], [7, 7], [5, 7]], "q_kPa": 2.0}
    )
    outcome = solved(document)
    told = {m.where: plain(m.sentence) for m in outcome.messages}
    assert "stands outside the floor" in told["C9"]
    assert "6.00 kN of 8.00 kN is not applied" in told["off"]
    row = next(s for s in outcome.loads.sums if s.load == "off")
    assert (row.given_kN, row.on_floor_kN) == pytest.approx((8.0, 2.0), rel=1e-9)
