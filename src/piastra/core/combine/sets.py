"""Combinations kept for other floors: by what cases are, not by their labels."""

from __future__ import annotations

from collections.abc import Sequence

from piastra.core.model.loading import Combination, CombinationSet, LoadCase, SetRow


def _kind(case: LoadCase, cases: Sequence[LoadCase]) -> str:
    """What a case is, and which one of its kind: ``live B``, ``wind 2``."""
    base = f"{case.nature} {case.category}" if case.category else case.nature
    alike = [c.id for c in cases if (c.nature, c.category) == (case.nature, case.category)]
    number = alike.index(case.id)
    return f"{base} {number + 1}" if number else base


def set_of(label: str, standard: str, rows: Sequence[Combination], cases: Sequence[LoadCase]) -> CombinationSet:
    """The rows as a set that other floors can take."""
    kinds = {c.id: _kind(c, cases) for c in cases}
    kept = [
        SetRow(id=r.id, limit_state=r.limit_state, factors={kinds[k]: f for k, f in r.factors.items() if f and k in kinds})
        for r in rows
    ]
    return CombinationSet(id=label, standard=standard, rows=kept)


def rows_of(
    chosen: CombinationSet, cases: Sequence[LoadCase], taken: Sequence[Combination]
) -> tuple[list[Combination], list[str]]:
    """The rows that a set gives for a floor's cases, next to those that are ``taken``, and the kinds of case that the
    set combines and the floor does not have. Rows that come out empty or are there already are left out."""
    kinds = {_kind(c, cases): c.id for c in cases}
    labels = {c.id for c in taken}
    there = {(c.limit_state, tuple(sorted((k, f) for k, f in c.factors.items() if f))) for c in taken}
    out: list[Combination] = []
    for row in chosen.rows:
        factors = {kinds[k]: f for k, f in row.factors.items() if k in kinds}
        key = (row.limit_state, tuple(sorted(factors.items())))
        if not factors or key in there:
            continue
        there.add(key)
        label, n = row.id, 1
        while label in labels:
            n += 1
            label = f"{row.id} ({n})"
        labels.add(label)
        out.append(Combination(id=label, limit_state=row.limit_state, factors=factors))
    missing = sorted({k for row in chosen.rows for k in row.factors} - set(kinds))
    return out, missing
