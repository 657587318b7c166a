"""The process that reads a file from outside: its limits, and how each of them is told."""

import pytest

from piastra.exchange.confined import PATIENCE, Confined, UnreadableError

READER = Confined("reader_of_a_test", seconds=2, memory=1_000_000_000)
MODULE = f"""
import os, time
from piastra.exchange.confined import Confined

def work(ask, content):
    if ask["do"] == "compute":
        while True: pass
    if ask["do"] == "hold":
        return len(bytearray(2_000_000_000))
    if ask["do"] == "die":
        os._exit(3)
    time.sleep(ask.get("seconds", 0))
    return [ask["do"], len(content)]

{READER!r}.answer(work)
"""


@pytest.mark.study
def test_a_file_has_time_to_compute_and_is_not_blamed_for_a_busy_machine(tmp_path, monkeypatch):
    (tmp_path / "reader_of_a_test.py").write_text(MODULE)
    monkeypatch.setenv("PYTHONPATH", str(tmp_path), prepend=":")
    # Longer than its seconds by the clock, next to nothing of computing.
    assert READER.read({"do": "wait", "seconds": READER.seconds + 0.5}, b"abc") == ["wait", 3]
    for ask, error in (
        ({"do": "compute"}, TimeoutError),
        ({"do": "wait", "seconds": PATIENCE * READER.seconds + 20}, TimeoutError),
        ({"do": "hold"}, UnreadableError),
        ({"do": "die"}, UnreadableError),
    ):
        with pytest.raises(error):
            READER.read(ask, b"")
