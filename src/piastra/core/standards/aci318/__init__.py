"""ACI 318-19 (SI units)."""

from __future__ import annotations

from collections.abc import Mapping

from piastra.core.standards.aci318 import (
    actions,
    ageing,
    anchorage,
    arrangements,
    beams,
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
    time,
)
from piastra.core.standards.aci318.provisions import bonded, column_shear, corner, secondary
from piastra.core.standards.moment_transfer import MomentTransfer
from piastra.core.standards.protocol import Integrity, Service, Standard
from piastra.core.standards.situations import Situation, in_situations
from piastra.core.standards.skew import Skew
from piastra.core.standards.strength import LeastFlexural, Strength

NAME = "ACI 318-19"
TRANSFER = "ACI 318-19, 8.4.2.2.1 to 8.4.2.2.5"
PARAMETERS = (
    *flexure.PARAMETERS, *minimum.PARAMETERS, *spacing.PARAMETERS, *secondary.PARAMETERS, *shear.PARAMETERS, *actions.PARAMETERS,
)  # fmt: skip


def bundle(values: Mapping[str, float], service: Service) -> Standard:
    """The rule sets for values in force, one a parameter, and for how the floor is to serve. Strength reduction factors are the same in
    extraordinary events (ASCE 7-16, 2.5.2)."""
    rules = _rules(values)
    return in_situations(rules, (Situation("accidental", rules), Situation("construction", rules, service.construction)))


def _rules(values: Mapping[str, float]) -> Standard:
    known = materials.Materials()
    one_way = shear.Shear(values["phi_shear"])
    strength, least = flexure.FlexuralStrength(values["phi_tension"]), minimum.LeastSteel(values["rho_least"])
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
            MomentTransfer(strength, TRANSFER, "column_band", "column", True, False, "the column and 1.5 h to each side"),
            secondary.Secondary(values["rho_temperature"]),
            corner.Corner(),
            bonded.OverColumns(),
            bonded.InSpans(),
            column_shear.ColumnShear(values["phi_shear"]),
        ),
        spacing=spacing.Spacing(values["s_max"]),
        # Within the region that the column's bars bound: its cover and ties, 50 mm, from each face.
        integrity=Integrity(2, 0.05, False, "ACI 318-19, 8.7.4.2.2"),
        anchorage=anchorage.Anchorage(),
        cracking=spacing.Cracking(values["f_s_share"]),
        shear=one_way,
        punching=punching.Punching(values["phi_shear"]),
        beams=beams.Beams(values["phi_shear"], values["phi_tension"], one_way, flanges.Flanges(values["phi_shear"])),
        prestress=prestress.PrestressRules(values["phi_tension"], known),
        time=time.EffectiveModulus(),
        ageing=ageing.Ageing(materials.Materials()),
        fire=fire.Tables(),
        descent=descent.Descent(),
        torsional_members=True,
    )
