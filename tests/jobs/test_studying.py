"""What becomes of a variant whose worker is gone, without a cluster."""

from types import SimpleNamespace

import pytest
from distributed import KilledWorker

from piastra.jobs import studying
from piastra.jobs.studying import Studies, _Flight
from piastra.store.studies import Waiting


def future(status, error=None, result=None):
    return SimpleNamespace(status=status, exception=lambda: error, result=lambda: result, add_done_callback=lambda f: None)


@pytest.fixture
def studies(monkeypatch):
    class Here:
        def __enter__(self):
            return self

        def __exit__(self, *_):
            return None

    made = Studies(None, None, lambda: 0, lambda: 1)
    made._sessions = SimpleNamespace(begin=Here)
    made.kept = []
    monkeypatch.setattr(studying.store, "keep", lambda session, variant, found: made.kept.append((variant, found)))
    return made


def lands(studies, ended, gone=False):
    studies._flights[7] = _Flight(Waiting(7, {"name": "Bay"}, {"a": 1.0}, False), ended, "k", gone)
    studies._take(7, ended)
    assert 7 not in studies._flights


def test_one_killed_worker_costs_nothing_and_the_second_is_told(studies):
    killed = KilledWorker("k", SimpleNamespace(address="x"), 1)
    lands(studies, future("error", killed))
    # Cancelled by the cluster, or asked to make room: neither counts.
    lands(studies, future("cancelled"))
    lands(studies, future("error", killed), gone=True)
    lands(studies, future("finished", result=None))
    assert studies.kept == []
    lands(studies, future("error", killed))
    ((variant, found),) = studies.kept
    assert (variant, found["verdict"], "killed twice" in found["told"]) == (7, "lost", True)


def test_what_broke_says_so_and_what_was_found_is_kept(studies):
    lands(studies, future("error", ZeroDivisionError()))
    lands(studies, future("finished", result={"verdict": "pass"}))
    assert [f["verdict"] for _, f in studies.kept] == ["lost", "pass"]
    assert studies.kept[0][1]["told"] == "its computation broke: ZeroDivisionError"


def test_a_variant_of_before_changes_nothing(studies):
    studies._flights[7] = _Flight(Waiting(7, {}, {}, False), future("running"), "k")
    studies._take(7, future("finished", result={"verdict": "pass"}))
    assert (studies.kept, list(studies._flights)) == ([], [7])
