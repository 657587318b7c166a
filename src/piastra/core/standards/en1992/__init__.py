"""EN 1992-1-1:2004 with A1:2014. Recommended values, each of which a project may replace."""

from __future__ import annotations

from collections.abc import Mapping

from piastra.core.standards.en1992 import actions, arrangements, flexure, library, materials, minimum, punching, time
from piastra.core.standards.protocol import Standard

NAME = "EN 1992-1-1"
PARAMETERS = (
    *materials.PARAMETERS, *flexure.PARAMETERS, *minimum.PARAMETERS, *punching.PARAMETERS, *actions.PARAMETERS,
)  # fmt: skip


def bundle(values: Mapping[str, float]) -> Standard:
    """The rule sets for values in force, one a parameter."""
    known = materials.Materials(values["gamma_C"], values["gamma_S"], values["alpha_cc"])
    return Standard(
        name=NAME,
        parameters=values,
        materials=known,
        actions=actions.Actions(),
        arrangements=arrangements.Arrangements(),
        library=library.LIBRARY,
        flexure=flexure.FlexuralStrength(known, values["x_d_limit"], values["x_d_limit_high"]),
        minimum=minimum.LeastSteel(known, values["k_As,min"], values["rho_As,min"]),
        punching=punching.Punching(
            known, values["C_Rd,c"], values["v_min"], values["k_max"], values["v_Rd,max"], values["nu"], values["rho_l,max"]
        ),
        time=time.EffectiveModulus(known),
    )
