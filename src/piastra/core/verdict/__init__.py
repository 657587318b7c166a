"""The floor's worst utilisation for each check, with the trace of every number."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from piastra.core.trace import Trace

Status = Literal["pass", "fail", "unchecked"]


@dataclass(frozen=True, slots=True)
class Row:
    """One check of one place."""

    check: str
    utilisation: float | None
    where: str
    combination: str
    status: Status
    at: tuple[float, float] | None = None
    trace: Trace | None = None
    reason: str = ""


def row_of(trace: Trace) -> Row:
    """The row of a traced check: it passes up to a utilisation of 1."""
    status: Status = "pass" if trace.utilisation <= 1.0 else "fail"
    return Row(trace.check, trace.utilisation, trace.where, trace.combination, status, trace.at, trace)


def worst(check: str, traces: Sequence[Trace], reason: str) -> Row:
    """The worst of a check's traces, or an unchecked row with the reason."""
    if not traces:
        return Row(check, None, "", "", "unchecked", reason=reason)
    return row_of(max(traces, key=lambda t: t.utilisation))
