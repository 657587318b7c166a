"""Hand calculations of the provisions of both standards, with every intermediate value."""

import numpy as np
import pytest
import shapely
from hypothesis import example, given, settings
from hypothesis import strategies as st

from piastra.core.model import floor_from
from piastra.core.model.history import Construction
from piastra.core.model.materials import Concrete, Rebar
from piastra.core.pipeline import solve_floor
from piastra.core.reinforcement.places import edge_width
from piastra.core.standards import standard_named
from piastra.core.standards.aci318.flexure import beta_1, controlled
from piastra.core.standards.cracked import steel_stress
from piastra.core.standards.en1992.cracking import falling_root
from piastra.core.standards.protocol import Sections, Service, ShearPlaces
from piastra.core.standards.provision import Stations
from tests.floors import edges, plate, rectangle

EC2, ACI = standard_named("EN 1992-1-1"), standard_named("ACI 318-19")
C30, B500 = Concrete(id="C30", strength_MPa=30.0), Rebar(id="B500", yield_MPa=500.0)
C28, G420 = Concrete(id="C28", strength_MPa=28.0), Rebar(id="G420", yield_MPa=420.0)
PHI16 = np.pi * 16e-3**2 / 4 / 0.15
FLAGS = {"top", "greatest", "column", "inner", "end", "simple", "free"}


def station(pair=(C30, B500), **given):
    """One station; what is not given is nil, of a slab of 250 mm with 16 mm bars at 150 mm and d = 210 mm."""
    values = {
        "h": 0.25,
        "d": 0.21,
        "d2": 0.04,
        "cover": 0.032,
        "width": 1.0,
        "given": PHI16,
        "bar": 0.016,
        "spacing": 0.15,
        **given,
    }
    known = {k: np.array([bool(v) if k in FLAGS else float(v)]) for k, v in values.items()}
    return Stations.of((pair,), 1, **known)


def provision(standard, name):
    return next(p for p in standard.provisions if p.name == name)


def demand(standard, name, pair=(C30, B500), **given):
    return 1e6 * provision(standard, name).demand(station(pair, **given)).area[0]


def last(standard, name, pair=(C30, B500), **given):
    return {
        s.result.symbol: s.result.value for s in provision(standard, name).demand(station(pair, **given)).steps(0) if s.result
    }


def test_crack_width_by_direct_calculation():
    """m = 60 kNm/m quasi-permanent. alpha = 200 x 3 / 32.837 = 18.272; x = 79.84 mm; z = 183.4 mm; sigma_s = 244.1 MPa; h_c,ef =
    (250 - 79.84) / 3 = 56.72 mm; rho = 0.02363; eps = (244.1 - 0.4 x 2.8965 / 0.02363 x 1.1439) / 2e5 = 9.400e-4; s_r,max =
    3.4 x 32 + 0.8 x 0.5 x 0.425 x 16 / 0.02363 = 223.9 mm; w_k = 0.2105 mm."""
    use = EC2.cracking.check(station(m_service=60.0))
    assert use.use[0] == pytest.approx(0.2105 / 0.4, rel=2e-3)
    steps = {s.result.symbol: s.result.value for s in use.steps(0) if s.result}
    expected = {
        "x": 0.07984,
        "sigma_s": 244.1,
        "h_c,ef": 0.05672,
        "rho_p,eff": 0.02363,
        "eps_m": 9.400e-4,
        "s_r,max": 0.2239,
        "w_k": 0.2105,
    }
    for symbol, value in expected.items():
        assert steps[symbol] == pytest.approx(value, rel=2e-3), symbol
    # Bars further apart than 5 (32 + 8) = 200 mm: s_r,max = 1.3 (250 - x).
    far = EC2.cracking.check(station(m_service=60.0, spacing=0.201)).steps(0)
    assert next(s.result.value for s in far if s.result.symbol == "s_r,max") == pytest.approx(1.3 * (0.25 - 0.07984), rel=1e-3)
    # A few bars in a corner of the width, 24 mm2/m on average: x = 14.57 of h = 300, d = 256; sigma_s = 0.5425 / 24.075e-6 =
    # 22.53 MPa by the force alone; s_r,max = 1.3 (300 - 14.57) = 371.1 mm and no 10 m; eps = 0.6 x 22.53 / 2e5 = 6.76e-5; w_k = 0.0251 mm.
    few = {"h": 0.3, "d": 0.25596, "cover": 0.03634, "bar": 0.0154, "given": 24.075e-6, "m_service": 0.0, "n_service": 0.54248}
    assert EC2.cracking.check(station(**few)).use[0] == pytest.approx(0.0251 / 0.4, rel=2e-3)
    # Low stress: not less than 0.6 sigma_s / E_s.
    low = {s.result.symbol: s.result.value for s in EC2.cracking.check(station(m_service=20.0)).steps(0)}
    assert low["eps_m"] == pytest.approx(0.6 * low["sigma_s"] / 2e5, rel=1e-9)
    # Tension adds to the stress: (327.2 + 50) / 1340.
    pulled = {s.result.symbol: s.result.value for s in EC2.cracking.check(station(m_service=60.0, n_service=50.0)).steps(0)}
    assert pulled["sigma_s"] == pytest.approx(281.4, rel=1e-3)
    assert EC2.cracking.check(station(m_service=1.0, given=0.0, spacing=1e3)).use[0] == 99.0
    assert EC2.cracking.check(station(m_service=-5.0)).use[0] == 0.0
    # Where a square millimetre by the metre would do, none is asked for and none is missing: 0.068 / 0.2093 + 0.1 = 0.425 kN/m, 425 MPa;
    # eps = 0.6 x 425 / 2e5 = 1.275e-3; s_r,max = 1.3 (250 - 2.8) = 321 mm; w = 0.41 mm of 0.4 with this force, 0.33 mm with 0.02 kN/m of it.
    assert EC2.cracking.check(station(m_service=0.068, n_service=0.1, given=0.0, spacing=1e3)).use[0] == 99.0
    idle = EC2.cracking.check(station(m_service=0.068, n_service=0.02, given=1e-7, spacing=1e3))
    assert idle.use[0] == 0.0
    assert [s.result.symbol for s in idle.steps(0)] == ["use"]


def test_stresses_in_service():
    """m = 60 kNm/m characteristic. Steel, alpha 18.272: x = 79.84 mm, 244.1 MPa of 0.8 x 500 = 400. Concrete, alpha = 200 / 32.837 = 6.0907:
    a r = 6.0907 x 1340 / 210e3 = 0.03887, x = 210 (sqrt(0.03887^2 + 0.07774) - 0.03887) = 50.95 mm, z = 193.0 mm, sigma_c = 2 x 60 / (0.05095 x
    0.1930) = 12.20 MPa of 0.6 x 30 = 18 where chlorides or frost are about."""
    at = station(m_service=60.0)
    dry, wet = EC2.stresses, standard_named("EN 1992-1-1", {}, Service("XD2")).stresses
    steel = dry.steel(at)
    assert steel.use[0] == pytest.approx(244.1 / 400, rel=1e-3)
    assert {s.result.symbol: s.result.value for s in steel.steps(0)}["sigma_s"] == pytest.approx(244.1, rel=1e-3)
    # Tension adds: 60 / 0.18339 = 327.2, and (327.2 + 50) / 1340 = 281.4 MPa.
    assert dry.steel(station(m_service=60.0, n_service=50.0)).use[0] == pytest.approx(281.4 / 400, rel=1e-3)
    assert dry.steel(station(m_service=-60.0)).use[0] == 0.0
    assert dry.steel(station(m_service=1.0, given=0.0)).use[0] == 99.0
    # A square millimetre by the metre at 400 MPa: 0.4 kN/m, to a moment of 0.0837.
    assert [dry.steel(station(m_service=m, given=0.0)).use[0] > 0 for m in (0.083, 0.0842)] == [False, True]
    assert [
        standard_named("EN 1992-1-1", {}, Service(e)).stresses.concrete(at) is None for e in (None, "XC4", "XD1", "XF3", "XS1")
    ] == [True, True, False, False, False]
    concrete = wet.concrete(at)
    assert concrete.use[0] == pytest.approx(12.20 / 18, rel=1e-3)
    assert {s.result.symbol: s.result.value for s in concrete.steps(0)}["x"] == pytest.approx(0.05095, rel=1e-3)
    own = standard_named("EN 1992-1-1", {"k_yield": 0.6, "k_characteristic": 0.5}, Service("XS3")).stresses
    assert (own.steel(at).use[0], own.concrete(at).use[0]) == (
        pytest.approx(244.1 / 300, rel=1e-3),
        pytest.approx(12.20 / 15, rel=1e-3),
    )
    assert standard_named("ACI 318-19", {}).stresses is None


def test_limit_of_cracks_by_exposure():
    at = station(m_service=60.0)
    for service, limit in (
        (Service(), 0.4),
        (Service("X0"), 0.4),
        (Service("XC2"), 0.3),
        (Service("XS1"), 0.3),
        (Service("XS1", 0.2), 0.2),
    ):
        assert standard_named("EN 1992-1-1", {}, service).cracking.check(at).use[0] == pytest.approx(0.2105 / limit, rel=2e-3)
    own = standard_named("EN 1992-1-1", {"w_max": 0.25}, Service("XC4"))
    assert own.cracking.check(at).use[0] == pytest.approx(0.2105 / 0.25, rel=2e-3)


def test_steel_for_cracks_gives_the_limit_back_and_the_least_area_follows_7_3_2():
    strict = standard_named("EN 1992-1-1", {}, Service("XC3", 0.15))
    needed = provision(strict, "crack_width").demand(station(m_service=60.0)).area[0]
    bars = station(m_service=60.0, given=needed, spacing=np.pi * 0.016**2 / 4 / needed)
    assert strict.cracking.check(bars).use[0] == pytest.approx(1.0, rel=1e-6)
    # 0.4 x 1.0 x 2.8965 x 125 / 500 = 289.6 mm2/m; k = 0.65 + 0.35 x 0.3 / 0.5 = 0.86 at 500 mm; nothing up to 200 mm.
    assert demand(EC2, "crack_width", m=10.0) == pytest.approx(289.6, rel=1e-3)
    assert demand(EC2, "crack_width", m=40.0, h=0.5, d=0.46) == pytest.approx(0.4 * 0.86 * 2896.5 * 0.25 / 500e3 * 1e6, rel=1e-3)
    assert demand(EC2, "crack_width", m=40.0, h=0.2, d=0.16) == 0.0
    assert demand(EC2, "crack_width", m=-1.0) == 0.0


@given(
    st.floats(-40, 80), st.floats(0, 200), st.sampled_from([0.008, 0.012, 0.02]), st.floats(0.02, 0.06), st.lists(st.floats(1.0, 4.0), min_size=8, max_size=8)
)  # fmt: skip
@example(-24.32, 71.44, 0.008, 0.037, [1.0, 1.05, 1.09, 1.1, 1.13, 1.2, 1.5, 2.0])
def test_no_more_steel_than_is_asked_for_gives_wider_cracks(m, n, bar, cover, more):
    """Neither where bars come so close that (7.11) takes the place of (7.14), which an example has: 8 mm bars with 37 mm of cover change at 205 mm."""
    here = {"m_service": m, "n_service": n, "bar": bar, "cover": cover, "d": 0.25 - cover - bar / 2, "m": 0.0}
    strict = standard_named("EN 1992-1-1", {}, Service("XC3"))
    needed = provision(strict, "crack_width").demand(station(**here)).area[0]
    if 0 < needed < 0.04:
        for share in more:
            laid = station(**here, given=share * needed, spacing=np.pi * bar**2 / 4 / (share * needed))
            assert strict.cracking.check(laid).use[0] <= 1 + 1e-6


@given(st.lists(st.tuples(st.floats(0.5, 3), st.floats(-16, 0), st.floats(0, 0.02)), min_size=1, max_size=20))
def test_roots_of_what_falls_as_a_power(known):
    """Powers with a ripple over the logarithms, and such as have no root between the bounds."""
    power, at, ripple = (np.array(v) for v in zip(*known, strict=True))
    tries = []

    def excess(x):
        tries.append(x)
        return -power * (np.log(x) - at) - ripple * np.sin(3 * np.log(x))

    low, high = np.full(len(at), 1e-6), np.full(len(at), 0.05)
    found = falling_root(excess, low, high)
    under, over = excess(low) <= 0, excess(high) > 0
    assert found[under] == pytest.approx(low[under], rel=1e-12)
    assert found[over] == pytest.approx(high[over], rel=1e-12)
    inner = ~(under | over)
    assert (np.abs(excess(found)) < 1e-8)[inner].all()
    # Each finds its own, whatever else is sought beside it.
    assert (falling_root(lambda x: excess(np.repeat(x, len(at)))[:1], low[:1], high[:1]) == found[:1]).all()
    assert len(tries) < 60


def test_a_moment_that_stretches_the_other_face_relieves_this_one():
    """n = 80 kN/m, d = 210 mm: with -10 kNm/m about the steel no more than 80 - 10 / 0.21 = 32.4 kN/m are left for it, 24.2 MPa of
    1,340 mm2/m; both layers (d2 = 40 mm) in equilibrium leave 80 - 10 / 0.17 = 21.2. With -20 it is pressed: no cracks, in either standard."""
    here = {"n_service": 80.0}
    area = PHI16
    stress = steel_stress(*(np.array([v]) for v in (-10.0, 80.0, area, 0.21)), 15.0)[0]
    assert stress == pytest.approx((80 - 10 / 0.21) / area)
    assert stress * area > 80 - 10 / 0.17
    assert steel_stress(*(np.array([v]) for v in (-20.0, 80.0, area, 0.21)), 15.0)[0] == 0
    bent = EC2.cracking.check(station(m_service=-10.0, **here)).use[0]
    assert 0 < bent < 0.5 * EC2.cracking.check(station(m_service=0.0, **here)).use[0]
    assert EC2.cracking.check(station(m_service=-20.0, **here)).use[0] == 0
    assert demand(EC2, "crack_width", m_service=-20.0, **here) == 0
    assert ACI.cracking.check(station((C28, G420), m_service=-10.0, **here)).use[0] > 0
    assert ACI.cracking.check(station((C28, G420), m_service=-20.0, **here)).use[0] == 0
    shown = {s.result.symbol: s.result.value for s in EC2.cracking.check(station(m_service=-10.0, **here)).steps(0) if s.result}
    assert shown["sigma_s"] == pytest.approx((80 - 10 / 0.21) / area / 1e3)


def test_bands_over_columns():
    """EN: half of 4,200 mm2 within 1.5 m is 1,400 mm2/m. ACI: gamma_f 0.6 of 90 kNm over 1.15 m is 46.96 kNm/m, and its steel."""
    here = {"top": True, "column": True, "inner": True, "total": 4200e-6, "band": 1.5}
    assert demand(EC2, "column_band", **here) == pytest.approx(1400)
    for missing in ("top", "column", "inner", "band"):
        assert demand(EC2, "column_band", **{**here, missing: 0}) == 0.0
    pair = (C28, G420)
    moves = {"top": True, "column": True, "transfer": 90.0, "band": 1.15, "transfer_share": 0.6}
    m = 0.6 * 90 / 1.15
    mu = m / (0.9 * 0.85 * 28e3 * 0.21**2)
    by_hand = 0.85 * 28e3 * (1 - np.sqrt(1 - 2 * mu)) * 0.21 / 420e3 * 1e6
    assert demand(ACI, "column_band", pair, **moves) == pytest.approx(by_hand, rel=1e-9)
    assert by_hand == pytest.approx(607, rel=5e-3)
    assert demand(ACI, "column_band", pair, **{**moves, "column": False}) == 0.0
    # EN 9.4.2 at edge columns: all of 90 kNm over 0.8 m is 112.5 kNm/m; K = 0.1276, z = 0.9 d at most by the stress block.
    edge = {"top": True, "column": True, "end": True, "transfer": 90.0, "transfer_share": 0.6, "band": 0.8}
    share = 112.5 / (0.21**2 * 20e3)
    by_hand = 20e3 * (1 - np.sqrt(1 - 2 * share)) * 0.21 / (500e3 / 1.15) * 1e6
    assert share == pytest.approx(0.12755, rel=1e-4)
    assert demand(EC2, "edge_band", **edge) == pytest.approx(by_hand, rel=1e-9)
    assert by_hand == pytest.approx(1322.6, rel=1e-3)
    for missing in ("top", "column", "end", "band"):
        assert demand(EC2, "edge_band", **{**edge, missing: 0}) == 0.0


def test_width_over_which_moments_pass_into_columns_at_edges():
    """Figure 9.9: a column of 0.3 along and 0.5 m across the bars, its inner face 0.55 m from the edge: 0.5 + 0.55; near a corner
    whose other edge is 0.6 m from its far face: 0.6 + 0.55 / 2. Flush with both edges: 0.5 + 0.3 / 2."""
    floor = shapely.box(0, 0, 12, 9)

    def column(x, y):
        return shapely.box(x - 0.15, y - 0.25, x + 0.15, y + 0.25)

    assert edge_width(column(0.4, 5.0), 0.0, True, floor) == pytest.approx(1.05)
    assert edge_width(column(11.6, 5.0), 0.0, False, floor) == pytest.approx(1.05)
    assert edge_width(column(0.4, 0.35), 0.0, True, floor) == pytest.approx(0.6 + 0.55 / 2)
    assert edge_width(column(0.4, 8.65), 0.0, True, floor) == pytest.approx(0.6 + 0.55 / 2)
    assert edge_width(column(0.15, 0.25), 0.0, True, floor) == pytest.approx(0.5 + 0.3 / 2)
    # The other way the sides change places: 0.3 across, inner face 0.5 from the edge.
    assert edge_width(column(5.0, 0.25), np.pi / 2, True, floor) == pytest.approx(0.3 + 0.5)


def test_least_steel_about_highly_stressed_columns():
    """phi 0.17 sqrt(28) = 0.6747 MPa at d = 0.21 (lambda_s = 1). v_uv = 0.9 MPa on b_o = 2.44 m inside the floor: 5 x 0.9 x 2.44 / (0.75 x 40 x 420)
    = 871.4 mm2/m; at an edge alpha_s = 30: 4 / 3 of it."""
    pair = (C28, G420)
    here = {"top": True, "column": True, "band": 1.15, "shear": 900.0, "section": 2.44}
    assert demand(ACI, "column_shear", pair, **here) == pytest.approx(871.4, rel=1e-3)
    assert demand(ACI, "column_shear", pair, **here, edges=1) == pytest.approx(871.4 * 4 / 3, rel=1e-3)
    assert demand(ACI, "column_shear", pair, **here, edges=2) == pytest.approx(871.4 * 2, rel=1e-3)
    assert demand(ACI, "column_shear", pair, **{**here, "shear": 674.0}) == 0.0
    assert demand(ACI, "column_shear", pair, **{**here, "shear": 676.0}) > 0.0
    for missing in ("top", "column", "band"):
        assert demand(ACI, "column_shear", pair, **{**here, missing: 0}) == 0.0


def test_bars_across_free_edges_and_at_held_corners():
    """9.3.1.4 with the least steel of 9.1N: 0.26 x 2.8965 / 500 x 210 = 316.3 mm2/m. ACI 8.7.3: the greatest positive steel of the panel
    within a fifth of the span of a corner held along both edges, in both faces; 0.2 x 5 = 1 m here."""
    assert demand(EC2, "free_edge", top=True, free=True) == pytest.approx(316.3, rel=1e-3)
    assert demand(EC2, "free_edge", top=False, free=True) == 0.0
    assert demand(EC2, "free_edge", top=True, free=False) == 0.0
    for top in (True, False):
        assert demand(ACI, "corner", (C28, G420), top=top, corner=700e-6) == pytest.approx(700)
    square = rectangle(5.0, 5.0)
    data = plate(square, 0.2, 0.2, 0.5, edges(square, "free"), 8.0, standard="ACI 318-19",
                 combinations=[{"id": "U", "limit_state": "ultimate", "factors": {"Q": 1.6}}],
                 mats=[{"id": f"{f}{w}", "face": f, "direction": w, "bar_mm": 12, "spacing_mm": 150} for f in ("top", "bottom") for w in "xy"])  # fmt: skip
    outcome = solve_floor(floor_from(data))
    cuts, faces = outcome.strips.cuts, outcome.steel.stations.faces
    lines = shapely.linestrings(cuts.ends)
    near = shapely.distance(lines, shapely.union_all(shapely.points([[0, 0], [5, 0], [5, 5], [0, 5]]))) <= 1.0
    assert near.any()
    assert not near.all()
    for face in faces:
        assert face.provisions["corner"][near] == pytest.approx(
            max(faces[0].provisions["strength"].max(), faces[0].provisions["least"].max())
        )
        assert not face.provisions["corner"][~near].any()
    # With one edge let go its two corners are none.
    for k in range(len(data["supports"])):
        fewer = {**data, "supports": [s for i, s in enumerate(data["supports"]) if i != k]}
        steel = solve_floor(floor_from(fewer)).steel.stations
        assert 0 < (steel.faces[0].provisions["corner"] > 0).sum() < near.sum()
        break


def test_secondary_support_and_restraint_steel():
    assert demand(EC2, "secondary", principal=1000e-6) == pytest.approx(200)
    assert demand(ACI, "secondary", (C28, G420), principal=1000e-6) == pytest.approx(0.0018 * 0.25e6)
    assert demand(ACI, "secondary", (C28, G420), principal=0.0) == 0.0
    end = {"end": True, "simple": True, "span": 800e-6, "span_bottom": 600e-6}
    assert demand(EC2, "support_bottom", **end) == pytest.approx(400)
    assert demand(EC2, "support_bottom", **end, top=True) == 0.0
    assert demand(EC2, "restraint", **end, top=True) == pytest.approx(150)
    for name, more in (("support_bottom", {}), ("restraint", {"top": True})):
        assert demand(EC2, name, **{**end, "end": False}, **more) == 0.0
        assert demand(EC2, name, **{**end, "simple": False}, **more) == 0.0


def test_greatest_spacing():
    """EN 9.3.1.1 (3) and ACI 8.7.2.2, 24.4.3.3 at h = 120 and 250 mm."""

    def most(standard, **given):
        return 1e3 * standard.spacing.greatest(station(**given)).limit[0]

    assert [most(EC2, h=h, greatest=g) for h in (0.12, 0.25) for g in (False, True)] == pytest.approx([360, 240, 400, 250])
    across = {"principal": 1e-3}
    assert [most(EC2, h=h, greatest=g, **across) for h in (0.12, 0.25) for g in (False, True)] == pytest.approx(
        [420, 360, 450, 400]
    )
    assert [most(ACI, h=h, greatest=g) for h in (0.12, 0.25) for g in (False, True)] == pytest.approx([360, 240, 450, 450])
    assert [most(ACI, h=h, **across) for h in (0.08, 0.25)] == pytest.approx([400, 450])


def aci(m, n=0.0, concrete=C28, d=0.2):
    return ACI.flexure.design(
        np.array([m]), np.array([n]), Sections(np.array([d + 0.04]), np.array([d]), np.array([0.04]), concrete, G420)
    )


def test_flexure_of_aci():
    """M_u = 60, d = 0.2: mu = 60 / (0.9 x 0.85 x 28e3 x 0.04) = 0.07003; a/d = 0.07267; A_s = 0.85 x 28e3 x 0.07267 x 0.2 / 420e3 =
    823.6 mm2/m. c/d <= 0.003 / (0.006 + 0.0021) = 0.3704; mu_lim = 0.3148 (1 - 0.1574) = 0.2653."""
    found = aci(60.0)
    assert found.mu[0] == pytest.approx(0.07003, rel=1e-3)
    assert found.omega[0] == pytest.approx(0.07267, rel=1e-3)
    assert 1e6 * found.tension[0] == pytest.approx(823.6, rel=1e-3)
    assert controlled(G420) == pytest.approx(0.37037, rel=1e-4)
    assert found.mu_limit == pytest.approx(0.26526, rel=1e-4)
    assert [beta_1(f) for f in (17, 28, 35, 55, 80)] == pytest.approx([0.85, 0.85, 0.80, 0.65714, 0.65], rel=1e-3)
    # Tension of 30 kN/m: phi f_y takes it in full.
    assert 1e6 * (aci(60.0, 30.0).tension[0] - found.tension[0]) == pytest.approx(30 / 0.378, rel=1e-6)
    # Beyond tension control nothing but a deeper section helps: 250 / (856.8 x 0.26526) = 1.1.
    over = aci(250.0)
    assert over.over[0] == pytest.approx(250 / (856.8 * 0.26526), rel=1e-4)
    assert found.over[0] == 0.0
    assert any("more bars do not mend it" in s.note for s in over.steps(0))
    # 8.6.1.1: 0.0018 x 240 = 432 mm2/m wherever the face is stretched.
    sections = Sections(np.array([0.24]), np.array([0.2]), np.array([0.04]), C28, G420)
    assert [1e6 * ACI.minimum.least(np.array([m]), sections).area[0] for m in (0.1, -0.1)] == pytest.approx([432, 0])


def test_spacing_for_cracks_of_aci():
    """f_s = 2/3 x 420 = 280 MPa: 380 - 2.5 x 40 = 280 mm at 40 mm cover, 300 mm at 25; 0.15 over it."""
    for cover, most in ((0.04, 0.28), (0.025, 0.30)):
        assert ACI.cracking.check(station((C28, G420), m_service=1.0, cover=cover)).use[0] == pytest.approx(0.15 / most)
    g550 = Rebar(id="G550", yield_MPa=550.0)
    # f_s = 366.7: 380 x 280 / 366.7 - 2.5 x 50 = 165.2 mm.
    assert ACI.cracking.check(station((C28, g550), m_service=1.0, cover=0.05)).use[0] == pytest.approx(0.15 / 0.1652, rel=1e-3)
    assert ACI.cracking.check(station((C28, G420), m_service=-1.0)).use[0] == 0.0
    # A square millimetre by the metre at f_s carries 0.28 kN/m, a moment of 0.0588: no bars are asked for.
    few = [ACI.cracking.check(station((C28, G420), m_service=m, given=0.0, spacing=1e3)).use[0] for m in (0.058, 0.0595)]
    assert few == [0.0, 99.0]


def places(d=0.2, rho=0.005, n=0.0, concrete=C30, h=0.24):
    return ShearPlaces(np.array([h]), np.array([d]), np.array([rho]), np.array([n]), concrete, B500)


def test_one_way_shear():
    """EN: k = 2; 0.12 x 2 x (100 x 0.005 x 30)^(1/3) = 0.5919 MPa over v_min = 0.035 x 2.828 x 5.477 = 0.5422; x 200 = 118.4
    kN/m. ACI: lambda_s = 1; 0.66 x 0.005^(1/3) x 5.292 = 0.5972 MPa; x 0.75 x 200 = 89.6 kN/m."""
    assert EC2.shear.resistance(places())[0] == pytest.approx(118.4, rel=1e-3)
    assert EC2.shear.resistance(places(rho=0.002))[0] == pytest.approx(108.4, rel=1e-3)
    # d = 500: k = 1.632; rho is capped at 0.02. Compression of 240 kN/m over 240 mm is 1 MPa, 0.15 of it counts; tension takes off.
    assert EC2.shear.resistance(places(d=0.5, h=0.54, rho=0.03))[0] == pytest.approx(
        1e3 * 0.12 * 1.63246 * 60 ** (1 / 3) * 0.5, rel=1e-4
    )
    assert EC2.shear.resistance(places(n=-240.0))[0] == pytest.approx(118.4 + 30, rel=1e-3)
    assert EC2.shear.resistance(places(n=240.0))[0] == pytest.approx(118.4 - 30, rel=1e-3)
    # 0.2 f_cd = 4 MPa at most.
    assert EC2.shear.resistance(places(n=-24e3))[0] == pytest.approx(118.4 + 120, rel=1e-3)
    assert ACI.shear.resistance(places(concrete=C28))[0] == pytest.approx(89.6, rel=1e-3)
    # d = 500: sqrt(2 / 3) = 0.8165. 1 MPa of compression adds 1/6, tension takes off; 0.42 sqrt(f'c) at most.
    assert ACI.shear.resistance(places(d=0.5, h=0.54, concrete=C28))[0] == pytest.approx(0.75 * 500 * 0.8165 * 0.5972, rel=1e-3)
    assert ACI.shear.resistance(places(n=-240.0, concrete=C28))[0] == pytest.approx(150 * (0.5972 + 1 / 6), rel=1e-3)
    assert ACI.shear.resistance(places(n=240.0, concrete=C28))[0] == pytest.approx(150 * (0.5972 - 1 / 6), rel=1e-3)
    assert ACI.shear.resistance(places(rho=0.1, n=-9e3, concrete=C28))[0] == pytest.approx(150 * 0.42 * 28**0.5, rel=1e-6)


@settings(max_examples=60, deadline=None)
@given(
    st.floats(-50, 300),
    st.floats(-200, 200),
    st.floats(0, 50),
    st.floats(0, 100),
    st.sampled_from([(EC2, C30, B500), (ACI, C28, G420)]),
)
def test_more_moment_or_tension_never_asks_for_less(m, n, dm, dn, known):
    standard, concrete, rebar = known
    sections = Sections(np.array([0.25]), np.array([0.21]), np.array([0.04]), concrete, rebar)
    less = standard.flexure.design(np.array([m]), np.array([n]), sections).tension[0]
    more = standard.flexure.design(np.array([m + dm]), np.array([n + dn]), sections).tension[0]
    assert more >= less - 1e-12


def test_every_provision_explains_itself_with_its_demand():
    """The last step's result is the area that is asked for, wherever it is more than nil."""
    given = {"m": 60.0, "m_accidental": 60.0, "m_fire": 60.0, "m_construction": 60.0, "m_service": 40.0, "column": True, "inner": True, "end": True, "simple": True, "total": 4e-3, "kept": 2e-4, "askew": 0.01, "bent": 5e-4, "band": 1.5,
             "span": 8e-4, "free": True, "corner": 7e-4, "shear": 900.0, "section": 2.44, "tendon": 150.0, "offset": 0.08, "fibre": 3000.0, "pull": 150.0, "pressed": 2000.0, "frame": 2.0, "span_bottom": 6e-4, "principal": 1e-3, "transfer": 90.0, "transfer_share": 0.6}  # fmt: skip
    seen = set()
    young = Service(construction=Construction(age_days=7))
    for standard, pair in (
        (standard_named("EN 1992-1-1", {}, young), (C30, B500)),
        (standard_named("ACI 318-19", {}, young), (C28, G420)),
    ):
        for p in standard.provisions:
            # What a fire asks for is in part 1-2.
            assert p.clause.startswith(standard.name[:-1])
            assert p.remedy.endswith(".")
            for top in (False, True):
                found = p.demand(station(pair, top=top, **given))
                if found.area[0] > 0:
                    seen.add((standard.name, p.name))
                    ends = [s.result.value for s in found.steps(0) if s.result and s.result.symbol not in ("w_k",)]
                    symbols = {s.result.symbol: s.result.value for s in found.steps(0) if s.result}
                    if p.name != "crack_width" or "A_s,w" in symbols:
                        assert ends[-1] == pytest.approx(1e6 * found.area[0], rel=1e-9), p.name
                    else:
                        assert symbols["w_k"] == pytest.approx(0.4, rel=1e-6)
    assert len(seen) == len(EC2.provisions) + len(ACI.provisions)
