"""Beams: part of the floor's stiffness, and of no check yet."""

from __future__ import annotations

from piastra.core.checks.check import Context
from piastra.core.checks.row import Ref, Row, RowId, Unchecked, uncovered


class Beams:
    """Bars and shear of beams."""

    name = "beams"

    def rows(self, context: Context) -> list[Row] | Unchecked | None:
        """Every beam, uncovered: none is designed yet."""
        beams = context.floor.beams
        if not beams:
            return None
        middle = {b.id: ((b.line[0][0] + b.line[1][0]) / 2, (b.line[0][1] + b.line[1][1]) / 2) for b in beams}
        return [
            uncovered(RowId(self.name, Ref("beams", b.id)), b.id, "its own bars and its shear are not designed yet", middle[b.id])
            for b in beams
        ]
