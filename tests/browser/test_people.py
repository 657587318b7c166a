"""People on the page: invited by a link, kept to their role, signed in again without losing what they typed."""

import re

import pyotp
from playwright.sync_api import expect

from piastra.store import entry
from tests.browser.conftest import SCREEN, WAIT, Desk
from tests.browser.test_access import found as found
from tests.browser.test_editing import building
from tests.browser.test_editing import made as made
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

    context = browser.new_context(**SCREEN)
    ines = Desk(context.new_page(), server)
    ines.page.goto(link)
    expect(ines.page.get_by_role("heading", name=re.compile("Work in Zeal people"))).to_be_visible()
    for label, value in (("Name", "Ines Aydin"), ("E-mail", "ines@people.example"), ("Password", "too short")):
        ines.page.get_by_label(label).fill(value)
    expect(ines.page.locator(".gate")).to_contain_text("3 more")
    ines.page.get_by_role("button", name="Show").click()
    expect(ines.page.get_by_label("Password")).to_have_attribute("type", "text")
    ines.page.get_by_role("button", name="Accept").click()
    expect(ines.page.get_by_role("alert")).to_contain_text("12 to 128 characters")
    ines.page.get_by_label("Password").fill(PASSWORD)
    ines.page.get_by_role("button", name="Accept").click()
    expect(ines.page.locator(".person")).to_have_attribute("aria-label", "IA, you: Ines Aydin", timeout=WAIT)
    # Of a project in which she reads nothing is put away, put in order or taken in.
    shown = ines.page.get_by_role("region", name=re.compile("Zeal people"))
    expect(shown.get_by_role("button", name="Open").first).to_be_visible()
    expect(shown.get_by_role("button", name=re.compile("Put away|up|Duplicate"))).to_have_count(0)
    expect(ines.page.get_by_role("button", name="New project")).to_have_count(0)
    building(ines, floor)
    ines.page.get_by_role("tab", name="Slabs").click()
    expect(ines.page.get_by_role("button", name="reader", exact=True)).to_be_visible()
    types(ines, "thickness_m", "300")
    expect(ines.page.locator(".note.bad")).to_contain_text("You are reader in this project")
    expect(ines.cell("S1", "thickness_m")).to_have_text("250")

    page.keyboard.press("Escape")
    page.keyboard.press("Control+k")
    page.keyboard.type("people of this")
    page.keyboard.press("Enter")
    with page.expect_response(re.compile("/people/")):
        page.get_by_label("Role of Ines Aydin").select_option("designer")
    building(ines, floor)
    ines.page.get_by_role("tab", name="Slabs").click()
    types(ines, "thickness_m", "300")
    ines.said("S1: thickness 300")
    assert server.client().get(f"/api/floors/{floor}/history").json()[0]["author"] == "Ines Aydin"

    # Her results are there: nothing but what she does asks the server from now on.
    ines.rested()

    # Her sign-in ends while she works: what she types is kept, and arrives once she is signed in again.
    with server.person("Ines Aydin") as (session, user):
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

    # Over a dialog that was open the sign-in has the keys and the pointer all the same; it is not closed by them.
    ines.page.get_by_role("button", name="You: Ines Aydin").click()
    own = ines.page.get_by_role("dialog", name="You")
    own.get_by_role("tab", name="Tokens").click()
    own.get_by_label("What it is for").fill("site")
    ines.rested()
    with server.person("Ines Aydin") as (session, user):
        entry.end_sign_ins(session, user.id)
    # A result that comes meanwhile may have asked first: the pointer is no longer the dialog's then.
    own.get_by_role("button", name="Make a token", include_hidden=True).dispatch_event("click")
    expect(again.get_by_label("Password")).to_be_focused()
    # Keys belong to what is on top from the frame after the focus on.
    ines.page.wait_for_timeout(400)
    ines.page.keyboard.press("Escape")
    ines.page.keyboard.type(PASSWORD)
    again.get_by_role("button", name="Sign in").click()
    expect(again).to_have_count(0)
    expect(own).to_be_visible()

    # A second factor, confirmed by its first number; she comes in with one of its spare codes.
    # Whoever opens the demo is signed in as its designer, and not as who looks at this.
    expect(own).to_contain_text("is signed in as its designer")
    own.get_by_role("tab", name="Second factor").click()
    own.get_by_role("button", name="Set one up").click()
    key = own.locator(".key").inner_text().replace(" ", "")
    own.get_by_label("The number that it shows").fill(pyotp.TOTP(key).now())
    told += found("factor", ines)
    own.get_by_role("button", name="Confirm").click()
    expect(own.locator(".codes span")).to_have_count(8)
    spare = own.locator(".codes span").all_inner_texts()
    expect(own).to_contain_text("8 of the spare codes are left")
    own.get_by_role("tab", name="Browsers").click()
    expect(own.get_by_role("table", name="Where you are signed in").get_by_role("row")).to_have_count(2)
    expect(own).to_contain_text("Chromium on Linux (this one)")
    own.get_by_role("tab", name="What happened").click()
    expect(own.get_by_role("table").get_by_role("row").first).to_contain_text("a second factor was set up")
    ines.page.keyboard.press("Escape")

    # Signed out, the page shows nothing of anybody's; the demo does not let him in again unasked.
    ines.page.get_by_role("button", name="You: Ines Aydin").click()
    ines.page.get_by_role("button", name="Sign out", exact=True).click()
    expect(ines.page.get_by_role("heading", name="Sign in")).to_be_visible(timeout=WAIT)
    expect(ines.page.get_by_role("button", name="Open the demo as its designer")).to_be_visible()
    assert (ines.page.locator(".topbar").count(), ines.broke) == (0, [])
    ines.page.get_by_label("E-mail").fill("ines@people.example")
    ines.page.get_by_label("Password").fill(PASSWORD)
    ines.page.get_by_role("button", name="Sign in").click()
    # A wrong number: the password is asked for again, and the number beside it.
    number = ines.page.get_by_label("Number of the second factor")
    number.fill("0000-0000-0000")
    ines.page.get_by_role("button", name="Sign in").click()
    expect(ines.page.get_by_role("alert")).to_contain_text("number is not right")
    expect(number).to_have_value("")
    expect(ines.page.get_by_label("Password")).to_be_focused()
    ines.page.keyboard.type(PASSWORD)
    number.fill(spare[0])
    ines.page.get_by_role("button", name="Sign in").click()
    expect(ines.page.locator(".person")).to_have_attribute("aria-label", "IA, you: Ines Aydin", timeout=WAIT)
    context.close()
    assert told == []
