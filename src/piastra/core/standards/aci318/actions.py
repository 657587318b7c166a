"""Combinations of ACI 318-19, section 5.3, with the service combinations of ASCE 7-16."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from piastra.core.model import Refusal, RefusedError
from piastra.core.model.loading import LimitState, LoadCase
from piastra.core.standards.generating import Action, Factored, Generated, actions, choices, once, prestress_in, scaled
from piastra.core.standards.parameters import Parameter, values_of
from piastra.core.standards.protocol import Option

_TABLE = "ACI 318-19, table 5.3.1"
PARAMETERS = (
    Parameter("D_alone", "1.4 D", "permanent actions alone (5.3.1a)", 1.4, _TABLE),
    Parameter("D", "1.2 D", "permanent actions, unfavourable", 1.2, _TABLE),
    Parameter("D_least", "0.9 D", "permanent actions, favourable", 0.9, _TABLE),
    Parameter("L", "1.6 L", "live load that leads", 1.6, _TABLE),
    Parameter("L_beside", "1.0 L", "live load beside others", 1.0, _TABLE),
    Parameter("L_reduced", "0.5 L", "live load beside others, other uses up to 100 psf", 0.5, "ACI 318-19, 5.3.3"),
    Parameter("X", "1.6 L_r or S", "roof live load or snow that leads", 1.6, _TABLE),
    Parameter("X_beside", "0.5 L_r or S", "roof live load or snow beside others", 0.5, _TABLE),
    Parameter("W", "1.0 W", "wind", 1.0, _TABLE),
    Parameter("W_beside", "0.5 W", "wind beside roof live load or snow", 0.5, _TABLE),
    Parameter("E", "1.0 E", "earthquake", 1.0, _TABLE),
    Parameter("S_beside_E", "0.2 S", "snow beside earthquake", 0.2, _TABLE),
    Parameter("L_beside_A", "0.5 L", "live load beside an extraordinary event", 0.5, "ASCE 7-16, 2.5.2.1"),
    Parameter("S_beside_A", "0.2 S", "snow beside an extraordinary event", 0.2, "ASCE 7-16, 2.5.2.1"),
    Parameter("T", "1.0 T", "restraint of volume change, at least 1.0", 1.0, "ACI 318-19, 5.3.6"),
    Parameter("P", "1.0 P", "reactions induced by prestressing", 1.0, "ACI 318-19, 5.3.11"),
    Parameter("sustained", "0.5 L", "live load that lasts", 0.5, "ASCE 7-16, commentary CC.2.1"),
    Parameter("sustained_storage", "1.0 L", "stored goods that last", 1.0, "engineer's choice"),
    Parameter("seismic_across", "0", "share of the other seismic direction", 0.0, "ASCE 7-16, 12.5: 0.3 where it applies"),
)  # fmt: skip
ROOFS = ("roof", "snow")


def generate(cases: Sequence[LoadCase], own: Mapping[str, float]) -> list[Generated]:
    """The combinations of a list of cases: required strength by 5.3.1, extraordinary events by ASCE 7-16 2.5.2.1, under construction, service by
    ASCE 7-16 2.4.1, sustained, and transfer where there is prestress.

    ``own`` are values that replace those of the standard (keys of ``PARAMETERS``). Terms in an expression that need
    not act together (5.3.2) come with and without each other; roof live load and snow exclude each other; wind and
    earthquake come in each direction and sign. Raises :class:`piastra.core.model.RefusedError` for values that the
    standard does not have.
    """
    v = values_of(PARAMETERS, own)
    dead = [c.id for c in cases if c.nature in ("self_weight", "dead")]
    prestress = prestress_in(cases, "ultimate", v["P"])
    live = actions(cases, ("live", "storage"))
    roofs = actions(cases, ROOFS)
    wind, seismic = actions(cases, ("wind",)), actions(cases, ("seismic",), v["seismic_across"])
    restraint = actions(cases, ("temperature",))
    own_weight = [c.id for c in cases if c.nature == "self_weight"]
    work = actions(cases, ("construction",))
    accidental = actions(cases, ("accidental",))

    def beside(action: Action) -> float:
        return v["L_reduced"] if action.nature == "live" and action.category in (None, "other") else v["L_beside"]

    def lives(leading: bool) -> list[tuple[str, Factored]]:
        return [
            (word, {k: f for a, way in chosen for k, f in scaled(way, v["L"] if leading else beside(a)).items()})
            for word, chosen in choices(live)
        ] if live else []  # fmt: skip

    def ways(found: Sequence[Action], factor: float, only: tuple[str, ...] = ()) -> list[tuple[str, Factored]]:
        return [(w, scaled(f, factor)) for a in found if not only or a.nature in only for w, f in a.ways]

    nothing: list[tuple[str, Factored]] = [("", {})]

    def ultimate() -> Iterator[tuple[str, str, Factored]]:
        greatest, least = (dict.fromkeys(dead, v[k]) for k in ("D", "D_least"))
        yield "a", "", dict.fromkeys(dead, v["D_alone"])
        for l, lf in lives(leading=True):
            for x, xf in nothing + ways(roofs, v["X_beside"]):
                for t, tf in nothing + ways(restraint, v["T"]):
                    yield "b", _words(l, x, t), {**greatest, **lf, **xf, **tf}
        for x, xf in ways(roofs, v["X"]):
            for y, yf in nothing + lives(leading=False) + ways(wind, v["W_beside"]):
                yield "c", _words(x, y), {**greatest, **xf, **yf}
        for w, wf in ways(wind, v["W"]):
            for l, lf in nothing + lives(leading=False):
                for x, xf in nothing + ways(roofs, v["X_beside"]):
                    yield "d", _words(w, l, x), {**greatest, **wf, **lf, **xf}
        for e, ef in ways(seismic, v["E"]):
            for l, lf in nothing + lives(leading=False):
                for x, xf in nothing + ways(roofs, v["S_beside_E"], ("snow",)):
                    yield "e", _words(e, l, x), {**greatest, **ef, **lf, **xf}
        for w, wf in ways(wind, v["W"]):
            yield "f", w, {**least, **wf}
        for e, ef in ways(seismic, v["E"]):
            yield "g", e, {**least, **ef}

    def accident() -> Iterator[tuple[str, Factored]]:
        for side in ("D", "D_least"):
            for a, af in ways(accidental, 1.0):
                for l, lf in nothing + with_accident():
                    for x, xf in nothing + ways(roofs, v["S_beside_A"], ("snow",)):
                        yield f"{v[side]:g} D; {_words(a, l, x)}", {**dict.fromkeys(dead, v[side]), **af, **lf, **xf}

    def with_accident() -> list[tuple[str, Factored]]:
        if not live:
            return []
        return [
            (word, {k: f for _, way in chosen for k, f in scaled(way, v["L_beside_A"]).items()}) for word, chosen in choices(live)
        ]

    def built() -> Iterator[tuple[str, Factored]]:
        for c, cf in ways(work, v["L"]):
            yield c, {**dict.fromkeys(own_weight, v["D"]), **cf}
            yield f"{c}, 0.9 D", {**dict.fromkeys(own_weight, v["D_least"]), **cf}

    def service() -> Iterator[tuple[str, str, Factored]]:
        plain = dict.fromkeys(dead, 1.0)
        full = [(w, {k: f for _, way in chosen for k, f in way.items()}) for w, chosen in choices(live)] if live else []
        most = [(w, scaled(f, 0.75)) for w, f in full]
        yield "1", "", plain
        for l, lf in full:
            yield "2", l, {**plain, **lf}
        for x, xf in ways(roofs, 1.0):
            yield "3", x, {**plain, **xf}
            for l, lf in most:
                yield "4", _words(l, x), {**plain, **lf, **scaled(xf, 0.75)}
        for w, wf in ways(wind, 0.6):
            yield "5", w, {**plain, **wf}
            for l, lf in most:
                for x, xf in nothing + ways(roofs, 0.75):
                    yield "6", _words(l, w, x), {**plain, **lf, **scaled(wf, 0.75), **xf}
            yield "7", w, {**dict.fromkeys(dead, 0.6), **wf}

    def rows() -> Iterator[Generated]:
        for letter, word, factors in ultimate():
            yield Generated("ultimate", {**factors, **prestress}, _rule(f"ACI 318-19 (5.3.1{letter})", word))
        for word, factors in accident():
            yield Generated("accidental", {**factors, **prestress}, f"ASCE 7-16 (2.5-1); {word}")
        for word, factors in built():
            yield Generated("construction", {**factors, **prestress}, f"ACI 318-19 (5.3.1b), under construction; {word}")
        tendons = prestress_in(cases, "service")
        for number, word, factors in service():
            yield Generated("service", {**factors, **tendons}, _rule(f"ASCE 7-16 2.4.1 ({number})", word))
        lasting = {**dict.fromkeys(dead, 1.0), **tendons}
        for a in live:
            share = v["sustained_storage"] if a.nature == "storage" else v["sustained"] if a.nature == "live" else 0.0
            for k, f in a.ways[0][1].items():
                lasting[k] = share * f
        yield Generated("sustained", lasting, "ACI 318-19, 24.2.4: what lasts")
        if stressed := prestress_in(cases, "transfer"):
            yield Generated(
                "transfer",
                {**dict.fromkeys(own_weight, 1.0), **stressed},
                "ACI 318-19, 24.5.3: at transfer, self-weight and prestress",
            )

    return once(rows())


def _words(*parts: str) -> str:
    return " with ".join(p for p in parts if p)


def _rule(clause: str, word: str) -> str:
    return f"{clause}; {word}" if word else clause


class Actions:
    """Combinations of ACI 318-19."""

    categories: Mapping[str, str] = {
        "other": "other uses, up to 4.8 kPa (100 psf)", "assembly": "places of public assembly", "garage": "garages",
        "heavy": "more than 4.8 kPa (100 psf)",
    }  # fmt: skip
    options: tuple[Option, ...] = ()
    beginning: tuple[tuple[str, LimitState, Mapping[str, float], str], ...] = (
        ("U1", "ultimate", {"G": 1.2, "D": 1.2, "Q": 1.6}, "ACI 318-19 (5.3.1b); Q"),
        ("V1", "service", {"G": 1.0, "D": 1.0, "Q": 1.0}, "ASCE 7-16 2.4.1 (2); Q"),
        ("L1", "sustained", {"G": 1.0, "D": 1.0, "Q": 0.5}, "ACI 318-19, 24.2.4: what lasts"),
    )

    def generate(self, cases: Sequence[LoadCase], own: Mapping[str, float], options: Mapping[str, Any]) -> list[Generated]:
        """:func:`generate`. Raises :class:`RefusedError` for any option: there are none."""
        if options:
            raise RefusedError([Refusal(f"options.{next(iter(options))}", "is no choice of ACI 318-19; remove it")])
        return generate(cases, {k: v for k, v in own.items() if k in _OWN})


_OWN = {p.key for p in PARAMETERS}
