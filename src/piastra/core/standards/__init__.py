"""Design standards behind one protocol."""

from __future__ import annotations

from piastra.core.standards.aci318 import Aci318
from piastra.core.standards.en1992 import En1992
from piastra.core.standards.protocol import Standard

__all__ = ["Standard", "standard_named"]


def standard_named(name: str) -> Standard:
    """The standard that a floor names."""
    known: dict[str, Standard] = {"EN 1992-1-1": En1992(), "ACI 318-19": Aci318()}
    return known[name]
