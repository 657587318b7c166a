"""Greatest spacing of bars in slabs: EN 1992-1-1, 9.3.1.1 (3)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from piastra.core.standards.parameters import Parameter
from piastra.core.standards.provision import SpacingLimit, Stations
from piastra.core.trace import Step, Value

CLAUSE = "EN 1992-1-1, 9.3.1.1 (3)"
PARAMETERS = (
    Parameter("s_max_h", "k_s", "greatest spacing of principal bars over h", 3.0, CLAUSE, design=True),
    Parameter("s_max", "s_lim", "greatest spacing of principal bars, m", 0.4, CLAUSE, design=True),
    Parameter("s_max_h_secondary", "k_s", "of secondary bars over h", 3.5, CLAUSE, design=True),
    Parameter("s_max_secondary", "s_lim", "of secondary bars, m", 0.45, CLAUSE, design=True),
    Parameter("s_max_h_greatest", "k_s", "of principal bars at greatest moments over h", 2.0, CLAUSE, design=True),
    Parameter("s_max_greatest", "s_lim", "of principal bars at greatest moments, m", 0.25, CLAUSE, design=True),
    Parameter("s_max_h_greatest_secondary", "k_s", "of secondary bars at greatest moments over h", 3.0, CLAUSE, design=True),
    Parameter("s_max_greatest_secondary", "s_lim", "of secondary bars at greatest moments, m", 0.4, CLAUSE, design=True),
)


@dataclass(frozen=True, slots=True)
class Spacing:
    """``elsewhere`` and ``at_greatest``: for principal and secondary bars the factor of h and the limit (m)."""

    elsewhere: tuple[tuple[float, float], tuple[float, float]]
    at_greatest: tuple[tuple[float, float], tuple[float, float]]

    def greatest(self, at: Stations) -> SpacingLimit:
        """The closer limit where the moment is among the strip's greatest."""
        minor = at.principal > 0
        factor, bound = np.zeros(len(at.h)), np.zeros(len(at.h))
        for secondary in (False, True):
            for close, rule in ((False, self.elsewhere), (True, self.at_greatest)):
                mine = (minor == secondary) & (at.greatest == close)
                factor[mine], bound[mine] = rule[int(secondary)]
        limit = np.minimum(factor * at.h, bound)

        def steps(i: int) -> tuple[Step, ...]:
            where = "at the greatest moments" if at.greatest[i] else "elsewhere"
            return (
                Step("Greatest spacing", CLAUSE, "s_max = min(k_s · h, s_lim)", (
                    Value("k_s", float(factor[i])), Value("h", float(at.h[i]), "size"), Value("s_lim", float(bound[i]), "size")),
                    Value("s_max", float(limit[i]), "size", f"{'secondary' if minor[i] else 'principal'} bars, {where}")),
            )  # fmt: skip

        return SpacingLimit(limit, steps)
