"""The Stores tab in the browser: what lies where, moved, counted, promised, undone; by keyboard, and readable by everybody."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path
from typing import Any

from playwright.sync_api import Locator, Page, expect

from tests.e2e.conftest import SignIn

Axe = Callable[[Page], list[dict[str, Any]]]
PART = "/stores/OF-P14/ELD"


def plate(page: Page) -> Locator:
    return page.get_by_role("region", name="Chosen shelf")


def standing(page: Page) -> int:
    row = plate(page).get_by_role("row", name=re.compile("^On the shelf"))
    return int(row.get_by_role("cell").last.inner_text())


def test_a_transfer_is_packed_leaves_and_arrives_short(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("pell", PART)
    expect(plate(page).get_by_role("heading", name="Fan, Packet 14")).to_be_visible()
    before = standing(page)
    assert axe(page) == []
    page.get_by_role("button", name="Transfer").click()
    sheet = page.get_by_role("dialog")
    sheet.get_by_label("To", exact=True).select_option(label="Gullskerry")
    sheet.get_by_label("Parts").fill("999")
    sheet.get_by_role("button", name="Pack").click()
    expect(sheet.get_by_text(re.compile(rf"{before} lie free at Eldermouth: name 1 to {before}"))).to_be_visible()
    sheet.get_by_label("Parts").fill("2")
    sheet.get_by_role("button", name="Pack").click()
    expect(sheet).to_have_count(0)
    expect(plate(page).get_by_role("row", name=re.compile("^On the shelf"))).to_contain_text(str(before - 2))
    expect(page.get_by_role("button", name=re.compile("Fan, Packet 14 at Gullskerry: .*2 coming"))).to_be_visible()
    page.keyboard.press("4")
    expect(page.get_by_role("heading", name="Under way and to settle")).to_be_visible()
    row = plate(page).get_by_role("row", name=re.compile("Fan, Packet 14"))
    row.get_by_role("button", name="Left", exact=True).click()
    expect(plate(page)).to_contain_text("left 1 Nov, due 5 Nov")
    assert axe(page) == []
    row.get_by_role("button", name="Arrived").click()
    sheet.get_by_label("Parts that arrived").fill("1")
    sheet.get_by_role("button", name="Put on the shelf").click()
    expect(sheet.get_by_text(re.compile("1 part did not arrive"))).to_be_visible()
    sheet.get_by_label("What is known of the rest").fill("one got wet")
    sheet.get_by_role("button", name="Put on the shelf").click()
    expect(plate(page).get_by_role("row", name=re.compile("Fan, Packet 14"))).to_have_count(0)


def test_what_the_next_boat_takes_is_packed_line_by_line(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("pell", "/stores")
    pack = page.get_by_role("button", name="Pack 1 Pack H14, 15.2 V, 52 Wh for Gullskerry", exact=True)
    expect(pack).to_be_visible()
    assert axe(page) == []
    transfers = plate(page).get_by_role("table", name="Transfers").get_by_role("row")
    before = transfers.count()
    pack.click()
    expect(transfers).to_have_count(before + 1)
    expect(pack).to_have_count(0)
    expect(transfers.filter(has_text="Pack H14")).to_contain_text("ELD to GUL, packed 1 Nov")


def test_a_dear_difference_waits_for_a_lead_who_did_not_count(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("pell", PART)
    expect(plate(page).get_by_role("heading", name="Fan, Packet 14")).to_be_visible()
    before = standing(page)
    page.get_by_role("button", name="Count", exact=True).click()
    sheet = page.get_by_role("dialog")
    expect(sheet).not_to_contain_text(f"{before} are booked")
    sheet.get_by_label("Parts that lie there").fill("0")
    sheet.get_by_role("button", name="Book the count").click()
    expect(sheet.get_by_text(f"{before} are booked: say what may have happened")).to_be_visible()
    sheet.get_by_label("What may have happened, if they differ").fill("the box is empty")
    assert axe(page) == []
    sheet.get_by_role("button", name="Book the count").click()
    expect(sheet).to_have_count(0)
    assert standing(page) == before
    page.context.clear_cookies()
    lead = sign_in("quay", "/stores")
    expect(lead.get_by_text(f"{before} booked, 0 counted")).to_be_visible()
    lead.get_by_role("row", name=re.compile(f"{before} booked, 0 counted")).get_by_role("button", name="Book it").click()
    expect(lead.get_by_text(f"{before} booked, 0 counted")).to_have_count(0)
    lead.goto(lead.url.split("/stores")[0] + PART)
    expect(plate(lead).get_by_role("row", name=re.compile("^On the shelf"))).to_contain_text("0")


def test_what_was_done_is_undone_with_its_reason(sign_in: SignIn) -> None:
    page = sign_in("quay", PART)
    expect(plate(page).get_by_role("heading", name="Fan, Packet 14")).to_be_visible()
    before = standing(page)
    page.get_by_role("button", name="Set aside, send back, scrap").click()
    sheet = page.get_by_role("dialog")
    sheet.get_by_label("What").select_option("scrap")
    sheet.get_by_label("Why").fill("bent blades")
    sheet.get_by_role("button", name="Book it").click()
    expect(plate(page).get_by_role("row", name=re.compile("^On the shelf"))).to_contain_text(str(before - 1))
    plate(page).get_by_role("button", name="undo").first.click()
    sheet.get_by_label("Why").fill("the wrong box")
    sheet.get_by_role("button", name="Undo").click()
    expect(plate(page).get_by_role("row", name=re.compile("^On the shelf"))).to_contain_text(str(before))
    expect(plate(page).get_by_role("button", name="undo")).to_have_count(0)


def test_a_reader_sees_the_stores_and_changes_nothing(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("ledger", "/stores")
    page.get_by_label("Show").select_option("below")
    expect(page.get_by_role("button", name=re.compile("missing")).first).to_be_visible()
    assert axe(page) == []
    page.get_by_role("button", name=re.compile("missing")).first.click()
    expect(plate(page).get_by_text(re.compile("the latest first"))).to_be_visible()
    expect(plate(page).get_by_role("button", name="Count", exact=True)).to_have_count(0)


def test_a_scan_opens_the_act_that_fits(sign_in: SignIn) -> None:
    page = sign_in("pell", "/stores")
    field = page.get_by_label("Scan a part, shelf, lot, order or serial")
    field.fill("nothing-there")
    field.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("nothing on record is called nothing-there")
    field.fill("SHELF OF-P14 ELD")
    field.press("Enter")
    sheet = page.get_by_role("dialog")
    expect(sheet.get_by_label("Parts that lie there")).to_be_visible()
    page.keyboard.press("Escape")
    expect(sheet).to_have_count(0)
    field.fill("ORDER PO-2026-025")
    field.press("Enter")
    expect(sheet.get_by_role("heading", name="Receive PO-2026-025")).to_be_visible()
    sheet.get_by_label("Parts that arrived").fill("1")
    sheet.get_by_role("button", name="Receive", exact=True).click()
    expect(sheet).to_have_count(0)
    expect(page.get_by_role("region", name="Chosen order")).to_contain_text("partly received")


def test_a_filled_in_count_sheet_is_read_in(sign_in: SignIn, axe: Axe, tmp_path: Path) -> None:
    page = sign_in("quay", "/stores")
    expect(page.get_by_text(re.compile("The books add up, looked at on"))).to_be_visible()
    page.get_by_role("button", name="Paper and files").click()
    sheet = page.get_by_role("dialog")
    expect(sheet.get_by_role("link", name="Every move as XLSX")).to_be_visible()
    assert axe(page) == []
    file = tmp_path / "counts.csv"
    file.write_text("site,part_number,counted,reason\nELD,OF-P14,x,\n")
    sheet.get_by_label("File to read in").set_input_files(file)
    sheet.get_by_role("button", name="Carry it out").click()
    expect(sheet.get_by_role("alert")).to_contain_text("line 2: counted")
    file.write_text("site,part_number,counted,reason\nELD,OF-P14,3,the box was counted twice\n")
    sheet.get_by_label("File to read in").set_input_files(file)
    sheet.get_by_role("button", name="Carry it out").click()
    expect(sheet.get_by_role("status")).to_contain_text("1 row carried out")
