"""ACI 318-19 (SI units). What is at hand: materials, combinations and arrangements; its strength checks are not yet."""

from __future__ import annotations

from collections.abc import Mapping

from piastra.core.standards.aci318 import actions, arrangements, library, materials, time
from piastra.core.standards.protocol import Standard

NAME = "ACI 318-19"
PARAMETERS = actions.PARAMETERS


def bundle(values: Mapping[str, float]) -> Standard:
    """The rule sets for values in force, one a parameter."""
    known = materials.Materials()
    return Standard(
        name=NAME,
        parameters=values,
        materials=known,
        actions=actions.Actions(),
        arrangements=arrangements.Arrangements(),
        library=library.LIBRARY,
        time=time.EffectiveModulus(),
    )
