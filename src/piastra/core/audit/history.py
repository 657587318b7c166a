"""Histories that no building has: loads that vanish, stages without the floor's own weight, loads before there is a floor."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise

from piastra.core.audit.finding import Finding, Mend, Set
from piastra.core.audit.site import Site

EARLY = 2.0
"""Days before which no floor carries itself."""


def history(site: Site) -> Iterator[Finding]:
    """Every rule for the stages of a floor's life."""
    floor = site.floor
    lived = floor.history
    if lived is None:
        return
    by_id = {c.id: c for c in floor.combinations}
    weight = next((c.id for c in floor.load_cases if c.nature == "self_weight"), None)
    stays = [c.id for c in floor.load_cases if c.nature in ("self_weight", "dead")]
    for s in lived.stages:
        combination = by_id[s.combination]
        if weight is not None and not combination.factors.get(weight):
            factors = {**combination.factors, weight: 1.0}
            mend = Mend(
                f"Combination {combination.id} with the self-weight", (Set("combinations", combination.id, "factors", factors),)
            )
            yield Finding(
                "stage without self-weight", "combinations", combination.id,
                f"is what stage {s.id} carries, but without the self-weight {weight}", "the floor carries itself from the first day on", None, mend,
            )  # fmt: skip
    if lived.stages[0].start_days < EARLY:
        first = lived.stages[0]
        yield Finding(
            "stage too early", "combinations", first.combination,
            f"loads the floor in stage {first.id} at the age of {first.start_days:g} days", "concrete as young as that carries nothing; let the stage begin later",
        )  # fmt: skip
    for a, b in pairwise(lived.stages):
        before, after = by_id[a.combination].factors, by_id[b.combination].factors
        # Props of a floor above come and go with more than once the self-weight; what is finished stays.
        gone = [c for c in stays if min(before.get(c, 0.0), 1.0) > after.get(c, 0.0) + 1e-9]
        if gone:
            yield Finding(
                "load that vanishes", "combinations", b.combination,
                f"takes {', '.join(gone)} away again in stage {b.id}, which stage {a.id} carried", "a finished load stays; let the later combination hold it too",
            )  # fmt: skip
