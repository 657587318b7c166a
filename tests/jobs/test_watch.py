"""What looks after a run from beside it."""

import gc
import os
import subprocess
import sys
import textwrap
from contextlib import suppress

import pytest

from piastra.jobs.worker import Limits, kept_apart, limits


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


CASES = {
    # A run that is asked to stop, and comes to the end of its stage: it ends by itself.
    "stopped": ("lambda: True", "lambda: False", "1e9, 10**15", "watch.stopped.wait(30)", 0, "by itself"),
    # One that is cancelled while it is in a stage that does not end, and two beyond their limits: their process ends.
    "cancelled": ("lambda: True", "lambda: True", "1e9, 10**15", "time.sleep(30)", 1, ""),
    "too long": ("lambda: False", "lambda: False", "0.2, 10**15", "time.sleep(30)", 1, "takes longer"),
    "too large": ("lambda: False", "lambda: False", "1e9, 1000", "time.sleep(30)", 1, "needs more"),
}


@pytest.mark.parametrize("case", CASES)
def test_a_run_is_stopped_from_beside(case):
    stop, cancel, limit, work, code, told = CASES[case]
    script = textwrap.dedent(f"""
        import time
        from piastra.jobs.worker import Limits, Watch
        with Watch(lambda what: print(what, flush=True), {stop}, {cancel}, Limits({limit})) as watch:
            watch.stage("mesh", 0.1)
            {work}
        print("by itself")
    """)
    found = subprocess.run(
        [sys.executable, "-c", script], capture_output=True, text=True, timeout=60, check=False, env=dict(os.environ)
    )
    assert found.returncode == code, found.stderr
    assert told in found.stdout
    assert ("by itself" in found.stdout) == (code == 0)


def test_what_earlier_runs_left_is_not_looked_through_during_a_run_and_is_after_it():
    circle = []
    circle.append(circle)
    with kept_apart():
        assert not any(o is circle for o in gc.get_objects())
    assert any(o is circle for o in gc.get_objects())
    with suppress(RuntimeError), kept_apart():
        raise RuntimeError
    assert any(o is circle for o in gc.get_objects())
