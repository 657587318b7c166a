"""What the benchmark counts."""

from types import SimpleNamespace

from piastra.demo import bench


def test_what_a_stage_takes_is_counted_as_often_as_it_tells_of_itself(monkeypatch):
    clock = [0.0]
    monkeypatch.setattr(bench, "time", SimpleNamespace(process_time=lambda: clock[0]))

    def solved(floor, cache, progress, rigorous, told):
        for name, seconds in (("mesh", 2.0), ("long", 3.0), ("long", 5.0), ("checks", 1.0), ("long", 7.0), ("done", 0.0)):
            progress(name, 0.5)
            if name == "checks":
                told((), False)
            clock[0] += seconds
        return "outcome"

    monkeypatch.setattr(bench, "solve_floor", solved)
    outcome, cpu, (until, held) = bench._timed(None)
    assert (outcome, cpu, until) == ("outcome", {"mesh": 2.0, "long": 15.0, "checks": 1.0}, 10.0)
    assert held > 0
