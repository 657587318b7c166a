"""Cases with closed-form answers: what ``piastra verify`` runs and docs/verification.md keeps."""

from __future__ import annotations

from collections.abc import Sequence

from piastra.core.verification.case import Case, Checked
from piastra.core.verification.lives import life_cases
from piastra.core.verification.measured import SPECIMENS, Measured, predicted, told
from piastra.core.verification.plates import plate_cases, refinement
from piastra.core.verification.shear import shear_cases
from piastra.core.verification.structures import structure_cases
from piastra.core.verification.tendons import tendon_cases

__all__ = ["SPECIMENS", "Case", "Checked", "Measured", "cases", "predicted", "refinement", "report"]


def cases() -> list[Case]:
    """All verification cases."""
    return [*plate_cases(), *structure_cases(), *shear_cases(), *tendon_cases(), *life_cases()]


def report(
    rows: Sequence[Checked], study: Sequence[tuple[str, list[tuple[int, float, float]]]], measured: Sequence[Measured] = ()
) -> str:
    """The verification document, in Markdown."""
    lines = [
        "# Verification", "", "Printed by `piastra verify --markdown docs/verification.md`. Each case is a floor file that goes through the",
        "whole computation; errors are relative. Deflections hold within 1 %, moments and forces within 2 %, shear per metre within",
        "3 % inside bays and 10 % half a thickness from what holds the floor.", "",
        "| case | quantity | expected | computed | error | limit | source |", "|---|---|---:|---:|---:|---:|---|",
    ]  # fmt: skip
    for row in rows:
        for q in row.quantities:
            lines.append(
                f"| {row.name} | {q.name} | {q.expected:.5g} {q.unit} | {q.computed:.5g} {q.unit} | {round(100 * q.error, 2) + 0.0:.2f} % | "
                f"{100 * q.limit:g} % | {row.source} |"
            )
    lines += [
        "",
        "## Refinement",
        "",
        "Error of the deflection at the centre, and the order at which it falls from the mesh before. The element's order is 2.",
        "",
    ]
    for name, steps in study:
        lines += [f"### {name}", "", "| elements a side | error | order |", "|---:|---:|---:|"]
        lines += [f"| {n} | {100 * e:.4f} % | {'' if order != order else f'{order:.2f}'} |" for n, e, order in steps]
        lines.append("")
    lines += told(measured) if measured else []
    return "\n".join(lines)
