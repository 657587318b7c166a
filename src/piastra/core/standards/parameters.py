"""Values that a standard leaves to the national annex or the engineer."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from piastra.core.model import Refusal, RefusedError


@dataclass(frozen=True, slots=True)
class Parameter:
    """One such value: its ``key`` in projects and floor files, the ``symbol`` as formulas write it, what it is, the
    recommended ``value`` and its ``source``. ``design``: formulas of the design read it, and not only combinations."""

    key: str
    symbol: str
    meaning: str
    value: float
    source: str
    design: bool = False


def values_of(parameters: Iterable[Parameter], own: Mapping[str, float]) -> dict[str, float]:
    """Values by key, the user's own ones first. Raises :class:`RefusedError` for a key that is none."""
    known = {p.key: p.value for p in parameters}
    strange = sorted(set(own) - set(known))
    if strange:
        raise RefusedError([Refusal(f"parameters.{k}", "is no parameter of this standard; remove it") for k in strange])
    return {**known, **own}
