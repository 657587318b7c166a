"""Combinations from the standard of a floor, and how they join the rows that are there."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from piastra.core.combine import aci318_loads, en1990
from piastra.core.combine.actions import Generated, Parameter
from piastra.core.model.loading import Combination, LoadCase

PARAMETERS: dict[str, tuple[Parameter, ...]] = {
    "EN 1992-1-1": en1990.PARAMETERS,
    "ACI 318-19": aci318_loads.PARAMETERS,
}
CATEGORIES: dict[str, dict[str, str]] = {
    "EN 1992-1-1": {k: what for k, (what, _, _) in en1990.PSI.items() if len(k) == 1},
    "ACI 318-19": {
        "other": "other uses, up to 4.8 kPa (100 psf)", "assembly": "places of public assembly", "garage": "garages",
        "heavy": "more than 4.8 kPa (100 psf)",
    },
}  # fmt: skip
PREFIX = {
    "ultimate": "U", "characteristic": "C", "frequent": "F", "quasi_permanent": "Q", "service": "V", "sustained": "L", "transfer": "T",
}  # fmt: skip


def generated(
    standard: str, cases: Sequence[LoadCase], own: Mapping[str, float], options: en1990.Options | None = None
) -> list[Generated]:
    """The combinations that a standard asks for. Raises :class:`piastra.core.model.RefusedError`."""
    if standard == "ACI 318-19":
        return aci318_loads.generate(cases, own)
    return en1990.generate(cases, own, options)


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
