"""Whose turn it is to be computed: of the floors that ask, the one whose last turn is longest ago, however often another is edited."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, field

COMPANY = -1
"""In the place of a floor: those that are asked for together, as when a server begins, have their turns as one, so that an edit waits for one of them."""
HUNGRY_SECONDS = 4.0
"""A floor that is edited without pause, and of which no verdict has been told for so long, gets the results of the run that goes on."""
STARVED_SECONDS = 20.0
"""So does one that has had verdicts, but no results for so long."""


@dataclass(slots=True)
class Turns:
    """Runs that ``wait``, by their floor: a floor that asks again keeps its place. ``hungry`` tells since when (s) a floor's edits have had no results,
    ``told`` when one of them last had a verdict, ``had`` which of all turns was its last, and ``before`` the one before that."""

    waiting: dict[int, int] = field(default_factory=dict)
    had: dict[int, float] = field(default_factory=dict)
    before: dict[int, float] = field(default_factory=dict)
    turn: int = 0
    hungry: dict[int, float] = field(default_factory=dict)
    told: dict[int, float] = field(default_factory=dict)
    together: set[int] = field(default_factory=set)

    def ask(self, floor: int, run: int, now: float, patient: bool = False, together: bool = False) -> None:
        """A floor asks for a run, in the place of the one that it waits for; a ``patient`` one is asked for by nobody who edits, one asked for
        ``together`` with others shares the turns of them all until somebody edits it."""
        self.waiting[floor] = run
        (self.together.add if together else self.together.discard)(floor)
        if patient:
            self.hungry.pop(floor, None)
        else:
            self.hungry.setdefault(floor, now)

    def drop(self, floor: int, run: int) -> None:
        """A run is not wanted any more."""
        if self.waiting.get(floor) == run:
            del self.waiting[floor]

    def fed(self, floor: int, now: float) -> None:
        """A floor has got results, or an answer why not: what it waits for still is a new wish."""
        if self.hungry.pop(floor, None) is not None and floor in self.waiting:
            self.hungry[floor] = now

    def answered(self, floor: int, now: float) -> None:
        """A floor's verdict has been told; its results are still to come."""
        self.told[floor] = now

    def starves(self, floor: int, now: float) -> bool:
        """Whether a floor has waited so long that its run shall come to its end although there is a newer revision."""
        since = self.hungry.get(floor, now)
        # Who sees the verdict of every edit can wait for contours; he would not wait for a verdict until contours of an older one are written.
        return now - max(since, self.told.get(floor, since)) > HUNGRY_SECONDS or now - since > STARVED_SECONDS

    def others(self, floor: int) -> bool:
        """Whether somebody waits for the turn of another floor: what is done for this one and comes to nothing is lost to him too."""
        return any(f != floor and f in self.hungry for f in self.waiting)

    def wanted(self, busy: Collection[int]) -> bool:
        """Whether somebody waits for the turn of a floor that is not ``busy``."""
        return any(f in self.hungry for f in self.waiting if f not in busy)

    def _who(self, floor: int) -> int:
        return COMPANY if floor in self.together else floor

    def again(self, floor: int) -> None:
        """Its last turn came to nothing, as it was edited meanwhile: the floor is the next of those that have waited as long."""
        who = self._who(floor)
        self.had[who] = self.before.get(who, 0) - 0.5

    def take(self, busy: Collection[int]) -> int | None:
        """The run whose turn it is, of a floor that is not ``busy`` with another one: of two that never had one, the first to ask. What nobody waits for
        comes when nobody waits."""
        floor = min(
            (f for f in self.waiting if f not in busy),
            key=lambda f: (f not in self.hungry, self.had.get(self._who(f), 0)),
            default=None,
        )
        if floor is None:
            return None
        self.turn += 1
        who = self._who(floor)
        self.before[who], self.had[who] = self.had.get(who, 0), self.turn
        return self.waiting.pop(floor)
