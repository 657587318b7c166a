"""Findings about the model itself, before anything is computed."""

from piastra.core.audit.audit import audit
from piastra.core.audit.finding import Add, Finding, Mend, Remove, Set

__all__ = ["Add", "Finding", "Mend", "Remove", "Set", "audit"]
