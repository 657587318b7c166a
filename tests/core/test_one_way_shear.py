"""One-way shear beside what carries the slab on a line."""

from dataclasses import replace

import numpy as np
import pytest
import shapely
from shapely.geometry import box

from piastra.core.mesh import singular
from piastra.core.model import floor_from
from piastra.core.pipeline import scheduled
from piastra.core.shear.links import SlabLinks, carry
from piastra.core.shear.places import lines_of, within
from piastra.core.shear.scheduling import links_of_slabs
from piastra.core.shear.shear import thickness_for
from piastra.core.standards import standard_of
from piastra.core.trace.amounts import plain
from tests.floors import flat_slab
from tests.solving import solve_floor


def one_way(q=60.0, bar=16, spacing=150, span=6.0, thickness=0.25, walls=False):
    """A slab of 4 m by ``span`` between two lines (or walls of 300 mm with hinged tops)."""
    data = flat_slab(1, 1, size=0.3)
    data["columns"] = []
    data["slabs"][0].update(outline=[[0, 0], [span, 0], [span, 4], [0, 4]], thickness_m=thickness)
    ends = [[[x, 0], [x, 4]] for x in (0, span)]
    if walls:
        data["walls"] = [
            {"id": f"W{k}", "line": line, "thickness_m": 0.3, "concrete": "C30", "below": {"height_m": 3.0}, "top": "hinged"}
            for k, line in enumerate(ends)
        ]  # fmt: skip
    else:
        data["supports"] = [
            {"id": f"L{k}", "kind": "line", "line": line, "vertical": "fixed", "rotation": "free"} for k, line in enumerate(ends)
        ]  # fmt: skip
    # Without Poisson's ratio a strip is a beam, and its corners take no more than the rest.
    data["concretes"][0]["poisson"] = 0.0
    data["load_cases"] = [{"id": "Q", "nature": "live"}]
    data["loads"] = [{"id": "q", "case": "Q", "kind": "area", "q_kPa": q}]
    data["combinations"] = [{"id": "U", "limit_state": "ultimate", "factors": {"Q": 1.0}}]
    for mat in data["mats"]:
        mat.update(bar_mm=bar, spacing_mm=spacing)
    return data


def in_halves(*q):
    """The slab with loads ``q`` (kPa) on either half of its width, and the outlines of these."""
    data = one_way(q=0.0)
    halves = [[[0, 0], [6, 0], [6, 2], [0, 2]], [[0, 2], [6, 2], [6, 4], [0, 4]]]
    data["loads"] = [
        {"id": f"q{k}", "case": "Q", "kind": "area", "q_kPa": load, "outline": o}
        for k, (load, o) in enumerate(zip(q, halves, strict=True))
    ]
    return data, halves


@pytest.mark.parametrize("walls", [False, True])
def test_shear_at_the_effective_depth_from_a_support(walls):
    """q (L / 2 - d - t / 2) = 60 (3 - 0.213 - ...): the least effective depth, 250 - 25 - 12 = 213 mm, from the line or the face."""
    outcome = solve_floor(floor_from(one_way(walls=walls)))
    found = {u.of[1]: u for u in outcome.shear}
    assert set(found) == ({"W0", "W1"} if walls else {"L0", "L1"})
    expected = 60 * (3.0 - 0.213 - (0.15 if walls else 0.0))
    for u in found.values():
        assert u.v == pytest.approx(expected, rel=0.02)
        # The resultant runs across the line.
        assert abs(np.cos(u.angle)) == pytest.approx(1.0, abs=1e-9)
        # Bars along x lie in the outer layer: d = 250 - 25 - 8 = 217, rho = 1340 / 217,000.
        assert float(u.place.d[0]) == pytest.approx(0.217)
        assert float(u.place.rho_l[0]) == pytest.approx(np.pi * 0.016**2 / 4 / 0.15 / 0.217)
        # 0.12 x 1.960 x (0.618 x 30)^(1/3) = 0.6226 MPa x 217 = 135 kN/m.
        assert u.resistance == pytest.approx(135.1, rel=5e-3)
    row = next(r for r in outcome.verdict if r.check == "shear")
    assert row.status == "fail"
    assert row.utilisation == pytest.approx(expected / 135.1, rel=0.03)
    # What it takes is told, and it is enough: a slab so thick carries it.
    note = row.trace.steps[-1].note
    thick = float(plain(note).split(" mm")[0].split()[-1]) / 1e3
    u = found[row.id.of.id]
    assert thickness_for(outcome.standard.shear, u.place, u.v) == note
    again = solve_floor(floor_from(one_way(walls=walls, thickness=thick)))
    assert next(r for r in again.verdict if r.check == "shear").status == "pass"


def test_thicker_bars_and_compression_help_and_no_bars_leave_it_unchecked():
    use = {
        bar: next(r.utilisation for r in solve_floor(floor_from(one_way(q=40, bar=bar))).verdict if r.check == "shear")
        for bar in (16, 25)
    }
    assert use[25] < use[16] < 1
    bare = {**one_way(), "mats": []}
    row = next(r for r in solve_floor(floor_from(bare)).verdict if r.check == "shear")
    assert row.status == "unchecked"
    assert "no mats" in row.reason


def test_the_stretched_bars_count():
    """A hinged line: the slab sags at d from it, so bottom bars count and thicker top bars do not help; above a middle line it hogs."""
    data = one_way(q=40)
    for mat in data["mats"]:
        mat.update(bar_mm=25 if mat["face"] == "top" else 16)
    data["supports"].append({"id": "M", "kind": "line", "line": [[3, 0], [3, 4]], "vertical": "fixed", "rotation": "free"})
    found = {u.of[1]: u for u in solve_floor(floor_from(data)).shear}
    assert (found["L0"].face, found["L1"].face, found["M"].face) == (0, 0, 1)
    for name, bar in (("L0", 0.016), ("M", 0.025)):
        depth = 0.25 - 0.025 - bar / 2
        assert float(found[name].place.d[0]) == pytest.approx(depth)
        assert float(found[name].place.rho_l[0]) == pytest.approx(np.pi * bar**2 / 4 / 0.15 / depth)


def test_a_wall_without_a_line_to_check_is_told():
    """A short wall that columns stand close around has no line clear of them."""
    data = one_way()
    data["walls"] = [{"id": "W", "line": [[2.9, 2], [3.1, 2]], "thickness_m": 0.2, "concrete": "C30", "below": {"height_m": 3.0}}]
    rows = [r for r in solve_floor(floor_from(data)).rows if r.check == "shear"]
    told = next(r for r in rows if r.id.of.id == "W")
    assert told.status == "uncovered"
    assert "not checked" in told.reason


def test_lines_lie_where_they_should_and_keep_clear_of_columns():
    """A wall's two faces, a beam's two faces, a band's outline; pieces of at most 2 d; nothing within d of a column."""
    data = flat_slab(2, 2, size=1.0)
    data["walls"] = [{"id": "W", "line": [[2, 3], [10, 3]], "thickness_m": 0.2, "concrete": "C30", "below": {"height_m": 3.0}}]
    data["beams"] = [{"id": "B", "line": [[0, 9], [12, 9]], "width_m": 0.4, "depth_m": 0.6, "concrete": "C30"}]
    data["thickenings"] = [{"id": "T", "kind": "band", "outline": [[1, 5], [11, 5], [11, 7], [1, 7]], "thickness_m": 0.4}]
    floor = floor_from(data)
    columns = [box(5.8, 5.8, 6.2, 6.2), box(5.8, 2.6, 6.2, 3.0)]
    found = lines_of(floor, box(-0.2, -0.2, 12.2, 12.2), columns, 0.2)
    assert found.carried == (("walls", "W"), ("beams", "B"), ("thickenings", "T"))
    xy = {ref: found.xy[found.of == k].reshape(-1, 2) for k, ref in enumerate(found.carried)}
    assert sorted(set(np.round(xy[("walls", "W")][:, 1], 6))) == pytest.approx([2.7, 3.3])
    assert sorted(set(np.round(xy[("beams", "B")][:, 1], 6))) == pytest.approx([8.6, 9.4])
    assert xy[("thickenings", "T")].min(axis=0) == pytest.approx([0.8, 4.8], abs=0.06)
    near = shapely.union_all([c.buffer(0.2) for c in columns])
    assert not any(shapely.contains_xy(near, p[:, 0], p[:, 1]).any() for p in xy.values())
    assert found.length.max() <= 2 * 0.2 + 1e-9
    # The points are the middles of equal shares, so that the pieces beside the wall add up: 8 m to both sides, less what is the column's.
    wall = found.of == 0
    assert found.length[wall].sum() == pytest.approx(16 - (0.4 + 2 * 0.201), abs=1e-6)


def core(*lines):
    """Walls 0.2 m thick along lines, without columns."""
    data = flat_slab(2, 2, size=1.0)
    data["columns"] = []
    data["walls"] = [
        {"id": f"W{k}", "line": line, "thickness_m": 0.2, "concrete": "C30", "below": {"height_m": 3.0}}
        for k, line in enumerate(lines)
    ]
    return data


def test_a_core_is_looked_at_alike_as_one_bent_wall_and_as_several():
    """What is nearer to a wall than d goes into it by itself: the lines along its neighbours end there, as they do where the wall is bent."""
    a, b, c, d = [4, 4], [8, 4], [8, 8], [4, 8]
    region = box(-0.2, -0.2, 12.2, 12.2)

    def lengths(*lines):
        """Of pieces within the core and around it, m."""
        found = lines_of(floor_from(core(*lines)), region, [], 0.2)
        inside = (np.abs(found.xy - 6) < 2).all(axis=(1, 2))
        return np.array([found.length[inside].sum(), found.length[~inside].sum()])

    # 4 m less 0.3 m at each inner corner; a wall bent around an outer one has twice 0.3 m more there.
    assert lengths([a, b, c, d, a]) == pytest.approx([4 * 3.4, 4 * 4.6])
    assert lengths([a, b], [b, c], [c, d], [d, a]) == pytest.approx([4 * 3.4, 4 * 4.0], abs=0.01)
    assert lengths([a, b, c]) == pytest.approx([2 * 3.7, 2 * 4.3])
    assert lengths([a, b], [b, c]) == pytest.approx([2 * 3.7, 2 * 4.0], abs=0.01)
    # Further out, for links, it is still d from the other wall that counts.
    further = lines_of(floor_from(core([a, b], [b, c])), region, [], 0.2, 0.5)
    inner = further.xy[(further.of == 0) & (further.middle[:, 1] > 4)]
    assert inner[..., 0].max() == pytest.approx(8 - 0.3, abs=0.05)


def test_a_wall_under_a_wider_beam_is_looked_at_all_the_same():
    """Its lines lie nearer to the beam than d all along; part of them, and they would end there."""
    data = core([[2, 6], [10, 6]])
    data["beams"] = [{"id": "B", "line": [[2, 6], [10, 6]], "width_m": 0.5, "depth_m": 0.6, "concrete": "C30"}]
    region = box(-0.2, -0.2, 12.2, 12.2)
    found = lines_of(floor_from(data), region, [], 0.2)
    assert [found.length[found.of == k].sum() for k in range(2)] == pytest.approx([16.0, 16.0])
    data["beams"][0]["line"] = [[2, 6], [6, 6]]
    found = lines_of(floor_from(data), region, [], 0.2)
    assert [found.length[found.of == k].sum() for k in range(2)] == pytest.approx([8.0, 8.0])


@pytest.mark.parametrize("kind", ["band", "drop_panel"])
def test_there_is_no_step_between_the_pieces_of_a_thick_region(kind):
    data, region, column = flat_slab(2, 2, size=1.0), box(-0.2, -0.2, 12.2, 12.2), box(3.4, 5.8, 3.8, 6.2)

    def around(*pieces, columns=()):
        data["thickenings"] = [
            {"id": f"T{x}", "kind": kind, "outline": [[x, 5], [u, 5], [u, 7], [x, 7]], "thickness_m": h} for x, u, h in pieces
        ]
        found = lines_of(floor_from(data), region, columns, 0.2)
        return {of[1]: found.length[found.of == k].sum() for k, of in enumerate(found.carried)}

    assert around((1, 11, 0.4)) == pytest.approx({"T1": 24 + 8 * 0.2})
    # 4 x 2 m and 6 x 2 m with a common side: what lies upon the other is no step.
    assert around((1, 5, 0.4), (5, 11, 0.4)) == pytest.approx({"T1": 10 + 6 * 0.2, "T5": 14 + 6 * 0.2}, abs=0.01)
    assert around((1, 5, 0.4), (5, 11, 0.5)) == pytest.approx({"T1": 10 + 6 * 0.2, "T5": 16 + 8 * 0.2}, abs=0.01)
    # A drop in two pieces stands on its column with both.
    assert bool(around((3, 4, 0.4), (4, 5, 0.4), columns=[column])) == (kind == "band")


def test_beside_a_thicker_slab_and_within_a_recess_the_thinner_concrete_is_looked_at():
    """By hand: what stands on the thin slab beyond the line passes it, and in the recess what lies between it and the middle."""
    data = one_way(q=25.0, span=6.0, thickness=0.4)
    data["mesh"] = {"size_m": 0.12}
    thick = data["slabs"][0]
    thick["outline"] = [[0, 0], [6.5, 0], [6.5, 4], [0, 4]]
    data["slabs"].append({**thick, "id": "T", "outline": [[6.5, 0], [8, 0], [8, 4], [6.5, 4]], "thickness_m": 0.15})
    use = {u.of: u for u in solve_floor(floor_from(data)).shear}["slabs", thick["id"]]
    assert 6.55 < use.at[0] < 6.65
    assert use.v == pytest.approx(25 * (8 - use.at[0]), rel=0.03)
    assert float(use.place.h[0]) == pytest.approx(0.15)
    row = next(r for r in solve_floor(floor_from(data)).rows if r.id.of.kind == "slabs" and r.check == "shear")
    assert row.label == f"step of {thick['id']}"

    data = one_way(q=25.0, span=6.0, thickness=0.4)
    data["mesh"] = {"size_m": 0.12}
    bare = [u.of for u in solve_floor(floor_from(data)).shear]
    recess = {
        "id": "R",
        "kind": "recess",
        "outline": [[2, 0], [4, 0], [4, 4], [2, 4]],
        "thickness_m": 0.15,
        "top_offset_m": -0.25,
    }
    found = {u.of: u for u in solve_floor(floor_from({**data, "thickenings": [recess]})).shear}
    assert found.keys() - bare == {("slabs", thick["id"])}
    links = within(floor_from({**data, "thickenings": [recess]}), ("slabs", thick["id"]), 0.5, box(0, 0, 6, 4))
    assert sorted(np.round(p.bounds, 6).tolist() for p in links) == [[2.0, 0.0, 2.5, 4.0], [3.5, 0.0, 4.0, 4.0]]
    use = found["slabs", thick["id"]]
    assert 2.3 < 3 - abs(3 - use.at[0]) < 2.4
    assert use.v == pytest.approx(25 * abs(3 - use.at[0]), rel=0.03)


def test_what_passes_a_narrow_groove_is_looked_at_in_its_middle():
    """Half of the load beyond it, which all passes 0.15 m of concrete, stands for no less because the groove is narrower than twice the depth."""
    data = one_way(q=25.0, span=6.0, thickness=0.4)
    data["mesh"] = {"size_m": 0.12}
    groove = {
        "id": "R",
        "kind": "recess",
        "outline": [[1, 0], [1.4, 0], [1.4, 4], [1, 4]],
        "thickness_m": 0.15,
        "top_offset_m": -0.25,
    }
    (use,) = [u for u in solve_floor(floor_from({**data, "thickenings": [groove]})).shear if u.of[0] == "slabs"]
    assert 1.1 < use.at[0] < 1.3
    assert float(use.place.h[0]) == pytest.approx(0.15)
    assert use.v == pytest.approx(25 * (3 - use.at[0]), rel=0.05)
    assert use.utilisation > 0.4


def test_beside_a_thick_region_shear_is_looked_at_across_it():
    """A band between two columns twists the slab beside it: along its edge shear balances the leap of the twisting moment, and is no force
    upon the slab."""
    data = flat_slab(1, 1, size=0.4)
    data["thickenings"] = [
        {"id": "B", "kind": "band", "outline": [[-0.2, 2], [6.2, 2], [6.2, 3], [-0.2, 3]], "thickness_m": 0.45}
    ]
    use = {u.of[1]: u for u in solve_floor(floor_from(data)).shear}["B"]
    assert abs(np.sin(use.angle)) == pytest.approx(1.0, abs=1e-9)


@pytest.mark.parametrize("at", [6.0, 6.1, 5.7, 4.9])
def test_along_the_face_of_a_column_as_wide_as_its_beam_shear_is_punchings(at):
    """The line beside the beam touches what lies no further than d from the column, whichever way numbers are rounded."""
    data = flat_slab(2, 2, size=1.0)
    data["beams"] = [{"id": "B", "line": [[0, at], [12, at]], "width_m": 0.4, "depth_m": 0.6, "concrete": "C30"}]
    for depth in (0.2, 0.213, 0.1731):
        found = lines_of(floor_from(data), box(-0.2, -0.2, 12.2, 12.2), [box(5.8, at - 0.2, 6.2, at + 0.2)], depth)
        x = found.xy[..., 0]
        assert ((x < 5.8) | (x > 6.2)).all()
        assert x.min() < 5.7
        assert x.max() > 6.3


def linked(q, **more):
    data = one_way(q=q)
    data.update(design_links=True, **more)
    return solve_floor(floor_from(data))


def test_links_of_a_slab_by_hand():
    """EN: v = 90 (3 - 0.213) = 250.8 kN/m, z = 0.8 x 217 = 173.6 mm: 250.8 / (0.1736 x 434.8 x 2.5) = 1,329 mm2/m2. Legs along at most
    0.75 d = 163: 150 mm; 50.3 mm2 / (150 x 1,329e-6) = 252: 250 mm across, and no more than 1.5 d. Struts: 250.8 x 2.9 / (173.6 x 10.56) = 0.397.
    The concrete's 135.1 kN/m is reached 3 - 1.50 = 1.50 m from the line."""
    outcome = linked(90.0)
    for u in outcome.shear:
        links = u.links
        assert u.bare == pytest.approx(250.8 / 135.1, rel=0.02)
        assert links.asked == pytest.approx(1.329e-3, rel=0.02)
        assert (links.bar, links.along, links.across) == (0.008, pytest.approx(0.15), pytest.approx(0.25))
        assert links.struts == pytest.approx(0.397, rel=0.02)
        assert links.beyond <= 1 < links.beyond + 90 * 0.12 / 135.1
        assert links.reach == pytest.approx(1.5, abs=0.12)
        assert u.utilisation == pytest.approx(max(links.asked / links.area, links.beyond))
        # Over the whole width, as far as they reach from the line.
        assert sum(p.area for p in links.places) == pytest.approx(4 * links.reach, rel=1e-6)
    assert next(r for r in outcome.verdict if r.check == "shear").status == "pass"
    legs = [s for s in scheduled(outcome) if ".S" in s.group.mark]
    assert sum(s.count for s in legs) == pytest.approx(
        sum(4 * u.links.reach / (0.15 * u.links.across) for u in outcome.shear), abs=2
    )
    # 250 less covers of 25 mm, with its hooks.
    assert legs[0].length == pytest.approx(0.2 + 0.2)
    # A wall and a beam of one name: no mark names the legs of both.
    alike = links_of_slabs(outcome.floor, [replace(u, of=(u.of[0], "A")) for u in outcome.shear], lambda _: "")
    assert [s.group.mark for s in alike] == [f"A.S{k + 1}" for k in range(len(legs))]
    assert len(legs) > 1
    # Where the concrete does, and where nobody asks for links, there are none.
    assert all(u.links is None for u in linked(40.0).shear)
    assert all(u.links is None for u in solve_floor(floor_from(one_way(q=90.0))).shear)


def test_links_of_aci_by_hand():
    """phi V_c = 0.75 x 0.17 x sqrt(30) x 217 = 151.5 kN/m with least links; (250.8 - 151.5) / (0.75 x 420 x 217) = 1,452 mm2/m2; d / 2: 100 mm
    both ways."""
    data = one_way(q=90.0)
    data.update(standard="ACI 318-19", design_links=True)
    for u in solve_floor(floor_from(data)).shear:
        assert u.links.asked == pytest.approx(1.452e-3, rel=0.04)
        assert u.links.along == pytest.approx(0.1)
        assert u.links.across <= 0.1 + 1e-9
        assert u.links.struts == pytest.approx(250.8 / (151.5 + 0.75 * 0.66 * 30**0.5 * 217), rel=0.02)


def test_links_mend_no_thin_slab_and_no_crushed_strut():
    """EN 1992-1-1, 9.3.2 (1): from 200 mm on."""
    data = one_way(q=60.0, thickness=0.19)
    data["design_links"] = True
    row = next(r for r in solve_floor(floor_from(data)).verdict if r.check == "shear")
    assert row.status == "fail"
    assert any("Too thin" in s.note for s in row.trace.steps)
    crushed = linked(400.0)
    assert all(u.utilisation > 1 and u.links.struts > 1 for u in crushed.shear)


def test_links_for_less_than_elements_may_hide_are_no_pass(monkeypatch):
    """Links are for the 60 (3 - 0.213) = 167 kN/m that elements tell of. Of 1.4 m in 250 mm deep concrete they may hide as much again, there and
    where links end, and where slopes of moments are not told, seven tenths."""
    monkeypatch.setattr(singular, "LAYER", singular.BOUNDED)
    data = one_way(q=60.0)
    data.update(design_links=True, mesh={"size_m": 1.4})
    outcome = solve_floor(floor_from(data))
    assert next(r for r in outcome.verdict if r.check == "shear").status == "uncovered"
    told = [r.reason for r in outcome.rows if r.id.part.startswith("mesh ")]
    for u in outcome.shear:
        assert u.utilisation <= 1
        # Nine or ten pieces of two effective depths along 4 m, both where links begin and where they end.
        away = np.array([min(p.at[0], 6 - p.at[0]) for p in u.unresolved])
        outside = away > 0.22
        assert min(outside.sum(), (~outside).sum()) >= 9
        assert away[outside] == pytest.approx(u.links.reach)
        assert all(p.large and p.most > 1.8 * 60 * (3 - x) for x, p in zip(away, u.unresolved, strict=True))
        assert [p.v > p.resistance for p in u.unresolved] == (~outside).tolist()
    assert [("what the links there carry" in reason) for reason in told] == [
        p.v > p.resistance for u in outcome.shear for p in u.unresolved
    ]
    # Elements of 0.4 m are not too large; those at free edges tell no slopes of moments.
    outcome = solve_floor(floor_from({**data, "mesh": {"size_m": 0.4}}))
    pieces = [p for u in outcome.shear for p in u.unresolved]
    assert pieces
    assert all(p.narrow and not p.large and p.most == pytest.approx(1.7 * 60 * 2.787, rel=0.05) for p in pieces)
    assert next(r for r in outcome.verdict if r.check == "shear").status == "uncovered"


def test_shear_that_is_the_elements_own_may_be_seven_tenths_more(monkeypatch):
    """1.7 x 32 (3 - 0.213) = 152 kN/m are more than a tenth beyond the concrete's 135, 1.7 x 28 x 2.787 = 133 are not."""
    monkeypatch.setattr(singular, "LAYER", singular.BOUNDED)
    for q, doubtful in ((32.0, True), (28.0, False)):
        data = one_way(q=q)
        data["mesh"] = {"size_m": 0.4}
        found = solve_floor(floor_from(data)).shear
        assert all(u.utilisation < 0.7 and bool(u.unresolved) == doubtful for u in found)


def test_links_are_spaced_for_the_thinnest_concrete_that_needs_them():
    """Half of the slab is 250 mm, half 210: 0.75 x (210 - 25 - 8) = 133: 125 mm along, though the greater shear over the depth is in the other half."""
    data, halves = in_halves(70.0, 110.0)
    data["slabs"] = [
        {**data["slabs"][0], "id": f"S{k}", "outline": o, "thickness_m": t}
        for k, (t, o) in enumerate(zip((0.21, 0.25), halves, strict=True))
    ]
    data["design_links"] = True
    for u in solve_floor(floor_from(data)).shear:
        if u.of[0] == "supports":
            assert u.at[1] > 2.0
            assert float(u.place.h[0]) == pytest.approx(0.25)
            assert u.links.along == pytest.approx(0.125)
            assert u.links.across <= 1.5 * 0.177
    # 190 mm are too thin for links, whichever half asks for the more of them.
    data["slabs"][0]["thickness_m"] = 0.19
    outcome = solve_floor(floor_from(data))
    thin = [r for r in outcome.rows if r.check == "shear" and r.id.of.kind == "supports" and not r.id.part]
    assert {r.status for r in thin} == {"fail"}
    for row in thin:
        (last,) = (s for s in row.trace.steps if s.note == "Too thin for links.")
        assert last.values[0].value == pytest.approx(0.19)


def test_links_carry_more_elsewhere_by_their_area_their_struts_and_their_spacing():
    """EN, 217 mm: 2,000 mm2/m2 carry 2e-3 x 0.1736 x 434.8e3 x 2.5 = 377 kN/m and crushing comes far later. ACI: beyond 0.33 sqrt(30) x 217 x 0.75 = 294 kN/m
    of steel's share d / 4 is asked for, however much there is at d / 2; struts crush at 151.5 + 0.75 x 0.66 sqrt(30) x 217 = 740 kN/m."""
    places = {}
    for standard in ("EN 1992-1-1", "ACI 318-19"):
        floor = floor_from({**one_way(q=90.0), "standard": standard, "design_links": True})
        places[standard] = standard_of(floor).beams, solve_floor(floor).shear[0].place

    def carried(standard, v, area, along):
        rules, place = places[standard]
        laid = SlabLinks(0.012, along, np.pi * 0.012**2 / 4 / along / area, 1.0, area, 0.5, 0.5, True)
        return carry(laid, rules, v, place)

    assert carried("EN 1992-1-1", 365.0, 2e-3, 0.15)
    assert not carried("EN 1992-1-1", 390.0, 2e-3, 0.15)
    assert not carried("EN 1992-1-1", 365.0, 2e-3, 0.175)
    assert carried("ACI 318-19", 430.0, 2e-2, 0.1)
    assert not carried("ACI 318-19", 470.0, 2e-2, 0.1)
    assert carried("ACI 318-19", 470.0, 2e-2, 0.05)
    assert carried("ACI 318-19", 725.0, 2e-2, 0.05)
    assert not carried("ACI 318-19", 755.0, 2e-2, 0.05)


def test_lines_further_out_leave_no_more_to_punching():
    """Beside a wall that ends at a column: what is nearer to the column than the effective depth is punching's, however far out one looks."""
    data = one_way(walls=True)
    floor = floor_from(data)
    column = [box(-0.2, -0.2, 0.2, 0.2)]
    region = box(-0.15, 0, 6.15, 4)
    lengths = []
    for distance in (0.2, 1.5):
        found = lines_of(floor, region, column, 0.2, distance)
        mine = found.carried.index(("walls", "W0"))
        ends = found.xy[found.of == mine]
        lengths.append(float(ends[:, :, 1].max() - ends[:, :, 1].min()))
        # Pieces are two effective depths long at both, so that peaks are not smoothed away.
        assert (found.of == mine).sum() >= 9
    assert lengths[1] >= lengths[0]
