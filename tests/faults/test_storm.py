"""A short storm: server, worker and database are killed while floors are edited. ``python -m tests.faults.storm`` raises a long one."""

from tests.faults.storm import House, held, raise_storm


def test_edits_survive_what_is_killed_meanwhile(tmp_path):
    with House(tmp_path, projects=False) as house:
        storm = raise_storm(house, edits=12, seed=3, floors=2, every=4)
        assert all(storm.kills[kind] for kind in ("server", "worker", "database"))
        assert held(house, storm) == []
