"""What if, in the browser."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

from playwright.sync_api import Page, expect

from tests.e2e.conftest import SignIn

Axe = Callable[[Page], list[dict[str, Any]]]


def test_a_scenario_is_looked_at_kept_and_opened_again(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("quay", "/outlook")
    page.get_by_role("link", name="What if").click()
    page.get_by_label("Model", exact=True).select_option(label="Quillfin Drydock 15")
    page.get_by_role("button", name="Add the change").click()
    follows = page.get_by_role("region", name="What would follow")
    expect(follows).to_contain_text("fewer", timeout=60_000)
    expect(page.get_by_role("list", name="Changes")).to_contain_text("retire all Drydock 15 on 31 Dec 2026")
    follows.get_by_role("button").first.click()
    beside = page.get_by_role("region", name="Beside the plan")
    expect(beside.get_by_text(re.compile("What if: "))).to_be_visible(timeout=60_000)
    assert axe(page) == []
    page.get_by_label("Keep this one as").fill("Docks empty")
    page.get_by_role("button", name="Keep", exact=True).click()
    kept = page.get_by_role("button", name="Docks empty", exact=True)
    expect(kept).to_be_visible()
    page.get_by_role("button", name=re.compile("Take back")).click()
    expect(page.get_by_role("list", name="Changes")).to_have_count(0)
    kept.click()
    expect(page.get_by_role("heading", name="Docks empty")).to_be_visible()
    expect(follows).to_contain_text("fewer")
    page.get_by_role("button", name="Give up Docks empty").click()
    expect(kept).to_have_count(0)


def test_a_swap_goes_from_the_scenario_into_the_plan_and_is_withdrawn(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("quay", "/outlook/what-if")
    plan = page.get_by_role("region", name="Plan of the fleet")
    expect(plan.get_by_role("row")).to_have_count(5)
    page.get_by_label("What if we").select_option("swap")
    page.get_by_label("Model", exact=True).select_option(label="Brindwell Counter 24")
    add = page.get_by_role("button", name="Add the change")
    expect(add).to_be_disabled()
    page.get_by_label("Position").select_option(label="Memory slot B")
    page.get_by_label("New part").select_option("LM-16320")
    page.get_by_label("Site", exact=True).select_option("BRA")
    page.get_by_role("textbox", name="Machines").fill("3")
    add.click()
    expect(page.get_by_role("list", name="Changes")).to_contain_text("put LM-16320 into memory_b of 3 Counter 24 at BRA on 31 Dec 2026")
    expect(page.get_by_role("region", name="What would follow")).to_contain_text("3 more", timeout=60_000)
    plan.get_by_label("Decided because").fill("the till's new release")
    plan.get_by_role("button", name="Put 1 change into the plan").click()
    row = plan.get_by_role("row").filter(has_text="the till's new release")
    expect(row).to_contain_text("put LM-16320 into Memory slot B of 3 Counter 24 at Brackenquay", timeout=60_000)
    expect(row).to_contain_text("M. Quay")
    expect(page.get_by_role("list", name="Changes")).to_have_count(0)
    assert axe(page) == []
    row.get_by_role("button", name="Withdraw").click()
    expect(row).to_have_count(0)


def test_a_reader_sees_the_plan_and_cannot_change_it(sign_in: SignIn) -> None:
    page = sign_in("ledger", "/outlook/what-if")
    plan = page.get_by_role("region", name="Plan of the fleet")
    expect(plan.get_by_role("row")).to_have_count(5)
    expect(plan).to_contain_text("ticket office closes")
    expect(plan.get_by_role("button")).to_have_count(0)


def test_a_hotter_season_stays_a_scenario(sign_in: SignIn) -> None:
    page = sign_in("quay", "/outlook/what-if")
    page.get_by_label("What if we").select_option("season")
    page.get_by_role("button", name="Add the change").click()
    plan = page.get_by_role("region", name="Plan of the fleet")
    expect(plan).to_contain_text("Another duty or a hotter season is no plan")
    expect(plan.get_by_role("button", name="Put 0 changes into the plan")).to_be_disabled()


def test_a_day_that_is_over_is_told_by_name_and_can_be_taken_back(sign_in: SignIn) -> None:
    page = sign_in("quay", "/outlook/what-if")
    page.get_by_label("Model", exact=True).select_option(label="Quillfin Drydock 15")
    page.get_by_label("On", exact=True).fill("2026-10-01")
    page.get_by_label("On", exact=True).press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("a day after 2026-11-01 was wanted, got 2026-10-01")
    page.get_by_role("button", name="Put 1 change into the plan").click()
    plan = page.get_by_role("region", name="Plan of the fleet")
    expect(plan).to_contain_text("a day after 2026-11-01 was wanted")
    expect(plan.get_by_role("row")).to_have_count(5)
    page.get_by_role("button", name=re.compile("Take back")).press("Enter")
    expect(page.get_by_role("alert")).to_have_count(0)
