"""The register and the day's one list in a browser, and a technician's week on a phone and on a tablet."""

from __future__ import annotations

import re
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.conftest import SignIn

Axe = Any


def test_machines_are_looked_for_picked_and_changed_together(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("quay", "/outlook")
    page.keyboard.press("7")
    expect(page.get_by_role("heading", name="Fleet", exact=True)).to_be_visible()
    expect(page).to_have_title("Fleet · Parts Almanac")
    expect(page.get_by_text(re.compile("will fail within a year: "))).to_be_visible()
    assert axe(page) == []
    page.get_by_role("button", name=re.compile("machines, Ostrel Packet 14, 3–4 years")).click()
    expect(page).to_have_url(re.compile("model=1&youngest=3&oldest=4"))
    register = page.get_by_role("region", name="Register")
    expect(register.get_by_role("status")).to_have_text(re.compile(r"^\d{2,3} machines"))
    page.get_by_role("button", name=re.compile("^Years")).click()
    page.get_by_label("Where").select_option(label="to be retired within six months")
    page.get_by_role("button", name="Show all again").click()
    expect(page).not_to_have_url(re.compile("model="))
    page.get_by_label("Tag or serial").fill("SK-000")
    expect(register.get_by_role("row")).to_have_count(10)
    for tag in ("SK-0001", "SK-0002"):
        page.get_by_role("checkbox", name=tag).check()
    with page.expect_download() as labels:
        page.get_by_role("link", name="Labels", exact=True).click()
    assert labels.value.suggested_filename.endswith(".pdf")
    page.get_by_role("button", name="Plan retirement").click()
    page.get_by_label("On", exact=True).fill("2027-05-01")
    assert axe(page) == []
    page.get_by_role("button", name="Plan it").click()
    expect(page.get_by_text("2 machines changed")).to_be_visible()
    page.get_by_role("button", name="Columns").click()
    page.get_by_role("checkbox", name="To be retired").click()
    page.get_by_role("button", name="Done").click()
    expect(register.get_by_role("row").filter(has_text="SK-0001")).to_contain_text("1 May 2027")
    page.get_by_role("button", name="Keep this look").click()
    page.get_by_label("Name").fill("First ten")
    page.get_by_role("button", name="Keep it").click()
    page.goto(page.url.split("?")[0])
    page.get_by_role("button", name="Looks kept").click()
    page.get_by_role("link", name="First ten").click()
    expect(page).to_have_url(re.compile("columns=.*retiring"))
    page.get_by_role("link", name="SK-0001").click()
    expect(page.get_by_role("heading", name="SK-0001")).to_be_visible()


def test_a_machine_is_retired_and_leaves_for_good(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("quay", "/machines/SK-0003")
    page.get_by_role("button", name="Retire", exact=True).click()
    page.get_by_role("button", name="Retire it").click()
    page.get_by_role("button", name="Dispose of it").click()
    page.get_by_label("The data on its drives").select_option("it had no drive")
    page.get_by_label("Certificate, or who took it").fill("C-118")
    page.get_by_role("button", name="It is gone").click()
    expect(page.get_by_text(re.compile("was on record in it when it was retired"))).to_be_visible()
    assert axe(page) == []
    page.get_by_label("The data on its drives").select_option("drive destroyed")
    page.get_by_role("button", name="It is gone").click()
    expect(page.get_by_text(re.compile("It left for good on .*: recycled; drive destroyed; C-118"))).to_be_visible()
    expect(page.get_by_role("button", name="Dispose of it")).to_have_count(0)
    page.get_by_role("button", name="It never left").click()
    page.get_by_role("button", name="Take the retirement back").click()
    expect(page.get_by_role("button", name="Retire", exact=True)).to_be_visible()


def test_a_dangerous_pack_stops_a_machine_from_its_page(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("pell", "/machines/SK-0004")
    page.get_by_role("button", name="Quarantine").click()
    page.get_by_role("button", name="Stop all work on it").click()
    expect(page.get_by_text("Without a sign there is nothing to stop it for.")).to_be_visible()
    assert axe(page) == []
    page.get_by_label("lid does not close").check()
    page.get_by_role("button", name="Stop all work on it").click()
    expect(page).to_have_url(re.compile(r"/bench/\d+"))
    expect(page.get_by_text(re.compile("Stopped, the pack")).first).to_be_visible()


def test_today_is_one_list_that_leads_on(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("quay", "/rates")
    page.keyboard.press("d")
    expect(page.get_by_role("heading", name=re.compile("^Today, "))).to_be_visible()
    expect(page.get_by_text(re.compile(r"\d+ things to do"))).to_be_visible()
    assert axe(page) == []
    orders = page.get_by_role("region", name="Order", exact=True).get_by_role("link")
    expect(orders.first).to_be_visible()
    orders.first.click()
    expect(page).to_have_url(re.compile("/outlook/|/stores/"))
    page.go_back()
    page.get_by_role("link", name=re.compile("findings not settled")).click()
    expect(page.get_by_role("heading", name="Ledger")).to_be_visible()


def test_a_session_that_ended_is_said_at_the_door(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("quay", "/fleet")
    expect(page.get_by_role("heading", name="Register")).to_be_visible()
    page.context.clear_cookies()
    page.keyboard.press("5")
    expect(page.get_by_text(re.compile("You were signed out"))).to_be_visible()
    assert axe(page) == []
    page.context.set_offline(True)
    page.context.set_offline(False)


def test_no_connection_is_said_while_it_lasts(sign_in: SignIn) -> None:
    page = sign_in("ledger", "/ledger")
    expect(page.get_by_role("heading", name="Ledger")).to_be_visible()
    page.context.set_offline(True)
    expect(page.get_by_text(re.compile("^No connection: what is shown"))).to_be_visible()
    page.context.set_offline(False)
    expect(page.get_by_text(re.compile("^No connection: what is shown"))).to_have_count(0)


def test_what_is_not_there_is_not_tried_again(sign_in: SignIn) -> None:
    page = sign_in("quay", "/outlook/NO-SUCH-PART")
    expect(page.get_by_text("This part cannot be shown")).to_be_visible()
    expect(page.get_by_role("button", name="Try again")).to_have_count(0)


def fits(page: Page) -> None:
    """Nothing is wider than the screen."""
    wide, screen = page.evaluate("[document.documentElement.scrollWidth, window.innerWidth]")
    assert wide <= screen, page.url


@pytest.mark.parametrize("size", [(390, 844), (768, 1024)], ids=str)
def test_a_technicians_week_on_small_screens(sign_in: SignIn, axe: Axe, size: tuple[int, int]) -> None:
    page = sign_in("pell", "/today")
    page.set_viewport_size({"width": size[0], "height": size[1]})
    expect(page.get_by_role("heading", name=re.compile("^Today, "))).to_be_visible()
    fits(page)
    for path, name in (
        ("/bench", "Bench"),
        ("/stores", "Stores"),
        ("/ledger", "Ledger"),
        ("/outlook", "Outlook"),
        ("/rates", "Rates"),
        ("/fleet", "Fleet"),
        ("/fleet/reports", "Machine reports"),
        ("/stores/orders", "Orders"),
    ):
        page.goto(page.url.split("/", 3)[0] + "//" + page.url.split("/")[2] + path)
        expect(page.get_by_role("heading", name=name, exact=True).first).to_be_visible()
        expect(page.get_by_text(re.compile("^(Reading|Counting|Looking|Turning)"))).to_have_count(0)
        fits(page)
        assert axe(page) == [], path
    page.goto(page.url.split("/", 3)[0] + "//" + page.url.split("/")[2] + "/machines/SK-0002")
    expect(page.get_by_role("heading", name="SK-0002")).to_be_visible()
    if size[0] < 700:
        held = page.get_by_role("region", name="What is in it").get_by_role("row").filter(has_text="serial")
        assert "Years old" in page.evaluate(
            "(row) => [...row.querySelectorAll('td')].map((cell) => cell.dataset.head).join()", held.first.element_handle()
        )
    page.get_by_role("link", name="Open a job").click()
    expect(page.get_by_role("heading", name="Open a job").last).to_be_visible()
    fits(page)
