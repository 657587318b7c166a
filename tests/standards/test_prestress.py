"""Prestress of both standards against hand calculations with their intermediate values."""

import numpy as np
import pytest

from piastra.core.model.materials import Concrete, Rebar
from piastra.core.model.tendons import Prestress, Strand
from piastra.core.standards.en1992 import ageing
from piastra.core.standards.en1992.prestress import relaxation
from piastra.core.standards.prestress_rules import LossPlaces, UltimatePlaces
from piastra.core.standards.protocol import Service
from piastra.core.standards.registry import standard_named
from piastra.core.trace.formula import evaluate, parts
from tests.standards.test_provisions import ACI, B500, C28, C30, EC2, G420, station

MONO = Strand(id="S", area_mm2=150.0, fpk_MPa=1860.0, fp01k_MPa=1640.0)
BONDED = MONO.model_copy(update={"bond": "bonded"})
C40 = Concrete(id="C40", strength_MPa=40.0, transfer_strength_MPa=25.0)
C35 = Concrete(id="C35", strength_MPa=35.0)
HOW = Prestress()
EC, AC = EC2.prestress, ACI.prestress


def one(*values):
    return [np.array([v]) for v in values]


def holds(steps):
    """Every formula gives its result from the values beside it."""
    for s in steps:
        if s.formula:
            values = {v.symbol: v.value if s.empirical else v.coherent for v in s.values}
            result = s.result.value if s.empirical else s.result.coherent
            assert evaluate(parts(s.formula)[1], values) == pytest.approx(result, rel=1e-9), s.title


# Concrete over time


def test_creep_and_shrinkage_of_a_slab_by_hand():
    # f_cm 38: alpha_1 0.9441, alpha_2 0.9837; h_0 300: phi_RH (1 + 0.5 / 0.66943 x 0.9441) x 0.9837 = 1.6773; 16.8 / sqrt(38) = 2.7253;
    # 1 / (0.1 + 28^0.2) = 0.48846.
    late = np.array([1e9])
    assert ageing.creep(late, 28.0, 30.0, 300.0, 50.0)[0] == pytest.approx(1.6773 * 2.7253 * 0.48846, rel=2e-4)
    # At a year: beta_H = 1.5 (1 + 0.6^18) 300 + 250 x 0.9597 = 689.97; ((365 - 28) / (690 + 337))^0.3 = 0.7158.
    assert ageing.creep(np.array([365.0]), 28.0, 30.0, 300.0, 50.0)[0] == pytest.approx(2.2328 * 0.7158, rel=5e-4)
    # A slow cement loads the concrete younger, a rapid one older.
    slow, rapid = (ageing.creep(late, 7.0, 30.0, 300.0, 50.0, k)[0] for k in ("S", "R"))
    assert slow > ageing.creep(late, 7.0, 30.0, 300.0, 50.0)[0] > rapid
    # 0.85 x 660 x exp(-0.456) x 1.55 x 0.875 = 482.2; k_h 0.75 at 300 mm; autogenous 2.5 x 20.
    assert 1e6 * ageing.drying_shrinkage(late, 7.0, 30.0, 300.0, 50.0)[0] == pytest.approx(0.75 * 482.2, rel=1e-3)
    assert 1e6 * ageing.autogenous_shrinkage(late, 30.0)[0] == pytest.approx(50.0, rel=1e-6)
    assert ageing.beta_cc(28.0) == pytest.approx(1.0)
    # exp(0.25 (1 - sqrt 7)).
    assert ageing.beta_cc(4.0) == pytest.approx(0.66268, rel=1e-4)
    assert ageing.modulus_ratio(0.5) == pytest.approx(0.5**0.3)


# EN 1992-1-1


def test_relaxation_by_class():
    # mu 0.69892: 0.66 x 2.5 x e^(9.1 mu) x 500^(0.75 (1 - mu)) x 1e-5 = 0.66 x 2.5 x 578.4 x 4.0687e-5 = 0.03883 of 1300 MPa.
    assert relaxation(MONO, np.array([1300.0]))[0] == pytest.approx(50.48, rel=1e-3)
    # Class 3: 1.98 x 2.5 x e^(8 mu) = 268.1; class 1: 5.39 x 2.5 x e^(6.7 mu) = 108.06.
    bars, wire = (MONO.model_copy(update={"relaxation_class": k}) for k in (3, 1))
    assert relaxation(bars, np.array([1300.0]))[0] == pytest.approx(1300 * 4.95 * 268.1 * 4.0687e-5, rel=1e-3)
    assert relaxation(wire, np.array([1300.0]))[0] == pytest.approx(1300 * 13.475 * 108.06 * 4.0687e-5, rel=1e-3)


def test_long_term_loss_of_en_by_hand():
    E = 35220.0
    place = LossPlaces(MONO, C40, HOW, E, *one(1250.0, -8e-5, -5e-5, 0.225, 0.06, 10.0))
    found = EC.long_term(place)
    phi = float(ageing.creep(np.array([500000 / 24]), 4.0, 40.0, 225.0, 50.0)[0])
    eps = float(
        ageing.drying_shrinkage(np.array([500000 / 24]), 4.0, 40.0, 225.0, 50.0)[0]
        + ageing.autogenous_shrinkage(np.array([500000 / 24]), 40.0)[0]
        - ageing.autogenous_shrinkage(np.array([4.0]), 40.0)[0]
    )
    # alpha 5.5366; sigma_c 2.8176; rho 5e-5 E / 1250 = 0.0014088; k_z 1 + 12 (0.06 / 0.225)^2 = 1.85333.
    above = eps * 195000 + 0.8 * float(relaxation(MONO, np.array([1250.0]))[0]) + 195000 / E * phi * 2.8176
    below = 1 + 195000 / E * 0.0014088 * 1.85333 * (1 + 0.8 * phi)
    assert found.loss[0] == pytest.approx(above / below, rel=1e-4)
    assert 100 < found.loss[0] < 180
    holds(found.steps(0))
    # Concrete that lasting loads stretch beside the tendon gives something back.
    assert EC.long_term(LossPlaces(MONO, C40, HOW, E, *one(1250.0, 4e-5, -5e-5, 0.225, 0.06, 10.0))).loss[0] < found.loss[0]


def test_limits_of_en():
    assert EC.jack_limit(MONO).result.value == pytest.approx(0.9 * 1640)
    soft = MONO.model_copy(update={"fp01k_MPa": 1700.0})
    assert EC.jack_limit(soft).result.value == pytest.approx(0.8 * 1860)
    transfer = EC.limits("transfer", C40, HOW, False)
    assert (transfer.compression, transfer.tension) == pytest.approx((15.0, 0.30 * 25 ** (2 / 3)))
    # Without a given strength: f_cm(4) - 8 = 0.66268 x 48 - 8.
    bare = C40.model_copy(update={"transfer_strength_MPa": None})
    assert EC.at_transfer(bare, HOW)[0] == pytest.approx(0.66268 * 48 - 8, rel=1e-4)
    assert EC.limits("quasi_permanent", C40, HOW, False).compression == pytest.approx(18.0)
    assert EC.limits("characteristic", C40, HOW, False).compression == pytest.approx(24.0)
    assert EC.limits("quasi_permanent", C40, HOW, True).tension is None
    wet = standard_named("EN 1992-1-1", {}, Service("XC3", None)).prestress
    assert wet.limits("quasi_permanent", C40, HOW, True).tension == 0.0
    assert wet.limits("quasi_permanent", C40, HOW, False).tension is None
    assert EC.spread(MONO) == (0.95, 1.05)
    assert EC.spread(BONDED) == (0.90, 1.10)


def test_ultimate_stress_of_en():
    def at(strand, f_pe, A_p=8e-4, A_s=0.0, d_p=0.18):
        return EC.ultimate(UltimatePlaces(strand, C30, B500, *one(A_p, d_p, f_pe, A_s, d_p, 35.0)))

    assert at(MONO, 1100.0)[0][0] == pytest.approx(1200.0)
    assert at(MONO, 1350.0)[0][0] == pytest.approx(1640 / 1.15)
    holds(at(MONO, 1100.0)[1])
    # Lightly stressed: f_pd. x = 8e-4 x 1426 / (0.8 x 20) = 0.0713; 1100 + 195000 x 0.0035 (0.18 / x - 1) is far beyond it.
    assert at(BONDED, 1100.0)[0][0] == pytest.approx(1640 / 1.15)
    # So much steel that the axis lies below the tendon's yield: sigma = 1100 + 682.5 (0.18 / x - 1) with x = 3e-3 sigma / 16.
    stress = at(BONDED, 700.0, 3e-3)[0][0]
    x = 3e-3 * stress / 16
    assert stress == pytest.approx(700 + 682.5 * (0.18 / x - 1), rel=1e-6)
    assert stress < 1640 / 1.15


# ACI 318-19


def test_long_term_loss_of_aci_by_hand():
    E = 4700 * 35**0.5
    found = AC.long_term(LossPlaces(MONO, C35, HOW, E, *one(1280.0, -9e-5, -6e-5, 0.20, 0.06, 20.0)))
    # f_cpa 1.6683; n 7.0129: CR 18.72. V/S 3.937 in, K_sh 0.825 at four days: SH 50.38. 1300 / 1860: C 0.7446; RE 23.02.
    assert found.loss[0] == pytest.approx(18.72 + 50.38 + 23.02, rel=2e-3)
    holds(found.steps(0)[:1] + found.steps(0)[2:])
    bonded = AC.long_term(LossPlaces(BONDED, C35, HOW, E, *one(1280.0, -9e-5, -6e-5, 0.20, 0.06, 20.0)))
    # Beside the tendon 2.5025: CR 28.08, RE 22.74.
    assert bonded.loss[0] == pytest.approx(28.08 + 50.38 + 22.74, rel=2e-3)


def test_limits_of_aci():
    assert AC.jack_limit(MONO).result.value == pytest.approx(0.80 * 1860)
    assert AC.jack_limit(MONO.model_copy(update={"fp01k_MPa": 1500.0})).result.value == pytest.approx(0.94 * 1500)
    early = C35.model_copy(update={"transfer_strength_MPa": 25.0})
    transfer, service, lasting = (AC.limits(s, early, HOW, False) for s in ("transfer", "service", "sustained"))
    assert (transfer.compression, transfer.tension) == pytest.approx((15.0, 1.25))
    assert (service.compression, service.tension) == pytest.approx((21.0, 0.5 * 35**0.5))
    assert (lasting.compression, lasting.tension) == pytest.approx((15.75, 0.5 * 35**0.5))
    # t / (4 + 0.85 t) at four days: 4 / 7.4.
    assert AC.at_transfer(C35, HOW)[0] == pytest.approx(35 * 4 / 7.4)
    assert AC.precompression()[:3] == (0.9, 3.5, True)
    for limit in (transfer, service, lasting):
        holds(limit.steps)


def test_ultimate_stress_of_aci():
    def at(strand, f_pe, slender, A_s=0.0):
        return AC.ultimate(UltimatePlaces(strand, C35, G420, *one(0.002 * 0.17, 0.17, f_pe, A_s, 0.17, slender)))

    # 1100 + 70 + 35 / 0.2 = 1345; beyond a ratio of 35: 70 + 35 / 0.6 = 128.3; caps 420 and 210.
    assert at(MONO, 1100.0, 30.0)[0][0] == pytest.approx(0.9 * 1345)
    assert at(MONO, 1100.0, 40.0)[0][0] == pytest.approx(0.9 * (1100 + 70 + 35 / 0.6))
    rich = AC.ultimate(UltimatePlaces(MONO, C35, G420, *one(1e-5, 0.17, 1100.0, 0.0, 0.17, 40.0)))[0][0]
    assert rich == pytest.approx(0.9 * 1310)
    assert at(MONO, 1500.0, 30.0)[0][0] == pytest.approx(0.9 * 1640)
    # gamma_p 0.40 (f_py 0.88 f_pu), beta_1 0.80; 0.002 x 1860 / 35 = 0.10629; bars 0.0008 / 0.17 x 12 = 0.05647.
    assert at(BONDED, 1100.0, 30.0, 8e-4)[0][0] == pytest.approx(0.9 * 1860 * (1 - 0.5 * (0.10629 + 0.05647)), rel=1e-4)
    holds(at(MONO, 1100.0, 40.0)[1])
    holds(at(BONDED, 1100.0, 30.0, 8e-4)[1])


# Bonded bars


def provision(standard, name):
    return next(p for p in standard.provisions if p.name == name)


def test_bonded_bars_of_aci():
    over, span = provision(ACI, "bonded_support"), provision(ACI, "bonded_span")
    at = {"column": True, "band": 1.5, "frame": 2.0, "tendon": 300.0}
    # 0.00075 x 2.0 m2 over 1.5 m: 1000 mm2/m; none at the bottom, and none where there is no column's frame.
    assert over.demand(station((C28, G420), top=True, **at)).area[0] == pytest.approx(1e-3)
    assert over.demand(station((C28, G420), top=False, **at)).area[0] == 0
    assert over.demand(station((C28, G420), top=True, **{**at, "frame": 0.0})).area[0] == 0
    # Up to 0.17 sqrt(28) = 0.8996 MPa nothing; beyond it N_c / 210 MPa.
    pulled = {"tendon": 300.0, "pull": 150.0}
    assert span.demand(station((C28, G420), top=False, fibre=899.0, **pulled)).area[0] == 0
    assert span.demand(station((C28, G420), top=False, fibre=901.0, **pulled)).area[0] == pytest.approx(150 / 210e3)
    assert span.demand(station((C28, G420), top=True, fibre=901.0, **pulled)).area[0] == 0
    strong = Rebar(id="R", yield_MPa=500.0)
    assert span.demand(station((C28, strong), top=False, fibre=901.0, **pulled)).area[0] == pytest.approx(150 / 210e3)


def test_bonded_bars_of_en_carry_more_than_the_cracking_moment():
    span = provision(EC2, "bonded_span")
    at = {"tendon": 150.0, "offset": 0.06, "pressed": 2000.0, "fibre": 500.0}
    found = span.demand(station((C30, B500), top=False, **at))
    # m_cr (2.8965 + 2.0) 0.25^2 / 6 = 51.0; about the bars 1.15 x 51.0 - 150 x 0.06 + 150 x (0.21 - 0.125) = 62.41; n -150.
    m = 1.15 * (2896.5 + 2000) * 0.25**2 / 6 - 150 * 0.06 + 150 * 0.085
    omega = 1 - (1 - 2 * m / (20e3 * 0.21**2)) ** 0.5
    assert found.area[0] == pytest.approx((omega * 20e3 * 0.21 - 150) / (500e3 / 1.15), rel=1e-4)
    assert span.demand(station((C30, B500), top=False, **{**at, "fibre": 0.0})).area[0] == 0
    assert span.demand(station((C30, B500), top=False, **{**at, "tendon": 0.0})).area[0] == 0
    assert provision(EC2, "bonded_support").demand(station((C30, B500), top=False, **at)).area[0] == 0


def test_bursting_behind_anchors():
    # 1.2 x 200 kN / 4 x (1 - 75 / 225) = 40 kN: at 300 MPa 133.3 mm2; at 0.85 x 420 MPa 112.0 mm2.
    for rules, area in ((EC, 133.33), (AC, 112.04)):
        force, steel = rules.bursting(200.0, 0.075, 0.225, 500.0)
        assert force.result.value == pytest.approx(40.0)
        assert steel.result.value == pytest.approx(area, rel=1e-4)
        holds((force, steel))
        assert rules.bursting(200.0, 0.3, 0.225, 500.0)[0].result.value == 0
    assert EC.bursting(200.0, 0.075, 0.225, 300.0)[1].result.value == pytest.approx(40e3 / (300 / 1.15))
