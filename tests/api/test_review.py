"""Checking a floor: comments, checks that somebody answers for until something changes, and what changed between two revisions."""

from __future__ import annotations

import copy

import pytest
from sqlalchemy import delete

from piastra.store import repository as store
from piastra.store import review
from piastra.store.tables import ResultArray
from tests.floors import flat_slab


@pytest.fixture(scope="module")
def bay(server):
    with server.client() as client:
        made = client.post("/api/projects", json={"name": "Zeal review", "standard": "EN 1992-1-1"}).json()
        body = {"document": {**flat_slab(1, 1, size=1.0), "name": "Review"}}
        floor = client.post(f"/api/projects/{made['project']}/floors", json=body).json()["floor"]
    server.settled(floor)
    return floor


def changed(client, server, floor, line, change):
    state = client.get(f"/api/floors/{floor}").json()
    document = copy.deepcopy(state["document"])
    change(document)
    answer = client.put(f"/api/floors/{floor}", json={"based_on": state["revision"], "document": document, "line": line})
    assert answer.status_code == 200, answer.text
    server.settled(floor)
    return answer.json()["revision"]


def told(answer):
    return " ".join(f"{p['path']} {p['sentence']}" for p in answer.json()["problems"])


def of(client, floor):
    found = client.get(f"/api/floors/{floor}/review").json()
    return found["comments"], found["signatures"]


def test_comments_are_answered_settled_and_taken_away_by_those_who_made_them(server, bay):
    path = f"/api/floors/{bay}/comments"
    with server.client() as mara, server.client("Reviewing Ben") as ben:
        assert ben.post(path, json={"text": "Is the corner meant to be free?\nIt lifts.", "x": 1.5, "y": 2.25}).status_code == 204
        (first,), _ = of(mara, bay)
        assert (first["author"], first["x"], first["y"], first["mine"], first["settled_by"]) == (
            "Reviewing Ben",
            1.5,
            2.25,
            False,
            None,
        )
        assert mara.post(path, json={"text": "It is.", "answers": first["id"]}).status_code == 204
        answer = of(mara, bay)[0][1]
        assert (answer["answers"], answer["mine"]) == (first["id"], True)
        nested = ben.post(path, json={"text": "Thanks", "answers": answer["id"]})
        assert (nested.status_code, "not an answer" in told(nested)) == (422, True)
        for bad in ("", "a\u202eb", "a\x00b", "x" * 2001):
            assert ben.post(path, json={"text": bad}).status_code == 422, bad
        assert ben.post(path, json={"text": "x", "answers": 999999}).status_code == 404
        # Nobody takes away what somebody else said, nor what was answered.
        assert (mara.delete(f"{path}/{first['id']}").status_code, ben.delete(f"{path}/{first['id']}").status_code) == (422, 422)
        assert mara.put(f"{path}/{first['id']}", json={"settled": True}).status_code == 204
        assert of(ben, bay)[0][0]["settled_by"] == "Mara Lindqvist"
        assert mara.put(f"{path}/{first['id']}", json={"settled": False}).status_code == 204
        assert mara.delete(f"{path}/{answer['id']}").status_code == 204
        assert ben.delete(f"{path}/{first['id']}").status_code == 204
        assert of(ben, bay)[0] == []


def test_a_signature_falls_by_what_bears_on_the_floor_stays_by_what_does_not_and_comes_back_with_it(server, bay):
    path = f"/api/floors/{bay}/signatures"
    with server.client() as mara, server.client("Reviewing Ben") as ben:
        run = mara.get(f"/api/floors/{bay}").json()["fresh"]["id"]
        verdict = {v["check"]: v["status"] for v in mara.get(f"/api/runs/{run}/results").json()["verdict"]}

        def sign(check, note="", seen=None):
            return ben.post(path, json={"run": seen or run, "check": check, "note": note})

        passed = next(c for c, status in verdict.items() if status == "pass")
        other = next(c for c, status in verdict.items() if status != "pass")
        assert sign(passed).status_code == 204
        # Nobody signs results that he did not see.
        unseen = sign(passed, seen=run + 1)
        assert (unseen.status_code, "than those that you saw" in told(unseen)) == (422, True)
        bare = sign(other)
        assert (bare.status_code, "say why" in told(bare)) == (422, True)
        assert sign(other, "by hand, sheet 4").status_code == 204
        unknown = sign("weather")
        assert (unknown.status_code, passed in told(unknown)) == (422, True)
        # Signed once more, it is one signature.
        assert sign(passed, "seen").status_code == 204
        signed = {s["check"]: s for s in of(mara, bay)[1]}
        assert {c: (s["holds"], s["note"], s["author"]) for c, s in signed.items()} == {
            passed: (True, "seen", "Reviewing Ben"),
            other: (True, "by hand, sheet 4", "Reviewing Ben"),
        }
        # A name changes nothing that is computed.
        changed(mara, server, bay, "named", lambda d: d.update(name="Review, named"))
        assert all(s["holds"] for s in of(mara, bay)[1])
        number = changed(mara, server, bay, "thicker", lambda d: d["slabs"][0].update(thickness_m=0.31))
        signed = of(mara, bay)[1]
        assert [s["holds"] for s in signed] == [False, False]
        assert signed[0]["why"] == f"Mara Lindqvist changed the floor after it: thicker (revision {number})"
        assert mara.post(f"/api/floors/{bay}/undo", json={"based_on": number}).status_code == 200
        assert all(s["holds"] for s in of(mara, bay)[1])
        # One takes one's own back alone.
        assert mara.delete(f"{path}/{signed[0]['id']}").status_code == 404
        assert ben.delete(f"{path}/{signed[0]['id']}").status_code == 204
        assert len(of(mara, bay)[1]) == 1


def test_what_changed_between_two_revisions_is_told_of_the_floor_and_of_its_checks(server, bay):
    with server.client() as client:
        before = client.get(f"/api/floors/{bay}").json()["revision"]
        after = changed(client, server, bay, "more load", lambda d: d["loads"][0].update(q_kPa=d["loads"][0]["q_kPa"] + 2.0))
        found = client.get(f"/api/floors/{bay}/compared", params={"before": before, "after": after}).json()
        assert [(v["list"], v["path"]) for v in found["values"]] == [("loads", "q_kPa")]
        assert found["values"][0]["after"] - found["values"][0]["before"] == pytest.approx(2.0)
        assert found["whole"]
        # More load: no zone is less used, and none is listed that did not move.
        punching = [
            r for r in found["rows"] if r["check"] == "punching" and r["before"] and r["before"]["utilisation"] is not None
        ]
        assert punching
        assert all(r["after"]["utilisation"] >= r["before"]["utilisation"] + review.HAIR for r in punching)
        back = client.get(f"/api/floors/{bay}/compared", params={"before": after, "after": before}).json()
        assert {(r["check"], r["where"]) for r in back["rows"]} == {(r["check"], r["where"]) for r in found["rows"]}
        same = client.get(f"/api/floors/{bay}/compared", params={"before": after, "after": after}).json()
        assert (same["values"], same["rows"]) == ([], [])
        assert client.get(f"/api/floors/{bay}/compared", params={"before": 1, "after": 9999}).status_code == 404
        # Where the rows of one are gone, what is kept for good is compared, and not all rows with the worst ones.
        with server.person("Mara Lindqvist") as (session, _):
            old = review.run_of(session, store.revision(session, bay, before))
            session.execute(delete(ResultArray).where(ResultArray.run_id == old.id, ResultArray.kind == "results"))
        fewer = client.get(f"/api/floors/{bay}/compared", params={"before": before, "after": after}).json()
        assert not fewer["whole"]
        assert fewer["rows"]
        assert all(r["before"] and r["after"] for r in fewer["rows"])
        assert len({r["check"] for r in fewer["rows"]}) == len(fewer["rows"])


def row(where, utilisation, status="pass", check="flexure"):
    return {"key": where, "check": check, "where": where, "utilisation": utilisation, "combination": "U", "status": status}


def test_rows_that_changed_their_status_stand_first_then_those_that_came_or_went_then_the_farthest_moved():
    before = [row("a", 0.9), row("b", 0.5), row("c", 0.2), row("d", 0.7), row("gone", 0.1), row("hair", 0.5)]
    after = [
        row("a", 1.1, "fail"),
        row("b", 0.6),
        row("c", 0.5),
        row("d", 0.7),
        row("new", None, "unchecked"),
        row("hair", 0.5004),
    ]
    assert [(m.where, m.before is None, m.after is None) for m in review.moved(before, after)] == [
        ("a", False, False), ("gone", False, True), ("new", True, False), ("c", False, False), ("b", False, False),
    ]  # fmt: skip
