"""Generators against lists written by hand; rows that are kept; sets; tables out and in."""

import itertools
import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from piastra.core.combine.sets import rows_of, set_of
from piastra.core.model import RefusedError, floor_from
from piastra.core.model.loading import Combination, LoadCase
from piastra.core.model.project import project_from
from piastra.core.standards import registry
from piastra.core.standards.aci318 import actions as aci318
from piastra.core.standards.beginnings import new_floor, new_project
from piastra.core.standards.en1992 import actions as en1990
from piastra.core.standards.generating import joined
from piastra.core.standards.registry import generated
from piastra.exchange.combination_table import combination_table, combinations_from
from piastra.exchange.joint_table import joint_loads_from
from piastra.exchange.tables import read_table, to_csv, to_xlsx
from tests.floors import one_bay

EN, ACI = "EN 1992-1-1", "ACI 318-19"


def case(label, nature, category=None, direction=None):
    lateral = nature in ("wind", "seismic")
    return LoadCase(id=label, nature=nature, category=category, direction=direction, reversible=lateral)


G, D = case("G", "self_weight"), case("D", "dead")
WIND = [case("WX", "wind", direction="x"), case("WY", "wind", direction="y")]
QUAKE = [case("EX", "seismic", direction="x"), case("EY", "seismic", direction="y")]
LIVES = [case("A", "live", "B"), case("H", "live", "C")]


def expanded(text):
    """Rows such as ``1.35 G + 1.5 A ± 0.9 WX``, one a line, each ± standing for both signs."""
    rows = []
    for line in filter(None, (l.strip() for l in text.splitlines())):
        terms = re.findall(r"([+−±]?)\s*([\d.]+) ([A-Z]+)", line)
        for signs in itertools.product(*((1, -1) if s == "±" else (-1,) if s == "−" else (1,) for s, _, _ in terms)):
            rows.append(tuple(sorted((name, round(sign * float(f), 6)) for sign, (_, f, name) in zip(signs, terms, strict=True))))
    return rows


def of(standard, cases, state, options=None, own=None):
    return [tuple(sorted(g.factors.items())) for g in generated(standard, cases, own or {}, options) if g.limit_state == state]


def same(found, text):
    wanted = expanded(text)
    assert sorted(found) == sorted(wanted)
    assert len(set(found)) == len(found)


TWO_LIVES = [G, D, *LIVES]
SNOW_AND_WIND = [G, LIVES[0], case("S", "snow"), WIND[0]]
EVERYTHING = [G, *LIVES, case("S", "snow"), *WIND, *QUAKE]

EN_610 = {
    "two lives": (TWO_LIVES, {
        "ultimate": """
            1.35 G + 1.35 D
            1.35 G + 1.35 D + 1.5 A
            1.35 G + 1.35 D + 1.5 A + 1.05 H
            1.35 G + 1.35 D + 1.5 H
            1.35 G + 1.35 D + 1.5 H + 1.05 A
            1 G + 1 D
            1 G + 1 D + 1.5 A
            1 G + 1 D + 1.5 A + 1.05 H
            1 G + 1 D + 1.5 H
            1 G + 1 D + 1.5 H + 1.05 A""",
        "characteristic": """
            1 G + 1 D
            1 G + 1 D + 1 A
            1 G + 1 D + 1 A + 0.7 H
            1 G + 1 D + 1 H
            1 G + 1 D + 1 H + 0.7 A""",
        "frequent": """
            1 G + 1 D
            1 G + 1 D + 0.5 A
            1 G + 1 D + 0.5 A + 0.6 H
            1 G + 1 D + 0.7 H
            1 G + 1 D + 0.7 H + 0.3 A""",
        "quasi_permanent": """
            1 G + 1 D
            1 G + 1 D + 0.3 A + 0.6 H""",
    }),
    "snow and wind": (SNOW_AND_WIND, {
        "ultimate": """
            1.35 G
            1.35 G + 1.5 A
            1.35 G + 1.5 A + 0.75 S
            1.35 G + 1.5 A + 0.75 S ± 0.9 WX
            1.35 G + 1.5 S
            1.35 G + 1.5 S + 1.05 A
            1.35 G + 1.5 S + 1.05 A ± 0.9 WX
            1.35 G ± 1.5 WX
            1.35 G ± 1.5 WX + 1.05 A + 0.75 S
            1 G
            1 G + 1.5 A
            1 G + 1.5 A + 0.75 S
            1 G + 1.5 A + 0.75 S ± 0.9 WX
            1 G + 1.5 S
            1 G + 1.5 S + 1.05 A
            1 G + 1.5 S + 1.05 A ± 0.9 WX
            1 G ± 1.5 WX
            1 G ± 1.5 WX + 1.05 A + 0.75 S""",
        "characteristic": """
            1 G
            1 G + 1 A
            1 G + 1 A + 0.5 S
            1 G + 1 A + 0.5 S ± 0.6 WX
            1 G + 1 S
            1 G + 1 S + 0.7 A
            1 G + 1 S + 0.7 A ± 0.6 WX
            1 G ± 1 WX
            1 G ± 1 WX + 0.7 A + 0.5 S""",
        "frequent": """
            1 G
            1 G + 0.5 A
            1 G + 0.2 S
            1 G + 0.2 S + 0.3 A
            1 G ± 0.2 WX
            1 G ± 0.2 WX + 0.3 A""",
        "quasi_permanent": """
            1 G
            1 G + 0.3 A""",
    }),
    "everything": (EVERYTHING, {
        "ultimate": """
            1.35 G
            1.35 G + 1.5 A
            1.35 G + 1.5 A + 1.05 H + 0.75 S
            1.35 G + 1.5 A + 1.05 H + 0.75 S ± 0.9 WX
            1.35 G + 1.5 A + 1.05 H + 0.75 S ± 0.9 WY
            1.35 G + 1.5 H
            1.35 G + 1.5 H + 1.05 A + 0.75 S
            1.35 G + 1.5 H + 1.05 A + 0.75 S ± 0.9 WX
            1.35 G + 1.5 H + 1.05 A + 0.75 S ± 0.9 WY
            1.35 G + 1.5 S
            1.35 G + 1.5 S + 1.05 A + 1.05 H
            1.35 G + 1.5 S + 1.05 A + 1.05 H ± 0.9 WX
            1.35 G + 1.5 S + 1.05 A + 1.05 H ± 0.9 WY
            1.35 G ± 1.5 WX
            1.35 G ± 1.5 WY
            1.35 G ± 1.5 WX + 1.05 A + 1.05 H + 0.75 S
            1.35 G ± 1.5 WY + 1.05 A + 1.05 H + 0.75 S
            1 G
            1 G + 1.5 A
            1 G + 1.5 A + 1.05 H + 0.75 S
            1 G + 1.5 A + 1.05 H + 0.75 S ± 0.9 WX
            1 G + 1.5 A + 1.05 H + 0.75 S ± 0.9 WY
            1 G + 1.5 H
            1 G + 1.5 H + 1.05 A + 0.75 S
            1 G + 1.5 H + 1.05 A + 0.75 S ± 0.9 WX
            1 G + 1.5 H + 1.05 A + 0.75 S ± 0.9 WY
            1 G + 1.5 S
            1 G + 1.5 S + 1.05 A + 1.05 H
            1 G + 1.5 S + 1.05 A + 1.05 H ± 0.9 WX
            1 G + 1.5 S + 1.05 A + 1.05 H ± 0.9 WY
            1 G ± 1.5 WX
            1 G ± 1.5 WY
            1 G ± 1.5 WX + 1.05 A + 1.05 H + 0.75 S
            1 G ± 1.5 WY + 1.05 A + 1.05 H + 0.75 S
            1 G ± 1 EX ± 0.3 EY
            1 G ± 1 EY ± 0.3 EX
            1 G ± 1 EX ± 0.3 EY + 0.3 A + 0.6 H
            1 G ± 1 EY ± 0.3 EX + 0.3 A + 0.6 H""",
        "characteristic": """
            1 G
            1 G + 1 A
            1 G + 1 A + 0.7 H + 0.5 S
            1 G + 1 A + 0.7 H + 0.5 S ± 0.6 WX
            1 G + 1 A + 0.7 H + 0.5 S ± 0.6 WY
            1 G + 1 H
            1 G + 1 H + 0.7 A + 0.5 S
            1 G + 1 H + 0.7 A + 0.5 S ± 0.6 WX
            1 G + 1 H + 0.7 A + 0.5 S ± 0.6 WY
            1 G + 1 S
            1 G + 1 S + 0.7 A + 0.7 H
            1 G + 1 S + 0.7 A + 0.7 H ± 0.6 WX
            1 G + 1 S + 0.7 A + 0.7 H ± 0.6 WY
            1 G ± 1 WX
            1 G ± 1 WY
            1 G ± 1 WX + 0.7 A + 0.7 H + 0.5 S
            1 G ± 1 WY + 0.7 A + 0.7 H + 0.5 S""",
        "frequent": """
            1 G
            1 G + 0.5 A
            1 G + 0.5 A + 0.6 H
            1 G + 0.7 H
            1 G + 0.7 H + 0.3 A
            1 G + 0.2 S
            1 G + 0.2 S + 0.3 A + 0.6 H
            1 G ± 0.2 WX
            1 G ± 0.2 WY
            1 G ± 0.2 WX + 0.3 A + 0.6 H
            1 G ± 0.2 WY + 0.3 A + 0.6 H""",
        "quasi_permanent": """
            1 G
            1 G + 0.3 A + 0.6 H""",
    }),
}  # fmt: skip


@pytest.mark.parametrize("name", EN_610)
def test_combinations_of_en_1990_by_6_10(name):
    cases, lists = EN_610[name]
    for state, text in lists.items():
        same(of(EN, cases, state), text)


# In (6.10a) every variable action has its psi_0; in (6.10b) permanent ones are reduced to 0.85 x 1.35 = 1.1475.
EN_610AB = {
    "two lives": (TWO_LIVES, """
        1.35 G + 1.35 D
        1.35 G + 1.35 D + 1.05 A + 1.05 H
        1.1475 G + 1.1475 D
        1.1475 G + 1.1475 D + 1.5 A
        1.1475 G + 1.1475 D + 1.5 A + 1.05 H
        1.1475 G + 1.1475 D + 1.5 H
        1.1475 G + 1.1475 D + 1.5 H + 1.05 A
        1 G + 1 D
        1 G + 1 D + 1.05 A + 1.05 H
        1 G + 1 D + 1.5 A
        1 G + 1 D + 1.5 A + 1.05 H
        1 G + 1 D + 1.5 H
        1 G + 1 D + 1.5 H + 1.05 A"""),
    "snow and wind": (SNOW_AND_WIND, """
        1.35 G
        1.35 G + 1.05 A + 0.75 S
        1.35 G + 1.05 A + 0.75 S ± 0.9 WX
        1.1475 G
        1.1475 G + 1.5 A
        1.1475 G + 1.5 A + 0.75 S
        1.1475 G + 1.5 A + 0.75 S ± 0.9 WX
        1.1475 G + 1.5 S
        1.1475 G + 1.5 S + 1.05 A
        1.1475 G + 1.5 S + 1.05 A ± 0.9 WX
        1.1475 G ± 1.5 WX
        1.1475 G ± 1.5 WX + 1.05 A + 0.75 S
        1 G
        1 G + 1.05 A + 0.75 S
        1 G + 1.05 A + 0.75 S ± 0.9 WX
        1 G + 1.5 A
        1 G + 1.5 A + 0.75 S
        1 G + 1.5 A + 0.75 S ± 0.9 WX
        1 G + 1.5 S
        1 G + 1.5 S + 1.05 A
        1 G + 1.5 S + 1.05 A ± 0.9 WX
        1 G ± 1.5 WX
        1 G ± 1.5 WX + 1.05 A + 0.75 S"""),
    # (6.10a) never has an action lead; (6.12b) is the same as with (6.10).
    "everything": (EVERYTHING, """
        1.35 G
        1.35 G + 1.05 A + 1.05 H + 0.75 S
        1.35 G + 1.05 A + 1.05 H + 0.75 S ± 0.9 WX
        1.35 G + 1.05 A + 1.05 H + 0.75 S ± 0.9 WY
        1.1475 G
        1.1475 G + 1.5 A
        1.1475 G + 1.5 A + 1.05 H + 0.75 S
        1.1475 G + 1.5 A + 1.05 H + 0.75 S ± 0.9 WX
        1.1475 G + 1.5 A + 1.05 H + 0.75 S ± 0.9 WY
        1.1475 G + 1.5 H
        1.1475 G + 1.5 H + 1.05 A + 0.75 S
        1.1475 G + 1.5 H + 1.05 A + 0.75 S ± 0.9 WX
        1.1475 G + 1.5 H + 1.05 A + 0.75 S ± 0.9 WY
        1.1475 G + 1.5 S
        1.1475 G + 1.5 S + 1.05 A + 1.05 H
        1.1475 G + 1.5 S + 1.05 A + 1.05 H ± 0.9 WX
        1.1475 G + 1.5 S + 1.05 A + 1.05 H ± 0.9 WY
        1.1475 G ± 1.5 WX
        1.1475 G ± 1.5 WY
        1.1475 G ± 1.5 WX + 1.05 A + 1.05 H + 0.75 S
        1.1475 G ± 1.5 WY + 1.05 A + 1.05 H + 0.75 S
        1 G
        1 G + 1.05 A + 1.05 H + 0.75 S
        1 G + 1.05 A + 1.05 H + 0.75 S ± 0.9 WX
        1 G + 1.05 A + 1.05 H + 0.75 S ± 0.9 WY
        1 G + 1.5 A
        1 G + 1.5 A + 1.05 H + 0.75 S
        1 G + 1.5 A + 1.05 H + 0.75 S ± 0.9 WX
        1 G + 1.5 A + 1.05 H + 0.75 S ± 0.9 WY
        1 G + 1.5 H
        1 G + 1.5 H + 1.05 A + 0.75 S
        1 G + 1.5 H + 1.05 A + 0.75 S ± 0.9 WX
        1 G + 1.5 H + 1.05 A + 0.75 S ± 0.9 WY
        1 G + 1.5 S
        1 G + 1.5 S + 1.05 A + 1.05 H
        1 G + 1.5 S + 1.05 A + 1.05 H ± 0.9 WX
        1 G + 1.5 S + 1.05 A + 1.05 H ± 0.9 WY
        1 G ± 1.5 WX
        1 G ± 1.5 WY
        1 G ± 1.5 WX + 1.05 A + 1.05 H + 0.75 S
        1 G ± 1.5 WY + 1.05 A + 1.05 H + 0.75 S
        1 G ± 1 EX ± 0.3 EY
        1 G ± 1 EY ± 0.3 EX
        1 G ± 1 EX ± 0.3 EY + 0.3 A + 0.6 H
        1 G ± 1 EY ± 0.3 EX + 0.3 A + 0.6 H"""),
    # Storage keeps all of its load as a companion; a roof of category H does not act beside snow or wind.
    "storage and roof": ([G, case("T", "storage"), case("R", "roof"), case("S", "snow")], """
        1.35 G
        1.35 G + 1.5 T + 0.75 S
        1.1475 G
        1.1475 G + 1.5 T
        1.1475 G + 1.5 T + 0.75 S
        1.1475 G + 1.5 R
        1.1475 G + 1.5 R + 1.5 T
        1.1475 G + 1.5 S
        1.1475 G + 1.5 S + 1.5 T
        1 G
        1 G + 1.5 T
        1 G + 1.5 T + 0.75 S
        1 G + 1.5 R
        1 G + 1.5 R + 1.5 T
        1 G + 1.5 S
        1 G + 1.5 S + 1.5 T"""),
}  # fmt: skip


@pytest.mark.parametrize("name", EN_610AB)
def test_combinations_of_en_1990_by_6_10a_and_b(name):
    cases, text = EN_610AB[name]
    same(of(EN, cases, "ultimate", {"rule": "6.10ab"}), text)


ACI_LISTS = {
    "two lives": ([G, D, case("A", "live", "other"), case("H", "live", "assembly")], {
        "ultimate": """
            1.4 G + 1.4 D
            1.2 G + 1.2 D + 1.6 A + 1.6 H""",
        "service": """
            1 G + 1 D
            1 G + 1 D + 1 A + 1 H""",
        "sustained": "1 G + 1 D + 0.5 A + 0.5 H",
    }),
    "snow and wind": ([G, case("A", "live", "other"), case("S", "snow"), WIND[0]], {
        "ultimate": """
            1.4 G
            1.2 G + 1.6 A
            1.2 G + 1.6 A + 0.5 S
            1.2 G + 1.6 S
            1.2 G + 1.6 S + 0.5 A
            1.2 G + 1.6 S ± 0.5 WX
            1.2 G ± 1 WX
            1.2 G ± 1 WX + 0.5 S
            1.2 G ± 1 WX + 0.5 A
            1.2 G ± 1 WX + 0.5 A + 0.5 S
            0.9 G ± 1 WX""",
        "service": """
            1 G
            1 G + 1 A
            1 G + 1 S
            1 G + 0.75 A + 0.75 S
            1 G ± 0.6 WX
            1 G + 0.75 A ± 0.45 WX
            1 G + 0.75 A ± 0.45 WX + 0.75 S
            0.6 G ± 0.6 WX""",
        "sustained": "1 G + 0.5 A",
    }),
    # An assembly area keeps a factor of 1.0 as a companion (5.3.3), other uses have 0.5.
    "everything": ([G, case("A", "live", "other"), case("H", "live", "assembly"), case("S", "snow"), case("R", "roof"), *WIND, *QUAKE], {
        "ultimate": """
            1.4 G
            1.2 G + 1.6 A + 1.6 H
            1.2 G + 1.6 A + 1.6 H + 0.5 S
            1.2 G + 1.6 A + 1.6 H + 0.5 R
            1.2 G + 1.6 S
            1.2 G + 1.6 S + 0.5 A + 1 H
            1.2 G + 1.6 S ± 0.5 WX
            1.2 G + 1.6 S ± 0.5 WY
            1.2 G + 1.6 R
            1.2 G + 1.6 R + 0.5 A + 1 H
            1.2 G + 1.6 R ± 0.5 WX
            1.2 G + 1.6 R ± 0.5 WY
            1.2 G ± 1 WX
            1.2 G ± 1 WX + 0.5 S
            1.2 G ± 1 WX + 0.5 R
            1.2 G ± 1 WX + 0.5 A + 1 H
            1.2 G ± 1 WX + 0.5 A + 1 H + 0.5 S
            1.2 G ± 1 WX + 0.5 A + 1 H + 0.5 R
            1.2 G ± 1 WY
            1.2 G ± 1 WY + 0.5 S
            1.2 G ± 1 WY + 0.5 R
            1.2 G ± 1 WY + 0.5 A + 1 H
            1.2 G ± 1 WY + 0.5 A + 1 H + 0.5 S
            1.2 G ± 1 WY + 0.5 A + 1 H + 0.5 R
            1.2 G ± 1 EX
            1.2 G ± 1 EX + 0.2 S
            1.2 G ± 1 EX + 0.5 A + 1 H
            1.2 G ± 1 EX + 0.5 A + 1 H + 0.2 S
            1.2 G ± 1 EY
            1.2 G ± 1 EY + 0.2 S
            1.2 G ± 1 EY + 0.5 A + 1 H
            1.2 G ± 1 EY + 0.5 A + 1 H + 0.2 S
            0.9 G ± 1 WX
            0.9 G ± 1 WY
            0.9 G ± 1 EX
            0.9 G ± 1 EY""",
        "service": """
            1 G
            1 G + 1 A + 1 H
            1 G + 1 S
            1 G + 1 R
            1 G + 0.75 A + 0.75 H + 0.75 S
            1 G + 0.75 A + 0.75 H + 0.75 R
            1 G ± 0.6 WX
            1 G ± 0.6 WY
            1 G + 0.75 A + 0.75 H ± 0.45 WX
            1 G + 0.75 A + 0.75 H ± 0.45 WY
            1 G + 0.75 A + 0.75 H + 0.75 S ± 0.45 WX
            1 G + 0.75 A + 0.75 H + 0.75 S ± 0.45 WY
            1 G + 0.75 A + 0.75 H + 0.75 R ± 0.45 WX
            1 G + 0.75 A + 0.75 H + 0.75 R ± 0.45 WY
            0.6 G ± 0.6 WX
            0.6 G ± 0.6 WY""",
        "sustained": "1 G + 0.5 A + 0.5 H",
    }),
}  # fmt: skip


@pytest.mark.parametrize("name", ACI_LISTS)
def test_combinations_of_aci_318(name):
    cases, lists = ACI_LISTS[name]
    for state, text in lists.items():
        same(of(ACI, cases, state), text)


def test_exclusive_cases_prestress_and_own_values():
    cranes = [LoadCase(id=k, nature="live", category="G", group="cranes") for k in ("K1", "K2")]
    found = of(EN, [G, *cranes], "ultimate")
    assert not any({"K1", "K2"} <= {k for k, _ in row} for row in found)
    assert {tuple(k for k, _ in row) for row in found} == {("G",), ("G", "K1"), ("G", "K2")}
    mixed = [LoadCase(id="S", nature="snow", group="sky"), LoadCase(id="W", nature="wind", group="sky")]
    with pytest.raises(RefusedError, match="group sky"):
        of(EN, [G, *mixed], "ultimate")
    only_alone = of(EN, TWO_LIVES, "ultimate", {"accompanied": False})
    same(only_alone, "\n".join(f"{g} G + {g} D{q}" for g in ("1.35", "1") for q in ("", " + 1.5 A", " + 1.5 H")))
    never_alone = of(EN, TWO_LIVES, "ultimate", {"alone": False})
    pairs = ("", " + 1.5 A + 1.05 H", " + 1.5 H + 1.05 A")
    same(never_alone, "\n".join(f"{g} G + {g} D{q}" for g in ("1.35", "1") for q in pairs))
    tendons = [G, LIVES[0], LoadCase(id="P", nature="prestress")]
    assert all(dict(row)["P"] == 1.0 for state in ("ultimate", "characteristic") for row in of(EN, tendons, state))
    assert of(EN, tendons, "transfer") == of(ACI, tendons, "transfer") == [(("G", 1.0), ("P", 1.0))]
    own = of(EN, [G, LIVES[0]], "ultimate", own={"gamma_G_sup": 1.2, "gamma_Q": 1.6})
    same(own, "1.2 G\n1.2 G + 1.6 A\n1 G\n1 G + 1.6 A")
    with pytest.raises(RefusedError, match="gamma_X"):
        en1990.generate([G], {"gamma_X": 1.0})
    with pytest.raises(RefusedError, match="gamma_X"):
        aci318.generate([G], {"gamma_X": 1.0})
    for standard in (EN, ACI):
        with pytest.raises(RefusedError, match="is no choice"):
            generated(standard, [G], {}, {"colour": "red"})
        assert all(p.source for p in registry.parameters(standard))


NATURES = st.sampled_from(["self_weight", "dead", "live", "storage", "snow", "wind", "roof", "temperature", "seismic"])


@given(
    st.lists(st.tuples(NATURES, st.booleans(), st.sampled_from(["x", "y"])), min_size=1, max_size=7), st.sampled_from([EN, ACI])
)
def test_no_row_twice_none_empty_and_permanent_load_never_left_out(given_cases, standard):
    cases = [
        LoadCase(id=f"K{k}", nature=n, reversible=r and n in ("wind", "seismic"), direction=d)
        for k, (n, r, d) in enumerate(given_cases)
    ]
    made = generated(standard, cases, {})
    keys = [(g.limit_state, tuple(sorted(g.factors.items()))) for g in made]
    assert len(set(keys)) == len(keys)
    assert all(g.factors for g in made)
    assert len({g.rule for g in made}) == len(made)
    permanent = {c.id for c in cases if c.nature in ("self_weight", "dead")}
    assert all(permanent <= set(g.factors) for g in made)
    winds = {c.id for c in cases if c.nature == "wind"}
    assert all(len(winds & set(g.factors)) <= 1 for g in made)


def test_generating_anew_keeps_labels_own_rows_and_edited_ones():
    first = joined([], generated(EN, TWO_LIVES, {}))
    own = Combination(id="mine", limit_state="ultimate", factors={"G": 1.1})
    edited = first[2].model_copy(update={"factors": {"G": 1.5, "D": 1.35}, "edited": True})
    there = [own, first[0], first[1], edited, *first[3:]]
    again = joined(there, generated(EN, [*TWO_LIVES, case("S", "snow")], {}))
    by_rule = {c.rule: c for c in again}
    assert own in again
    assert edited in again
    assert sum(c.rule == edited.rule for c in again) == 1
    assert by_rule[first[0].rule].id == first[0].id
    assert len({c.id for c in again}) == len(again)
    back = joined(again, generated(EN, TWO_LIVES, {}))
    assert {c.id for c in back} == {c.id for c in there}


@pytest.mark.parametrize("standard", registry.names())
def test_a_new_floor_begins_with_rows_that_generating_brings_again(standard):
    document = new_floor(project_from(new_project("P", "SI", standard)), "Level 1")
    floor = floor_from({**document, "slabs": one_bay()["slabs"], **{k: one_bay()[k] for k in ("concretes", "rebars")}})
    again = {c.rule: c for c in joined(floor.combinations, generated(standard, floor.load_cases, {}))}
    assert all(again[c.rule] == c for c in floor.combinations)


def test_a_set_fits_a_floor_whose_cases_have_other_labels():
    rows = joined([], generated(EN, EVERYTHING, {}))
    kept = set_of("field station", EN, rows, EVERYTHING)
    renamed = [c.model_copy(update={"id": f"{c.id}-2"}) for c in EVERYTHING if c.nature != "seismic"]
    taken, missing = rows_of(kept, renamed, [])
    assert missing == ["seismic", "seismic 2"]
    expected = {
        (r.limit_state, tuple(sorted((f"{k}-2", f) for k, f in r.factors.items() if k not in ("EX", "EY")))) for r in rows
    }
    assert {(r.limit_state, tuple(sorted(r.factors.items()))) for r in taken} == expected
    assert rows_of(kept, renamed, taken)[0] == []


def floor_with(rows):
    document = one_bay()
    document["combinations"] = rows
    return floor_from(document)


def cells(content, name="t"):
    return read_table(content, name)


def test_combinations_come_back_from_xlsx_and_csv_as_they_went():
    rows = [r.model_dump(exclude_defaults=True) for r in joined([], generated(EN, [G, D, case("Q", "live", "B")], {}))]
    rows.append({"id": "=own", "limit_state": "quasi_permanent", "factors": {"G": -0.25}})
    floor = floor_with(rows)
    for write in (to_xlsx, to_csv):
        found, wrong = combinations_from(cells(write(combination_table(floor))), floor)
        assert wrong == []
        assert found == rows
    german = to_csv(combination_table(floor)).decode("utf-8-sig").replace(",", ";").replace("1.35", "1,35").encode()
    # Rules have commas of their own, which became semicolons: they are no part of this check.
    assert {f["id"]: f["factors"] for f in combinations_from([r[:5] for r in cells(german)], floor)[0]} == {
        r["id"]: r["factors"] for r in rows
    }


def test_an_edited_table_marks_what_was_edited():
    floor = floor_with(
        [r.model_dump(exclude_defaults=True) for r in joined([], generated(EN, [G, D, case("Q", "live", "B")], {}))]
    )
    table = cells(to_xlsx(combination_table(floor)))
    table[1][2] = 1.4
    found, wrong = combinations_from(table, floor)
    assert wrong == []
    assert [r["id"] for r in found if r.get("edited")] == [table[1][0]]


def test_a_broken_table_is_refused_cell_by_cell():
    floor = floor_with([])
    table = [
        ["Combination", "Limit state", "G", "D", "Wind", "G"],
        ["U1", "ultimate", 1.35, "lots", None, None],
        ["U1", "breaking", 1.0, 1.0, None, None],
        [None, "ultimate", 1.0, None, None, None],
        ["U4", "Quasi permanent", float("nan"), None, None, None],
    ]
    found, wrong = combinations_from(table, floor)
    assert found == []
    assert {w.cell for w in wrong} == {"E1", "F1", "D2", "A3", "B3", "A4", "C5"}
    told = {w.cell: w.sentence for w in wrong}
    assert "Wind" in told["E1"]
    assert "lots" in told["D2"]
    assert "A2" in told["A3"]
    assert "breaking" in told["B3"]
    for content in (b"", b"PK\x03\x04 no workbook", b"\x00\x01\x02", b"a,b\n"):
        with pytest.raises(RefusedError):
            read_table(content, "broken.xlsx")


def test_joint_loads_from_a_table():
    floor = floor_with([])
    table = [
        ["Case", "Column", "F kN", "Mx", "My"],
        ["D", "C1", 12.5, 3.0, None],
        ["D", "C1", None, 1.0, 2.0],
        ["Q", "W1", -4.0, None, None],
    ]
    found, wrong = joint_loads_from(table, floor)
    assert wrong == []
    assert found[0] == {"id": "D C1", "kind": "joint", "case": "D", "support": "C1", "F_kN": 12.5, "Mx_kNm": 3.0}
    assert [f["id"] for f in found] == ["D C1", "D C1 2", "Q W1"]
    us = joint_loads_from([["Case", "Support", "F kip", "My kip-ft"], ["D", "C1", 10.0, 3.0]], floor)[0][0]
    assert (us["F_kN"], us["My_kNm"]) == pytest.approx((44.482216, 4.067454), rel=1e-6)
    wrong = joint_loads_from([table[0], ["X", "C9", "much", 1.0, 1.0]], floor)[1]
    assert {w.cell for w in wrong} == {"A2", "B2", "C2"}
