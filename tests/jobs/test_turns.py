"""Floors that are edited without pause: each gets its turn, and results of its own, however many there are."""

import queue
import threading
from collections import Counter
from contextlib import contextmanager
from types import SimpleNamespace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from sqlalchemy.exc import OperationalError

from piastra.jobs import manager as managing
from piastra.jobs.listening import Listening
from piastra.jobs.manager import RunManager
from piastra.jobs.turns import HUNGRY_SECONDS, STARVED_SECONDS, Turns


@settings(deadline=None)
@given(asks=st.lists(st.tuples(st.integers(0, 6), st.booleans(), st.integers(0, 6)), max_size=200))
def test_the_floor_whose_last_turn_is_longest_ago_comes_first_however_often_others_ask(asks):
    turns, order, newest, served = Turns(), [], {}, []
    for run, (floor, serves, busy) in enumerate(asks):
        turns.ask(floor, run, float(run))
        newest[floor] = run
        if floor not in order:
            order.append(floor)
        if serves:
            waits = [f for f in order if f != busy]
            new = [f for f in waits if f not in served]
            expected = next(iter(new or sorted(waits, key=served.index)), None)
            assert turns.take([busy]) == (None if expected is None else newest[expected])
            if expected is not None:
                order.remove(expected)
                served = [f for f in served if f != expected] + [expected]
    assert list(turns.waiting) == order


class Fed(RunManager):
    """A manager whose cluster notes what it is given, with a clock and a database of the test's."""

    def __init__(self, slots):
        self._lock, self._active, self.heard = threading.RLock(), {}, Listening()
        self._turns, self._slots, self._owed, self._took = Turns(), slots, set(), {}
        self.held, self._enders = [], SimpleNamespace(submit=lambda *given: self.held.append(given))
        self.numbers, self.away, self.client, self._closing, self._cancelled = 0, False, None, threading.Event(), 0.0

    @contextmanager
    def _begin(self):
        if self.away:
            raise OperationalError("select 1", {}, Exception("gone"))
        yield None

    @property
    def _sessions(self):
        return SimpleNamespace(begin=self._begin)

    def _launch(self, run_id):
        self._active[run_id].launched, self._active[run_id].since = True, managing.time.monotonic()


def driven(monkeypatch, slots):
    made = Fed(slots)
    clock = [0.0]
    monkeypatch.setattr(managing.time, "monotonic", lambda: clock[0])

    def begun(session, revision_id):
        made.numbers += 1
        return SimpleNamespace(id=made.numbers)

    monkeypatch.setattr(managing.store, "begin_run", begun)
    monkeypatch.setattr(managing.store, "set_state", lambda *given, **more: True)
    monkeypatch.setattr(managing, "Event", lambda name, client: SimpleNamespace(set=lambda: None))
    return made, clock


def test_ten_floors_edited_without_pause_all_get_results_again_and_again(monkeypatch):
    manager, clock = driven(monkeypatch, slots=2)
    step, takes, floors = 0.25, 1.5, 10
    fresh = {floor: [0.0] for floor in range(floors)}
    due: dict[int, float] = {}
    for tick in range(int(120 / step)):
        clock[0] = tick * step
        for run_id, run in list(manager._active.items()):
            if run.launched and clock[0] >= due.setdefault(run_id, clock[0] + takes):
                manager._finish(run_id, lambda session: None, {"state": "fresh"})
                fresh[run.floor_id].append(clock[0])
        # Every floor is edited twice a second, which is more often than a run takes.
        for floor in range(floors):
            if tick % 2 == floor % 2:
                manager.submit(floor, 1, tick, {})
        assert sum(run.launched for run in manager._active.values()) <= 2
        assert all(count <= 2 for count in Counter(run.floor_id for run in manager._active.values()).values())
    # Ten runs of 1.5 s on two workers are 7.5 s, in which each floor has its turn; only the first two are edited away before they go hungry.
    assert max(b - a for times in fresh.values() for a, b in zip(times, [*times[1:], 120.0])) <= HUNGRY_SECONDS + 7.5 + takes
    assert max(b - a for times in fresh.values() for a, b in zip(times[1:], [*times[2:], 120.0])) <= 7.5 + takes
    assert sum(map(len, fresh.values())) >= 2 * (120 - HUNGRY_SECONDS - takes) / takes


def test_who_is_told_every_verdict_waits_for_no_results_of_an_older_edit(monkeypatch):
    """A run of seven seconds whose verdict comes in the first of them, edited every three: each edit has its verdict at once, and results come three times a
    minute all the same."""
    made, clock = driven(monkeypatch, slots=1)
    made._reports, waits, results = queue.SimpleQueue(), [], []
    going = begun = None
    for edit in range(40):
        clock[0] = max(clock[0], 3.0 * edit)
        run = made.submit(1, edit, edit, {})
        if going in made._active:
            # It goes on to its end, and only then has the new one its turn.
            clock[0] = max(clock[0], begun + 7.0)
            made._finish(going, lambda session: None, {"state": "fresh"})
            results.append(clock[0])
        going, begun = run, clock[0]
        clock[0] += 0.8
        made._reports.put((run, {"verdict": [], "share": 0.5}))
        made._reports.put(None)
        made._pass_on()
        waits.append(clock[0] - 3.0 * edit)
    assert sorted(waits)[len(waits) * 3 // 4] == pytest.approx(0.8)
    gaps = np.diff([0.0, *results])
    assert len(results) > 3
    assert gaps.max() <= STARVED_SECONDS + 7.0 + 3.0
    assert gaps.min() > HUNGRY_SECONDS + 7.0


def test_an_edit_that_follows_at_once_supersedes_the_run_that_goes_on_and_a_cancelled_floor_waits_for_nothing(monkeypatch):
    manager, clock = driven(monkeypatch, slots=1)
    first = manager.submit(1, 1, 1, {})
    assert manager._active[first].launched
    clock[0] = 1.0
    second = manager.submit(1, 2, 2, {})
    assert (list(manager._active), manager._active[second].launched) == ([second], True)
    other = manager.submit(2, 3, 1, {})
    # Its turn is the newer revision's, however many wait, until it goes hungry.
    third = manager.submit(1, 2, 3, {})
    assert [(k, manager._active[k].launched) for k in manager._active] == [(other, False), (third, True)]
    manager.stop(1, "cancelled")
    assert (list(manager._active), manager._active[other].launched) == ([other], True)
    # One that has gone hungry is let through; the newer revision comes after it.
    clock[0] = 2.0 + HUNGRY_SECONDS
    late = manager.submit(2, 4, 2, {})
    assert [manager._active[k].launched for k in (other, late)] == [True, False]
    manager._finish(other, lambda session: None, {"state": "fresh"})
    assert manager._active[late].launched
    # A life of a floor is for quiet times: an edit ends it at once.
    rigorous = manager.submit(3, 5, 1, {}, rigorous=True)
    manager._finish(late, lambda session: None, {"state": "fresh"})
    assert manager._active[rigorous].launched
    clock[0] += 10 * HUNGRY_SECONDS
    quick = manager.submit(3, 6, 2, {})
    assert list(manager._active) == [quick]
    # However long that life had gone on: the floor's hunger begins with the edit, so that the next one supersedes it in its turn.
    clock[0] += 1.0
    quicker = manager.submit(3, 7, 3, {})
    assert list(manager._active) == [quicker]


def test_where_others_wait_the_half_of_a_run_is_not_thrown_away(monkeypatch):
    manager, clock = driven(monkeypatch, slots=1)

    def at(seconds, floor, **more):
        clock[0] = seconds
        run = manager.submit(floor, 1, 1, {}, **more)
        return run, [k for k, a in manager._active.items() if a.launched]

    first, _ = at(0.0, 1)
    # What a run takes is known of the last one.
    clock[0] = 2.0
    manager._active[first].future = future = SimpleNamespace(status="finished", cancelled=lambda: False)
    manager._ended(first, future)
    manager._finish(first, lambda session: None, {"state": "fresh"})
    assert manager._took == {1: 2.0}
    alone, going = at(10.0, 1)
    assert going == [alone]
    # Nobody else waits: the newest is what he wants who edits.
    newer, going = at(11.2, 1)
    assert going == [newer]
    other, _ = at(11.3, 2)
    # Less than the half of it is done.
    early, going = at(12.1, 1)
    assert going == [other]
    clock[0] = 12.2
    manager._finish(other, lambda session: None, {"state": "fresh"})
    at(12.3, 2)
    _, going = at(13.3, 1)
    assert going == [early]
    while going := [k for k, a in manager._active.items() if a.launched]:
        manager._finish(going[0], lambda session: None, {"state": "fresh"})
    # For a life of a floor nobody waits; it is for quiet times, and what it takes is not what an edit takes.
    at(16.0, 1)
    at(16.1, 2, rigorous=True)
    newest, going = at(17.9, 1)
    assert going == [newest]
    manager._finish(newest, lambda session: None, {"state": "fresh"})
    manager.stop(2, "cancelled")
    monkeypatch.setattr(managing, "WAYS", 0)
    life, going = at(20.0, 1, rigorous=True)
    assert going == [life]
    at(20.1, 2)
    edit, going = at(22.9, 1)
    assert going == [edit]


def test_who_edits_waits_for_one_of_the_floors_that_nobody_edits_and_for_no_life_of_another(monkeypatch):
    manager, clock = driven(monkeypatch, slots=1)

    def going():
        return [a.floor_id for a in manager._active.values() if a.launched]

    def done():
        clock[0] += 1.0
        manager._finish(next(k for k, a in manager._active.items() if a.launched), lambda session: None, {"state": "fresh"})

    # A server begins with a new engine: floors that have had their turns before, and such that had none.
    for floor in range(20, 28):
        manager.submit(floor, 1, 1, {}, together=True)
    turns = []
    for edit in range(5):
        manager.submit(1, 1, edit, {})
        # The one that goes on, and then the edit's.
        turns += going()
        done()
        assert going() == [1]
        done()
    while going():
        turns += going()
        done()
    assert turns == [*range(20, 28)]
    # One of them is edited before its turn: it is its editor's then, and waits behind no other.
    for floor in range(20, 24):
        manager.submit(floor, 1, 2, {}, together=True)
    manager.submit(23, 1, 3, {})
    done()
    assert going() == [23]
    while going():
        done()
    # A life is put off by the edit of another floor, begins again when nobody waits, and is let through in the end.
    lives = [manager.submit(2, 1, 1, {"life": True}, rigorous=True)]
    for edit in range(managing.WAYS):
        manager.submit(1, 1, edit, {})
        assert going() == [1]
        done()
        lives += [k for k, a in manager._active.items() if a.floor_id == 2]
        assert (going(), manager._active[lives[-1]].document) == ([2], {"life": True})
    assert len(set(lives)) == managing.WAYS + 1
    edit = manager.submit(1, 1, 9, {})
    assert going() == [2]
    done()
    assert manager._active[edit].launched
    done()
    # One whose results are being written keeps nobody, and is let be.
    life = manager.submit(2, 1, 1, {}, rigorous=True)
    manager._active[life].computed = True
    for floor in (5, 6):
        manager.submit(floor, 1, 1, {})
    assert [k for k, a in manager._active.items() if a.floor_id == 2] == [life]


def test_a_worker_has_its_next_run_while_the_last_one_is_written(monkeypatch):
    manager, _ = driven(monkeypatch, slots=1)
    runs = [manager.submit(floor, 1, 1, {}) for floor in range(4)]

    def launched():
        return [k for k in runs if k in manager._active and manager._active[k].launched]

    def computed(run_id, status="finished", **answer):
        manager._active[run_id].future = future = SimpleNamespace(
            status=status, cancelled=lambda: False, result=lambda: {"outcome": "refused", "told": "why", **answer}
        )
        manager._ended(run_id, future)

    computed(runs[0])
    assert (launched(), manager._launched()) == (runs[:2], 1)
    # What is nearly there is not thrown away, however soon the next edit comes, and its floor is not computed twice at a time.
    runs.append(manager.submit(0, 1, 2, {}))
    assert launched() == runs[:2]
    # Where writing is slow, no more is computed beside it.
    computed(runs[1])
    assert (launched(), manager._launched()) == (runs[:2], 0)
    for settle, *what in manager.held:
        settle(*what)
    assert launched() == [runs[2]]
    # One that a worker died over keeps its place there; one that was cancelled while it was written stays so.
    computed(runs[2], "error")
    assert manager._launched() == 1
    computed(runs[2], outcome="fresh", more=True)
    manager.stop(2, "cancelled")
    followed = []
    for name in ("_keep", "_keep_late", "_follow", "_recycle"):
        monkeypatch.setattr(manager, name, lambda *given, name=name: followed.append(name))
    manager.held[-1][0](*manager.held[-1][1:])
    assert launched() == [runs[3]]
    assert followed == ["_keep"]
    # Nor does one stay open for ever whose results cannot be kept.
    computed(runs[3])
    monkeypatch.setattr(manager, "_take_in", lambda *given: {}["no such thing"])
    manager.held[-1][0](*manager.held[-1][1:])
    assert runs[3] not in manager._active


def test_a_revision_whose_run_cannot_be_begun_is_owed_one(monkeypatch):
    manager, _ = driven(monkeypatch, slots=1)
    manager.away = True
    assert manager.submit(7, 1, 1, {}) is None
    assert (manager._owed, manager._active) == ({7}, {})
    manager.away = False
    assert manager._active[manager.submit(7, 1, 1, {})].launched
