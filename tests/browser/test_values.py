"""Values that loads take from the project: chosen, edited by layers, and one put in the place of another."""

import re

import pytest
from playwright.sync_api import expect

from tests.floors import one_bay


@pytest.fixture
def pier(server, request):
    """A project with build-ups and one small floor."""
    with server.client() as client:
        project = client.post(
            "/api/projects", json={"name": f"Zeal pier, {request.node.name[:30]}", "standard": "EN 1992-1-1", "units": "SI"}
        ).json()["project"]
        now = client.get(f"/api/projects/{project}").json()
        own = {
            "load_materials": [{"id": "screed", "unit_weight_kN_m3": 22}, {"id": "resin", "unit_weight_kN_m3": 12}],
            "build_ups": [
                {"id": "laboratory floor", "layers": [{"material": "screed", "thickness_mm": 50}, {"material": "resin", "thickness_mm": 5}],
                 "extra_kPa": 0.04},
                {"id": "planting", "extra_kPa": 5.0},
            ],
        }  # fmt: skip
        body = {"based_on": now["revision"], "document": {**now["document"], **own}, "line": "loads"}
        assert client.put(f"/api/projects/{project}", json=body).status_code == 200
        document = {**one_bay(), "name": "Deck", **own}
        document["loads"] = [{"id": "f", "case": "D", "kind": "area", "build_up": "laboratory floor"}]
        floor = client.post(f"/api/projects/{project}/floors", json={"document": document}).json()["floor"]
        server.settled(floor)
        yield floor
        client.put(f"/api/projects/{project}/away", json={"away": True})


@pytest.mark.study
def test_layers_are_edited_and_one_build_up_replaces_another(desk, pier):
    page = desk.page
    desk.open(pier)
    desk.step("Load")
    page.get_by_role("tab", name="Build-ups").click()
    desk.cell("laboratory floor", "id").click()
    inspector = page.get_by_label("Inspector")
    # 22 kN/m3 x 0.05 + 12 x 0.005 + 0.04: as the ledger's loads say as well.
    expect(inspector.get_by_text(re.compile("in all"))).to_have_text("1.20 kPa in all")
    inspector.get_by_label("Thickness of layer 1").fill("100")
    inspector.get_by_label("Thickness of layer 1").press("Enter")
    desk.said("laboratory floor: layer 1 100 mm")
    expect(inspector.get_by_text(re.compile("in all"))).to_have_text("2.30 kPa in all")
    inspector.get_by_role("button", name="Add a layer").click()
    desk.said("laboratory floor: one layer more")
    inspector.get_by_role("button", name="Take layer 3 away").click()
    desk.said("laboratory floor: layer 3 taken away")
    inspector.get_by_role("button", name="Layer 2 up").click()
    expect(inspector.get_by_label("Material of layer 1")).to_have_value("resin")
    # The load takes its value from another one, in the inspector.
    page.get_by_role("tab", name="Loads").first.click()
    load = next(l for l in desk.document()["loads"] if l.get("build_up") == "laboratory floor")
    desk.cell(load["id"], "id").click()
    worth = inspector.get_by_label("Value from")
    assert {"own", "laboratory floor", "planting"} <= set(worth.locator("option").all_inner_texts())
    worth.select_option("planting")
    desk.said(f"{load['id']}: value from planting")
    assert next(l for l in desk.document()["loads"] if l["id"] == load["id"])["build_up"] == "planting"
    # And back, for both floors that have it, in one step.
    page.get_by_role("tab", name="Build-ups").click()
    desk.cell("planting", "id").click()
    inspector.get_by_role("button", name="Replace by another").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("combobox").select_option("laboratory floor")
    expect(dialog.get_by_role("checkbox").first).to_be_checked()
    expect(dialog).to_contain_text("Deck")
    expect(dialog).to_contain_text("→ 2.30 kPa")
    dialog.get_by_role("button", name=re.compile(r"Replace in \d+ object")).click()
    expect(dialog).to_be_hidden()
    assert next(l for l in desk.document()["loads"] if l["id"] == load["id"])["build_up"] == "laboratory floor"


def test_what_is_refused_is_told_by_its_name_in_its_unit(desk, pier):
    page = desk.page
    desk.open(pier)
    desk.step("Build")
    page.get_by_role("tab", name="Slabs").click()
    desk.cell("S1", "id").click()
    field = page.get_by_label("Inspector").get_by_label("Thickness", exact=True)
    before = field.input_value()
    field.fill("90000")
    field.press("Enter")
    note = page.get_by_role("alert")
    expect(note).to_contain_text(re.compile(r"Thickness of slab S1 must be at most [\d,]+ mm, not 90,000 mm"))
    expect(field).to_have_value(before)
