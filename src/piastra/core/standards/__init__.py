"""Design standards behind one protocol: a folder each, listed in the registry."""

from __future__ import annotations

from piastra.core.standards.protocol import Standard
from piastra.core.standards.registry import standard_named, standard_of

__all__ = ["Standard", "standard_named", "standard_of"]
