"""Piastra: design of concrete floors."""

from importlib import import_module
from typing import TYPE_CHECKING, Any

__version__ = "0.2.0"
__all__ = ["Floor", "RefusedError", "Results", "new_floor", "read", "solve", "write"]

if TYPE_CHECKING:
    from piastra.library import Floor, RefusedError, Results, new_floor, read, solve, write


def __getattr__(name: str) -> Any:
    # The library loads the mesher and the solver; whoever needs one module of the package does not wait for them.
    if name in __all__:
        return getattr(import_module("piastra.library"), name)
    raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
