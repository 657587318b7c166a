"""What is done in one gesture, the plan by arrows, and what is kept of the animated floor."""

from pathlib import Path

from playwright.sync_api import expect

from tests.browser.test_editing import made as made
from tests.floors import flat_slab


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
