"""Questions that workers answer behind runs, without a cluster."""

import threading
from types import SimpleNamespace

import pytest
from distributed import KilledWorker

from piastra.jobs import asking
from piastra.jobs.asking import AT_ONCE, Asking

SHOWN = {"row": {}, "bars": []}


class Cluster:
    """Stands for the cluster: gives the next of ``answers``, or raises it."""

    def __init__(self, *answers):
        self.answers, self.asked, self.priority = list(answers), [], []

    def submit(self, _, *arguments, key, priority, **more):
        self.asked.append(arguments)
        self.priority.append(priority)

        def result(timeout):
            found = self.answers.pop(0)
            if callable(found):
                return found()
            if isinstance(found, Exception):
                raise found
            return found

        return SimpleNamespace(result=result, release=lambda: None)


@pytest.fixture
def flags(monkeypatch):
    found = []
    monkeypatch.setattr(asking, "Event", lambda name, client: SimpleNamespace(set=lambda: found.append(name)))
    return found


def test_a_question_that_made_room_for_a_run_is_put_again(flags):
    cluster = Cluster(None, None, SHOWN)
    assert Asking(cluster).section({"name": "Bay"}, "x1", 1.5, "top") == SHOWN
    assert [a[1:] for a in cluster.asked] == [({"name": "Bay"}, "x1", 1.5, "top")] * 3
    # Each by its own flag, and all behind runs.
    assert len({a[0] for a in cluster.asked}) == 3
    assert max(cluster.priority) < 0


@pytest.mark.parametrize("error", [TimeoutError(), KilledWorker("k", SimpleNamespace(address="x"), 1)])
def test_what_is_not_answered_is_let_go(flags, error):
    cluster = Cluster(error)
    assert Asking(cluster).section({}, "x1", 1.5, "top") is None
    assert len(flags) == 1
    assert flags[0].endswith(cluster.asked[0][0])


def test_no_more_questions_wait_than_workers_will_soon_answer_and_runs_come_before_all(flags):
    go, waiting = threading.Event(), threading.Semaphore(0)

    def held():
        waiting.release()
        go.wait(30)
        return SHOWN

    made = Asking(Cluster(*[held] * AT_ONCE))
    answers = []
    threads = [threading.Thread(target=lambda: answers.append(made.section({}, "x1", 1.5, "top"))) for _ in range(AT_ONCE)]
    for t in threads:
        t.start()
        waiting.acquire(timeout=30)
    assert made.section({}, "x1", 1.5, "top") is None
    made.make_room()
    assert len(flags) == AT_ONCE
    go.set()
    for t in threads:
        t.join(30)
    assert answers == [SHOWN] * AT_ONCE
    made.make_room()
    assert len(flags) == AT_ONCE
