"""People on the page: invited by a link, kept to their role, signed in again without losing what they typed; a server that is killed meanwhile."""

import re
from dataclasses import replace

import pytest
from playwright.sync_api import expect
from sqlalchemy import create_engine, text

from piastra.demo.people import settle
from piastra.store import entry
from piastra.store.database import connect, migrate, sessions
from tests.browser.conftest import WAIT, Desk
from tests.browser.test_access import found as found
from tests.browser.test_editing import building
from tests.browser.test_editing import made as made
from tests.conftest import Server
from tests.floors import flat_slab

PASSWORD = "seven lanterns over the yard"


def types(desk, path, value):
    desk.cell("S1", path).click()
    desk.page.keyboard.type(value)
    desk.press("Enter")


def test_somebody_is_invited_reads_and_then_designs(desk, made, browser, server, found):
    page = desk.page
    floor = made(flat_slab(1, 1, size=1.0), name="Zeal people")
    desk.open(floor)
    page.get_by_role("button", name="You: Mara Lindqvist").click()
    expect(page.get_by_role("dialog")).to_contain_text("This is the demo: whoever opens it on this machine")
    told = found("you")
    page.get_by_role("button", name="People of the practice").click()
    expect(page.get_by_role("table", name="People")).to_contain_text("mara@saltmarsh.example")
    told += found("practice")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="You: Mara Lindqvist").click()
    page.get_by_role("button", name="People of this project").click()
    page.locator(".dialog .line-form select").select_option("reader")
    page.get_by_label("For whom").fill("Ines, site office")
    page.get_by_role("button", name="Make a link").click()
    link = page.locator(".copied input").input_value()
    expect(page.get_by_role("table", name="Open links")).to_contain_text("Ines, site office")
    told += found("people")

    context = browser.new_context(viewport={"width": 1280, "height": 800})
    ines = Desk(context.new_page(), server)
    ines.page.goto(link)
    expect(ines.page.get_by_role("heading", name=re.compile("Work in Zeal people"))).to_be_visible()
    for label, value in (("Name", "Ines Kaya"), ("E-mail", "ines@people.example"), ("Password", "too short")):
        ines.page.get_by_label(label).fill(value)
    expect(ines.page.locator(".gate")).to_contain_text("3 more")
    ines.page.get_by_role("button", name="Show").click()
    expect(ines.page.get_by_label("Password")).to_have_attribute("type", "text")
    ines.page.get_by_role("button", name="Accept").click()
    expect(ines.page.get_by_role("alert")).to_contain_text("12 to 128 characters")
    ines.page.get_by_label("Password").fill(PASSWORD)
    ines.page.get_by_role("button", name="Accept").click()
    expect(ines.page.locator(".person")).to_have_attribute("aria-label", "IK, you: Ines Kaya", timeout=WAIT)
    # Of a project in which she reads nothing is put away, put in order or taken in.
    shown = ines.page.get_by_role("region", name=re.compile("Zeal people"))
    expect(shown.get_by_role("button", name="Open").first).to_be_visible()
    expect(shown.get_by_role("button", name=re.compile("Put away|up|Duplicate"))).to_have_count(0)
    expect(ines.page.get_by_role("button", name="New project")).to_have_count(0)
    building(ines, floor)
    ines.page.get_by_role("tab", name="Slabs").click()
    expect(ines.page.get_by_role("button", name="reader: cannot change")).to_be_visible()
    types(ines, "thickness_m", "300")
    expect(ines.page.locator(".note.bad")).to_contain_text("You are reader in this project")
    expect(ines.cell("S1", "thickness_m")).to_have_text("250")

    page.keyboard.press("Escape")
    page.keyboard.press("Control+k")
    page.keyboard.type("people of this")
    page.keyboard.press("Enter")
    with page.expect_response(re.compile("/people/")):
        page.get_by_label("Role of Ines Kaya").select_option("designer")
    building(ines, floor)
    ines.page.get_by_role("tab", name="Slabs").click()
    types(ines, "thickness_m", "300")
    ines.said("S1: thickness 300")
    assert server.client().get(f"/api/floors/{floor}/history").json()[0]["author"] == "Ines Kaya"

    # Her sign-in ends while she works: what she types is kept, and arrives once she is signed in again.
    with server.person("Ines Kaya") as (session, user):
        entry.end_sign_ins(session, user.id)
    types(ines, "thickness_m", "310")
    again = ines.page.get_by_role("dialog", name="Sign in again")
    expect(again).to_contain_text("What you changed is kept")
    again.get_by_label("Password").fill("not this one at all")
    again.get_by_role("button", name="Sign in").click()
    expect(again.get_by_role("alert")).to_contain_text("not right")
    assert ines.page.locator(".gate").count() == 1
    again.get_by_label("Password").fill(PASSWORD)
    again.get_by_role("button", name="Sign in").click()
    ines.said("S1: thickness 310")
    expect(again).to_have_count(0)
    assert server.client().get(f"/api/floors/{floor}").json()["document"]["slabs"][0]["thickness_m"] == 0.31

    # Signed out, the page shows nothing of anybody's; the demo does not let him in again unasked.
    ines.page.get_by_role("button", name="You: Ines Kaya").click()
    ines.page.get_by_role("button", name="Sign out", exact=True).click()
    expect(ines.page.get_by_role("heading", name="Sign in")).to_be_visible(timeout=WAIT)
    expect(ines.page.get_by_role("button", name="Open the demo as its designer")).to_be_visible()
    assert (ines.page.locator(".topbar").count(), ines.broke) == (0, [])
    context.close()
    assert told == []


@pytest.fixture
def second(database):
    """A server of its own beside the tests' one, that is killed and started again."""
    beside = replace(database, name="piastra_second")
    with create_engine(database.url).connect() as connection:
        connection.execute(text("CREATE DATABASE piastra_second CHARACTER SET utf8mb4 COLLATE utf8mb4_bin"))
    engine = connect(beside.url)
    migrate(engine)
    with sessions(engine).begin() as session:
        settle(session, [])
    engine.dispose()
    made = Server(beside)
    made.start()
    yield made
    made.stop()
    with create_engine(database.url).connect() as connection:
        connection.execute(text("DROP DATABASE piastra_second"))


def test_a_page_tells_that_its_server_is_killed_and_sends_what_was_typed_when_it_is_back(browser, second):
    with second.client() as client:
        project = client.post("/api/projects", json={"name": "Zeal killed", "standard": "EN 1992-1-1"}).json()["project"]
        body = {"document": {**flat_slab(1, 1, size=1.0), "name": "Typical"}}
        floor = client.post(f"/api/projects/{project}/floors", json=body).json()["floor"]
    context = browser.new_context(viewport={"width": 1280, "height": 800})
    desk = Desk(context.new_page(), second)
    building(desk, floor)
    desk.page.get_by_role("tab", name="Slabs").click()
    second.process.kill()
    second.process.wait()
    gone = desk.page.get_by_text("server not reached")
    expect(gone).to_be_visible()
    types(desk, "thickness_m", "270")
    types(desk, "cover_top_mm", "35")
    expect(gone).to_have_text("server not reached; what you change is kept and sent when it answers")
    expect(desk.cell("S1", "thickness_m")).to_have_text("270")
    second.start()
    expect(gone).to_have_count(0, timeout=WAIT)
    desk.said("S1: cover, top 35")
    with second.client() as client:
        slab = client.get(f"/api/floors/{floor}").json()["document"]["slabs"][0]
        assert (slab["thickness_m"], slab["cover_top_mm"]) == (0.27, 35)
        numbers = [h["number"] for h in client.get(f"/api/floors/{floor}/history").json()]
        assert numbers == list(range(len(numbers), 0, -1))
    assert second.settled(floor)["run"]["state"] == "fresh"
    assert desk.broke == []
    context.close()
