"""EN 1992-1-1:2004 with A1:2014. Recommended values, each of which a project may replace."""

from __future__ import annotations

from collections.abc import Mapping

from piastra.core.standards.en1992 import (
    actions,
    ageing,
    anchorage,
    arrangements,
    beams,
    cracking,
    descent,
    fire,
    flanges,
    flexure,
    library,
    materials,
    minimum,
    prestress,
    punching,
    shear,
    spacing,
    stresses,
    time,
)
from piastra.core.standards.en1992.provisions import bonded, column_band, edges, in_fire, secondary, supports
from piastra.core.standards.moment_transfer import MomentTransfer
from piastra.core.standards.protocol import Integrity, LinkLimits, Service, Standard
from piastra.core.standards.situations import Situation, in_situations
from piastra.core.standards.skew import Skew
from piastra.core.standards.strength import LeastFlexural, Strength

NAME = "EN 1992-1-1"
EDGE_COLUMNS = "EN 1992-1-1, 9.4.2 (1)"
PARAMETERS = (
    *materials.PARAMETERS, *flexure.PARAMETERS, *minimum.PARAMETERS, *spacing.PARAMETERS, *cracking.PARAMETERS, *column_band.PARAMETERS,
    *secondary.PARAMETERS, *supports.PARAMETERS, *shear.PARAMETERS,
    *beams.PARAMETERS, *flanges.PARAMETERS, *punching.PARAMETERS, *prestress.PARAMETERS, *stresses.PARAMETERS, *fire.PARAMETERS, *actions.PARAMETERS,
)  # fmt: skip


def bundle(values: Mapping[str, float], service: Service) -> Standard:
    """The rule sets for values in force, one a parameter, and for how the floor is to serve."""
    lasting = _rules(values, service)
    factors = {"gamma_C": values["gamma_C_accidental"], "gamma_S": values["gamma_S_accidental"]}
    accidental = _rules({**values, **factors}, service)
    situations = (
        Situation("accidental", accidental),
        Situation("fire", lasting, None, fire.LEVEL, fire.LEVEL_CLAUSE),
        Situation("construction", lasting, service.construction),
    )
    return in_situations(lasting, situations)


def _rules(values: Mapping[str, float], service: Service) -> Standard:
    known = materials.Materials(values["gamma_C"], values["gamma_S"], values["alpha_cc"])
    strength = flexure.FlexuralStrength(known, values["x_d_limit"], values["x_d_limit_high"])
    least = minimum.LeastSteel(known, values["k_As,min"], values["rho_As,min"])
    w_max = cracking.limit_of(service.exposure, service.crack_width_limit_mm, values["w_max_dry"], values["w_max"])
    one_way = shear.Shear(
        known,
        values["C_Rd,c"] / values["gamma_C"],
        values["v_min"],
        punching.GREATEST_K,
        values["rho_l,max"],
        values["k_1,cp"],
        LinkLimits(values["h_links"], values["s_t,links"], shear.LINKS),
    )
    widths = values["k_1"], values["k_2"], values["k_3"], values["k_4"], values["k_t"]
    with_tendons = cracking.Cracking(known, min(w_max, values["w_max_bonded"] / 1e3), *widths, limit_states=("frequent",))
    cracks = cracking.Cracking(known, w_max, *widths, bonded=with_tendons)
    return Standard(
        name=NAME,
        parameters=values,
        materials=known,
        actions=actions.Actions(),
        arrangements=arrangements.Arrangements(),
        library=library.LIBRARY,
        flexure=strength,
        minimum=least,
        provisions=(
            Strength(strength, strength.clause),
            Skew(f"{strength.clause}; Kemp 1965"),
            LeastFlexural(least, minimum.CLAUSE),
            cracking.CrackSteel(cracks),
            column_band.ColumnBand(values["band_share"]),
            MomentTransfer(strength, EDGE_COLUMNS, "edge_band", "edge", False, True, "b_e of figure 9.9"),
            edges.FreeEdge(least),
            bonded.BeyondCracking(strength, True),
            bonded.BeyondCracking(strength, False),
            secondary.Secondary(values["k_secondary"]),
            supports.SupportBottom(values["k_support"]),
            supports.Restraint(values["k_restraint"]),
            in_fire.KeptTop(values["k_top,fi"]),
        ),
        spacing=spacing.Spacing(
            ((values["s_max_h"], values["s_max"]), (values["s_max_h_secondary"], values["s_max_secondary"])),
            (
                (values["s_max_h_greatest"], values["s_max_greatest"]),
                (values["s_max_h_greatest_secondary"], values["s_max_greatest_secondary"]),
            ),
        ),
        integrity=Integrity(2, 0.0, True, "EN 1992-1-1, 9.4.1 (3)"),
        anchorage=anchorage.Anchorage(known),
        cracking=cracks,
        stresses=stresses.Stresses(known, values["k_characteristic"], values["k_yield"], service.exposure),
        shear=one_way,
        beams=beams.Beams(
            known,
            one_way,
            least,
            values["nu"],
            values["cot_max"],
            values["rho_w,min"],
            values["s_l,max"],
            flanges.Flanges(known, values["nu"], values["cot_f,max"], values["k_flange"]),
            values["beta_1"],
            values["beta_2"],
        ),
        punching=punching.Punching(
            known, values["C_Rd,c"], values["v_min"], values["k_max"], values["v_Rd,max"], values["nu"], values["rho_l,max"]
        ),
        prestress=prestress.PrestressRules(known, {p.key: values[p.key] for p in prestress.PARAMETERS}, service.exposure),
        time=time.EffectiveModulus(known),
        ageing=ageing.Ageing(known),
        fire=fire.Tables(values["k_top,fi"]),
        descent=descent.Descent({k: values[f"psi0_{k}"] for k in descent.REDUCED}),
    )
