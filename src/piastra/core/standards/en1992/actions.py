"""Combinations of EN 1990:2002 with A1:2005, annex A1, for imposed loads of EN 1991-1-1."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from piastra.core.model import Refusal, RefusedError
from piastra.core.model.loading import LimitState, LoadCase
from piastra.core.standards.generating import Action, Factored, Generated, actions, choices, once, prestress_in, scaled
from piastra.core.standards.parameters import Parameter, values_of
from piastra.core.standards.protocol import Option

_TABLE = "EN 1990, table A1.1"
PSI: dict[str, tuple[str, tuple[float, float, float], str]] = {
    "A": ("domestic, residential", (0.7, 0.5, 0.3), _TABLE),
    "B": ("offices", (0.7, 0.5, 0.3), _TABLE),
    "C": ("congregation", (0.7, 0.7, 0.6), _TABLE),
    "D": ("shopping", (0.7, 0.7, 0.6), _TABLE),
    "E": ("storage", (1.0, 0.9, 0.8), _TABLE),
    "F": ("traffic, vehicles up to 30 kN", (0.7, 0.7, 0.6), _TABLE),
    "G": ("traffic, vehicles of 30 to 160 kN", (0.7, 0.5, 0.3), _TABLE),
    "H": ("roofs", (0.0, 0.0, 0.0), _TABLE),
    "snow": ("snow, sites up to 1000 m", (0.5, 0.2, 0.0), _TABLE),
    "wind": ("wind", (0.6, 0.2, 0.0), _TABLE),
    "temperature": ("temperature", (0.6, 0.5, 0.0), _TABLE),
    "construction": ("construction loads", (1.0, 0.0, 0.2), "EN 1991-1-6, A1.1 (1)"),
}
PARAMETERS = (
    Parameter("gamma_G_sup", "γ_G,sup", "permanent actions, unfavourable", 1.35, "EN 1990, table A1.2(B)"),
    Parameter("gamma_G_inf", "γ_G,inf", "permanent actions, favourable", 1.0, "EN 1990, table A1.2(B)"),
    Parameter("gamma_Q", "γ_Q", "variable actions, unfavourable", 1.5, "EN 1990, table A1.2(B)"),
    Parameter("gamma_P", "γ_P", "prestress", 1.0, "EN 1992-1-1, 2.4.2.2 (1)"),
    Parameter("xi", "ξ", "reduction of permanent actions in (6.10b)", 0.85, "EN 1990, table A1.2(B)"),
    Parameter("seismic_across", "0.30", "share of the other seismic direction", 0.3, "EN 1998-1, 4.3.3.5.1 (3)"),
    *(
        Parameter(f"psi{k}_{key}", f"ψ_{k}", f"{key}: {what}" if len(key) == 1 else what, psi[k], source)
        for key, (what, psi, source) in PSI.items() for k in (0, 1, 2)
    ),
)  # fmt: skip
VARIABLE = ("live", "storage", "roof", "snow", "wind", "temperature")
Share = Callable[[Action], float]
_WITHOUT_CATEGORY = {"live": "B", "storage": "E", "roof": "H"}


@dataclass(frozen=True, slots=True)
class Options:
    """``rule``: the one expression (6.10), or the pair (6.10a) and (6.10b). ``alone``: also each leading action by
    itself; ``accompanied``: with the accompanying ones. ``beside_accident``: whether the leading variable action beside an accidental one has its
    frequent value (psi_1) or its quasi-permanent one (psi_2); the others have psi_2. ``fire``: also a fire, which loads the floor by nothing itself, with
    what acts beside it as beside an accident (EN 1991-1-2, 4.3.1)."""

    rule: str = "6.10"
    alone: bool = True
    accompanied: bool = True
    beside_accident: str = "frequent"
    fire: bool = False


def psi_key(action: Action) -> str:
    """Which row of table A1.1 holds for an action; live load without a category counts as B, storage as E."""
    if action.nature in _WITHOUT_CATEGORY:
        return action.category or _WITHOUT_CATEGORY[action.nature]
    return action.nature


def generate(cases: Sequence[LoadCase], own: Mapping[str, float], options: Options | None = None) -> list[Generated]:
    """The combinations of a list of cases: ultimate by 6.4.3.2 and 6.4.3.4, accidental by 6.4.3.3, serviceability by 6.5.3.

    ``own`` are values that replace recommended ones (keys of ``PARAMETERS``). Permanent actions are all unfavourable
    or all favourable. Every variable action leads in turn, alone and with all others that can act beside it; a
    reversible one comes in both signs. Accidental actions exclude each other. While the floor is built its own weight, what is put on it
    and wind act, and not the finished floor's load (EN 1991-1-6, 2 and 4.11). Category H does not act with snow or wind (EN 1991-1-1, 3.3.2 (1)).
    Raises :class:`piastra.core.model.RefusedError` for values that the standard does not have.
    """
    v = values_of(PARAMETERS, own)
    given = options or Options()
    permanent = [c.id for c in cases if c.nature in ("self_weight", "dead")]
    prestress = prestress_in(cases, "ultimate", v["gamma_P"])
    variable = actions(cases, VARIABLE)
    seismic = actions(cases, ("seismic",), v["seismic_across"])
    accidental = actions(cases, ("accidental",))
    own_weight = [c.id for c in cases if c.nature == "self_weight"]
    work = actions(cases, ("construction",))
    # Wind acts on a floor that is built, and only where something is put on it is that a situation of its own.
    building = [*work, *(actions(cases, ("wind",)) if work else ())]

    def psi(k: int, action: Action) -> float:
        return v[f"psi{k}_{psi_key(action)}"]

    def rows() -> Iterator[Generated]:
        sides = (("G sup", v["gamma_G_sup"]), ("G inf", v["gamma_G_inf"]))
        for side, gamma in sides:
            base = {**dict.fromkeys(permanent, gamma), **prestress}
            if given.rule == "6.10":
                yield Generated("ultimate", base, f"EN 1990 (6.10), {side}")
                for word, factors in _led(variable, given, lambda a: v["gamma_Q"], lambda a: v["gamma_Q"] * psi(0, a)):
                    yield Generated("ultimate", {**base, **factors}, f"EN 1990 (6.10), {side}; {word}")
            else:
                yield Generated("ultimate", base, f"EN 1990 (6.10a), {side}")
                for word, factors in _together(variable, lambda a: v["gamma_Q"] * psi(0, a)):
                    yield Generated("ultimate", {**base, **factors}, f"EN 1990 (6.10a), {side}; {word}")
                # A favourable permanent action has no reduction: it is at its least already.
                reduced = v["xi"] * gamma if side == "G sup" else gamma
                base_b = {**dict.fromkeys(permanent, reduced), **prestress}
                yield Generated("ultimate", base_b, f"EN 1990 (6.10b), {side}")
                for word, factors in _led(variable, given, lambda a: v["gamma_Q"], lambda a: v["gamma_Q"] * psi(0, a)):
                    yield Generated("ultimate", {**base_b, **factors}, f"EN 1990 (6.10b), {side}; {word}")
        base_e = {**dict.fromkeys(permanent, 1.0), **prestress_in(cases, "ultimate")}
        for word, way in ((w, f) for a in seismic for w, f in a.ways):
            yield Generated("ultimate", {**base_e, **way}, f"EN 1990 (6.12b); {word}")
            for beside, factors in _together(variable, lambda a: psi(2, a)):
                yield Generated("ultimate", {**base_e, **way, **factors}, f"EN 1990 (6.12b); {word}; with {beside}")
        k = 1 if given.beside_accident == "frequent" else 2
        for word, way in ((w, f) for a in accidental for w, f in a.ways):
            yield Generated("accidental", {**base_e, **way}, f"EN 1990 (6.11b); {word}")
            for beside, factors in _led(variable, Options(alone=False), lambda a: psi(k, a), lambda a: psi(2, a)):
                yield Generated("accidental", {**base_e, **way, **factors}, f"EN 1990 (6.11b); {word}; {beside}")
        if given.fire:
            yield Generated("fire", base_e, "EN 1990 (6.11b), in a fire")
            for beside, factors in _led(variable, Options(alone=False), lambda a: psi(k, a), lambda a: psi(2, a)):
                yield Generated("fire", {**base_e, **factors}, f"EN 1990 (6.11b), in a fire; {beside}")
        for side, gamma in sides:
            # Nothing of the finished floor is there yet but the slab itself.
            bare = {**dict.fromkeys(own_weight, gamma), **prestress}
            for word, factors in _led(building, given, lambda a: v["gamma_Q"], lambda a: v["gamma_Q"] * psi(0, a)):
                yield Generated("construction", {**bare, **factors}, f"EN 1990 (6.10), {side}, under construction; {word}")
        plain = {**dict.fromkeys(permanent, 1.0), **prestress_in(cases, "service")}
        yield Generated("characteristic", plain, "EN 1990 (6.14b)")
        for word, factors in _led(variable, given, lambda a: 1.0, lambda a: psi(0, a)):
            yield Generated("characteristic", {**plain, **factors}, f"EN 1990 (6.14b); {word}")
        yield Generated("frequent", plain, "EN 1990 (6.15b)")
        for word, factors in _led(variable, given, lambda a: psi(1, a), lambda a: psi(2, a)):
            yield Generated("frequent", {**plain, **factors}, f"EN 1990 (6.15b); {word}")
        yield Generated("quasi_permanent", plain, "EN 1990 (6.16b)")
        for word, factors in _together(variable, lambda a: psi(2, a)):
            yield Generated("quasi_permanent", {**plain, **factors}, f"EN 1990 (6.16b); {word}")
        if stressed := prestress_in(cases, "transfer"):
            yield Generated(
                "transfer",
                {**dict.fromkeys(own_weight, 1.0), **stressed},
                "EN 1992-1-1, 5.10.2.2: at transfer, self-weight and prestress",
            )

    return once(rows())


def _beside(action: Action, others: Sequence[Action]) -> list[Action]:
    """Those of the others that can act with an action."""
    if psi_key(action) == "H":
        return [o for o in others if o.nature not in ("snow", "wind")]
    if action.nature in ("snow", "wind"):
        return [o for o in others if psi_key(o) != "H"]
    return list(others)


def _groups(others: Sequence[Action]) -> list[list[Action]]:
    """The others as they can act together: roofs of category H with no snow and wind, or these without those."""
    roofs = [o for o in others if psi_key(o) == "H"]
    weather = [o for o in others if o.nature in ("snow", "wind")]
    if roofs and weather:
        return [[o for o in others if o not in roofs], [o for o in others if o not in weather]]
    return [list(others)]


def _led(variable: Sequence[Action], given: Options, leading: Share, beside: Share) -> Iterator[tuple[str, Factored]]:
    for action in variable:
        others = [o for o in _beside(action, [o for o in variable if o is not action]) if beside(o)]
        for word, way in action.ways:
            lead = scaled(way, leading(action))
            if given.alone or not others:
                yield f"{word} leads", lead
            if given.accompanied and others:
                for group in _groups(others):
                    for name, beside_it in _with_wind_or_not(group):
                        parts = [scaled(f, beside(a)) for a, f in beside_it]
                        yield f"{word} leads; with {name}", {**lead, **{k: f for p in parts for k, f in p.items()}}


def _with_wind_or_not(found: Sequence[Action]) -> Iterator[tuple[str, list[tuple[Action, Factored]]]]:
    """All actions together; actions that come in several ways (wind) in each of them, and also left out."""
    many = [a for a in found if len(a.ways) > 1]
    if many and len(many) < len(found):
        yield from choices([a for a in found if a not in many])
    yield from choices(found)


def _together(variable: Sequence[Action], factor: Share) -> Iterator[tuple[str, Factored]]:
    acting = [a for a in variable if factor(a)]
    for group in _groups(acting):
        if group:
            for name, chosen in _with_wind_or_not(group):
                yield name, {k: f for a, way in chosen for k, f in scaled(way, factor(a)).items()}


OPTIONS = (
    Option("rule", "Ultimate by EN 1990", "6.10", (("6.10", "(6.10)"), ("6.10ab", "(6.10a) and (6.10b)"))),
    Option("alone", "Each leading action by itself", True),
    Option("accompanied", "With the accompanying actions", True),
    Option(
        "beside_accident",
        "Beside an accident or a fire",
        "frequent",
        (("frequent", "ψ₁, others ψ₂"), ("lasting", "ψ₂ of all")),
    ),
    Option("fire", "Also in a fire", False),
)


class Actions:
    """Combinations of EN 1990."""

    categories: Mapping[str, str] = {k: what for k, (what, _, _) in PSI.items() if len(k) == 1}
    options: tuple[Option, ...] = OPTIONS
    beginning: tuple[tuple[str, LimitState, Mapping[str, float], str], ...] = (
        ("U1", "ultimate", {"G": 1.35, "D": 1.35, "Q": 1.5}, "EN 1990 (6.10), G sup; Q leads"),
        ("C1", "characteristic", {"G": 1.0, "D": 1.0, "Q": 1.0}, "EN 1990 (6.14b); Q leads"),
        ("Q1", "quasi_permanent", {"G": 1.0, "D": 1.0, "Q": 0.3}, "EN 1990 (6.16b); Q"),
    )

    def generate(self, cases: Sequence[LoadCase], own: Mapping[str, float], options: Mapping[str, Any]) -> list[Generated]:
        """:func:`generate` with options by key. Raises :class:`RefusedError` for an option that is none."""
        strange = sorted(set(options) - {o.key for o in OPTIONS})
        strange += [o.key for o in OPTIONS if o.choices and options.get(o.key, o.default) not in dict(o.choices)]
        if strange:
            raise RefusedError([Refusal(f"options.{strange[0]}", "is no choice of EN 1990; remove it")])
        return generate(cases, {k: v for k, v in own.items() if k in _OWN}, Options(**options))


_OWN = {p.key for p in PARAMETERS}
