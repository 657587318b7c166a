"""Who comes in, and what he may: every operation for every role, for strangers and for nobody."""

from __future__ import annotations

import asyncio
import json
import re
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta

import httpx
import pytest
import structlog
from sqlalchemy import select, update

from piastra import logs
from piastra.api import door, watch
from piastra.api.app import create_app
from piastra.api.door import RIGHTS, Right
from piastra.core.model import RefusedError
from piastra.store import entry, people
from piastra.store.database import connect, sessions
from piastra.store.people import ROLES
from piastra.store.tables import Attempts, Invitation, Project, SignIn, Token, now
from tests.floors import one_bay

PASSWORD = "eleven lanterns over the yard"


def operations() -> list[tuple[str, str, str]]:
    """Method, path and name of all that the application offers."""
    paths = create_app().openapi()["paths"]
    return [(method.upper(), path, told["operationId"]) for path, of in paths.items() for method, told in of.items()]


OPERATIONS = operations()


@pytest.fixture(scope="module")
def account(server):
    """Makes somebody with a password, in no project."""
    engine = connect(server.database.url)
    made = sessions(engine)

    def somebody(name, **more):
        with made.begin() as session:
            user = people.made_account(session, name, f"{name.lower().replace(' ', '.')}@door.example", PASSWORD)
            for key, value in more.items():
                setattr(user, key, value)
        return user

    somebody.sessions = made
    yield somebody
    engine.dispose()


def browser(server, email=None, password=PASSWORD):
    """A browser, in which somebody signs in."""
    headers, cookies = {}, {}
    if email is not None:
        signing = {"email": email, "password": password}
        came = httpx.post(f"{server.address}/api/sign-in", json=signing, timeout=30).raise_for_status()
        headers, cookies = {"x-piastra-guard": came.json()["guard"]}, came.cookies
    return httpx.Client(base_url=server.address, timeout=30, headers=headers, cookies=cookies)


def told(answer):
    return " ".join(f"{p['path']} {p['sentence']}" for p in answer.json()["problems"])


@pytest.fixture(scope="module")
def yard(server, account):
    """A project of one floor with a run, and a person of each role, with a token; also a stranger, and one whose token reads."""
    with server.client() as client:
        made = client.post("/api/projects", json={"name": "Zeal door", "standard": "EN 1992-1-1"}).json()
        body = {"document": {**one_bay(), "name": "Door"}}
        floor = client.post(f"/api/projects/{made['project']}/floors", json=body).json()["floor"]
        run = server.settled(floor)["fresh"]["id"]
    secrets = {}
    with account.sessions.begin() as session:
        for role in ROLES:
            user = people.made_account(session, f"Door {role}", f"{role}@door.example", PASSWORD)
            people.give_role(session, made["project"], user.id, role)
            secrets[role] = entry.make_token(session, user.id, "t", 1, reads_only=False)[1]
            if role == "owner":
                secrets["owner, reading"] = entry.make_token(session, user.id, "t", 1, reads_only=True)[1]
        stranger = people.made_account(session, "Door stranger", "stranger@door.example", PASSWORD)
        secrets["stranger"] = entry.make_token(session, stranger.id, "t", 1, reads_only=False)[1]
    return {"project_id": made["project"], "floor_id": floor, "run_id": run, "secrets": secrets}


def address(path, yard):
    numbers = {k: str(v) for k, v in yard.items() if k != "secrets"}
    return re.sub(r"\{(\w+)\}", lambda m: numbers.get(m[1], {"kind": "csv"}.get(m[1], "999999")), path)


def passes(right, who):
    """Whether somebody gets past the door; beyond it an empty request is refused in one way or another."""
    if who == "nobody":
        return right is Right.ANYBODY
    if right in (Right.ANYBODY, Right.PERSON, Right.ADMINISTER, Right.BEGIN):
        return right in (Right.ANYBODY, Right.PERSON)
    if who == "stranger":
        return False
    role = "owner" if who.startswith("owner") else who
    least = {Right.READ: "reader", Right.CHECK: "checker", Right.DESIGN: "designer", Right.OWN: "owner"}[right]
    return ROLES.index(role) >= ROLES.index(least)


@pytest.mark.parametrize("who", ["nobody", "stranger", *ROLES, "owner, reading"])
def test_every_operation_is_open_to_those_who_have_its_right_and_to_nobody_else(server, yard, who):
    headers = {} if who == "nobody" else {"Authorization": f"Bearer {yard['secrets'][who]}"}
    wrong = []
    with httpx.Client(base_url=server.address, timeout=60, headers=headers) as client:
        for method, path, name in OPERATIONS:
            right = RIGHTS[name]
            if name in (
                "events",
                "project_events",
                "sign_out",
                "sign_in_demo",
                "begin_factor",
                "compute_history",
                "cancel",
            ) and passes(right, who):
                # These would do something, or go on for ever.
                continue
            # A body that no operation takes: what gets past the door fails at it, and changes nothing.
            answer = client.request(method, address(path, yard), content=b"[", headers={"content-type": "application/json"})
            let_in = answer.status_code not in (401, 403, 404) or (
                # Beyond the door something else may be missing, or a session asked for.
                answer.status_code in (401, 403, 404)
                and not re.search(
                    "signed in|are .* in this project|not yours to see|no administrator|may not begin|one for reading",
                    told(answer),
                )
            )
            expected = passes(right, who)
            if who == "owner, reading":
                expected = expected and (method == "GET" or right in (Right.READ, Right.ANYBODY))
            if let_in != expected or answer.status_code >= 500:
                wrong.append((method, path, answer.status_code, answer.text[:120]))
    assert wrong == []


def test_each_operation_has_a_right_and_each_right_an_operation():
    assert {name for _, _, name in OPERATIONS} == set(RIGHTS)
    # By hand, as a mistaken entry would pass the test above: what is for everybody, and what takes more than a designer.
    by_right = {right: {name for name, of in RIGHTS.items() if of is right} for right in Right}
    assert by_right[Right.ANYBODY] == {"health", "ready", "me", "sign_in", "sign_in_demo", "look_at_invitation", "join"}
    assert by_right[Right.OWN] == {
        "keep_project",
        "give_role",
        "take_role",
        "project_links",
        "project_link",
        "take_back_project_link",
    }
    links = {"practice_links", "practice_link", "take_back_practice_link"}
    assert by_right[Right.ADMINISTER] == {
        "everybody",
        "change_person",
        "new_password_link",
        "take_off_factor_of",
        "metrics",
        *links,
    }
    assert (by_right[Right.BEGIN], by_right[Right.CHECK]) == (
        {"begin", "from_file", "from_model"},
        {"compute_history", "say", "settle", "unsay", "sign", "unsign"},
    )
    # What changes a project takes more than reading; of what is read by POST, each is named here.
    reads = {
        "section",
        "slice_",
        "places",
        "preview",
        "recognised",
        "combination_set",
        "read_combinations",
        "read_joint_loads",
        "read_lateral",
        "read_variants",
    }
    for method, path, name in OPERATIONS:
        if method != "GET" and RIGHTS[name] is Right.READ:
            assert name in reads, name
        if "{project_id}" in path or "{floor_id}" in path or "{run_id}" in path:
            assert RIGHTS[name] in (Right.READ, Right.CHECK, Right.DESIGN, Right.OWN), name


def test_what_is_not_ones_own_is_not_told_from_what_is_not_there(server, yard):
    stranger = httpx.Client(base_url=server.address, headers={"Authorization": f"Bearer {yard['secrets']['stranger']}"})
    with stranger as client:
        assert client.get("/api/projects").json() == []
        for path, number in (("projects", "project_id"), ("floors", "floor_id")):
            theirs, none = client.get(f"/api/{path}/{yard[number]}"), client.get(f"/api/{path}/99999999")
            assert theirs.status_code == none.status_code == 404
            assert theirs.text.replace(str(yard[number]), "N") == none.text.replace("99999999", "N")
        theirs, none = client.get(f"/api/runs/{yard['run_id']}/results"), client.get("/api/runs/99999999/results")
        assert theirs.text.replace(str(yard["run_id"]), "N") == none.text.replace("99999999", "N")
        # Ways to write a number that are read in more than one way are none.
        for number in (
            f"+{yard['floor_id']}",
            f"%20{yard['floor_id']}",
            f"{yard['floor_id']}.0",
            f"0_{yard['floor_id']}",
            f"{yard['floor_id']}%00",
            "-1",
            "٣",
        ):
            assert client.get(f"/api/floors/{number}").status_code == 404
    # By bodies, too: a floor of another project is as little there as none.
    with server.client() as client:
        mine = client.post("/api/projects", json={"name": "Zeal door, other", "standard": "EN 1992-1-1"}).json()
    with httpx.Client(base_url=server.address, headers={"Authorization": f"Bearer {yard['secrets']['owner']}"}) as client:
        for number in (mine["floor"], 99999999):
            for path, body in (
                (f"/api/projects/{yard['project_id']}/floors", {"copy_of": number}),
                (f"/api/projects/{yard['project_id']}/floors", {"twin_of": number}),
                (f"/api/floors/{yard['floor_id']}/copy", {"floors": [number], "kinds": ["slabs"]}),
                (
                    f"/api/projects/{yard['project_id']}/replace",
                    {"kind": "concretes", "old": "C30", "new": "C35", "floors": [number]},
                ),
            ):
                answer = client.post(path, json=body)
                assert answer.status_code in (404, 422), answer.text
                assert "door, other" not in answer.text
                assert answer.status_code != 404 or "no floor" in answer.text
        # A name that others use is free here: that it is taken elsewhere is not told.
        with server.client() as other:
            other.post("/api/projects", json={"name": "Zeal secret tower", "standard": "EN 1992-1-1"})
        answer = client.post("/api/projects", json={"name": "Zeal secret tower", "standard": "EN 1992-1-1"})
        assert (answer.status_code, "may not begin" in answer.text) == (403, True)


def test_an_account_comes_by_a_link_which_works_once_and_its_password_is_no_guess(server, yard, account):
    with server.client() as owner:
        made = owner.post(f"/api/projects/{yard['project_id']}/links", json={"role": "designer", "note": "for Ines"}).json()
        links = owner.get(f"/api/projects/{yard['project_id']}/links")
        assert ("for Ines" in links.text, made["secret"] in links.text) == (True, False)
    with browser(server) as client:
        link = {"secret": made["secret"]}
        look = client.post("/api/invitations/look", json=link).json()
        assert (look["project"], look["role"]) == ("Zeal door", "designer")
        joining = {**link, "name": "Ines Kaya", "email": "Ines@Door.example"}
        for bad, why in (
            ("short", "12"),
            ("passwordpassword", "guessed"),
            ("aaaaaaaaaaaaaa", "guessed"),
            ("inesinesines", "guessed"),
            ("x" * 129, ""),
        ):
            answer = client.post("/api/invitations/accept", json={**joining, "password": bad})
            assert (answer.status_code, why in answer.text) == (422, True), bad
        taken = client.post("/api/invitations/accept", json={**joining, "name": "Door owner", "password": PASSWORD})
        assert (taken.status_code, "name is that of somebody" in told(taken)) == (422, True)
        came = client.post("/api/invitations/accept", json={**joining, "password": PASSWORD})
        assert came.json()["person"]["roles"] == {str(yard["project_id"]): "designer"}
        assert re.search(r"HttpOnly; SameSite=Strict", came.headers["set-cookie"])
        assert client.get(f"/api/floors/{yard['floor_id']}").status_code == 200
        assert client.post("/api/invitations/look", json=link).status_code == 404
        assert (
            client.post(
                "/api/invitations/accept", json={**joining, "name": "X", "email": "x@x.x", "password": PASSWORD}
            ).status_code
            == 404
        )
        # A change is hers in the history, whatever the body says.
        state = client.get(f"/api/floors/{yard['floor_id']}").json()
        client.headers["x-piastra-guard"] = came.json()["guard"]
        body = {
            "based_on": state["revision"],
            "document": {**state["document"], "name": "Door 2"},
            "line": "named",
            "author": "Door owner",
        }
        assert client.put(f"/api/floors/{yard['floor_id']}", json=body).status_code == 200
        assert client.get(f"/api/floors/{yard['floor_id']}").json()["author"] == "Ines Kaya"
    with account.sessions() as session:
        kept = people.by_email(session, "ines@door.example").password
        assert kept.startswith("keyed:$argon2id$")
        assert not [t for t in session.query(Invitation.digest).all() if made["secret"] in t]
    # Taken out, she does not see it any more; taken back, a link lets nobody in; the last owner stays.
    with server.client() as owner:
        ines = next(p["id"] for p in owner.get(f"/api/projects/{yard['project_id']}/people").json() if p["name"] == "Ines Kaya")
        assert owner.delete(f"/api/projects/{yard['project_id']}/people/{ines}").status_code == 204
        with browser(server, "ines@door.example") as client:
            assert client.get(f"/api/floors/{yard['floor_id']}").status_code == 404
        again = owner.post(f"/api/projects/{yard['project_id']}/links", json={"role": "reader"}).json()
        path = f"/api/projects/{yard['project_id']}/links/{again['link']['id']}"
        with browser(server, "stranger@door.example") as client:
            assert client.delete(path).status_code == 404
        assert owner.delete(path).status_code == 204
        assert owner.post("/api/invitations/look", json={"secret": again["secret"]}).status_code == 404
    with account.sessions() as session:
        first, *others = [u.id for u, role in people.members(session, yard["project_id"]) if role == "owner"]
        for other in others:
            people.take_role(session, yard["project_id"], other)
        for leave in (
            lambda: people.take_role(session, yard["project_id"], first),
            lambda: people.give_role(session, yard["project_id"], first, "reader"),
        ):
            with pytest.raises(RefusedError, match="only owner"):
                leave()
        session.rollback()


def test_changes_from_other_sites_and_without_the_guard_are_refused(server, yard):
    with browser(server, "owner@door.example") as client:
        path, guard = f"/api/projects/{yard['project_id']}/order", client.headers["x-piastra-guard"]
        body = {"floors": [yard["floor_id"]]}
        assert client.put(path, json=body).status_code == 204
        for headers in (
            {"x-piastra-guard": ""},
            {"x-piastra-guard": "é".encode("latin-1")},
            {"x-piastra-guard": guard[:-1] + "!"},
            {"origin": "http://elsewhere.example"},
            {"origin": "null"},
        ):
            assert client.put(path, json=body, headers=headers).status_code == 403, headers
        assert client.put(path, json=body, headers={"origin": server.address}).status_code == 204
        # A sign-in from another site's page is none, either.
        for where in ("/api/sign-in/demo", "/api/sign-in", "/api/invitations/accept"):
            assert client.post(where, json={}, headers={"origin": "http://elsewhere.example"}).status_code == 403


def test_wrong_passwords_wait_longer_each_time_whether_the_person_is_known_or_not(server, account):
    account("Door guessed")
    people = ("door.guessed@door.example", "nobody@door.example")
    with browser(server) as client:
        for email in people:
            answers = [
                client.post("/api/sign-in", json={"email": email, "password": f"wrong {k}"})
                for k in range(entry.FREE_ATTEMPTS + 1)
            ]
            assert [a.status_code for a in answers] == [401] * (entry.FREE_ATTEMPTS + 1)
        with account.sessions.begin() as session:
            for email in people:
                held = session.scalars(select(Attempts).where(Attempts.mark == entry.digest(f"person {email}"))).one()
                assert 1.9 < (held.wait_until - held.last).total_seconds() < 4
                # Longer, so that a slow machine does not sit it out before it has asked.
                held.wait_until = now() + timedelta(seconds=100)
        for email in people:
            answer = client.post("/api/sign-in", json={"email": email, "password": "wrong again"})
            assert answer.status_code == 429
            assert int(answer.headers["retry-after"]) <= 100
        # While it waits the right one is refused as well.
        right = {"email": "door.guessed@door.example", "password": PASSWORD}
        assert client.post("/api/sign-in", json=right).status_code == 429
        with account.sessions.begin() as session:
            session.execute(update(Attempts).values(wait_until=now() - timedelta(seconds=1)))
        assert client.post("/api/sign-in", json=right).status_code == 200
        # Who gets in makes an end of the counting, for his address too: a practice behind one is not shut out by its own slips.
        with account.sessions() as session:
            counted = session.scalars(select(Attempts.mark)).all()
        assert entry.digest("person nobody@door.example") in counted
        assert not {entry.digest("person door.guessed@door.example"), entry.digest("address 127.0.0.1")} & set(counted)
    assert [entry.wait_after(entry.FREE_ATTEMPTS + k) for k in (0, 1, 2, 3, 30)] == [0, 2, 4, 8, entry.LONGEST_WAIT]


def aged(account, user, **columns):
    with account.sessions.begin() as session:
        session.execute(update(SignIn).where(SignIn.user_id == user.id).values(**columns))


def test_a_sign_in_is_turned_ends_in_time_and_is_ended_when_an_old_secret_comes_back(server, account):
    user = account("Door turned")
    with browser(server, user.email) as client:
        first = client.cookies["piastra"]
        assert "set-cookie" not in client.get("/api/tokens").headers
        aged(account, user, turned=now() - entry.TURN - timedelta(seconds=1))
        assert client.get("/api/tokens").status_code == 200
        second = client.cookies["piastra"]
        assert second != first
        # A request that was on its way still gets through; later, the old secret is a copy, and ends all.
        asked = httpx.get(f"{server.address}/api/tokens", headers={"Cookie": f"piastra={first}"}, timeout=30)
        assert (asked.status_code, "set-cookie" in asked.headers) == (200, False)
        aged(account, user, turned=now() - entry.OVERLAP - timedelta(seconds=1))
        assert httpx.get(f"{server.address}/api/tokens", headers={"Cookie": f"piastra={first}"}, timeout=30).status_code == 401
        assert client.get("/api/tokens").status_code == 401
    for over in ({"made": now() - entry.LIFETIME - timedelta(seconds=1)}, {"seen": now() - entry.IDLE - timedelta(seconds=1)}):
        with browser(server, user.email) as client:
            aged(account, user, **over)
            assert client.get("/api/tokens").status_code == 401
    # A page that only listens keeps nobody signed in.
    with browser(server, user.email) as client, account.sessions() as session:
        long_ago = now() - 1.5 * entry.TURN
        aged(account, user, seen=long_ago, turned=long_ago)
        assert entry.by_cookie(session, client.cookies["piastra"], active=False).turned is None
        assert session.scalar(select(SignIn.seen).where(SignIn.user_id == user.id)) < now() - entry.TURN
    # Out here, everywhere, by a new password, and by being kept out.
    with browser(server, user.email) as here, browser(server, user.email) as there:
        assert here.post("/api/sign-out", json={}).status_code == 204
        assert [c.get("/api/tokens").status_code for c in (here, there)] == [401, 200]
    with browser(server, user.email) as here, browser(server, user.email) as there:
        new = {"old": PASSWORD, "new": PASSWORD + "!"}
        assert here.put("/api/me/password", json={**new, "old": "not this one"}).status_code == 422
        assert here.put("/api/me/password", json=new).status_code == 204
        assert [c.get("/api/tokens").status_code for c in (here, there)] == [200, 401]
        secret = here.post("/api/tokens", json={"name": "script", "days": 1, "reads_only": False}).json()["secret"]
        script = httpx.Client(base_url=server.address, headers={"Authorization": f"Bearer {secret}"})
        assert script.get("/api/tokens").status_code == 200
        assert script.post("/api/tokens", json={"name": "more", "days": 1}).status_code == 403
        with server.client() as administrator:
            assert administrator.put(f"/api/people/{user.id}", json={"barred": True}).status_code == 204
            assert [c.get("/api/tokens").status_code for c in (here, script)] == [401, 401]
            assert browser(server).post("/api/sign-in", json={"email": user.email, "password": new["new"]}).status_code == 401
            administrator.put(f"/api/people/{user.id}", json={"barred": False})
            link = administrator.post(f"/api/people/{user.id}/password-link").json()["secret"]
            body = {"secret": link, "password": PASSWORD + "?"}
            assert browser(server).post("/api/invitations/accept", json=body).status_code == 200
            assert browser(server).post("/api/invitations/accept", json=body).status_code == 404
            mara = next(p for p in administrator.get("/api/people").json() if p["email"] == "mara@saltmarsh.example")
            for change in ({"barred": True}, {"administrator": False}):
                answer = administrator.put(f"/api/people/{mara['id']}", json=change)
                assert (answer.status_code, "only administrator" in answer.text) == (422, True)


def test_tokens_and_links_end_by_their_day(server, account):
    user = account("Door dated")
    with browser(server, user.email) as client, server.client() as administrator:
        made = [client.post("/api/tokens", json={"name": f"{days} days", "days": days}).json() for days in (1, 30)]
        secret = administrator.post(f"/api/people/{user.id}/password-link").json()["secret"]
        scripts = [httpx.Client(base_url=server.address, headers={"Authorization": f"Bearer {m['secret']}"}) for m in made]
        with account.sessions() as session:
            tokens = [session.get_one(Token, m["token"]["id"]) for m in made]
            link = session.scalars(select(Invitation).where(Invitation.user_id == user.id)).one()
            assert [t.expires - t.made for t in tokens] == pytest.approx([timedelta(1), timedelta(30)], abs=timedelta(seconds=5))
            assert link.expires - link.made == pytest.approx(timedelta(7), abs=timedelta(seconds=5))
        assert [s.get("/api/tokens").status_code for s in scripts] == [200, 200]
        past = now() - timedelta(seconds=1)
        with account.sessions.begin() as session:
            session.execute(update(Token).where(Token.id == made[0]["token"]["id"]).values(expires=past))
            session.execute(update(Invitation).where(Invitation.id == link.id).values(expires=past))
        assert [s.get("/api/tokens").status_code for s in scripts] == [401, 200]
        answer = browser(server).post("/api/invitations/accept", json={"secret": secret, "password": PASSWORD + "?"})
        assert answer.status_code == 404
        assert browser(server).post("/api/sign-in", json={"email": user.email, "password": PASSWORD}).status_code == 200


def test_outside_the_demo_cookies_are_for_encrypted_connections_and_nobody_is_let_in_unasked(monkeypatch):
    monkeypatch.delenv(door.DEMO, raising=False)
    assert door.cookie("s").startswith("__Host-piastra=s; Path=/; ")
    assert door.cookie("s").endswith("HttpOnly; SameSite=Strict; Secure")
    monkeypatch.setenv(door.DEMO, "1")
    assert door.demo()
    # What other machines reach is no demo.
    monkeypatch.setenv("PIASTRA_HOSTS", "floors.practice.example")
    assert not door.demo()
    assert door.cookie("").startswith("__Host-piastra=; Path=/; Max-Age=0")


def test_the_first_administrator_takes_over_what_nobody_owns(account):
    with account.sessions() as session:
        project = Project(name="Zeal left over")
        session.add(project)
        session.flush()
        user = people.made_account(session, "Door first", "first@door.example", PASSWORD)
        invitation, secret = people.invite(session, "administrator", None)
        people.accept(session, people.open_invitation(session, secret, lock=True), user)
        assert people.role_of(session, user.id, project.id) == "owner"
        assert (user.administrator, user.begins, invitation.used is not None) == (True, True, True)
        session.rollback()


def test_requests_are_counted_and_noted_without_what_they_hold(server, yard):
    with server.client() as client:
        answer = client.get("/api/projects", headers={"X-Request-Id": "from-a-proxy-7"})
        assert answer.headers["x-request-id"] == "from-a-proxy-7"
        # One that would write lines of its own into the log gets another.
        assert re.fullmatch("[0-9a-f]{16}", client.get("/api/projects", headers={"X-Request-Id": "a b"}).headers["x-request-id"])
        before, after = {}, {}
        for counts in (before, after):
            shown = client.get("/api/metrics").text
            found = re.findall(r'piastra_requests_total\{operation="(\w+)",status="(\d+)"\} ([\d.]+)', shown)
            counts.update({(operation, status): float(count) for operation, status, count in found})
            client.get(f"/api/floors/{yard['floor_id']}")
            client.get("/api/floors/99999999")
        assert after["floor", "200"] - before.get(("floor", "200"), 0) == 1
        assert after["floor", "404"] - before.get(("floor", "404"), 0) == 1
        assert re.search(r"^piastra_workers 1.0$", shown, re.M)
        assert re.search(r'^piastra_runs\{state="fresh"\} [1-9]', shown, re.M)
    with httpx.Client(base_url=server.address, headers={"Authorization": f"Bearer {yard['secrets']['owner']}"}) as client:
        assert client.get("/api/metrics").status_code == 403


def test_a_log_line_tells_who_looked_at_what(capsys):
    async def app(scope, receive, send):
        scope.setdefault("state", {}).update(
            operation="floor", numbers={"floor_id": 7}, person=door.Person(3, "Ada", "a@b.c", False, False)
        )
        await send({"type": "http.response.start", "status": 200, "headers": []})

    async def drop(message):
        pass

    logs.configure(as_json=True)
    try:
        scope = {"type": "http", "method": "GET", "path": "/api/floors/7", "headers": []}
        # In a thread of its own: tests of the browser leave a loop in the first one.
        with ThreadPoolExecutor(1) as beside:
            beside.submit(asyncio.run, watch.Watch(app)(scope, None, drop)).result()
        line = json.loads(capsys.readouterr().err)
    finally:
        structlog.reset_defaults()
    assert (line["person"], line["of"], line["operation"], line["status"]) == (3, {"floor_id": 7}, "floor", 200)
    assert "Ada" not in json.dumps(line)


def test_a_log_line_tells_who_asked_for_what_and_nothing_of_what_was_sent(capsys):
    logs.configure(as_json=True)
    try:
        error = ValueError("Zeal secret tower")
        try:
            raise error
        except ValueError:
            structlog.get_logger().error("request.failed", error=watch.where(error))
        line = json.loads(capsys.readouterr().err)
    finally:
        structlog.reset_defaults()
    assert (line["event"], line["level"]) == ("request.failed", "error")
    assert re.fullmatch(r"ValueError at .*test_door\.py:\d+", line["error"])
