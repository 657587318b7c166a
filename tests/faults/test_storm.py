"""A short storm: server, worker and database are killed while floors are edited. ``python -m tests.faults.storm`` raises a long one."""

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import WAIT, Desk
from tests.browser.test_editing import building
from tests.faults.storm import House, held, raise_storm
from tests.floors import flat_slab

pytestmark = pytest.mark.study


@pytest.fixture(scope="module")
def house(tmp_path_factory):
    with House(tmp_path_factory.mktemp("house"), projects=0) as made:
        yield made


def types(desk, path, value):
    desk.cell("S1", path).click()
    desk.page.keyboard.type(value)
    desk.press("Enter")


def test_a_page_tells_that_its_server_is_killed_and_sends_what_was_typed_when_it_is_back(browser, house):
    client = house.client()
    project = client.post("/api/projects", json={"name": "Killed", "standard": "EN 1992-1-1"}).json()["project"]
    body = {"document": {**flat_slab(1, 1, size=1.0), "name": "Typical"}}
    floor = client.post(f"/api/projects/{project}/floors", json=body).json()["floor"]
    context = browser.new_context(viewport={"width": 1280, "height": 800})
    desk = Desk(context.new_page(), house)
    building(desk, floor)
    desk.page.get_by_role("tab", name="Slabs").click()
    (server,) = house.processes("server")
    server.kill()
    gone = desk.page.get_by_text("server not reached")
    expect(gone).to_be_visible()
    types(desk, "thickness_m", "270")
    types(desk, "cover_top_mm", "35")
    expect(desk.cell("S1", "thickness_m")).to_have_text("270")
    # It comes back by itself.
    expect(gone).to_have_count(0, timeout=WAIT)
    desk.said("S1: cover, top 35")
    slab = client.get(f"/api/floors/{floor}").json()["document"]["slabs"][0]
    assert (slab["thickness_m"], slab["cover_top_mm"]) == (0.27, 35)
    numbers = [h["number"] for h in client.get(f"/api/floors/{floor}/history").json()]
    assert numbers == list(range(len(numbers), 0, -1))
    assert desk.broke == []
    context.close()


def test_edits_survive_what_is_killed_meanwhile(house):
    storm = raise_storm(house, edits=8, seed=3, floors=2, every=2)
    assert all(storm.kills[kind] for kind in ("server", "worker", "database", "answering"))
    assert held(house, storm) == []
