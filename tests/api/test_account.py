"""One's own account: the second factor, browsers that are signed in, what happened, what is kept, and leaving."""

from __future__ import annotations

import json
import re
import time
from datetime import timedelta

import pyotp
import pytest
from sqlalchemy import select, update

from piastra.api import door
from piastra.api.door import Person, Right, _may, _TurnedAwayError
from piastra.core.model import RefusedError
from piastra.store import entry, factor, people, sealed
from piastra.store.tables import Attempts, SignIn, User, now
from tests.api.test_door import PASSWORD, browser, told
from tests.api.test_door import account as account

SIGN_IN = "/api/sign-in"


def of(account, user):
    with account.sessions() as session:
        return session.get_one(User, user.id)


def set_up(client):
    """A second factor; its authenticator, and the spare codes."""
    begun = client.post("/api/me/second-factor").raise_for_status().json()
    authenticator = pyotp.TOTP(begun["key"])
    answer = client.put("/api/me/second-factor", json={"sealed": begun["sealed"], "number": authenticator.now()})
    return authenticator, answer.raise_for_status().json()["codes"]


def test_a_second_factor_is_asked_for_each_number_is_good_once_and_a_spare_code_too(server, account):
    user = account("Account factor")
    with browser(server, user.email) as there, browser(server, user.email) as client:
        assert client.get("/api/me/second-factor").json() == {"on": False, "spare": 0, "possible": True}
        begun = client.post("/api/me/second-factor").json()
        assert re.search(r"<svg[^>]+>.*<path", begun["picture"])
        wrong = client.put("/api/me/second-factor", json={"sealed": begun["sealed"], "number": "000000"})
        # A million to one that it is the right one.
        assert (wrong.status_code, "not the one of now" in told(wrong)) == (422, True)
        assert client.get("/api/me/second-factor").json()["on"] is False
        # What was begun by somebody else is no key of hers.
        stranger = account("Account other")
        with browser(server, stranger.email) as other:
            number = pyotp.TOTP(begun["key"]).now()
            assert other.put("/api/me/second-factor", json={"sealed": begun["sealed"], "number": number}).status_code == 422
        authenticator, spare = set_up(client)
        assert len(set(spare)) == factor.SPARE
        # Other browsers are out.
        assert [c.get("/api/tokens").status_code for c in (client, there)] == [200, 401]
        kept = of(account, user)
        assert authenticator.secret not in kept.factor
        assert not any(code in kept.spare for code in spare)
    given = {"email": user.email, "password": PASSWORD}
    with browser(server) as client:
        asked = client.post(SIGN_IN, json=given)
        assert (asked.status_code, asked.json()["problems"][0]["path"]) == (401, "the number")
        # That of the period which confirmed it is used up; so is each that lets somebody in.
        used = client.post(SIGN_IN, json={**given, "number": authenticator.now()})
        with account.sessions.begin() as session:
            session.execute(update(User).where(User.id == user.id).values(factor_step=int(time.time()) // factor.PERIOD - 5))
        fresh = authenticator.now()
        answers = [client.post(SIGN_IN, json={**given, "number": fresh[:3] + " " + fresh[3:]}) for _ in range(2)]
        assert [a.status_code for a in (used, *answers)] == [401, 200, 401]
        # An older one than a neighbour of now is none.
        with account.sessions.begin() as session:
            session.execute(update(User).where(User.id == user.id).values(factor_step=0))
        late = authenticator.at(time.time() - 2.1 * factor.PERIOD)
        assert client.post(SIGN_IN, json={**given, "number": late}).status_code == 401
        assert [client.post(SIGN_IN, json={**given, "number": spare[0].upper()}).status_code for _ in range(2)] == [200, 401]
        assert any("wrong or used number" in n.what for n in noted(account, user))
        # Guessing numbers waits as guessing passwords does.
        answers = [client.post(SIGN_IN, json={**given, "number": "123456"}).status_code for _ in range(entry.FREE_ATTEMPTS + 1)]
        assert answers[-1] == 429
        with account.sessions.begin() as session:
            session.execute(update(Attempts).values(wait_until=now() - timedelta(seconds=1)))


def noted(account, user):
    with account.sessions() as session:
        return entry.notices(session, user.id)


def test_what_takes_the_password_takes_the_number_too_and_an_administrator_helps_who_lost_all(server, account):
    user = account("Account lost")
    with browser(server, user.email) as client, server.client() as administrator:
        spare = set_up(client)[1]
        for method, path, body in (
            ("PUT", "/api/me/password", {"old": PASSWORD, "new": PASSWORD + "!"}),
            ("POST", "/api/me/second-factor/off", {"password": PASSWORD}),
            ("POST", "/api/me/leave", {"password": PASSWORD}),
        ):
            answer = client.request(method, path, json=body)
            assert (answer.status_code, "second factor is missing" in told(answer)) == (422, True), path
        assert (
            client.put("/api/me/password", json={"old": PASSWORD, "new": PASSWORD + "!", "number": spare[0]}).status_code == 204
        )
        # A link for a new password is no way around it.
        link = administrator.post(f"/api/people/{user.id}/password-link").json()["secret"]
        joining = {"secret": link, "password": PASSWORD + "?"}
        with browser(server) as fresh:
            assert fresh.post("/api/invitations/accept", json=joining).status_code == 401
            assert fresh.post("/api/invitations/accept", json={**joining, "number": spare[1]}).status_code == 200
        shown = next(p for p in administrator.get("/api/people").json() if p["id"] == user.id)
        assert shown["factor"] is True
        assert administrator.post(f"/api/people/{user.id}/second-factor/off").status_code == 204
        assert browser(server, user.email, PASSWORD + "?").get("/api/me/second-factor").json()["on"] is False
    happened = " / ".join(n.what for n in noted(account, user)[::-1])
    assert re.search(
        "signed in with .* / a second factor was set up / the password was changed / a new password was chosen by a link"
        ".* / the second factor was taken off by who looks after people",
        happened,
    ), happened


def test_who_looks_after_people_has_a_second_factor_outside_the_demo(monkeypatch):
    monkeypatch.delenv(door.DEMO, raising=False)
    administrator = Person(1, "Ada", "ada@example.org", True, True)
    with pytest.raises(_TurnedAwayError) as away:
        _may(None, administrator, Right.ADMINISTER, {}, "/api/people", False)
    assert "second factor" in away.value.sentence
    _may(None, Person(1, "Ada", "ada@example.org", True, True, factor=True), Right.ADMINISTER, {}, "/api/people", False)
    monkeypatch.setenv(door.DEMO, "1")
    _may(None, administrator, Right.ADMINISTER, {}, "/api/people", False)


def test_browsers_are_listed_and_signed_out_one_by_one(server, account):
    user = account("Account browsers")
    agent = "Mozilla/5.0 (X11; Linux x86_64) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/130.0 Safari/537.36"
    with browser(server, user.email) as here, browser(server) as there, browser(server, account("Account nosy").email) as nosy:
        came = there.post(SIGN_IN, json={"email": user.email, "password": PASSWORD}, headers={"User-Agent": agent})
        assert came.status_code == 200
        shown = here.get("/api/me/sign-ins").json()
        assert [(s["browser"], s["here"]) for s in shown] == [("Chromium on Linux", False), ("another browser", True)]
        path = f"/api/me/sign-ins/{shown[0]['id']}"
        assert nosy.delete(path).status_code == 404
        assert here.delete(path).status_code == 204
        assert [c.get("/api/tokens").status_code for c in (here, there)] == [200, 401]
        assert len(here.get("/api/me/sign-ins").json()) == 1


@pytest.mark.parametrize(
    ("agent", "told"),
    [
        ("Mozilla/5.0 (Windows NT 10.0; Win64; x64; rv:140.0) Gecko/20100101 Firefox/140.0", "Firefox on Windows"),
        (
            "Mozilla/5.0 (Macintosh; Intel Mac OS X 10_15) AppleWebKit/605.1 (KHTML, like Gecko) Version/18 Safari/605.1",
            "Safari on macOS",
        ),
        ("Mozilla/5.0 (Windows NT 10.0) AppleWebKit/537.36 Chrome/130.0 Safari/537.36 Edg/130.0", "Edge on Windows"),
        ("", "another browser"),
    ],
)
def test_a_browser_is_told_in_two_words(agent, told):
    assert entry.browser_of(agent) == told


def test_one_takes_ones_data_along_and_the_account_away_and_the_history_keeps_the_name(server, account):
    user = account("Account leaving", begins=True)
    with browser(server, user.email) as client:
        made = client.post("/api/projects", json={"name": "Zeal leaving", "standard": "EN 1992-1-1"}).json()
        data = client.get("/api/me/data").json()
        assert (data["email"], data["projects"], data["changes made"]) == (
            user.email,
            [{"name": "Zeal leaving", "role": "owner"}],
            1,
        )
        assert PASSWORD not in json.dumps(data)
        assert "argon2" not in json.dumps(data)
        only = client.post("/api/me/leave", json={"password": PASSWORD})
        assert (only.status_code, "only owner" in told(only)) == (422, True)
        with account.sessions.begin() as session:
            people.give_role(session, made["project"], store_id(session, "Mara Lindqvist"), "owner")
        assert client.post("/api/me/leave", json={"password": "not this one"}).status_code == 422
        assert client.post("/api/me/leave", json={"password": PASSWORD}).status_code == 204
        assert client.get("/api/tokens").status_code == 401
        assert client.post(SIGN_IN, json={"email": user.email, "password": PASSWORD}).status_code == 401
    with server.client() as left:
        assert left.get(f"/api/floors/{made['floor']}/history").json()[0]["author"] == "Account leaving"
    with account.sessions() as session:
        assert people.members(session, made["project"])[0][0].name == "Mara Lindqvist"
        assert session.scalars(select(SignIn).where(SignIn.user_id == user.id)).all() == []


def store_id(session, name):
    return session.scalar(select(User.id).where(User.name == name))


def test_passwords_that_are_chosen_often_are_refused_and_a_sentence_is_not():
    for bad in ("password1234", "qwertyuiopasdf", "123456789012", "iloveyou1234", "Kaya.Kaya.Kaya", "aaaaaaaaaaaaaaaa"):
        with pytest.raises(RefusedError, match="guessed"):
            entry.fit(bad, "Ines Kaya", "ines@yard.example")
    for good in (PASSWORD, "correct lanterns staple yard", "x7!kQ2#mVz9@", "ä" * 3 + "grüne Fähre am Steg" * 6):
        entry.fit(good, "Ines Kaya", "ines@yard.example")


def test_what_is_kept_of_a_password_needs_the_servers_secret_and_older_ones_get_it(account, monkeypatch):
    user = account("Account keyed")
    assert of(account, user).password.startswith("keyed:$argon2id$")
    with account.sessions() as session:
        assert entry.checked(session, user.email, PASSWORD, "").id == user.id
        with monkeypatch.context() as patch:
            # The digest as anybody without the secret would make it.
            patch.setenv(sealed.SECRET, "another server's: 0123456789 0123456789")
            assert entry.checked(session, user.email, PASSWORD, "") is None
            patch.delenv(sealed.SECRET)
            assert entry.checked(session, user.email, PASSWORD, "") is None
            plain = entry.hashed(PASSWORD)
            patch.setenv(sealed.SECRET, "short")
            with pytest.raises(ValueError, match="32 random"):
                sealed.secret()
        assert plain.startswith("$argon2id$")
        session.get_one(User, user.id).password = plain
        assert entry.checked(session, user.email, PASSWORD, "").id == user.id
    assert of(account, user).password.startswith("keyed:")


def test_what_is_sealed_is_read_by_the_same_server_in_time_alone(monkeypatch):
    text = sealed.seal("a key")
    assert (sealed.opened(text), sealed.opened(text, 60), sealed.opened(text[:-4] + "AAA=")) == ("a key", "a key", None)
    monkeypatch.setattr(time, "time", lambda at=time.time(): at + 700)
    assert (sealed.opened(text, factor.BEGUN_SECONDS), sealed.opened(text)) == (None, "a key")
    monkeypatch.setenv(sealed.SECRET, "another server's: 0123456789 0123456789")
    assert sealed.opened(text) is None


def test_nobody_owns_more_projects_than_one_may(account, monkeypatch):
    user = account("Account many", begins=True)
    monkeypatch.setattr(people, "MOST_PROJECTS", 0)
    with account.sessions() as session, pytest.raises(RefusedError, match="one too many"):
        people.not_too_many(session, user.id)
