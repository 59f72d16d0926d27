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
