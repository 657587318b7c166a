"""What is done in one gesture, the plan by arrows, and what is kept of the animated floor."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import expect

from tests.browser.test_access import found as found
from tests.browser.test_editing import made as made
from tests.floors import flat_slab


@pytest.mark.study
def test_columns_stand_on_crossings_arrows_walk_the_plan_and_the_animated_floor_is_kept(desk, made, tmp_path):
    content = flat_slab(2, 1, size=1.0)
    content["columns"] = content["columns"][:1]
    content["grid"] = [
        *({"id": k, "line": [[x, -1.0], [x, 7.0]]} for k, x in zip("ABC", (0.0, 6.0, 12.0), strict=True)),
        *({"id": k, "line": [[-1.0, y], [13.0, y]]} for k, y in zip("12", (0.0, 6.0), strict=True)),
    ]
    desk.open(made(content))
    page = desk.page
    desk.step("Build")
    page.locator(".surface").click(position={"x": 20, "y": 470})
    desk.press("C")
    page.get_by_label("Lines", exact=True).fill("A B 1 9")
    expect(page.get_by_text("There is no grid line 9.")).to_be_visible()
    page.get_by_label("Lines", exact=True).fill("")
    # One stands on A1 already.
    page.get_by_role("button", name="Add 5 columns").click()
    desk.said("5 columns on crossings")
    assert {c["id"]: c["at"] for c in desk.document()["columns"][1:]} == {
        "A2": [0, 6], "B1": [6, 0], "B2": [6, 6], "C1": [12, 0], "C2": [12, 6],
    }  # fmt: skip
    desk.press("Escape", "Escape")

    # The plan is one stop, and arrows go from shape to shape inside it.
    assert page.locator(".model [tabindex='0']").count() == 1
    page.locator(".model [data-id=A2]").focus()
    desk.press("ArrowRight")
    assert page.evaluate("document.activeElement.dataset.id") == "B2"
    desk.press("ArrowDown")
    assert page.evaluate("document.activeElement.dataset.id") != "B2"
    page.locator(".model [data-id=B1]").focus()
    desk.press("Enter")
    expect(page.get_by_role("heading", name="Column B1")).to_be_visible()
    page.get_by_role("button", name="Add the drop panel").click()
    desk.said("1 drop panels")
    (drop,) = desk.document()["thickenings"]
    assert sorted(map(tuple, drop["outline"])) == [(4.8, -1.2), (4.8, 1.2), (7.2, -1.2), (7.2, 1.2)]

    desk.settled("✕|✓|○")
    page.emulate_media(reduced_motion="no-preference")
    desk.step("Deflection")
    page.get_by_role("button", name="Animate", exact=True).click()
    expect(page.get_by_role("button", name="Film")).to_be_enabled()
    for button, ending, begins in (("Film", "webm", b"\x1a\x45\xdf\xa3"), ("Picture", "png", b"\x89PNG")):
        with page.expect_download() as waiting:
            page.get_by_role("button", name=button).click()
        assert waiting.value.suggested_filename.endswith(f".{ending}")
        waiting.value.save_as(tmp_path / ending)
        content = Path(tmp_path / ending).read_bytes()
        assert content.startswith(begins)
        assert len(content) > 5000


@pytest.mark.study
def test_the_floor_in_space_is_picked_and_measured_and_its_section_drawn_taller(desk, made):
    desk.open(made(flat_slab(2, 1, size=1.0)))
    page = desk.page
    desk.step("Build")
    page.get_by_role("button", name="3D").click()
    view = page.get_by_role("dialog", name="in space")
    box = page.locator("[data-testid=space] canvas").bounding_box()
    # Everywhere, edges of bodies too, a click finds a body or nothing.
    told = ""
    for k in range(12):
        page.mouse.click(box["x"] + box["width"] * (0.3 + 0.035 * k), box["y"] + box["height"] * 0.55)
        told = view.locator("header .quiet").inner_text()
        if told.endswith("level 0.000 m"):
            break
    assert re.match(r"Slab S1 · x \S+ m, y \S+ m, level 0\.000 m$", told)
    page.keyboard.down("Shift")
    page.mouse.click(box["x"] + box["width"] * 0.5, box["y"] + box["height"] * 0.5)
    page.keyboard.up("Shift")
    expect(view.locator("header .quiet")).to_contain_text("m from the last click, ")
    desk.press("Escape")
    desk.press("v")
    desk.typed("-1", "3")
    desk.typed("14", "0")
    slab = page.get_by_test_id("section").locator("rect.slabs").first
    expect(slab).to_be_visible()

    def tall():
        return float(slab.get_attribute("height")) / float(slab.get_attribute("width"))

    flat = tall()
    page.get_by_role("button", name="× 5").click()
    assert tall() == pytest.approx(5 * flat, rel=0.02)
    # A column tells its springs.
    desk.press("Escape", "Escape")
    page.locator("path[data-kind=columns]").first.click()
    page.get_by_text("How it holds the floor").click()
    springs = page.locator(".springs li")
    expect(springs).to_have_count(6)
    expect(springs.first).to_contain_text("Upright")
    expect(springs.first).to_contain_text("kN/m")


def test_figures_lead_the_drawing_and_keys_stay_at_hand_while_they_are_typed(desk, made, found):
    content = flat_slab(2, 1, size=1.0)
    content["columns"] = content["columns"][:1]
    content["loads"] = [
        {"id": "tank", "kind": "area", "case": "Q", "q_kPa": 9.0, "outline": [[1, 1], [3, 1], [3, 3], [1, 3]]},
        {"id": "plinth", "kind": "area", "case": "G", "q_kPa": 2.0, "outline": [[1, 1], [3, 1], [3, 3], [1, 3]]},
        {"id": "rack", "kind": "area", "case": "Q", "q_kPa": 4.0, "outline": [[4, 1], [5, 1], [5, 3], [4, 3]]},
    ]
    desk.open(made(content))
    page = desk.page
    desk.step("Build")
    desk.fit()
    # What is typed is drawn before it is taken, and the way of typing stays as chosen.
    desk.press("w")
    desk.typed("1", "5")
    page.get_by_role("button", name="Length, angle").click()
    page.get_by_label("Length", exact=True).fill("2.5")
    page.get_by_label("Angle").fill("30")
    expect(page.locator(".gesture .figures")).to_have_text("2.500 m at 30.0° · Δ 2.165 m, 1.250 m")
    desk.press("Enter")
    expect(page.get_by_label("Length", exact=True)).to_have_value("")
    # No figure begins with a letter: in an empty field it is the key of a tool, and Backspace takes the last point back.
    desk.press("Backspace")
    expect(page.locator(".gesture .placed")).to_have_count(1)
    page.keyboard.type("2")
    page.get_by_label("Angle").fill("90")
    desk.press("Enter", "Enter")
    desk.said("Wall W1 drawn")
    assert desk.document()["walls"][0]["line"] == [[1, 5], [1, 7]]
    page.get_by_label("x", exact=True).first.focus()
    desk.press("c")
    expect(page.get_by_test_id("entry")).to_contain_text("Column")
    # The strip stands where nothing is drawn.
    low = page.get_by_test_id("entry").bounding_box()["y"]
    page.keyboard.type("6")
    desk.press("Tab")
    page.keyboard.type("-4")
    assert page.get_by_test_id("entry").bounding_box()["y"] < low
    desk.press("Escape", "Escape")

    # An array in two directions: two along and one across, both counted from where it begins.
    desk.point(0, 0)
    desk.press("a")
    page.get_by_label("Across", exact=True).fill("1")
    page.locator(".entry").get_by_text("Array").click()
    desk.typed("0", "0")
    page.get_by_role("button", name="Δx, Δy").click()
    for first, second in (("3", "0"), ("0", "2.5")):
        desk.typed(first, second)
    desk.said("copied 5 times")
    places = [c["at"] for c in desk.document()["columns"]]
    assert places == [[0, 0], [3, 0], [6, 0], [0, 2.5], [3, 2.5], [6, 2.5]]

    # A load that is moved asks for those of other cases on the same outline.
    desk.step("Load")
    page.get_by_role("tab", name="Loads").click()
    page.locator(".sheet td", has_text="rack").first.click()
    page.evaluate(
        """() => {
          const data = new DataTransfer();
          data.setData('text/plain', 'rack\\tx\\tQ\\nnew\\tline\\tQ\\n');
          document.querySelector('.sheet').dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true }));
        }"""
    )
    expect(page.get_by_role("button", name="Paste")).to_be_visible()
    assert found("a block that waits") == []
    desk.press("Escape", "Escape")
    for answer, moved in (("Only what is selected", ["tank"]), ("All together", ["tank", "plinth"])):
        page.locator(".sheet td", has_text="tank").first.click()
        page.evaluate("document.activeElement.blur()")
        desk.press("m")
        desk.typed("0", "0")
        desk.typed("1", "0.5")
        ask = page.get_by_role("alertdialog", name="Loads on the same place")
        expect(ask).to_contain_text("Load plinth lies on the same place. Move it too?")
        assert found("the question of loads that go along") == []
        ask.get_by_role("button", name=answer).click()
        desk.said("moved")
        page.wait_for_timeout(500)
        at = {x["id"]: x["outline"][0] for x in desk.document()["loads"] if x.get("outline")}
        assert {k for k, v in at.items() if v == [2, 1.5]} == set(moved)
        desk.press("Control+z")
        page.wait_for_timeout(700)
