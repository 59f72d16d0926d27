"""Orders in the browser: drafted from the outlook, asked for and approved, the supplier's five answers, received and undone."""

from __future__ import annotations

import json
import re
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.e2e.conftest import SignIn

Axe = Callable[[Page], list[dict[str, Any]]]
OPEN = "/stores/orders/PO-2026-025"
"""Three fans of which the supplier can send one."""


def plate(page: Page) -> Locator:
    return page.get_by_role("region", name="Chosen order")


def test_the_orders_of_today_are_drafted_changed_and_sent(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("quay", "/outlook")
    page.get_by_role("button", name=re.compile("^Draft .* an order a supplier")).click()
    expect(plate(page).get_by_role("heading", name=re.compile("^Draft"))).to_be_visible()
    assert axe(page) == []
    drafts = page.get_by_role("table", name="Not sent yet").get_by_role("row")
    expect(drafts.nth(1)).to_be_visible()
    field = plate(page).get_by_label(re.compile("^Parts of ")).first
    field.fill(str(int(field.input_value()) * 3))
    plate(page).get_by_role("button", name="Save the lines").click()
    expect(plate(page).get_by_role("button", name="Save the lines")).to_have_count(0)
    send = plate(page).get_by_role("button", name=re.compile("^(Send|Ask for approval)$"))
    expect(send).to_be_visible()
    if send.inner_text() == "Send":
        send.click()
        expect(plate(page).get_by_role("heading", name=re.compile("^Order PO-2026-"))).to_be_visible()
        expect(plate(page)).to_contain_text("not confirmed")
    page.goto(page.url.split("/stores")[0] + "/outlook")
    expect(page.get_by_text(re.compile("in a draft already")).first).to_be_visible()


def test_an_order_is_mailed_and_says_how_it_went(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("quay", OPEN)
    plate(page).get_by_role("button", name="Send by mail").click()
    page.get_by_label("To, the supplier's address").fill("orders@brindwell.example")
    page.get_by_label("From, the company's address").fill("stores@skerry.example")
    assert axe(page) == []
    page.get_by_role("button", name="Send it").click()
    expect(page.get_by_text("Done: put into the outbox folder: no mail server is set up.")).to_be_visible()
    page.keyboard.press("Escape")
    expect(plate(page)).to_contain_text("mailed to orders@brindwell.example")


def test_what_the_bench_asks_for_is_approved_by_a_lead(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("pell", "/stores/orders")
    plate(page).get_by_label("Part number").fill("OX-P14")
    plate(page).get_by_label("Parts").fill("4")
    plate(page).get_by_role("button", name="Put in a draft").click()
    plate(page).get_by_role("button", name="Ask for approval").click()
    expect(plate(page)).to_contain_text("Waits for a lead to approve it")
    expect(plate(page).get_by_role("button", name="Approve and send")).to_have_count(0)
    address = page.url[page.url.index("/stores") :]
    page.context.clear_cookies()
    page.close()
    page = sign_in("quay", address)
    assert axe(page) == []
    plate(page).get_by_role("button", name="Refuse").click()
    expect(plate(page).get_by_role("alert")).to_contain_text("say why")
    plate(page).get_by_role("button", name="Approve and send").click()
    expect(plate(page).get_by_role("heading", name=re.compile("^Order PO-2026-"))).to_be_visible()
    expect(plate(page)).to_contain_text("by R. Pell, approved by M. Quay")


def test_an_offer_of_the_supplier_is_settled(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("quay", OPEN)
    offers = plate(page).get_by_role("region", name="To settle")
    expect(offers).to_contain_text("can send 1 only")
    assert axe(page) == []
    offers.get_by_role("button", name="Cancel them all").click()
    expect(offers.get_by_role("alert")).to_contain_text("say why they will not come")
    offers.get_by_role("button", name="Take these, cancel the rest").click()
    expect(offers).to_have_count(0)
    expect(plate(page).get_by_role("row", name=re.compile("Fan, Packet 14"))).to_contain_text("2 cancelled, 1 to come")


@pytest.mark.parametrize(
    ("said", "place"),
    [
        ("confirms it", "confirmed"),
        ("names another day", "moved to"),
        ("can send fewer", "can send 2 only"),
        ("would send another part", "would send LM-8320 instead"),
        ("asks another price", "asks EUR 25.92 each"),
    ],
)
def test_each_of_the_five_answers_has_its_place(sign_in: SignIn, said: str, place: str) -> None:
    page = sign_in("quay", "/stores/orders")
    plate(page).get_by_label("Part number").fill("LM-8266")
    plate(page).get_by_label("Parts").fill("4")
    plate(page).get_by_role("button", name="Put in a draft").click()
    plate(page).get_by_role("button", name="Send", exact=True).click()
    plate(page).get_by_role("button", name="The supplier answered").click()
    sheet = page.get_by_role("dialog")
    sheet.get_by_role("button", name=said, exact=True).click()
    expect(sheet).to_have_count(0)
    expect(plate(page)).to_contain_text(place)


def test_answers_are_typed_or_read_and_receipts_undone(sign_in: SignIn, axe: Axe, tmp_path: Path) -> None:
    page = sign_in("pell", OPEN)
    plate(page).get_by_role("button", name="The supplier answered").click()
    sheet = page.get_by_role("dialog")
    assert axe(page) == []
    sheet.get_by_label("It", exact=True).select_option(label="can send fewer")
    sheet.get_by_label("How many they can send").fill("3")
    sheet.get_by_role("button", name="Put on record").click()
    expect(sheet.get_by_text("say how many they can send: 0 to 2")).to_be_visible()
    file = tmp_path / "answer.json"
    entry = {"part_number": "OF-P14", "answer": "moved", "expected_on": "2026-12-04"}
    file.write_text(json.dumps({"format": "parts-almanac-order-answer/1", "order": "PO-2026-025", "answers": [entry]}))
    sheet.get_by_label("Or read its file").set_input_files(file)
    expect(sheet).to_have_count(0)
    expect(plate(page).get_by_role("row", name=re.compile("Fan, Packet 14"))).to_contain_text("4 Dec")
    plate(page).get_by_role("button", name="Receive Fan, Packet 14").click()
    sheet.get_by_label("Parts that arrived").fill("2")
    sheet.get_by_label("Serials").fill("F-100 F-100")
    sheet.get_by_role("button", name="Receive", exact=True).click()
    expect(sheet.get_by_text("F-100 stands there twice")).to_be_visible()
    sheet.get_by_label("Serials").fill("F-100 F-101")
    sheet.get_by_role("button", name="Receive", exact=True).click()
    expect(sheet).to_have_count(0)
    expect(plate(page)).to_contain_text("partly received")
    plate(page).get_by_role("button", name=re.compile("Undo: 2 OF-P14 received")).click()
    sheet.get_by_label("Why").fill("they were for the other order")
    sheet.get_by_role("button", name="Undo").click()
    expect(plate(page)).to_contain_text("receipt of 2 OF-P14 undone: they were for the other order")
    expect(plate(page)).not_to_contain_text("partly received")
