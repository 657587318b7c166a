"""What the computation has to tell about a floor that it nevertheless computes."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal


@dataclass(frozen=True, slots=True)
class Message:
    """A finding: what it is about, the sentence, and its place on the plan (m) if it has one."""

    severity: Literal["note", "warning"]
    where: str
    sentence: str
    at: tuple[float, float] | None = None
