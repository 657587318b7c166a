"""Two people check a floor: what one says and signs the other sees, and what is changed un-signs."""

import re

import pytest
from playwright.sync_api import expect

from piastra.store import people
from tests.browser.conftest import SCREEN, WAIT, Desk
from tests.browser.test_access import found as found
from tests.browser.test_editing import made as made
from tests.browser.test_people import types
from tests.floors import flat_slab


@pytest.fixture
def checker(browser, server):
    """A second desk, of somebody who is checker in a project."""
    opened = []

    def sits(project):
        name = "Judit Halasz"
        with server.person(name) as (session, user):
            people.give_role(session, project, user.id, "checker")
        context = browser.new_context(**SCREEN)
        context.add_cookies([server.cookie(name)])
        opened.append((context, Desk(context.new_page(), server)))
        return opened[-1][1]

    yield sits
    for context, desk in opened:
        context.close()
        assert desk.broke == []


def tab(desk, name):
    desk.page.get_by_role("tab", name=re.compile(f"^{name}")).click()


def test_a_checker_says_and_signs_and_a_designers_change_lets_the_signature_fall(desk, made, checker, server, found):
    floor = made(flat_slab(1, 1, size=1.0), name="Zeal review by two")
    desk.open(floor)
    desk.settled("does not work")
    project = server.client().get(f"/api/floors/{floor}").json()["project_id"]
    judit = checker(project)
    judit.open(floor)
    for each in (desk, judit):
        each.step("Review")
    told = found("signing", judit)

    # A check that is not passed is not signed without saying why.
    sign = judit.page.get_by_role("button", name="Sign Punching")
    expect(sign).to_be_disabled()
    judit.page.get_by_label("Note on Punching").fill("heads are added on site, sheet 12")
    sign.click()
    for each in (judit, desk):
        row = each.page.get_by_role("row", name=re.compile("Punching"))
        expect(row).to_contain_text("Judit Halasz")
        expect(row).to_contain_text("sheet 12")
        expect(each.page.locator("nav.route button[aria-current] .told")).to_contain_text("1 of")

    tab(judit, "Comments")
    judit.page.get_by_label("Something to say").fill("Is this corner held down?")
    judit.page.get_by_role("button", name="At a place").click()
    judit.fit()
    judit.point(1.5, 2.5)
    expect(judit.page.locator(".say-form .where")).to_have_text(re.compile(r"at 1\.[45]\d* m, 2\.[45]\d* m"))
    judit.page.get_by_role("button", name="Say it").click()
    pin = desk.page.get_by_role("button", name="Comment 1 of Judit Halasz")
    expect(pin).to_be_visible()
    pin.click()
    thread = desk.page.locator(".said li.picked")
    expect(thread).to_contain_text("Is this corner held down?")
    told += found("comments", desk)
    thread.get_by_label("Answer to Judit Halasz").fill("By the wall above; the slab becomes thicker too.")
    desk.press("Enter")
    expect(judit.page.locator(".said .answer")).to_contain_text("By the wall above")

    # What is changed lets the signature fall, at both desks and with its reason; undone, it stands again.
    desk.step("Build")
    tab(desk, "Slabs")
    types(desk, "thickness_m", "300")
    desk.said("S1: thickness 300")
    desk.settled("not all checked|work")
    tab(judit, "Checks")
    fallen = judit.page.locator(".fallen")
    expect(fallen).to_contain_text("Mara Lindqvist changed the floor after it: S1: thickness 300", timeout=WAIT)
    tab(judit, "What changed")
    changes = judit.page.get_by_role("region", name="What changed")
    expect(changes).to_contain_text("Thickness of slab S1: 250 mm to 300 mm")
    expect(changes.get_by_role("region", name="Its checks").get_by_role("row", name=re.compile("Punching")).first).to_be_visible()
    told += found("changes", judit)
    desk.press("Control+z")
    tab(judit, "Checks")
    expect(fallen).to_have_count(0, timeout=WAIT)
    tab(judit, "Comments")
    judit.page.get_by_role("button", name="Settled").click()
    expect(judit.page.locator(".said li.settled")).to_contain_text("Settled by Judit Halasz")
    assert told == []
