"""Mutants of what the verdict rests on: one number, sign, factor, cap or comparison changed, and the tests run against it.

``python -m tests.mutants [COUNT] [SEED]`` takes the named mutants and COUNT others (64) spread evenly over the files below, tells
which survive, and ends with an error if any does. It is a study of the tests, too long for each change.
"""

from __future__ import annotations

import ast
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).parents[1]
CORE = Path("src/piastra/core")
FILES = (
    "standards/en1992/materials.py", "standards/en1992/flexure.py", "standards/en1992/minimum.py", "standards/en1992/punching.py",
    "standards/en1992/time.py", "standards/aci318/time.py", "standards/generating.py", "checks/flexure.py", "checks/punching.py", "checks/deflection.py",
    "checks/row.py", "deflection/sag.py", "reinforcement/stations.py", "reinforcement/worst.py", "reinforcement/mats.py", "punching/zones.py", "stages/build.py",
)  # fmt: skip
TESTS = (
    "tests/standards/test_en1992.py", "tests/core/test_checks.py", "tests/core/test_sag.py", "tests/core/test_steel.py",
    "tests/core/test_combinations.py", "tests/core/test_strips.py", "tests/core/test_stages.py", "tests/core/test_traces.py",
    # A study of its own, a minute long, of what `test_stages.py` holds for each stage.
    "--deselect=tests/core/test_stages.py::test_a_warm_cache_answers_as_a_cold_one_whichever_leaf_changed",
)  # fmt: skip
SWAPS = {"min": "max", "max": "min", "minimum": "maximum", "maximum": "minimum"}
FLIPS: dict[type, str] = {ast.Gt: "<=", ast.Lt: ">=", ast.GtE: "<", ast.LtE: ">", ast.Eq: "!=", ast.NotEq: "=="}
SIGNS: dict[type, tuple[str, str]] = {ast.Add: ("+", "-"), ast.Sub: ("-", "+"), ast.Mult: ("*", "/"), ast.Div: ("/", "*")}
NAMED = (
    ("standards/en1992/punching.py", "c2 + min(3 * d, 2 * c1))", "c2 + 2 * c1)"),
    ("standards/en1992/punching.py", "values, min(3 * d, a + b))", "values, a + b)"),
    ("standards/en1992/punching.py", "self.beta(a) * a.joint / (self.u0 * self.d_face)", "self.beta(a) * a.V / (self.u0 * self.d_face)"),
    ("standards/en1992/punching.py", 'at_face = ZoneUse("face", self._at_face(action), self.v_rd_max)', 'at_face = ZoneUse("face", 0.0, self.v_rd_max)'),
    ("standards/en1992/punching.py", "shares = (moment_share(t, b), moment_share(b, t))", "shares = (moment_share(b, t), moment_share(t, b))"),
    ("standards/en1992/minimum.py", "m > TENSION_SHARE * cracking", "m > 3 * TENSION_SHARE * cracking"),
    ("deflection/sag.py", "line.span / span_over", "1.02 * line.span / span_over"),
    ("deflection/sag.py", "max(self.sag, 0.0) / self.limit", "max(self.sag, 0.0) / (1.02 * self.limit)"),
    ("deflection/sag.py", "2 * reach, True", "2.5 * reach, True"),
    ("reinforcement/stations.py", "ratio(face.compression, given.area[1 - f])", "0 * face.compression"),
    ("reinforcement/stations.py", "ratio(face.compression, given.area[1 - f])", "ratio(face.compression, given.area[f])"),
    ("stages/build.py", "{key_of(given, [", "{key_of(None, ["),
    ("stages/build.py", "for n in stage.needs], met=", "for n in stage.needs[1:]], met="),
    ("checks/row.py", "if top.status == \"fail\" or not beyond:", "if True:"),
    ("punching/zones.py", "if force < LEAST_FORCE or greatest", "if force < 100 * LEAST_FORCE or greatest"),
)  # fmt: skip
"""Mutants that somebody once found alive, or would be sorry to."""


@dataclass(frozen=True, slots=True)
class Mutant:
    """A change of one place: in ``file``, the characters from ``start`` to ``end`` become ``text``."""

    file: str
    line: int
    start: int
    end: int
    old: str
    text: str

    def __str__(self) -> str:
        return f"{self.file}:{self.line}: {self.old}  ->  {self.text}"


class _Finder(ast.NodeVisitor):
    """Places that can be changed, but for what only explains: steps of traces, docstrings, indices, slots of dataclasses."""

    def __init__(self, file: str, source: str) -> None:
        self.file, self.source, self.found = file, source, []  # type: ignore[var-annotated]
        self.starts = [0]
        for line in source.splitlines(keepends=True):
            self.starts.append(self.starts[-1] + len(line.encode()))

    def _add(self, node: ast.expr, text: str) -> None:
        start = self.starts[node.lineno - 1] + node.col_offset
        end = self.starts[(node.end_lineno or 0) - 1] + (node.end_col_offset or 0)
        old = self.source.encode()[start:end].decode()
        self.found.append(Mutant(self.file, node.lineno, start, end, old, text))

    def visit_Call(self, node: ast.Call) -> None:
        name = node.func.id if isinstance(node.func, ast.Name) else node.func.attr if isinstance(node.func, ast.Attribute) else ""
        if name in ("Step", "Value", "Parameter"):
            if name == "Parameter":
                self.generic_visit(node)
            return
        if name in SWAPS and isinstance(node.func, ast.Name):
            self._add(node.func, SWAPS[name])
        elif name in SWAPS and isinstance(node.func, ast.Attribute):
            self._add(node.func, f"{ast.unparse(node.func.value)}.{SWAPS[name]}")
        self.generic_visit(node)

    def visit_Subscript(self, node: ast.Subscript) -> None:
        self.visit(node.value)

    def visit_Constant(self, node: ast.Constant) -> None:
        if isinstance(node.value, float) and 1e-4 < abs(node.value) < 1e3:
            self._add(node, repr(node.value * 1.05))

    def visit_Compare(self, node: ast.Compare) -> None:
        if len(node.ops) == 1 and type(node.ops[0]) in FLIPS:
            self._add(node, f"{ast.unparse(node.left)} {FLIPS[type(node.ops[0])]} {ast.unparse(node.comparators[0])}")
        self.generic_visit(node)

    def visit_BinOp(self, node: ast.BinOp) -> None:
        if type(node.op) in SIGNS and not isinstance(node.left, ast.Constant | ast.JoinedStr):
            self._add(node, f"({ast.unparse(node.left)} {SIGNS[type(node.op)][1]} {ast.unparse(node.right)})")
        self.generic_visit(node)


def mutants(file: str) -> list[Mutant]:
    """All mutants of one file."""
    source = (ROOT / CORE / file).read_text(encoding="utf-8")
    finder = _Finder(file, source)
    finder.visit(ast.parse(source))
    return finder.found


def chosen(count: int, seed: int) -> Iterator[Mutant]:
    """``count`` mutants, file after file in turn."""
    pools = [mutants(f) for f in FILES]
    for pool in pools:
        random.Random(seed).shuffle(pool)
    for _ in range(count):
        pools = [p for p in pools if p]
        if not pools:
            return
        pool = pools.pop(0)
        yield pool.pop()
        pools.append(pool)


def named() -> list[Mutant]:
    """The mutants of ``NAMED``."""
    found = []
    for file, old, new in NAMED:
        source = (ROOT / CORE / file).read_text(encoding="utf-8")
        if source.count(old) != 1:
            raise ValueError(f"{file} has {old!r} {source.count(old)} times; a named mutant needs one place")
        start = len(source[: source.index(old)].encode())
        line = source[: source.index(old)].count("\n") + 1
        found.append(Mutant(file, line, start, start + len(old.encode()), old, new))
    return found


def killer(mutant: Mutant) -> str | None:
    """The first test that fails against a mutant; None if it survives."""
    with tempfile.TemporaryDirectory() as folder:
        shutil.copytree(ROOT / "src", Path(folder) / "src")
        path = Path(folder) / CORE / mutant.file
        source = path.read_bytes()
        path.write_bytes(source[: mutant.start] + mutant.text.encode() + source[mutant.end :])
        run = subprocess.run(
            [sys.executable, "-m", "pytest", "-x", "-q", "--no-header", "-p", "no:cacheprovider", *TESTS], cwd=ROOT,
            env={**os.environ, "PYTHONPATH": str(Path(folder) / "src"), "PYTHONDONTWRITEBYTECODE": "1"}, capture_output=True, text=True, check=False,
        )  # fmt: skip
    if run.returncode == 0:
        return None
    told = [line for line in run.stdout.splitlines() if line.startswith(("FAILED", "ERROR"))]
    return told[0].split(" - ")[0] if told else run.stdout[-200:] + run.stderr[-200:]


def main() -> int:
    """Run the study; 1 if a mutant survives."""
    given = [int(a) for a in sys.argv[1:]]
    count, seed = (*given, *(64, 1)[len(given) :])
    nothing = Mutant(FILES[0], 0, 0, 0, "", "")
    if (by := killer(nothing)) is not None:
        print(f"the tests fail without a mutant: {by}")
        return 1
    alive = 0
    picked = [*named(), *chosen(count, seed)]
    with ThreadPoolExecutor(2) as pool:
        for mutant, by in zip(picked, pool.map(killer, picked), strict=True):
            alive += by is None
            print(f"{'SURVIVES' if by is None else 'killed  '} {mutant}{'' if by is None else '   ' + by}", flush=True)
    print(f"{len(picked)} mutants, {alive} survive")
    return 1 if alive else 0


if __name__ == "__main__":
    sys.exit(main())
