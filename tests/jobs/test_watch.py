"""What looks after a run from beside it."""

import gc
import os
import time
from contextlib import suppress

import pytest

from piastra.core.model import floor_from
from piastra.core.pipeline import solve_floor
from piastra.core.stages import CancelledError
from piastra.jobs import worker
from piastra.jobs.worker import Limits, Watch, kept_apart, limits, written
from tests.floors import one_bay


def test_limits_are_told_by_what_was_passed_and_what_to_do():
    within = Limits(60.0, 2_000_000_000)
    assert within.passed(59.0, 1_999_999_999) == ""
    assert within.passed(61.0, 0).startswith("takes longer than the 60 s")
    assert within.passed(0.0, 2_000_000_001).startswith("needs more than the 2.0 GB")
    assert "larger elements" in within.passed(61.0, 0)


def test_limits_come_from_the_environment(monkeypatch):
    monkeypatch.setenv("PIASTRA_RUN_SECONDS", "30")
    monkeypatch.setenv("PIASTRA_RUN_MB", "1500")
    assert limits() == Limits(30.0, 1_500_000_000)


def rest(watch: Watch) -> None:
    time.sleep(30)


CASES = {
    # A run that is asked to stop, and comes to the end of its stage: it ends by itself.
    "stopped": (True, False, Limits(1e9, 10**15), lambda watch: watch.stopped.wait(30), 0, "by itself"),
    # One that is cancelled while it is in a stage that does not end, and two beyond their limits: their process ends.
    "cancelled": (True, True, Limits(1e9, 10**15), rest, 1, ""),
    "too long": (False, False, Limits(0.2, 10**15), rest, 1, "takes longer"),
    "too large": (False, False, Limits(1e9, 1000), rest, 1, "needs more"),
}


@pytest.mark.parametrize("case", CASES)
def test_a_run_is_stopped_from_beside(case):
    stop, cancel, limit, work, code, told = CASES[case]
    read, write = os.pipe()
    # A process of its own, which is ended in the middle.
    child = os.fork()
    if not child:
        with suppress(BaseException):
            with Watch(lambda what: os.write(write, repr(what).encode()), lambda: stop, lambda: cancel, limit) as watch:
                watch.stage("mesh", 0.1)
                work(watch)
            os.write(write, b"by itself")
            os._exit(0)
        os._exit(3)
    os.close(write)
    with os.fdopen(read) as pipe:
        found = pipe.read()
    _, status = os.waitpid(child, 0)
    assert os.waitstatus_to_exitcode(status) == code, found
    assert told in found
    assert ("by itself" in found) == (code == 0)


def test_what_earlier_runs_left_is_not_looked_through_during_a_run_and_is_after_it():
    circle = []
    circle.append(circle)
    with kept_apart():
        assert not any(o is circle for o in gc.get_objects())
    assert any(o is circle for o in gc.get_objects())
    with suppress(RuntimeError), kept_apart():
        raise RuntimeError
    assert any(o is circle for o in gc.get_objects())


def test_what_is_kept_of_a_run_is_whole_or_not_written_to_its_end(monkeypatch):
    """Another run waits for the worker: what is written of the one before ends with its next part."""
    outcome = solve_floor(floor_from(one_bay()), rigorous=False)
    assert all(written(outcome, lambda: False)[name] for name in ("results", "fields", "responses", "bodies"))
    begun = []
    for name in ("kept_fields", "results", "packed_results"):
        monkeypatch.setattr(
            worker, name, lambda *given, name=name, plain=getattr(worker, name): begun.append(name) or plain(*given)
        )
    for turn in range(3):
        asked = iter([False] * turn + [True])
        with pytest.raises(CancelledError):
            written(outcome, lambda asked=asked: next(asked))
        assert begun == ["kept_fields", "results"][:turn]
        begun.clear()
