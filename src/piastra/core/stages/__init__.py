"""The stages of the computation, one a file; :mod:`piastra.core.pipeline` lists them in order."""

from __future__ import annotations

from piastra.core.stages.build import CancelledError, Made, Run, Stage, StageCache, UndeclaredError, key_of, size_of

__all__ = ["CancelledError", "Made", "Run", "Stage", "StageCache", "UndeclaredError", "key_of", "size_of"]
