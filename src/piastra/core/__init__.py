"""The computation of floors, free of web, database, jobs and files."""

from piastra.core.standards import registry as _registry  # makes the standards known to the model

assert _registry.names()
