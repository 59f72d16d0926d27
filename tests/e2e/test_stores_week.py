"""A week in the stores by keyboard and scanner: what comes is received, what goes is packed, what is asked for is handed out."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

from playwright.sync_api import Locator, Page, expect

from tests.e2e.conftest import SignIn

Axe = Callable[[Page], list[dict[str, Any]]]


def plate(page: Page) -> Locator:
    return page.get_by_role("region", name="Chosen shelf")


def scans(page: Page, text: str) -> None:
    """What the scanner on the counter types."""
    field = page.get_by_label("Scan a part, shelf, lot, order or serial")
    field.focus()
    page.keyboard.type(text)
    page.keyboard.press("Enter")


def test_a_week_at_the_counter(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("pell", "/stores")
    sheet = page.get_by_role("dialog")
    # Monday: the boat to Marrowness leaves, a parcel is scanned in, its labels are printed.
    row = plate(page).get_by_role("table", name="Transfers").get_by_role("row", name=re.compile("Pack T16, 11.4 V, 56 Wh"))
    row.get_by_role("button", name="Left", exact=True).focus()
    page.keyboard.press("Enter")
    expect(row).to_contain_text("left 1 Nov")
    scans(page, "BF-TC-S")
    expect(sheet.get_by_role("heading", name="Receive PO-2026-027")).to_be_visible()
    sheet.get_by_label("Serials").fill("TC-4711")
    page.keyboard.press("Enter")
    order = page.get_by_role("region", name="Chosen order")
    expect(order).to_contain_text("closed")
    labels = order.get_by_role("link", name="Lot labels").get_attribute("href")
    assert labels is not None
    assert page.request.get(page.url.split("/stores")[0] + labels).headers["content-type"] == "application/pdf"
    # Tuesday: somebody brings the box back, and its serial tells where it came from.
    page.keyboard.press("4")
    scans(page, "TC-4711")
    expect(order.get_by_role("heading", name="Order PO-2026-027")).to_be_visible()
    # Wednesday: a shelf label opens the count.
    page.keyboard.press("4")
    scans(page, "SHELF OF-P13 ELD")
    expect(sheet.get_by_label("Parts that lie there")).to_be_visible()
    page.keyboard.press("Escape")
    expect(sheet).to_have_count(0)
    # Thursday: a pack is charged.
    page.keyboard.press("4")
    expect(page.get_by_role("heading", name="Under way and to settle")).to_be_visible()
    charge = page.get_by_role("button", name=re.compile("^Charged: "))
    expect(charge.first).to_be_visible()
    first = charge.first.get_attribute("aria-label")
    charge.first.click()
    expect(page.get_by_role("button", name=str(first), exact=True)).to_have_count(0)
    assert axe(page) == []


def test_a_part_is_kept_for_the_planned_swap_and_a_substitute_is_set(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("quay", "/stores/LM-8266/ELD")
    places = plate(page).get_by_role("region", name="In its place")
    expect(places).to_contain_text("a faster module serves a slower slot; not the other way round")
    assert axe(page) == []
    places.get_by_role("button", name="Remove LM-8320").click()
    expect(places).to_contain_text("Nothing is known to stand in for it")
    places.get_by_role("button", name="Add a substitute").click()
    sheet = page.get_by_role("dialog")
    sheet.get_by_label("Part number").fill("OF-P14")
    sheet.get_by_label("Why").fill("it is there")
    sheet.get_by_role("button", name="Let it stand in").click()
    expect(sheet.get_by_text("is of another kind")).to_be_visible()
    sheet.get_by_label("Part number").fill("LM-8320")
    sheet.get_by_role("button", name="Let it stand in").click()
    expect(places).to_contain_text("LM-8320")
    page.goto(page.url.split("/stores")[0] + "/stores/LM-16320/BRA")
    expect(plate(page)).to_contain_text("the swap planned for 15 Mar 2027")


def test_a_lead_changes_how_a_site_is_supplied(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("quay", "/stores")
    page.get_by_role("button", name=re.compile("Gullskerry is supplied: Tue by boat, 4 days")).click()
    sheet = page.get_by_role("dialog")
    assert axe(page) == []
    sheet.get_by_label("Fri").check()
    sheet.get_by_label("What carries it").fill("van")
    sheet.get_by_label("Days under way").fill("400")
    sheet.get_by_role("button", name="Change it").click()
    expect(sheet.get_by_text("0 to 365 days were wanted")).to_be_visible()
    sheet.get_by_label("Days under way").fill("3")
    sheet.get_by_role("button", name="Change it").click()
    expect(page.get_by_role("button", name=re.compile("Gullskerry is supplied: Tue and Fri by van, 3 days"))).to_be_visible()


def test_a_lead_keeps_a_part_up(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("quay", "/stores/OF-P14/ELD")
    plate(page).get_by_role("button", name="Edit OF-P14").click()
    sheet = page.get_by_role("dialog")
    sheet.get_by_label("Price of one").fill("20.50")
    sheet.get_by_label("Lead time Ostrel Spares states, days").fill("soon")
    assert axe(page) == []
    sheet.get_by_role("button", name="Change it").click()
    expect(sheet.get_by_text("days such as 21, or 18:0.25;21:0.75, were wanted")).to_be_visible()
    sheet.get_by_label("Lead time Ostrel Spares states, days").fill("21")
    sheet.get_by_role("button", name="Change it").click()
    expect(sheet).to_have_count(0)
    plate(page).get_by_role("button", name="Edit OF-P14").click()
    expect(sheet).to_contain_text("price 19.00 → 20.50, M. Quay")


def test_a_recovered_part_is_tested_into_stock(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("pell", "/stores/LM-8266/ELD")
    recovered = plate(page).get_by_role("table", name="Recovered")
    expect(recovered.get_by_role("row")).to_have_count(2)
    recovered.get_by_role("button", name=re.compile("^Tested good")).first.click()
    expect(plate(page)).to_contain_text("recovered and tested, counted with their age")
    recovered.get_by_role("button", name=re.compile("^Tested worn")).first.click()
    expect(recovered.get_by_role("row")).to_have_count(1)
    assert axe(page) == []


def test_parts_are_handed_out_to_a_job_and_a_job_waits_for_one(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("pell", "/bench/new?tag=SK-0417")
    page.get_by_label("Fan, left").check()
    page.get_by_label("looked, none of these").check()
    page.get_by_label("What was noticed").fill("fan grinds")
    page.get_by_role("button", name="Open the job and go to the bench").click()
    page.wait_for_url(re.compile(r"/bench/\d+/run"))
    page.goto(page.url.removesuffix("/run"))
    hands = page.get_by_role("region", name="Parts in the job's hands")
    hands.get_by_label(re.compile("^Hand out, from")).fill("NO-1")
    hands.get_by_role("button", name="Hand out").click()
    expect(hands.get_by_role("alert")).to_contain_text("no part has the number NO-1")
    hands.get_by_label(re.compile("^Hand out, from")).fill("OF-P14")
    hands.get_by_role("button", name="Hand out").click()
    expect(hands).to_contain_text("1 part OF-P14")
    assert axe(page) == []
    hands.get_by_role("button", name="Give back OF-P14").click()
    expect(hands).not_to_contain_text("1 part OF-P14")


def test_other_parts_stand_behind_the_four_kinds(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("quay", "/outlook")
    others = page.get_by_role("region", name="Other parts")
    expect(others.get_by_role("row", name=re.compile("Mainboard, Packet 14, 16 GB"))).to_contain_text("none was ever drawn: a lead decides")
    assert axe(page) == []
    others.get_by_role("link", name="Mainboard, Packet 14, 16 GB").click()
    expect(plate(page).get_by_role("heading", name="Mainboard, Packet 14, 16 GB")).to_be_visible()
