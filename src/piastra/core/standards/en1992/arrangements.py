"""Arrangements of live load that EN 1992-1-1 asks for."""

from __future__ import annotations

from collections.abc import Sequence

from piastra.core.combine.arrangements import Arrangement


class Arrangements:
    """5.1.3 (1)P."""

    def required(self, found: Sequence[Arrangement], live_over_dead: float) -> list[Arrangement]:
        """All, alternate spans, two adjacent spans."""
        return [a for a in found if a.rules - {"around"}]
