"""Floors of tests, solved."""

from typing import Any

from piastra.core import pipeline
from piastra.core.model import Floor
from piastra.core.pipeline import Outcome
from piastra.core.stages import StageCache

_kept = [StageCache()]


def begin_anew() -> None:
    """Forget what was solved: each module of tests begins with nothing, and so does a test that puts something else in the place of a part."""
    _kept[0] = StageCache()


def solve_floor(floor: Floor, cache: StageCache | None = None, **how: Any) -> Outcome:
    """As the chain's own, with stages kept between the tests of a module as a server keeps them between runs (that this changes no result has tests
    of its own); without remedies, which take half of the time where much fails, and have tests of their own as well."""
    return pipeline.solve_floor(floor, _kept[0] if cache is None else cache, remedies=False, **how)
