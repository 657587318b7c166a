"""The page of formulas: every step of a trace as the source writes it, with its clause and its line.

Read from the source itself, so that a formula that is shown anywhere is on the page; a step that cannot be read that way is
an error, not an omission.
"""

from __future__ import annotations

import ast
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import piastra.core
from piastra.core.standards.registry import names, parameters

ROOT = Path(piastra.core.__file__).parent
FIELDS = ("title", "clause", "formula", "values", "result", "note", "empirical")


class UnreadableStepError(ValueError):
    """A step whose title, clause or formula is not written out where the page can read it."""


@dataclass(frozen=True, slots=True)
class Written:
    """A step as the source has it: ``module`` is its path below ``core``, ``line`` where it starts."""

    module: str
    line: int
    title: str
    clause: str
    formula: str
    empirical: bool


def _constants(tree: ast.Module) -> dict[str, str]:
    """Texts that a module names, also several in one line."""
    found = {}
    for node in tree.body:
        if isinstance(node, ast.Assign):
            for target in node.targets:
                pairs = (
                    zip(target.elts, node.value.elts, strict=True)
                    if isinstance(target, ast.Tuple) and isinstance(node.value, ast.Tuple) else [(target, node.value)]
                )  # fmt: skip
                for name, value in pairs:
                    if isinstance(name, ast.Name) and isinstance(value, ast.Constant) and isinstance(value.value, str):
                        found[name.id] = value.value
    return found


def _called(function: ast.expr) -> str:
    return function.id if isinstance(function, ast.Name) else function.attr if isinstance(function, ast.Attribute) else ""


class _Module:
    def __init__(self, path: Path) -> None:
        self.name = path.relative_to(ROOT).as_posix()
        self.tree = ast.parse(path.read_text(encoding="utf-8"))
        self.constants = _constants(self.tree)
        self.calls = [(n, _called(n.func)) for n in ast.walk(self.tree) if isinstance(n, ast.Call)]
        self.functions = [n for n in ast.walk(self.tree) if isinstance(n, ast.FunctionDef)]

    def text(self, node: ast.expr | None, given: dict[str, str]) -> str | None:
        """What an expression reads, with what a call gave for the parameters; None if it does not say."""
        if node is None:
            return ""
        if isinstance(node, ast.Constant) and isinstance(node.value, str):
            return node.value
        if isinstance(node, ast.Name):
            return given.get(node.id, self.constants.get(node.id))
        if isinstance(node, ast.Attribute):
            return "as the standard in use says"
        if isinstance(node, ast.JoinedStr):
            parts = []
            for piece in node.values:
                if isinstance(piece, ast.FormattedValue):
                    parts.append("…" if isinstance(piece.value, ast.Attribute) else self.text(piece.value, given) or "…")
                elif isinstance(piece, ast.Constant):
                    parts.append(str(piece.value))
            return "".join(parts)
        if isinstance(node, ast.IfExp):
            options = [self.text(node.body, given), self.text(node.orelse, given)]
            return " or ".join(o for o in options if o) if all(o is not None for o in options) else None
        return None

    def _arguments(self, call: ast.Call, fields: tuple[str, ...]) -> dict[str, ast.expr]:
        return {**dict(zip(fields, call.args, strict=False)), **{k.arg: k.value for k in call.keywords if k.arg}}

    def steps(self) -> Iterator[Written]:
        """Every step, once for each text that its function is called with."""
        for call, called in self.calls:
            if called != "Step":
                continue
            given = self._arguments(call, FIELDS)
            around = [f for f in self.functions if f.lineno <= call.lineno <= (f.end_lineno or f.lineno)]
            inside = max(around, key=lambda f: f.lineno) if around else None
            free = {n.id for k in FIELDS[:3] if k in given for n in ast.walk(given[k]) if isinstance(n, ast.Name)}
            own = [a.arg for a in inside.args.args if a.arg != "self"] if inside else []
            uses: list[tuple[int, dict[str, str]]] = [(call.lineno, {})]
            if inside and free & set(own):
                uses = []
                for c, name in self.calls:
                    if name == inside.name:
                        passed = {k: self.text(v, {}) for k, v in self._arguments(c, tuple(own)).items() if k in free}
                        uses.append((c.lineno, {k: v for k, v in passed.items() if v is not None}))
                uses = uses or [(call.lineno, {})]
            for line, known in uses:
                title, clause, formula = (self.text(given.get(k), known) for k in FIELDS[:3])
                if title is None or clause is None or formula is None:
                    raise UnreadableStepError(f"{self.name}:{line}: a step's title, clause and formula must be written out")
                yield Written(self.name, line, title, clause, formula, "empirical" in given)


def written_steps() -> list[Written]:
    """Every step that the source can put into a trace, by file and line. Raises :class:`UnreadableStepError`."""
    modules = (_Module(p) for p in sorted(ROOT.rglob("*.py")) if "trace" not in p.parts[len(ROOT.parts) :])
    return sorted((s for m in modules for s in m.steps()), key=lambda s: (s.module, s.line))


def page() -> str:
    """``docs/formulas.md``: the formulas by file, and the values of each standard with their sources."""
    out = [
        "# Formulas", "",
        "Every step that a trace can show: what it gives, the formula over the symbols of the trace, the clause, and the line of",
        "the source that computes it. Formulas are in coherent units (kN and m), but for those marked *empirical*, which hold in",
        "the units that their values are told in. Written by `piastra formulas`; `tests/core/test_traces.py` evaluates every one",
        "that the demo floors show.", "",
    ]  # fmt: skip
    here = None
    for s in written_steps():
        if s.module != here:
            here = s.module
            out += [
                "",
                f"## {here.removesuffix('.py').replace('/', ', ')}",
                "",
                "| Step | Formula | Clause | Source |",
                "|---|---|---|---|",
            ]
        formula = f"`{s.formula}`" if s.formula else ""
        formula += " *(empirical)*" if s.empirical else ""
        link = f"[{s.module}:{s.line}](../src/piastra/core/{s.module}#L{s.line})"
        out.append(f"| {s.title} | {formula} | {s.clause} | {link} |")
    for name in names():
        out += ["", f"## Values of {name}", "", "| Symbol | Value | What it is | Source |", "|---|---|---|---|"]
        out += [f"| `{p.symbol}` | {p.value:g} | {p.meaning} | {p.source} |" for p in parameters(name)]
    return "\n".join(out).replace("\n\n\n", "\n\n") + "\n"
