"""Arrangements against brute force and beam theory; readings of a run."""

import itertools
from dataclasses import replace

import numpy as np
import pytest
import shapely

from piastra.core.combine.arrangements import arrangements, shares_of
from piastra.core.combine.envelope import Factors, companion, envelope, governing_panels
from piastra.core.fe.recovery import section_forces
from piastra.core.fe.solution import solve
from piastra.core.geometry.axes import Held
from piastra.core.loads.vectors import NEGLIGIBLE, load_vectors
from piastra.core.model import floor_from
from piastra.core.readings import reading
from piastra.core.readings.bodies import at_centres, free_bodies_of, total, totals
from piastra.core.readings.responses import ROWS, responses_of
from piastra.core.standards import standard_named
from piastra.core.strips.cuts import forces_across
from piastra.exchange.responses_file import packed, packed_bodies, unpacked, unpacked_bodies
from tests.floors import every_kind, flat_slab, one_bay, plate, rectangle, spans
from tests.solving import solve_floor

ACI = standard_named("ACI 318-19").arrangements


@pytest.fixture(scope="module")
def nine_bays():
    document = flat_slab(3, 3, size=0.9)
    document["loads"].append({"id": "g", "case": "Q", "kind": "line", "line": [[1.0, 2.0], [16.5, 14.0]], "q_kN_m": [3.0, 8.0]})
    return solve_floor(floor_from(document))


def test_envelope_of_nine_bays_is_the_worst_of_all_512_arrangements(nine_bays):
    o = nine_bays
    labels = [label for label, _ in o.loads.panels]
    assert len(labels) == 9
    floor = o.floor
    factors = o.combinations[0]
    live = [k for k, u in enumerate(o.loads.units) if u.panel]
    assert len(live) == 9
    # What the load stage gives for each panel is what it gives for the load on that panel alone, but for the hair that
    # panels cut on the noder's grid miss: that goes to the last of them. Where lines cross borders, 0.1 um are either's.
    whole = np.abs(o.loads.vectors()[..., live]).sum()
    ground, weight = o.ground, o.loads.weight
    for k in live:
        label = o.loads.units[k].panel
        alone = load_vectors(floor, ground, weight, ((label, dict(o.loads.panels)[label]),), ((label,),))
        only = next(alone.vectors()[..., i] for i, u in enumerate(alone.units) if u.panel == label)
        assert np.abs(only - o.loads.vectors()[..., k]).sum() <= (NEGLIGIBLE * whole if k == live[-1] else 1e-7 * whole)
    chosen = list(itertools.product([False, True], repeat=9))
    dead = [k for k in range(len(o.loads.units)) if k not in live]
    base = o.loads.vectors()[..., dead] @ factors.always[dead]
    vectors = [base + o.loads.vectors()[..., live] @ (1.5 * np.array(on, dtype=float)) for on in chosen]
    system = o.stiffness.system
    run = solve(system, np.stack(vectors, axis=-1))
    forces = section_forces(system, o.stiffness.kept, run.u)
    strips, _ = forces_across(o.strips.cuts, system, run.u, forces)
    checked = {
        "deflection": (o.solution.u[:, 2], run.u[:, 2]),
        "moments": (o.forces[:, 3:6].reshape(-1, len(o.loads.units)), forces[:, 3:6].reshape(-1, 512)),
        "strip moments": (o.strips.cuts.forces[:, 0], strips[:, 0]),
        "reactions": (o.solution.reactions.reshape(-1, len(o.loads.units)), run.reactions.reshape(-1, 512)),
    }
    for name, (units, every) in checked.items():
        least, greatest = envelope(units, factors)
        size = np.abs(every).max()
        assert np.abs(every.min(axis=1) - least).max() < 1e-9 * size, name
        assert np.abs(every.max(axis=1) - greatest).max() < 1e-9 * size, name
        # The governing arrangement is named: at the place where the quantity is greatest it is the worst of the runs.
        # At places all over the floor, wherever no two arrangements come within a hair of each other.
        for place in np.linspace(0, len(units) - 1, 40).astype(int):
            second, first = np.sort(every[place])[-2:]
            if first - second > 1e-6 * size:
                told = {p.panel for p in governing_panels(units[place], factors, o.loads.units, greatest=True)}
                worst = chosen[int(every[place].argmax())]
                assert told == {label for label, b in zip(labels, worst, strict=True) if b}, (name, place)
        place = int(greatest.argmax())
        panels = {p.panel for p in governing_panels(units[place], factors, o.loads.units, greatest=True)}
        worst = chosen[int(every[place].argmax())]
        assert panels == {label for label, b in zip(labels, worst, strict=True) if b}, name


def beam_moments(count, loaded, L=6.0, n=60):
    """Moments (count, n + 1) along equal spans of a continuous beam under q = 1 on the loaded ones, by the
    three-moment equation."""
    A, b = np.zeros((count + 1, count + 1)), np.zeros(count + 1)
    A[0, 0] = A[count, count] = 1.0
    for i in range(1, count):
        A[i, i - 1], A[i, i], A[i, i + 1] = L, 4 * L, L
        b[i] = -(loaded[i - 1] + loaded[i]) * L**3 / 4
    M = np.linalg.solve(A, b)
    x = np.linspace(0, L, n + 1)
    return np.array([M[i] * (1 - x / L) + M[i + 1] * x / L + loaded[i] * x * (L - x) / 2 for i in range(count)])


@pytest.mark.parametrize("count", [2, 3, 4])
def test_pattern_effects_agree_with_beam_theory(count):
    L = 6.0
    r = responses_of(solve_floor(floor_from(spans(count))))
    every = {on: beam_moments(count, on) for on in itertools.product([0, 1], repeat=count)}
    size = L**2 / 8
    for i in range(count):
        found = reading.at_point(r, ((i + 0.5) * L, 0.5), "mx", "U")
        middle = {on: m[i, 30] for on, m in every.items()}
        assert found.greatest.value == pytest.approx(max(middle.values()), abs=0.02 * size)
        assert found.least.value == pytest.approx(min(middle.values()), abs=0.02 * size)
        worst = max(middle, key=middle.get)
        assert {p.panel for p in found.greatest.panels} == {f"P{k}" for k in range(count) if worst[k]}
        # Alternate spans, the ones with the span in question: the textbook's arrangement.
        assert all(worst[k] == (k - i + 1) % 2 for k in range(count))
        if i:
            over = {on: m[i, 0] for on, m in every.items()}
            at_support = reading.at_point(r, (i * L, 0.5), "mx", "U")
            assert at_support.least.value == pytest.approx(min(over.values()), abs=0.02 * size)
            adjacent = min(over, key=over.get)
            assert adjacent[i - 1] == adjacent[i] == 1
            assert {p.panel for p in at_support.least.panels} == {f"P{k}" for k in range(count) if adjacent[k]}


def test_named_arrangements_of_nine_bays(nine_bays):
    found = {a.name: a for a in nine_bays.arranged.named}
    # Panels are numbered as one reads: P1 P2 P3 in the row at the top.
    corners_and_middle = {"P1", "P3", "P5", "P7", "P9"}
    boards = {frozenset(found[f"chequerboard {k}"].panels) for k in "AB"}
    assert boards == {frozenset(corners_and_middle), frozenset({"P2", "P4", "P6", "P8"})}
    columns = {frozenset(found[f"alternate along x, {k}"].panels) for k in "AB"}
    assert columns == {frozenset({"P2", "P5", "P8"}), frozenset({"P1", "P4", "P7", "P3", "P6", "P9"})}
    assert found["around C11"].panels == {"P4", "P5", "P7", "P8"}
    assert len({a.panels for a in found.values()}) == len(found)
    pairs = [a for a in found.values() if a.name.startswith("x strips")]
    assert {frozenset(a.panels) for a in pairs} == {
        frozenset({"P1", "P2", "P4", "P5", "P7", "P8"}),
        frozenset({"P2", "P3", "P5", "P6", "P8", "P9"}),
    }
    assert {a.name for a in ACI.required(list(found.values()), 0.7)} == {"all panels"}
    aci = ACI.required(list(found.values()), 0.8)
    assert {a.share for a in aci if a.name != "all panels"} == {0.75}
    # In a row of bays the two beside a support are also two strips: the choice belongs to both rules.
    row = tuple((f"R{k}", shapely.box(6 * k, 0, 6 * k + 6, 5)) for k in range(3))
    held = [Held(f"C{k}", shapely.Point(6 * k, 2).buffer(0.2)) for k in range(4)]
    asked = {a.panels: a.share for a in ACI.required(arrangements(row, 0.0, held), 1.0)}
    assert asked[frozenset({"R0", "R1"})] == asked[frozenset({"R1", "R2"})] == 0.75
    shares = shares_of(aci, nine_bays.loads.units)
    assert set(np.unique(shares)) == {0.0, 0.75, 1.0}


def test_arrangements_of_an_l_shaped_floor_count_from_neighbour_to_neighbour():
    boxes = [(0, 0), (1, 0), (2, 0), (0, 1), (0, 2)]
    panels = tuple((f"P{x}{y}", shapely.box(6 * x, 7 * y, 6 * x + 6, 7 * y + 7)) for x, y in boxes)
    found = {a.name: a.panels for a in arrangements(panels, 0.0, [Held("C", shapely.Point(6, 7).buffer(0.2))])}
    assert {found["chequerboard A"], found["chequerboard B"]} == {frozenset({"P00", "P20", "P02"}), frozenset({"P10", "P01"})}
    assert found["around C"] == {"P00", "P10", "P01"}


def test_the_standards_arrangements_alone_never_exceed_the_exact_envelope(nine_bays):
    document = flat_slab(3, 3, size=0.9)
    document["arrangements"] = "standard"
    o = solve_floor(floor_from(document))
    f = o.combinations[0]
    assert f.shares is not None
    assert len(f.shares) == len(o.arranged.required) + 1
    values = o.forces[:, 3]
    least, greatest = envelope(values, f)
    by_hand = [values @ (f.always + f.pattern * share) for share in f.shares]
    assert np.abs(np.min(by_hand, axis=0) - least).max() < 1e-9
    assert np.abs(np.max(by_hand, axis=0) - greatest).max() < 1e-9
    exact = envelope(values, Factors(f.combination, f.limit_state, f.always, f.pattern))
    assert (least >= exact[0] - 1e-9).all()
    assert (greatest <= exact[1] + 1e-9).all()
    place = int(greatest.argmax())
    assert companion(values[place], values[place], f, greatest=True) == pytest.approx(greatest[place], rel=1e-12)
    # Without a characteristic combination no stress in service is limited.
    assert {r.check for r in o.verdict if r.status not in ("pass", "fail")} == {"stress_limits"}


def test_principal_wood_armer_and_resultant_values(nine_bays):
    r = responses_of(nine_bays)
    at = {
        q: reading.field(r, q, reading.Chosen("U1"))
        for q in ("mx", "my", "mxy", "m1", "m2", "vx", "vy", "v", "wa_bottom_x", "wa_top_y")
    }
    tensor = np.stack([np.stack([at["mx"], at["mxy"]], -1), np.stack([at["mxy"], at["my"]], -1)], -2)
    principal = np.linalg.eigvalsh(tensor)
    assert np.abs(principal[:, 1] - at["m1"]).max() < 1e-9
    assert np.abs(principal[:, 0] - at["m2"]).max() < 1e-9
    assert np.abs(at["wa_bottom_x"] - np.maximum(at["mx"] + np.abs(at["mxy"]), 0)).max() < 1e-9
    assert np.abs(at["wa_top_y"] - np.maximum(-at["my"] + np.abs(at["mxy"]), 0)).max() < 1e-9
    assert np.abs(at["v"] - np.hypot(at["vx"], at["vy"])).max() < 1e-9
    # Along its direction the bending moment is the greater principal one, and there is no twist.
    angle = reading.directions(r, "m1", reading.Chosen("U1"))
    along = np.stack([at["mx"], at["my"], at["mxy"]])
    c, s = np.cos(angle), np.sin(angle)
    assert np.abs(c * c * along[0] + s * s * along[1] + 2 * c * s * along[2] - at["m1"]).max() < 1e-9
    shear = reading.directions(r, "v", reading.Chosen("U1"))
    assert np.abs(np.cos(shear) * at["vx"] + np.sin(shear) * at["vy"] - at["v"]).max() < 1e-9
    # Over arrangements: against brute force at one place.
    f, units = nine_bays.combinations[0], r.units
    place = 1234
    values = r.at_places[place]
    every = []
    live = [k for k, u in enumerate(units) if u.panel]
    for on in itertools.product([0, 1], repeat=len(live)):
        pick = f.always.copy()
        pick[live] += f.pattern[live] * np.array(on)
        m = values @ pick
        mx, my, mxy, vx, vy = (m[ROWS.index(k)] for k in ("mx", "my", "mxy", "vx", "vy"))
        every.append(
            (
                (mx + my) / 2 + np.hypot((mx - my) / 2, mxy),
                (mx + my) / 2 - np.hypot((mx - my) / 2, mxy),
                np.hypot(vx, vy),
                max(mx + abs(mxy), 0),
            )
        )
    worst = np.array(every)
    # Directions are tried every two degrees: a principal value is missed by 0.03 % of the moments at most.
    size = np.abs(values[3:7] @ f.full).max()
    for q, sense, expected in (
        ("m1", "greatest", worst[:, 0].max()),
        ("m2", "least", worst[:, 1].min()),
        ("v", "greatest", worst[:, 2].max()),
    ):
        assert reading.field(r, q, reading.Chosen("U1", sense))[place] == pytest.approx(expected, abs=1e-3 * size)
    assert reading.field(r, "wa_bottom_x", reading.Chosen("U1", "greatest"))[place] == pytest.approx(worst[:, 3].max(), rel=1e-9)


def test_a_slice_right_across_carries_the_moment_of_the_loads():
    """The total of a slice across the floor is the moment of all forces on one side of it, whatever the mesh, also beside
    columns; the integral along it misses a little, less as the mesh is refined."""
    missed = []
    for size, x in ((0.9, 9.0), (0.45, 9.0), (0.9, 6.35), (0.9, 6.7)):
        o = solve_floor(floor_from(flat_slab(3, 3, size=size)))
        r = responses_of(o)
        d = reading.along(r, ((x, -0.2), (x, 18.2)), "mn", "U1")
        full, held = o.combinations[0].full, o.stiffness.system.held
        R = o.solution.reactions @ full
        xy, load = o.meshed.mesh.xy, o.loads.vectors()[:, 2] @ full
        # The free body is cut a hair aside of the line.
        at, x = x, x - 1e-4
        behind = xy[:, 0] < x
        left = [k for k, c in enumerate(held.centre) if c[0] < x]
        moment = sum(R[k, 0] * (x - held.centre[k][0]) + R[k, 2] for k in left) - (load[behind] * (x - xy[behind, 0])).sum()
        missed.append(abs(d.area / moment - 1))
        line, free, f = ((at, -0.2), (at, 18.2)), free_bodies_of(o), o.combinations[0]
        found = totals(r, free, line)
        # As they are kept: displacements to 2e-10 of their peak.
        kept = totals(r, unpacked_bodies(packed_bodies(free, r.elements)), line)
        assert kept == pytest.approx(found, rel=1e-5, abs=1e-5)
        assert total(r, found, "mn", f) == pytest.approx(moment, rel=1e-9)
        shear = sum(R[k, 0] for k in left) - load[behind].sum()
        # The line runs up, so its normal points to the left, and the shear is that with the other sign.
        assert total(r, found, "vn", f) == pytest.approx(-shear, rel=1e-9)
        assert d.length == pytest.approx(18.4, abs=0.2)
        assert d.high.value == pytest.approx(np.nanmax(d.greatest))
        assert d.low.value == pytest.approx(np.nanmin(d.least))
        if at == 9.0:
            assert reading.along(r, ((x, -0.2), (x, 18.2)), "mn", "U1", width=1.0).high.value <= d.high.value + 1e-9
    assert missed[1] < 0.02
    assert missed[1] < missed[0]


def test_totals_of_slices_are_those_of_the_side_that_the_field_has(nine_bays):
    r, free = responses_of(nine_bays), free_bodies_of(nine_bays)
    f = nine_bays.combinations[0]
    for line in (((7.0, 7.6), (11.0, 7.6)), ((11.0, 7.6), (7.0, 7.6)), ((8.0, 7.0), (11.0, 8.0)), ((3.0, 1.0), (3.0, 17.0))):
        moment, shear = (reading.along(r, line, key, "U1") for key in ("mn", "vn"))
        assert total(r, totals(r, free, line), "mn", f) == pytest.approx(moment.area, rel=0.15)
        # Loads act at nodes: what lies between them and the cut may be on either side of it.
        load = (1.35 * 6.25 + 1.5 * 4.0) * shear.length * 0.63 / 2
        assert total(r, totals(r, free, line), "vn", f) == pytest.approx(shear.area, abs=load)
    assert totals(r, free, ((40.0, 0.0), (41.0, 0.0))) is None
    assert total(r, None, "mn", f) is None
    assert total(r, totals(r, free, ((3.0, 1.0), (3.0, 17.0))), "w", f) is None
    # Parts of a line add up to the whole of it.
    parts = [total(r, totals(r, free, ((9.0, a), (9.0, b))), "mn", f) for a, b in ((-0.2, 5.3), (5.3, 11.1), (11.1, 18.2))]
    assert sum(parts) == pytest.approx(total(r, totals(r, free, ((9.0, -0.2), (9.0, 18.2))), "mn", f), rel=1e-9)


def test_the_total_of_an_uneven_section_is_about_the_middle_of_its_concrete():
    # A tee of a flange and a web: q b L2/8 about the centroid that the strips use too.
    L, b = 10.0, 0.8
    lines = [{"id": f"L{i}", "kind": "line", "line": [[x, 0.0], [x, b]]} for i, x in enumerate((0.0, L))]
    web = {"id": "W", "kind": "band", "outline": [[0, 0.3], [L, 0.3], [L, 0.5], [0, 0.5]], "thickness_m": 0.5}
    document = plate(rectangle(L, b), 0.15, 0.0, 0.25, lines, thickenings=[web])
    o = solve_floor(floor_from(document))
    r = responses_of(o)
    across = totals(r, free_bodies_of(o), ((5.02, 0.0), (5.02, b)))
    found = total(r, across, "mn", reading.combination_of(r, "Q"))
    assert found == pytest.approx(b * L**2 / 8, rel=0.005)


def test_readings_are_the_same_after_a_round_trip_and_refuse_what_is_not_there(nine_bays):
    r = responses_of(nine_bays)
    back = unpacked(packed(r))
    a, b = (reading.at_point(x, (7.0, 8.0), "mx", "U1") for x in (r, back))
    # Each unit load's values come back within half a step of 19 bits of their peak.
    factors = next(f for f in r.combinations if f.combination == "U1")
    half = np.abs(r.at_places[:, ROWS.index("mx")]).max(axis=0) @ np.abs(factors.full) / (2**19 - 1) / 2
    assert b.greatest.value == pytest.approx(a.greatest.value, rel=0, abs=half)
    assert half < 1e-5 * np.abs(reading.field(r, "mx", reading.Chosen("U1"))).max()
    assert b.greatest.panels == a.greatest.panels
    assert [u.arrangement for u in b.under] == [u.arrangement for u in a.under]
    assert reading.at_support(back, "C11", "F", "U1").all == pytest.approx(reading.at_support(r, "C11", "F", "U1").all)
    some = reading.Chosen("U1", "arrangement", "P1, P5")
    full, none = (reading.reactions(r, reading.Chosen("U1", "arrangement", k)) for k in ("all panels", "chequerboard A"))
    assert full[:, 0].sum() == pytest.approx(r.applied @ r.combinations[0].full)
    assert none[:, 0].sum() < full[:, 0].sum()
    assert reading.reactions(r, some)[:, 0].sum() < none[:, 0].sum()
    assert reading.at_point(r, (40.0, 8.0), "mx", "U1") is None
    for bad in (lambda: reading.field(r, "mood", reading.Chosen("U1")), lambda: reading.field(r, "mx", reading.Chosen("U9")),
                lambda: reading.at_support(r, "C99", "F", "U1"), lambda: reading.field(r, "mx", reading.Chosen("U1", "arrangement", "P77"))):  # fmt: skip
        with pytest.raises(reading.UnknownReadingError):
            bad()


def test_bearing_pressure_under_a_uniform_load():
    document = one_bay()
    for key in ("openings", "thickenings", "columns", "walls", "loads"):
        document[key] = []
    document["supports"] = [{"id": "A", "kind": "area", "outline": document["slabs"][0]["outline"], "modulus_kN_m3": 20000}]
    document["loads"] = [{"id": "a", "case": "D", "kind": "area", "q_kPa": 10.0}]
    r = responses_of(solve_floor(floor_from(document)))
    assert reading.field(r, "bearing", reading.Chosen("D")) == pytest.approx(10.0, rel=1e-6)


def test_a_strip_round_a_re_entrant_corner_belongs_to_both_bays():
    """An L of three bays with a margin of 0.2 m: the margin bends round the inner corner."""
    document = flat_slab(2, 2, size=1.0)
    document["slabs"][0]["outline"] = [[-0.2, -0.2], [12.2, -0.2], [12.2, 6.2], [6.2, 6.2], [6.2, 12.2], [-0.2, 12.2]]
    document["columns"] = [c for c in document["columns"] if c["id"] != "C22"]
    o = solve_floor(floor_from(document))
    panels = dict(o.loads.panels)
    assert len(panels) == 3
    assert max(p.bounds[2] - p.bounds[0] for p in panels.values()) < 6.5
    boards = {a.panels for a in o.arranged.named if a.name.startswith("chequerboard")}
    corner = next(label for label, p in panels.items() if p.contains(shapely.Point(3, 3)))
    assert boards == {frozenset({corner}), frozenset(panels) - {corner}}


def test_values_by_element_are_law_times_strain_about_the_sections_own_plane():
    # Drop panels lie off the reference plane: there membrane forces shift the moments.
    o = solve_floor(floor_from(every_kind()))
    found = at_centres(responses_of(o), free_bodies_of(o))
    kept, start = o.stiffness.kept, 0
    zeta = o.stiffness.values.zeta[o.meshed.face]
    assert np.ptp(zeta) > 0.05
    for family in o.stiffness.system.families:
        e, c = family.nodes.shape
        own = family.law @ (family.mean @ o.solution.u[family.nodes].reshape(e, 5 * c, -1))
        mine, of = slice(start, start + e), kept.of[start : start + e, :c]
        start += e
        for row in range(3):
            assert found[mine, 1 + row] == pytest.approx(own[:, row], rel=1e-6, abs=1e-6 * np.abs(own[:, :3]).max())
            moment = own[:, 3 + row] - zeta[mine, None] * own[:, row]
            assert found[mine, 4 + row] == pytest.approx(moment, rel=1e-6, abs=1e-6 * np.abs(own[:, 3:6]).max())
        assert found[mine, 7:] == pytest.approx(o.forces[of, 6:].mean(axis=1), rel=1e-9, abs=1e-9)
        assert found[mine, 0] == pytest.approx(1e3 * o.solution.u[family.nodes, 2].mean(axis=1), rel=1e-9, abs=1e-12)


def test_values_by_element_are_those_of_the_element_alone(nine_bays):
    r, free = responses_of(nine_bays), free_bodies_of(nine_bays)
    r = replace(r, at_centres=at_centres(r, free))
    averaged, alone = (reading.field(r, "mx", reading.Chosen("U1"), by_element) for by_element in (False, True))
    nodes = r.elements.nodes
    assert len(alone) == len(nodes)
    quads = nodes[:, 3] >= 0
    of_nodes = averaged[nodes[quads]].mean(axis=1)
    # In the fields of the bays both agree; at the columns the averages are smoothed.
    assert np.median(np.abs(of_nodes - alone[quads])) < 0.01 * np.abs(averaged).max()
    back = unpacked(packed(r))
    with pytest.raises(reading.UnknownReadingError, match="averaged"):
        reading.field(back, "mx", reading.Chosen("U1"), by_element=True)
    again = reading.field(
        replace(back, at_centres=at_centres(back, unpacked_bodies(packed_bodies(free, r.elements)))),
        "mx",
        reading.Chosen("U1"),
        by_element=True,
    )
    assert np.abs(again - alone).max() < 1e-5 * np.abs(alone).max()
