"""Sites and suppliers kept up in the browser."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

from playwright.sync_api import Page, expect

from tests.e2e.conftest import SignIn

Axe = Callable[[Page], list[dict[str, Any]]]


def test_a_lead_keeps_sites_and_suppliers_up(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("quay", "/outlook")
    page.get_by_role("button", name=re.compile("Skerry Line")).click()
    page.get_by_role("menuitem", name="Sites and suppliers").click()
    sites = page.get_by_role("region", name="Sites")
    expect(sites).to_contain_text("Widdershaw")
    assert axe(page) == []
    sites.get_by_role("button", name="Change Widdershaw").click()
    sheet = page.get_by_role("dialog")
    sheet.get_by_label("Repairs written down since").fill("2026-11-01")
    sheet.get_by_role("button", name="Change it").click()
    expect(sheet).to_contain_text("is on record there: the log began no later")
    assert axe(page) == []
    sheet.get_by_label("Repairs written down since").fill("2021-11-01")
    sheet.get_by_label("Name").fill("Widdershaw Pier")
    sheet.get_by_role("button", name="Change it").click()
    expect(sites).to_contain_text("Widdershaw Pier")
    expect(page.get_by_role("region", name="Changed lately")).to_contain_text("site WID: name Widdershaw → Widdershaw Pier, M. Quay")
    sites.get_by_role("button", name="Change Widdershaw Pier").click()
    sheet.get_by_label("Name").fill("Widdershaw")
    sheet.get_by_role("button", name="Change it").click()
    expect(sites.get_by_role("button", name="Change Widdershaw", exact=True)).to_be_visible()
    page.get_by_role("button", name="Add a supplier").click()
    sheet.get_by_label("Name").fill("Tangle Parts")
    sheet.get_by_label("Days until an order comes").fill("soon")
    sheet.get_by_role("button", name="Add it").click()
    expect(sheet).to_contain_text("days such as 21")
    sheet.get_by_label("Days until an order comes").fill("18:0.25; 21:0.75")
    sheet.get_by_role("button", name="Add it").click()
    expect(page.get_by_role("region", name="Suppliers")).to_contain_text("18 (25%), 21 (75%)")


def test_others_read_and_change_nothing(sign_in: SignIn) -> None:
    page = sign_in("pell", "/company")
    expect(page.get_by_role("region", name="Sites")).to_contain_text("Eldermouth")
    expect(page.get_by_role("button", name=re.compile("^Change|^Add a"))).to_have_count(0)


def test_the_tour_leads_to_every_stop_and_words_are_explained(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("ledger", "/outlook")
    page.get_by_role("button", name=re.compile("A. Ledger")).click()
    page.get_by_role("menuitem", name="Tour").click()
    stops = page.get_by_role("listitem").get_by_role("link")
    expect(stops).to_have_count(9)
    assert axe(page) == []
    for place in range(9):
        name = stops.nth(place).inner_text()
        stops.nth(place).click()
        expect(page.get_by_role("heading").first).to_be_visible()
        expect(page.get_by_text(re.compile("No such|cannot be shown|Not to be seen"))).to_have_count(0)
        page.goto(page.url.split("/", 3)[0] + "//" + page.url.split("/", 3)[2] + "/tour")
        expect(stops.nth(place)).to_have_text(name)
    page.get_by_role("link", name="words").click()
    expect(page.get_by_role("heading", name="Words")).to_be_visible()
    assert axe(page) == []


def test_the_first_day_of_a_company_that_has_told_all(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("quay", "/first-day")
    steps = page.get_by_role("listitem")
    expect(steps).to_have_count(7)
    expect(steps.first).to_contain_text(re.compile("(told|in part): [0-9,]+ machines of [0-9]+ models at 6 sites"))
    assert axe(page) == []
