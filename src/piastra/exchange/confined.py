"""Files from outside are read in a process of their own, which has little time and memory: what they do to it they do to nobody else."""

from __future__ import annotations

import json
import signal
import subprocess
import sys
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

PATIENCE = 3
"""Where the machine has other work, a process gets so many times its seconds to compute for them: a file is not at fault for what others do."""


class UnreadableError(Exception):
    """What was to be read ended the process that read it."""


@dataclass(frozen=True, slots=True)
class Confined:
    """A module that reads what it is given on its standard input, within so many ``seconds`` of computing and bytes of ``memory``."""

    module: str
    seconds: int
    memory: int

    def read(self, ask: dict[str, Any], content: bytes) -> Any:
        """What the module makes of ``content``. Raises :class:`UnreadableError`, and :class:`TimeoutError`."""
        try:
            done = subprocess.run(
                [sys.executable, "-m", self.module, json.dumps(ask)],
                input=content,
                capture_output=True,
                timeout=PATIENCE * self.seconds,
                check=False,
            )
        except subprocess.TimeoutExpired:
            raise TimeoutError from None
        if done.returncode == -signal.SIGXCPU:
            raise TimeoutError
        if done.returncode != 0:
            raise UnreadableError
        return json.loads(done.stdout)

    def answer(self, work: Callable[[dict[str, Any], bytes], Any]) -> None:
        """In that process: keep to the limits, and print what ``work`` makes of the question and the content."""
        import gc
        import resource

        # It ends before it has much to give back, and to look for that takes a quarter of its time.
        gc.disable()
        resource.setrlimit(resource.RLIMIT_AS, (self.memory, self.memory))
        # A second more until it is killed: by the first limit's signal the one who waits knows why it ended.
        resource.setrlimit(resource.RLIMIT_CPU, (self.seconds, self.seconds + 1))
        print(json.dumps(work(json.loads(sys.argv[1]), sys.stdin.buffer.read())))
