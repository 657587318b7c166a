"""Broken floor files: exit 2, and a sentence that names the field."""

import copy
import json

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from typer.testing import CliRunner

from piastra.cli import app
from piastra.core.model import RefusedError, floor_from
from piastra.exchange.floor_file import document, parse
from tests.floors import one_bay

runner = CliRunner()


def at(path, value):
    def change(d):
        here = d
        for key in path[:-1]:
            here = here[key]
        here[path[-1]] = value

    return change


def without(*path):
    def change(d):
        here = d
        for key in path[:-1]:
            here = here[key]
        del here[path[-1]]

    return change


BROKEN = [
    (at(["format"], "other"), "format", "must be 'piastra-floor'"),
    (at(["version"], 2), "version", "must be 1"),
    (without("slabs"), "slabs", "is missing"),
    (at(["slabs"], []), "slabs", "draw a slab"),
    (at(["slabs"], {}), "slabs", "must be a list"),
    (at(["slabs", 0, "thickness_m"], -0.2), "slabs[0].thickness_m", "greater than 0"),
    (at(["slabs", 0, "thickness_m"], "250"), "slabs[0].thickness_m", "must be a number"),
    (at(["slabs", 0, "thickness_m"], True), "slabs[0].thickness_m", "must be a number"),
    (at(["slabs", 0, "thickness_m"], float("nan")), "slabs[0].thickness_m", "finite"),
    (at(["slabs", 0, "thickness_m"], float("inf")), "slabs[0].thickness_m", "finite"),
    (at(["slabs", 0, "thikness_m"], 0.2), "slabs[0].thikness_m", "not a key of the floor file"),
    (at(["slabs", 0, "concrete"], "C99"), "slabs[0].concrete", "use one of: C30"),
    (at(["slabs", 0, "rebar"], "X"), "slabs[0].rebar", "use one of: B500"),
    (
        at(["slabs", 0, "outline"], [[0, 0], [6, 6], [6, 0], [0, 6]]),
        "slabs[0].outline",
        "crosses or touches itself at (3.000, 3.000)",
    ),
    (at(["slabs", 0, "outline"], [[0, 0], [6, 0]]), "slabs[0].outline", "at least three corners"),
    (at(["slabs", 0, "outline"], [[0, 0], [6, 0], [6, 6, 1, 1]]), "slabs[0].outline[2]", "[x, y, bulge]"),
    (at(["slabs", 0, "outline"], [[0, 0], [6, 0], [12, 0]]), "slabs[0].outline", "crosses or touches itself"),
    (at(["slabs", 0, "outline", 0], [0, None]), "slabs[0].outline[0][1]", "must be a number"),
    (at(["slabs", 0, "cover_top_mm"], 240), "slabs[0]", "no room for bars"),
    (at(["columns", 0, "shape"], {"kind": "hexagon"}), "columns[0].shape", "not known"),
    (at(["columns", 0, "shape"], {"b_m": 0.4}), "columns[0].shape", "has no kind"),
    (at(["columns", 0, "shape", "b_m"], 0), "columns[0].shape.b_m", "greater than 0"),
    (at(["columns", 0, "below", "height_m"], -3), "columns[0].below.height_m", "greater than 0"),
    (at(["columns", 0, "below", "far_end"], "welded"), "columns[0].below.far_end", "must be 'fixed' or 'pinned'"),
    (at(["columns", 0, "at"], [1]), "columns[0].at", "must be a point"),
    (at(["walls", 0, "line"], [[0, 6], [0, 6]]), "walls[0].line", "two points in one place"),
    (at(["walls", 0, "id"], "C1"), "walls[0].id", "columns, walls and supports share ids"),
    (at(["supports", 0, "vertical"], "stiff"), "supports[0].vertical", "'fixed' or 'free'"),
    (at(["supports", 0, "vertical"], -5), "supports[0].vertical", "at least 0"),
    (at(["load_cases", 0, "nature"], "magic"), "load_cases[0].nature", "must be 'self_weight'"),
    (at(["load_cases", 1, "nature"], "self_weight"), "load_cases", "has self-weight 2 times"),
    (at(["loads", 0, "case"], "Z"), "loads[0].case", "use one of: D, G, Q"),
    (at(["loads", 0, "kind"], "volume"), "loads[0]", "not known"),
    (at(["loads", 2, "q_kN_m"], [5]), "loads[2].q_kN_m", "at least 2 entries"),
    (at(["combinations", 0, "factors"], {"Z": 1}), "combinations[0].factors.Z", "does not exist"),
    (at(["combinations", 0, "factors", "G"], "1.35"), "combinations[0].factors.G", "must be a number"),
    (at(["mesh", "size_m"], 0), "mesh.size_m", "at least 0.05"),
    (at(["standard"], "made up"), "standard", "must be 'EN 1992-1-1' or 'ACI 318-19'"),
    (lambda d: d["loads"].append(d["loads"][0]), "loads[4].id", "repeats the id 'a1'"),
]


@pytest.mark.parametrize(("change", "path", "sentence"), BROKEN, ids=[f"{k}-{b[1]}" for k, b in enumerate(BROKEN)])
def test_a_broken_floor_is_refused_with_the_field_and_what_to_do(change, path, sentence, tmp_path):
    data = one_bay()
    change(data)
    file = tmp_path / "floor.json"
    file.write_text(json.dumps(data))
    done = runner.invoke(app, ["solve", str(file), "--out", str(tmp_path / "out.json")])
    assert done.exit_code == 2
    lines = done.stderr.strip().splitlines()
    assert any(line.startswith(f"{path}: ") and sentence in line for line in lines), lines
    assert "Traceback" not in done.output
    assert not (tmp_path / "out.json").exists()


@pytest.mark.parametrize(
    ("content", "sentence"),
    [
        (b"", "is not JSON"), (b"{", "is not JSON: line 1, column 2"), (b"[]", "must be a JSON object"), (b"\xff\xfe\x00", "not UTF-8"),
        (b"[" * 100_000, "nested too deeply"), (None, "cannot be read: no such file"),
    ],
    ids=["empty", "cut off", "list", "binary", "deep", "absent"],
)  # fmt: skip
def test_what_is_not_a_floor_file_is_refused(content, sentence, tmp_path):
    file = tmp_path / "floor.json"
    if content is not None:
        file.write_bytes(content)
    done = runner.invoke(app, ["solve", str(file), "--out", str(tmp_path / "out.json")])
    assert (done.exit_code, "Traceback" in done.output) == (2, False)
    assert sentence in done.stderr


def places(value, path=()):
    """Every place in a document."""
    yield path
    if isinstance(value, dict):
        for key, item in value.items():
            yield from places(item, (*path, key))
    elif isinstance(value, list):
        for key, item in enumerate(value):
            yield from places(item, (*path, key))


PLACES = [p for p in places(one_bay()) if p]
JUNK = st.one_of(
    st.none(),
    st.booleans(),
    st.integers(),
    st.floats(),
    st.text(max_size=8),
    st.lists(st.integers(), max_size=3),
    st.dictionaries(st.text(max_size=4), st.integers(), max_size=2),
)


@settings(max_examples=250, deadline=None)
@given(st.sampled_from(PLACES), JUNK)
def test_junk_anywhere_is_a_floor_or_a_refusal_with_a_path(path, junk):
    data = copy.deepcopy(one_bay())
    at(path, junk)(data)
    refusals = []
    try:
        floor_from(data)
    except RefusedError as error:
        refusals = list(error.refusals) or [None]
    for refusal in refusals:
        assert refusal.path
        assert refusal.sentence
        assert "pydantic" not in str(refusal)


def test_a_floor_file_comes_back_as_it_went():
    data = one_bay()
    assert document(parse(json.dumps(data))) == json.loads(json.dumps(data))


def test_a_mechanism_exits_with_2_and_names_the_supports(tmp_path):
    data = one_bay()
    data["supports"], data["walls"] = [], []
    file = tmp_path / "floor.json"
    file.write_text(json.dumps(data))
    data["columns"][0]["below"] = None
    file.write_text(json.dumps(data))
    done = runner.invoke(app, ["solve", str(file), "--out", str(tmp_path / "o.json")])
    assert done.exit_code == 2
    assert done.stderr.startswith("supports: the floor rests on nothing")
