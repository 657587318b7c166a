"""Stages that cannot lie: what they see is what they hash, and a warm cache answers as a cold one."""

import copy
import dataclasses
from threading import Event

import numpy as np
import pytest
import shapely
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from shapely.geometry import box
from shapely.geometry.base import BaseGeometry

from piastra.core import pipeline
from piastra.core.model import RefusedError, floor_from
from piastra.core.model.computed import computed_from
from piastra.core.model.floor import READ_ONLY
from piastra.core.pipeline import STAGES
from piastra.core.stages.build import CancelledError, Made, Run, Stage, StageCache, UndeclaredError, key_of, size_of
from piastra.core.stages.view import ALL, only
from piastra.exchange.results_file import results
from tests.floors import every_kind, flat_slab, one_bay, spans
from tests.solving import solve_floor


def leaves(value, path=()):
    """Paths of the numbers, words and switches of a document."""
    if isinstance(value, dict):
        for k, v in value.items():
            yield from leaves(v, (*path, k))
    elif isinstance(value, list):
        for k, v in enumerate(value):
            yield from leaves(v, (*path, k))
    else:
        yield path


OTHER = {
    "fixed": "pinned", "monolithic": "hinged", "outer": "inner", "inner": "outer", "top": "bottom", "bottom": "top", "x": "y", "y": "x",
    "standard": "exact", "drop_panel": "column_head", "recess": "band", "C30": "C40", "C40": "C30", "dead": "storage",
    "live": "storage", "wind": "seismic", "ultimate": "characteristic", "quasi_permanent": "characteristic", "sustained": "service",
    "mn": "vn", "free": "fixed", "B": "C", "other": "heavy", "D": "X", "Q": "D", "auto": "always",
}  # fmt: skip


def changed(document, path):
    """The document with one leaf changed a little, or None where it cannot be."""
    out = copy.deepcopy(document)
    here = out
    for key in path[:-1]:
        here = here[key]
    value = here[path[-1]]
    if path[0] in ("format", "version", "standard") or (path[-1] == "kind" and path[0] != "thickenings"):
        return None
    if isinstance(value, bool):
        here[path[-1]] = not value
    elif isinstance(value, int) and path[-1] == "priority":
        here[path[-1]] = value + 2
    elif isinstance(value, int | float):
        here[path[-1]] = float(value) * 1.03 + (0.013 if abs(value) < 1 else 0.0)
    elif value is None:
        here[path[-1]] = {"height_m": 3.0} if path[-1] == "above" else None
    elif path[-1] == "id":
        here[path[-1]] = f"{value}'"
    elif path[-1] in ("vertical", "rotation"):
        here[path[-1]] = "free" if value == "fixed" else "fixed"
    else:
        here[path[-1]] = OTHER.get(value, value)
    return out if out != document else None


def told(outcome):
    """The results document without what is of the run and not of the floor."""
    found = results(outcome)
    for key in ("seconds", "stages_run"):
        found.pop(key)
    return found


def differences(a, b, size=None, path=""):
    """Paths at which two documents differ by more than rounding of their greatest like numbers."""
    if isinstance(a, dict) and isinstance(b, dict):
        if a.keys() != b.keys():
            return [f"{path}: keys"]
        return [d for k in a for d in differences(a[k], b[k], size, f"{path}/{k}")]
    if isinstance(a, list | tuple) and isinstance(b, list | tuple):
        if len(a) != len(b):
            return [f"{path}: {len(a)} and {len(b)}"]
        return [d for k, (x, y) in enumerate(zip(a, b, strict=True)) for d in differences(x, y, size, f"{path}/{k}")]
    if isinstance(a, float) and isinstance(b, float):
        return [] if abs(a - b) <= 1e-7 * max(1.0, abs(a)) or "residual" in path else [f"{path}: {a} and {b}"]
    return [] if a == b else [f"{path}: {a} and {b}"]


WARM = {}
FLOORS = {"EN 1992-1-1": every_kind(), "ACI 318-19": every_kind("ACI 318-19")}
PLACES = {name: [p for p in leaves(d) if changed(d, p) is not None] for name, d in FLOORS.items()}


@settings(max_examples=1, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(st.data())
def test_a_warm_cache_answers_as_a_cold_one_whichever_leaf_changed(data):
    """Every leaf in a script (tests/core/every_leaf.py); another one here each time."""
    standard = data.draw(st.sampled_from(sorted(FLOORS)))
    path = data.draw(st.sampled_from(PLACES[standard]))
    assert compare(standard, path) == []


def compare(standard, path):
    """Differences between a warm and a cold run after one leaf changed."""
    if standard not in WARM:
        WARM[standard] = StageCache()
    solve_floor(floor_from(FLOORS[standard]), WARM[standard])
    try:
        floor = floor_from(changed(FLOORS[standard], path))
    except RefusedError:
        return []
    outcomes = []
    for cache in (WARM[standard], StageCache()):
        try:
            outcomes.append(told(solve_floor(floor, cache)))
        except RefusedError as error:
            outcomes.append({"refused": str(error)})
    warm, cold = outcomes
    if computed_from(floor) == computed_from(floor_from(FLOORS[standard])):
        assert path[0] in READ_ONLY
    return differences(cold, warm)


def test_the_nature_of_a_case_reaches_the_standards_arrangements():
    """Three spans to ACI: as dead load, D keeps the live load below three quarters of the dead; as storage it does not."""
    document = spans(3)
    document["standard"], document["arrangements"] = "ACI 318-19", "standard"
    document["load_cases"].append({"id": "D", "nature": "dead"})
    document["loads"].append({"id": "d", "case": "D", "kind": "area", "outline": None, "q_kPa": 4.0})
    document["combinations"] = [{"id": "L1", "limit_state": "sustained", "factors": {"D": 1.0, "Q": 1.0}}]
    cache = StageCache()
    first = solve_floor(floor_from(document), cache)
    next(c for c in document["load_cases"] if c["id"] == "D")["nature"] = "storage"
    warm, cold = solve_floor(floor_from(document), cache), solve_floor(floor_from(document))
    assert len(first.arranged.required) == 1
    assert len(cold.arranged.required) > 1
    assert [a.name for a in warm.arranged.required] == [a.name for a in cold.arranged.required]
    assert warm.verdict[-1].utilisation == pytest.approx(cold.verdict[-1].utilisation, rel=1e-9)
    assert cold.verdict[-1].utilisation > 1.01 * first.verdict[-1].utilisation


def test_a_stage_sees_nothing_that_it_does_not_declare():
    floor = floor_from(one_bay())
    seen = only(floor, "standard", slabs=("id", "outline"), columns=ALL)
    assert seen.slabs[0].id == "S1"
    assert seen.columns[0].shape.b_m == 0.4
    for read in (lambda: seen.slabs[0].thickness_m, lambda: seen.loads, lambda: seen.concretes, lambda: seen.mesh):
        with pytest.raises(AttributeError):
            read()
    one, other = (Stage(n, lambda f: None, lambda i, m: 1) for n in ("one", "other"))
    with pytest.raises(UndeclaredError, match="other"):
        Made({"one": 1})[other]
    assert Made({"one": 1})[one] == 1
    # No stage holds on to the floor: what each sees of it is a part.
    for stage in STAGES:
        given = stage.inputs(floor)
        parts = given if isinstance(given, tuple) else (given,)
        for part in parts:
            assert part is not floor
            assert set(getattr(part, "__dict__", {})) < set(type(floor).model_fields)


def frozen(value, path="", seen=None):
    """Hashes of all arrays and shapes below a value, by path."""
    seen = set() if seen is None else seen
    if id(value) in seen:
        return {}
    seen.add(id(value))
    if (isinstance(value, np.ndarray) and value.dtype != object) or isinstance(value, BaseGeometry):
        return {path: key_of(value)}
    if dataclasses.is_dataclass(value):
        return {
            k: v for f in dataclasses.fields(value) for k, v in frozen(getattr(value, f.name), f"{path}.{f.name}", seen).items()
        }
    if isinstance(value, dict):
        return {
            f"{path}:n": str(len(value)),
            **{k: v for n, i in value.items() for k, v in frozen(i, f"{path}[{n!r}]", seen).items()},
        }
    if isinstance(value, list | tuple):
        return {
            f"{path}:n": str(len(value)),
            **{k: v for n, i in enumerate(value) for k, v in frozen(i, f"{path}[{n}]", seen).items()},
        }
    return {}


def test_no_stage_changes_the_result_of_another():
    floor = floor_from(flat_slab(2, 1, size=1.0))
    run = Run(floor, StageCache(), len(STAGES))
    before = {}
    for stage in STAGES:
        before[stage.name] = frozen(run.take(stage))
    edited = flat_slab(2, 1, size=1.0)
    edited["loads"][0]["q_kPa"] = 9.0
    again = Run(floor_from(edited), run.cache, len(STAGES))
    for stage in STAGES:
        again.take(stage)
    for name, held in before.items():
        assert frozen(run.results[name]) == held, name


@pytest.mark.study
def test_the_cache_is_bounded_in_bytes_and_keeps_what_is_in_use():
    assert size_of(np.zeros((10, 5))) == 400
    cache = StageCache(limit=3_000)
    cache.put("a", np.zeros(100), set())
    cache.put("b", np.zeros(100), set())
    cache.get("a")
    cache.put("c", np.zeros(200), set())
    assert set(cache.kept) == {"a", "c"}
    cache.put("d", np.zeros(250), {"a"})
    assert set(cache.kept) == {"a", "d"}
    small = StageCache(limit=200_000)
    document = flat_slab(2, 1, size=1.0)
    solved = solve_floor(floor_from(document), small)
    assert small.size > 200_000  # nothing of the run itself was dropped on the way
    for q in (5.0, 6.0, 7.0):
        document["loads"][0]["q_kPa"] = q
        document["slabs"][0]["thickness_m"] = 0.2 + q / 100
        outcome = solve_floor(floor_from(document), small)
        assert differences(told(solve_floor(floor_from(document))), told(outcome)) == []
    assert solved.solution.u.shape == outcome.solution.u.shape
    assert len([k for k in small.kept if k.startswith("stiffness:")]) == 1


def test_what_is_made_in_a_moment_counts_for_the_cache_once_the_run_is_over():
    cache = StageCache(limit=1)
    first, second = (flat_slab(1, 1, size=size) for size in (1.0, 0.9))
    for document in (first, second):
        pipeline.solve_floor(floor_from(document), cache, rigorous=False, remedies=False)
        assert all(entry.size > 0 for entry in cache.kept.values())
    # Nothing of the run itself goes, and nothing of the one before it stays that it does not need.
    assert pipeline.solve_floor(floor_from(second), cache, rigorous=False, remedies=False).ran == {}
    assert len([k for k in cache.kept if k.startswith("mesh:")]) == 1


@given(
    st.lists(st.one_of(st.floats(allow_nan=False), st.text(max_size=3), st.integers(-5, 5), st.none(), st.booleans()), max_size=4)
)
def test_a_key_follows_content_alone(values):
    assert key_of(values) == key_of(copy.deepcopy(values))
    assert key_of([*values, 1.0]) != key_of(values)
    assert key_of([values]) != key_of(values)
    with pytest.raises(TypeError):
        key_of(object())


def test_what_many_stages_read_is_hashed_once_and_told_apart_all_the_same():
    """Objects of a floor go into keys by their own hashes: equal ones alike, whichever floor holds them, and others not."""
    first, same, other = (floor_from(flat_slab(1, 1)), floor_from(flat_slab(1, 1)), floor_from(flat_slab(1, 1)))
    other.slabs[0].__dict__["thickness_m"] += 1e-12
    known = [{id(f.slabs[0]): b""} for f in (first, same, other)]
    keys = [key_of(f.slabs, f.name, met=met) for f, met in zip((first, same, other), known, strict=True)]
    assert keys[0] == keys[1] != keys[2]
    assert known[0][id(first.slabs[0])] == known[1][id(same.slabs[0])] != b""
    # What is known is not read again; what is not listed is.
    assert key_of(first.slabs, first.name, met={id(first.slabs[0]): known[2][id(other.slabs[0])]}) == keys[2]
    assert key_of(first.slabs, first.name, met={}) == key_of(same.slabs, same.name)


def test_a_stage_runs_anew_for_each_thing_that_it_needs_and_for_nothing_else():
    """Two stages read a key of the floor each, a third needs both: what is not read runs nothing."""
    one = Stage("one", lambda f: f.name, lambda name, made: name.upper())
    two = Stage("two", lambda f: f.arrangements, lambda kind, made: kind)
    three = Stage("three", lambda f: f.mesh.size_m, lambda size, made: (made[one], made[two], size), (one, two))
    # Names that differ in their case alone have one content, which is what the stage after it follows.
    loose = Stage("loose", lambda f: f.name, lambda name, made: name, content=lambda name: name.lower())
    last = Stage("last", lambda f: None, lambda given, made: made[loose], (loose,))
    cache = StageCache()

    def ran(**change):
        run = Run(floor_from({**one_bay(), **change}), cache, 5)
        results = [run.take(s) for s in (one, two, three, loose, last)]
        return results[2], set(run.ran)

    assert ran() == (("ONE BAY", "exact", 0.6), {"one", "two", "three", "loose", "last"})
    assert ran() == (("ONE BAY", "exact", 0.6), set())
    assert ran(probes=[])[1] == set()
    assert ran(arrangements="standard") == (("ONE BAY", "standard", 0.6), {"two", "three"})
    assert ran(mesh={"size_m": 0.5}) == (("ONE BAY", "exact", 0.5), {"three"})
    assert ran(name="Other") == (("OTHER", "exact", 0.6), {"one", "three", "loose", "last"})
    assert ran(name="OTHER") == (("OTHER", "exact", 0.6), {"one", "three", "loose"})


def test_a_key_tells_arrays_geometry_and_the_parts_of_records_apart():
    a = np.arange(6.0)
    same = [a, a.copy(), np.arange(12.0)[::2] / 2]
    assert len({key_of(v) for v in same}) == 1
    other = [a.reshape(2, 3), a.astype(np.float32), a.view(np.int64), a + 1e-12, a[::-1], a.tolist()]
    assert len({key_of(v) for v in [a, *other]}) == 7
    square, turned = box(0, 0, 1, 1), box(0, 0, 1, 1.0000001)
    assert key_of(square) == key_of(box(0, 0, 1, 1)) != key_of(turned)
    # Arrays of objects are told by what they hold and not by where it lies in memory.
    assert key_of(np.array([square, turned])) == key_of(np.array([box(0, 0, 1, 1), box(0, 0, 1, 1.0000001)]))
    assert key_of(np.array([square, turned])) != key_of(np.array([turned, square]))
    assert key_of({"a": 1, "b": 2}) == key_of({"b": 2, "a": 1}) != key_of({"a": 2, "b": 1})
    assert key_of(["ab", "c"]) != key_of(["a", "bc"])
    assert key_of({"x", "y"}) == key_of({"y", "x"}) != key_of({"x"})
    assert key_of(1) != key_of(1.0) != key_of(True)


def test_sizes_count_what_is_held_once():
    tree = shapely.STRtree([box(i, 0, i + 1, 1) for i in range(100)])
    assert 100 * (100 + 200 + 80) <= size_of(tree) < 1.1 * 100 * (100 + 200 + 80)
    a = np.zeros(1000)
    assert 8_000 <= size_of([a, a]) < 8_400 <= 16_000 <= size_of([a, a.copy()])
    assert size_of({"k": a}) >= 8_000
    assert size_of(a[::2]) == 4_000
    assert size_of(np.array([a, "text"], dtype=object)) > 8_000


def test_the_verdict_is_told_before_what_takes_long():
    """First without what lasts, then whole, and only then mends are looked for."""
    heard = []
    data = flat_slab(2, 2, size=1.0)
    floor = floor_from({**data, "loads": [{"id": "q", "case": "Q", "kind": "area", "q_kPa": 12.0}]})
    outcome = pipeline.solve_floor(
        floor,
        progress=lambda stage, share: heard.append(stage),
        told=lambda verdict, whole: heard.append((whole, [r.check for r in verdict])),
    )
    first, last = (next(k for k, h in enumerate(heard) if isinstance(h, tuple) and h[0] is whole) for whole in (False, True))
    assert heard[first][1] == [r.check for r in outcome.verdict if r.check != "deflection"]
    assert heard[last][1] == [r.check for r in outcome.verdict]
    assert first < heard.index("long term") < last < heard.index("mends")
    assert first < last < heard.index("remedies")


@pytest.mark.study
@pytest.mark.parametrize("bar", [10.0, 16.0])
def test_closer_bars_of_a_mat_leave_all_geometry_as_it_is(bar):
    """Zones lie by the depths of bars, which their spacing does not move: not even by the last bit of a mean."""
    data = flat_slab(2, 2, size=1.0)
    data["mats"] = [
        {"id": f"{face} {way}", "face": face, "direction": way, "bar_mm": bar, "spacing_mm": 150.0}
        for face in ("bottom", "top")
        for way in ("x", "y")
    ]
    cache = StageCache()
    solve_floor(floor_from(data), cache)
    for spacing in (100.0, 125.0, 126.0, 127.0, 130.0, 133.0, 140.0, 175.0):
        for mat in data["mats"]:
            mat["spacing_mm"] = spacing
        ran = set(solve_floor(floor_from(data), cache).ran)
        assert "zones" in ran, spacing
        assert not ran & {"mesh", "stiffness", "solutions", "zone outlines"}, (spacing, ran)


def test_a_stage_made_beside_others_is_there_when_one_of_them_needs_it():
    met = Event()

    def waiting(given, made):
        # It comes to an end only if the next stage is made in the meantime.
        assert met.wait(30)
        return made[first] + 1

    first = Stage("first", lambda f: None, lambda i, m: 1)
    beside = Stage("beside", lambda f: None, waiting, (first,))
    after = Stage("after", lambda f: None, lambda i, m: m[beside] * 10, (beside,))
    other = Stage("other", lambda f: None, lambda i, m: met.set() or 5)
    last = Stage("last", lambda f: None, lambda i, m: m[after] + m[other], (after, other))
    cache = StageCache()
    for count in (1, 0):
        run = Run(floor_from(one_bay()), cache, 5)
        run.take(first)
        run.begin(beside)
        run.begin(after)
        run.take(other)
        assert run.take(last) == 25
        run.close()
        assert (run.ran["beside"], run.ran["after"], run.ran["last"]) == (count, count, count)
        assert set(run.results) == {"first", "beside", "after", "other", "last"}
        assert set(run.seconds) == set(run.ran)


def test_what_a_stage_beside_others_raises_comes_with_the_one_that_needs_it():
    def failing(given, made):
        raise RefusedError([])

    beside = Stage("beside", lambda f: None, failing)
    last = Stage("last", lambda f: None, lambda i, m: m[beside], (beside,))
    cache = StageCache()
    for _ in range(2):
        run = Run(floor_from(one_bay()), cache, 2)
        run.begin(beside)
        with pytest.raises(RefusedError):
            run.take(last)
        run.close()
    assert not cache.kept


def test_what_is_beside_others_ends_with_the_run():
    begun, ended = Event(), []

    def endless(given, made):
        begun.set()
        try:
            while True:
                made.tick(0.5)
        except CancelledError:
            ended.append(True)
            raise

    run = Run(floor_from(one_bay()), StageCache(), 2)
    run.begin(Stage("beside", lambda f: None, endless))
    run.begin(Stage("never", lambda f: None, lambda i, m: ended.append(False)))
    assert begun.wait(30)
    run.close()
    assert ended == [True]
