"""Actions as the generators combine them: cases that act together, in either sign, in turn or not at all."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from itertools import product
from typing import Literal

from piastra.core.model import Refusal, RefusedError
from piastra.core.model.loading import Combination, LimitState, LoadCase

Factored = dict[str, float]


@dataclass(frozen=True, slots=True)
class Generated:
    """One combination: factors by case, and the ``rule`` that made it, by which it is known again."""

    limit_state: LimitState
    factors: Factored
    rule: str


@dataclass(frozen=True, slots=True)
class Action:
    """One action: the ways in which it can act (signs and directions, or its cases in turn where they exclude each
    other), each with factors by case and a word for it."""

    name: str
    nature: str
    category: str | None
    ways: tuple[tuple[str, Factored], ...]


SIGNS = ((1.0, "+"), (-1.0, "−"))


def _signed(case: LoadCase) -> list[tuple[str, Factored]]:
    if not case.reversible:
        return [(case.id, {case.id: 1.0})]
    return [(f"{sign}{case.id}", {case.id: factor}) for factor, sign in SIGNS]


def actions(cases: Sequence[LoadCase], natures: Sequence[str], across: float = 0.0) -> list[Action]:
    """The variable actions of some natures, in the order of their cases.

    Cases of one nature and category are one action and act together (EN 1991-1-1, 3.3.1); those of one ``group``, and
    wind and seismic cases among themselves, exclude each other. ``across``: the share of a seismic case in the other
    direction that acts with one (EN 1998-1, 4.3.3.5.1 (3): 0.3); 0: each direction by itself. Raises
    :class:`RefusedError` for a group whose cases differ in nature or category: one factor could not hold for all.
    """
    keys: dict[tuple[str, str | None, str | None], list[LoadCase]] = {}
    for case in cases:
        if case.nature in natures:
            alike = {(c.nature, c.category) for c in cases if c.group == case.group} if case.group else set()
            if len(alike) > 1:
                told = f"group {case.group} has cases of several natures or categories; only alike ones can exclude each other"
                raise RefusedError([Refusal("load_cases", told)])
            key = ("group", case.group, None) if case.group else (case.nature, case.category, None)
            keys.setdefault(key, []).append(case)
    out = []
    for mine in keys.values():
        first = mine[0]
        exclusive = first.group is not None or first.nature in ("wind", "seismic")
        if exclusive and first.nature == "seismic" and across:
            ways = _in_both_directions(mine, across)
        elif exclusive:
            ways = [w for case in mine for w in _signed(case)]
        else:
            ways = [
                (" ".join(name for name, _ in choice), {k: f for _, factors in choice for k, f in factors.items()})
                for choice in product(*(_signed(case) for case in mine))
            ]
        out.append(Action(first.group or " ".join(c.id for c in mine), first.nature, first.category, tuple(ways)))
    return out


def _in_both_directions(cases: Sequence[LoadCase], across: float) -> list[tuple[str, Factored]]:
    ways = []
    for case in cases:
        others = [c for c in cases if c.direction and case.direction and c.direction != case.direction]
        for name, factors in _signed(case):
            if not others:
                ways.append((name, factors))
            for other in others:
                for other_name, part in _signed(other):
                    both = {**factors, **{k: across * f for k, f in part.items()}}
                    ways.append((f"{name} with {across:g} {other_name}", both))
    return ways


def choices(found: Sequence[Action]) -> Iterator[tuple[str, list[tuple[Action, Factored]]]]:
    """All actions together, each in every one of its ways: a name, and the actions with their factors."""
    for chosen in product(*(a.ways for a in found)):
        name = ", ".join(word for word, _ in chosen)
        yield name, [(a, factors) for a, (_, factors) in zip(found, chosen, strict=True)]


STATE_OF = {"secondary": "ultimate", "transfer": "transfer"}
"""Kinds of combination in which an effect of tendons acts, others in service; accidents and construction count as ultimate."""


def prestress_in(cases: Sequence[LoadCase], state: Literal["ultimate", "service", "transfer"], factor: float = 1.0) -> Factored:
    """Factors of the prestress that acts in a kind of combination: secondary effects in ultimate ones, the force that is left in
    the end in service, the whole one at transfer; a case whose loads are the user's own in all."""
    return {
        c.id: factor
        for c in cases
        if c.nature == "prestress" and (c.effect is None or STATE_OF.get(c.effect, "service") == state)
    }


def scaled(factors: Factored, by: float) -> Factored:
    """Factors times a number."""
    return {k: by * f for k, f in factors.items()}


def once(rows: Iterable[Generated]) -> list[Generated]:
    """Rows without factors of zero, without empty rows, and each set of factors once in a limit state."""
    seen: set[tuple[str, tuple[tuple[str, float], ...]]] = set()
    out = []
    for row in rows:
        factors = {k: round(f, 6) for k, f in row.factors.items() if round(f, 6)}
        key = (row.limit_state, tuple(sorted(factors.items())))
        if factors and key not in seen:
            seen.add(key)
            out.append(Generated(row.limit_state, factors, row.rule))
    return out


PREFIX = {
    "ultimate": "U", "accidental": "A", "fire": "E", "construction": "B", "characteristic": "C", "frequent": "F", "quasi_permanent": "Q", "service": "V", "sustained": "L", "transfer": "T",
}  # fmt: skip


def joined(there: Sequence[Combination], made: Sequence[Generated]) -> list[Combination]:
    """The rows after generating anew: rows of the user's own and edited ones stay as they are; generated ones keep
    their place and label where their rule comes again, and go where it does not; new ones follow with free labels."""
    by_rule = {g.rule: g for g in made}
    out: list[Combination] = []
    done: set[str] = set()
    for c in there:
        if c.rule is None or c.edited:
            out.append(c)
        elif c.rule in by_rule and c.rule not in done:
            g = by_rule[c.rule]
            out.append(Combination(id=c.id, limit_state=g.limit_state, factors=g.factors, rule=g.rule))
        if c.rule is not None:
            done.add(c.rule)
    taken = {c.id for c in out}
    number = dict.fromkeys(PREFIX, 0)
    for g in made:
        if g.rule in done:
            continue
        label = ""
        while not label or label in taken:
            number[g.limit_state] += 1
            label = f"{PREFIX[g.limit_state]}{number[g.limit_state]}"
        taken.add(label)
        out.append(Combination(id=label, limit_state=g.limit_state, factors=g.factors, rule=g.rule))
    return out
