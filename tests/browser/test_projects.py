"""The sheet of projects: named, put in order, put away and brought back, taken in and out as files."""

import json
import re

import pytest
from playwright.sync_api import expect

from tests.floors import one_bay


@pytest.fixture
def mill(server):
    """A project of its own, put away afterwards."""
    with server.client() as client:
        project = client.post("/api/projects", json={"name": "Zeal mill", "standard": "EN 1992-1-1", "units": "SI"}).json()[
            "project"
        ]
        yield client, project
        for p in client.get("/api/projects").json():
            if p["name"].startswith("Zeal mill"):
                client.put(f"/api/projects/{p['id']}/away", json={"away": True})


def floors(client, project):
    return [f["name"] for p in client.get("/api/projects").json() if p["id"] == project for f in p["floors"]]


def test_projects_and_floors_are_kept_in_one_place(desk, mill, tmp_path):
    client, project = mill
    page = desk.page
    desk.open(1)
    page.get_by_role("button", name="Projects", exact=True).click()
    sheet = page.get_by_role("dialog", name="Projects")
    own = sheet.get_by_role("region", name="Zeal mill", exact=True)
    # A floor file comes in as a floor, with its verdict once it is known.
    path = tmp_path / "bay.json"
    path.write_text(json.dumps({**one_bay(), "name": "Bay"}))
    own.locator("input[type=file]").set_input_files(path)
    name = own.get_by_label("Name of Bay")
    expect(name).to_be_visible()
    (first, _) = floors(client, project)
    # Renamed by typing, in one revision that undo takes back.
    name.fill("Mill floor")
    name.press("Enter")
    expect(own.get_by_label("Name of Mill floor")).to_be_visible()
    assert floors(client, project) == [first, "Mill floor"]
    own.get_by_role("button", name="Mill floor up").click()
    expect(own.get_by_role("button", name="Mill floor up")).to_be_disabled()
    assert floors(client, project) == ["Mill floor", first]
    # A name that another floor has is refused with a sentence, and the field shows the old one.
    own.get_by_label(f"Name of {first}").fill("Mill floor")
    own.get_by_label(f"Name of {first}").press("Enter")
    expect(sheet.get_by_role("alert")).to_have_text(re.compile("taken"))
    expect(own.get_by_label(f"Name of {first}")).to_have_value(first)
    # Put away and brought back.
    own.get_by_role("button", name=f"Put away {first}").click()
    away = sheet.get_by_role("region", name="Put away")
    expect(away).to_contain_text(f"{first}, of Zeal mill")
    assert floors(client, project) == ["Mill floor"]
    away.locator("p", has_text="of Zeal mill").get_by_role("button", name="Bring back").click()
    expect(own.get_by_label(f"Name of {first}")).to_be_visible()
    assert floors(client, project) == ["Mill floor", first]
    # Twice the same, and a project file that comes in.
    own.get_by_role("button", name="Duplicate").click()
    expect(sheet.get_by_role("region", name="Zeal mill (2)", exact=True)).to_be_visible()
    whole = tmp_path / "mill.json"
    whole.write_text(json.dumps(client.get(f"/api/projects/{project}/file").json()))
    taking = sheet.get_by_text("Take a project file in").locator("input")
    taking.set_input_files(whole)
    expect(sheet.get_by_role("region", name="Zeal mill (3)", exact=True)).to_be_visible()
    whole.write_text("no JSON")
    taking.set_input_files(whole)
    expect(sheet.get_by_role("alert")).to_have_text(re.compile("not JSON"))
    sheet.get_by_role("region", name="Zeal mill (3)", exact=True).get_by_role("button", name="Put away", exact=True).click()
    expect(away).to_contain_text("Zeal mill (3)")
    own.locator("tr", has=page.get_by_label("Name of Mill floor")).get_by_role("button", name="Open").click()
    expect(sheet).to_be_hidden()
    expect(page.get_by_role("heading", name="Piastra: Mill floor")).to_be_attached()
    desk.page.keyboard.press("Control+z")
    desk.said("undid: floor is called Mill floor")
