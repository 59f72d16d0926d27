"""The Models tab in the browser: find, read, plan, compare, and write a page from nothing."""

from __future__ import annotations

import re

from playwright.sync_api import expect

from tests.e2e.conftest import SignIn, tick


def test_the_catalog_by_keyboard(sign_in: SignIn) -> None:
    page = sign_in("ledger")
    page.keyboard.press("2")
    expect(page.get_by_role("heading", name="Models")).to_be_visible()
    expect(page.get_by_role("heading", name="Brindwell Counter 20")).to_be_visible()
    page.keyboard.press("ArrowDown")
    expect(page.get_by_role("heading", name="Brindwell Counter 24")).to_be_visible()
    page.keyboard.press("f")
    expect(page.get_by_role("dialog")).to_contain_text("What fits: Memory slot A")
    expect(page.get_by_role("dialog")).to_contain_text("the slot takes DDR4, this is DDR5")
    page.keyboard.press("Escape")
    page.keyboard.press("r")
    expect(page.get_by_role("heading", name="Route, Brindwell Counter 24")).to_be_visible()
    expect(page.get_by_text("Mains inside: lead out and in your hand").first).to_be_visible()


def test_models_are_found_by_a_property_and_say_why(sign_in: SignIn) -> None:
    page = sign_in("ledger", "/models")
    page.get_by_label("Find a model by label, part number or property").fill("drive under the mainboard")
    page.keyboard.press("Enter")
    index = page.get_by_role("region", name="Index of models")
    expect(index.get_by_role("button", name="Halyard 12")).to_contain_text("lies under the mainboard")
    expect(index.get_by_role("listitem")).to_have_count(1)
    page.get_by_label("Find a model by label, part number or property").fill("zebra")
    page.keyboard.press("Enter")
    expect(index.get_by_text("No model answers")).to_be_visible()


def test_the_find_field_leads_to_a_models_page(sign_in: SignIn) -> None:
    page = sign_in("ledger")
    page.keyboard.press("/")
    page.keyboard.type("Tiller Classic")
    expect(page.get_by_role("option", name="Brindwell Tiller Classic")).to_be_visible()
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Brindwell Tiller Classic")).to_be_visible()


def test_the_plan_is_walked_with_the_arrow_keys(sign_in: SignIn) -> None:
    page = sign_in("ledger", "/models")
    page.get_by_role("region", name="Index of models").get_by_role("button", name="Packet 14", exact=True).click()
    expect(page.get_by_role("heading", name="Ostrel Packet 14", exact=True)).to_be_visible()
    page.get_by_text("base cover off").click()
    page.get_by_role("button", name="Memory slot A: ").focus()
    page.keyboard.press("ArrowDown")
    expect(page.get_by_role("button", name="On-board memory: ")).to_be_focused()
    expect(page.get_by_text("On-board memory: DDR4")).to_be_visible()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile("at=drive"))
    expect(page.get_by_role("heading", name="Drive", exact=True)).to_be_visible()


def test_a_route_for_several_parts_its_choices_and_its_sheets(sign_in: SignIn) -> None:
    page = sign_in("ledger", "/models")
    page.get_by_role("region", name="Index of models").get_by_role("button", name="Halyard 14").click()
    page.get_by_role("button", name="Show the route").click()
    tick(page.get_by_role("checkbox", name="Keyboard"))
    expect(page.get_by_text("staked, not ordered alone")).to_be_visible()
    expect(page.get_by_text("saved against one visit for each part")).to_be_visible()
    tick(page.get_by_role("checkbox", name="take the keyboard out itself"))
    expect(page.get_by_text("no way back: the rivets do not go back")).to_be_visible()
    expect(page.get_by_text("Spare needed first: keyboard H14")).to_be_visible()
    page.get_by_role("button", name="it will not lift").first.click()
    expect(page.get_by_text("A missed screw.")).to_be_visible()
    page.get_by_role("button", name="Looked, still shut").click()
    expect(page.get_by_text("A foot, sticker or bay.")).to_be_visible()
    for sheet in ("Print route sheet", "Screw mat A4", "Screw mat A3"):
        address = page.get_by_role("link", name=sheet).get_attribute("href")
        answer = page.request.get(page.url.split("/models")[0] + str(address))
        assert answer.headers["content-type"] == "application/pdf"
        assert answer.body().startswith(b"%PDF")


def test_the_memory_planner_names_what_is_bought_and_freed(sign_in: SignIn) -> None:
    page = sign_in("ledger", "/models?q=PK14-2b")
    expect(page.get_by_role("heading", name="Ostrel Packet 14 b")).to_be_visible()
    page.get_by_role("button", name="Memory slot A", exact=True).first.click()
    page.get_by_role("button", name="Plan memory").click()
    sheet = page.get_by_role("dialog")
    expect(sheet.get_by_role("row", name="Now")).to_contain_text("32 GB, of which 16 GB soldered")
    sheet.get_by_label("Target").select_option("24")
    expect(sheet.get_by_role("row", name="Target")).to_contain_text("no module in the catalogue makes it up")
    sheet.get_by_label("Target").select_option("128")
    expect(sheet.get_by_role("row", name="Target")).to_contain_text("nearest 64 GB")


def test_two_models_side_by_side_and_told_apart(sign_in: SignIn) -> None:
    page = sign_in("ledger", "/models")
    tick(page.get_by_role("checkbox", name="Compare Ostrel Packet 14", exact=True))
    tick(page.get_by_role("checkbox", name="Compare Ostrel Packet 14 b"))
    page.get_by_role("link", name="Compare 2 models").click()
    expect(page.get_by_text("Parts that go into more than one of them")).to_be_visible()
    expect(page.get_by_role("row", name="Memory slot A")).to_contain_text("DDR5")
    expect(page.get_by_role("row", name="Battery")).to_have_count(0)
    tick(page.get_by_label("also what is equal"))
    expect(page.get_by_role("row", name="Battery").first).to_be_visible()
    page.get_by_role("link", name="Ostrel Packet 14", exact=True).click()
    page.get_by_role("button", name="Ostrel Packet 14 b").click()
    page.get_by_role("dialog").get_by_role("button", name="DDR5").click()
    expect(page.get_by_role("dialog")).to_contain_text("It is Ostrel Packet 14 b")


def test_a_page_file_is_checked_before_it_is_saved(sign_in: SignIn) -> None:
    page = sign_in("pell", "/models")
    page.get_by_role("button", name="Read a page file").click()
    text = "page_format: 1\nmaker: Ostrel\nname: Yawl 9\nfamily: Yawl\nform: notebook\nwings: 2\n"
    page.get_by_label("Or paste it here").fill(text)
    page.get_by_role("button", name="Check").click()
    expect(page.get_by_role("dialog")).to_contain_text("line 6 wings")
    page.get_by_label("Or paste it here").fill(text.replace("wings: 2\n", ""))
    page.get_by_role("button", name="Check").click()
    expect(page.get_by_role("dialog")).to_contain_text("Ostrel Yawl 9: sound")
    page.get_by_role("dialog").get_by_role("button", name="Save", exact=True).click()
    expect(page.get_by_role("dialog")).to_contain_text("saved as revision 1")


def test_a_reader_cannot_write_a_page(sign_in: SignIn) -> None:
    page = sign_in("ledger", "/models/new")
    expect(page.get_by_text("A survey is written by technicians and leads")).to_be_visible()


def test_the_drive_planner_says_copy_or_fresh_with_minutes(sign_in: SignIn) -> None:
    page = sign_in("ledger", "/models/7?at=drive")
    page.get_by_role("button", name="Plan drive").click()
    sheet = page.get_by_role("dialog")
    expect(sheet.get_by_role("row", name=re.compile("^Data"))).to_contain_text("copy: 256 GB holds the whole 256 GB; 5.0 min at 0.4 GB/s")
    sheet.get_by_label("the old drive shows errors").check()
    expect(sheet.get_by_role("row", name="Advice")).to_contain_text("a failing source is imaged first")
    expect(sheet.get_by_role("row", name="Fit")).to_contain_text("fits: seen in this position")
    page.keyboard.press("Escape")
    expect(page.get_by_text(re.compile("which one.*BD-16S-256"))).to_have_count(2)
