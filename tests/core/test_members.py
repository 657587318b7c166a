"""Beams, filled recesses and regions of other stiffness in the section values, and curved walls."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from piastra.core.fe.section import sections, strain_turned
from piastra.core.model import floor_from
from piastra.core.model.footprint import beam_outline, torsion_constant
from tests.floors import flat_slab
from tests.solving import solve_floor


@pytest.mark.parametrize(("ratio", "beta"), [(1.0, 0.141), (1.5, 0.196), (2.0, 0.229), (3.0, 0.263), (10.0, 0.312)])
def test_torsion_constant_against_the_tabled_factors(ratio, beta):
    # J = beta a b3 (Timoshenko and Goodier 1970, table in art. 109), either side first.
    assert torsion_constant(ratio * 0.3, 0.3) == pytest.approx(beta * ratio * 0.3 * 0.3**3, rel=5e-3)
    assert torsion_constant(0.3, ratio * 0.3) == torsion_constant(ratio * 0.3, 0.3)


@settings(max_examples=50, deadline=None)
@given(st.floats(-np.pi, np.pi), st.floats(-1, 1), st.floats(-1, 1), st.floats(-1, 1))
def test_turning_strains_keeps_their_invariants_and_turns_back(angle, xx, yy, xy):
    strain = np.array([xx, yy, xy])
    T = strain_turned(np.array([angle]))[0]
    turned = T @ strain
    assert turned[0] + turned[1] == pytest.approx(xx + yy, abs=1e-12)
    assert turned[0] * turned[1] - turned[2] ** 2 / 4 == pytest.approx(xx * yy - xy**2 / 4, abs=1e-12)
    assert strain_turned(np.array([-angle]))[0] @ turned == pytest.approx(strain, abs=1e-12)


def test_factors_in_turned_axes_leave_an_isotropic_section_as_it_is_and_soften_one_direction():
    one = np.ones(1)
    plain = sections(30e6 * one, 0.2 * one, 0.25 * one, 0 * one)
    same = sections(30e6 * one, 0.2 * one, 0.25 * one, 0 * one, np.ones((1, 6)), np.array([0.7]))
    assert same.own == pytest.approx(plain.own, rel=1e-12, abs=1e-12 * plain.own.max())
    soft = np.array([[1, 1, 1, 1, 0.5, 1.0]])
    across = sections(30e6 * one, 0 * one, 0.25 * one, 0 * one, soft, np.array([np.pi / 2]))
    # At a right angle, across the factors' axes is along x.
    assert across.own[0, 0, 0] == pytest.approx(0.5 * 30e6 * 0.25**3 / 12)
    assert across.own[0, 1, 1] == pytest.approx(30e6 * 0.25**3 / 12)


def applied(document, case="G"):
    outcome = solve_floor(floor_from(document))
    return outcome.solution.reactions[:, 0][:, outcome.loads.of_case(case)].sum()


def test_self_weight_of_a_beam_counts_its_depth_once_and_a_recess_its_fill():
    base = flat_slab(1, 1, size=1.0)
    start = applied(base)
    beam = {"id": "B1", "line": [[0, 3], [6, 3]], "width_m": 0.4, "depth_m": 0.65, "concrete": "C30"}
    assert applied({**base, "beams": [beam]}) - start == pytest.approx(25 * 6 * 0.4 * (0.65 - 0.25), rel=1e-6)
    recess = {"id": "R", "kind": "recess", "outline": [[2, 2], [4, 2], [4, 4], [2, 4]], "thickness_m": 0.15, "top_offset_m": -0.1}
    assert applied({**base, "thickenings": [recess]}) - start == pytest.approx(-25 * 4 * 0.1, rel=1e-6)
    filled = {**recess, "fill_kN_m3": 20.0}
    assert applied({**base, "thickenings": [filled]}) - start == pytest.approx((20 - 25) * 4 * 0.1, rel=1e-6)


def test_a_beam_carries_its_slab_and_its_columns_are_not_checked_for_punching():
    base = flat_slab(1, 1, size=0.8)
    stiff = {**base, "beams": [
        {"id": f"B{k}", "line": line, "width_m": 0.4, "depth_m": 0.7, "concrete": "C30"}
        for k, line in enumerate(([[0, 0], [6, 0]], [[0, 6], [6, 6]], [[0, 0], [0, 6]], [[6, 0], [6, 6]]))
    ]}  # fmt: skip
    with_beams = solve_floor(floor_from(stiff))
    assert with_beams.solution.u[:, 2].max() < 0.5 * solve_floor(floor_from(base)).solution.u[:, 2].max()
    told = {m.where: m.sentence for m in with_beams.messages}
    assert "not checked for punching" in told["C00"]
    assert "B0" not in told
    verdict = {r.id.check: r for r in with_beams.verdict}
    assert verdict["punching"].status == "uncovered"
    # Bars and links suffice everywhere; only the shear of the flanges is told as not checked.
    rows = [r for r in with_beams.rows if r.check == "beams"]
    assert {(r.status, "flanges" in r.id.part) for r in rows} == {("pass", False), ("pass", True)}
    assert verdict["beams"].status == "pass"
    assert {r.id.of.id for r in with_beams.rows if r.id.check == "beams"} == {"B0", "B1", "B2", "B3"}


def test_a_curved_wall_holds_the_floor_as_its_chords_do():
    base = flat_slab(2, 2, size=0.7)
    base["columns"] = base["columns"][:3]
    curve = [[2, 6, -0.5], [10, 6]]
    wall = {"id": "W", "line": curve, "thickness_m": 0.2, "concrete": "C30", "below": {"height_m": 3.2}}
    arc = solve_floor(floor_from({**base, "walls": [wall]}))
    from piastra.core.geometry.arcs import polyline

    straight = {**wall, "line": polyline(curve, 0.49).tolist()}
    chords = solve_floor(floor_from({**base, "walls": [straight]}))
    of_arc, of_chords = (o.solution.reactions[o.stiffness.system.held.labels.index("W"), 0].sum() for o in (arc, chords))
    assert of_arc == pytest.approx(of_chords, rel=1e-3)
    assert of_arc > 100


def test_a_beam_along_a_bent_line_has_mitred_corners():
    document = flat_slab(1, 1)
    document["beams"] = [{"id": "B", "line": [[0, 0], [4, 0], [4, 3]], "width_m": 0.4, "depth_m": 0.5, "concrete": "C30"}]
    outline = beam_outline(floor_from(document).beams[0])
    assert outline.area == pytest.approx(0.4 * 7, rel=1e-9)
    assert outline.bounds == pytest.approx((0, -0.2, 4.2, 3))
