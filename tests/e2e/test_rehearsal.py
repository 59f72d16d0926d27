"""The rehearsal, the curve of money and what is decided about a part, in the browser, by keyboard where a hand would drag."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

from playwright.sync_api import Page, expect

from tests.e2e.conftest import SignIn

Axe = Callable[[Page], list[dict[str, Any]]]
SLOW = 300_000


def test_rules_are_played_beside_the_plan_and_an_aim_is_taken_over(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("quay", "/outlook")
    page.get_by_role("link", name="Rehearsal", exact=True).click()
    expect(page.get_by_role("heading", name="The plan")).to_be_visible(timeout=SLOW)
    expect(page.get_by_text(re.compile("95 was the aim"))).to_be_visible()
    row = page.get_by_role("row").filter(has_text="Aim: 98 of 100")
    expect(row).to_contain_text("±", timeout=SLOW)
    expect(page.get_by_role("row").filter(has_text="Aim: 95 of 100")).to_have_count(0)
    expect(page.get_by_role("row").filter(has_text="Shelves kept as they stand today")).to_contain_text("±", timeout=SLOW)
    assert axe(page) == []
    row.get_by_role("button").click()
    expect(page.get_by_text(re.compile("Beside the plan: .* fewer lost a year"))).to_be_visible()
    page.get_by_role("button", name="Make this the company's aim").click()
    assert axe(page) == []
    page.get_by_role("button", name="Make it the company's aim").click()
    expect(page.get_by_text(re.compile("98 was the aim"))).to_be_visible(timeout=SLOW)
    page.get_by_role("link", name="Back to the outlook").click()
    expect(page.get_by_role("button", name=re.compile("98% met at once"))).to_be_visible(timeout=SLOW)


def test_a_sum_is_chosen_by_the_keyboard_and_its_aims_are_used_and_given_back(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("quay", "/outlook")
    page.get_by_role("link", name="Money", exact=True).click()
    slider = page.get_by_role("slider")
    slider.wait_for(timeout=SLOW)
    before = int(slider.get_attribute("aria-valuenow") or 0)
    slider.press("ArrowRight")
    expect(page).to_have_url(re.compile(r"sum=\d+"))
    expect(slider).not_to_have_attribute("aria-valuenow", str(before))
    field = page.get_by_label(re.compile("Money tied up, EUR")).last
    field.fill("26000")
    field.press("Enter")
    expect(page.get_by_text("At €26,000 on shelves and boats")).to_be_visible()
    assert axe(page) == []
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Use these aims").click()
    page.get_by_role("button", name="Use them").click()
    back = page.get_by_role("button", name="All by the company's aim again")
    expect(back).to_be_visible(timeout=SLOW)
    back.click()
    page.get_by_role("button", name="Give them up").click()
    expect(back).to_have_count(0, timeout=SLOW)


def test_a_part_is_bought_when_needed_where_a_lead_says_why(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("quay", "/outlook/OF-P15-S")
    decided = page.get_by_role("region", name="Decisions")
    expect(decided).to_contain_text("Last buy: 12 more parts", timeout=SLOW)
    expect(decided).to_contain_text("It is worth keeping.")
    decided.get_by_role("button", name="change").click()
    page.get_by_label("Gullskerry").check()
    page.get_by_role("button", name="Decide").click()
    expect(page.get_by_text("say why it is bought when needed")).to_be_visible()
    assert axe(page) == []
    page.get_by_label("Why").fill("One machine, and the boat goes twice a week")
    page.get_by_role("button", name="Decide").click()
    expect(decided).to_contain_text("Bought when needed at Gullskerry. Why: One machine", timeout=SLOW)
    expect(page.get_by_role("row").filter(has_text="Gullskerry").filter(has_text="when needed")).to_be_visible()
    decided.get_by_role("button", name="change").click()
    page.get_by_label("Gullskerry").uncheck()
    page.get_by_role("button", name="Decide").click()
    expect(decided).not_to_contain_text("Bought when needed at", timeout=SLOW)


def test_a_reader_looks_and_decides_nothing(sign_in: SignIn) -> None:
    page = sign_in("ledger", "/outlook/money")
    page.get_by_role("slider").wait_for(timeout=SLOW)
    expect(page.get_by_role("button", name="Use these aims")).to_have_count(0)
    page.goto(page.url.replace("/outlook/money", "/outlook/OF-P15-S"))
    expect(page.get_by_role("region", name="Decisions")).to_be_visible(timeout=SLOW)
    expect(page.get_by_role("region", name="Decisions").get_by_role("button")).to_have_count(0)


def test_a_scenario_is_rehearsed_beside_the_plan(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("quay", "/outlook/what-if")
    page.get_by_label("Model", exact=True).select_option(label="Quillfin Drydock 15")
    page.get_by_role("button", name="Add the change").click()
    expect(page.get_by_role("region", name="What would follow")).to_contain_text("fewer", timeout=SLOW)
    page.get_by_role("button", name="Rehearse it").click()
    played = page.get_by_role("table", name=re.compile("Rehearsed: 2 years"))
    expect(played.get_by_role("row").filter(has_text="Met at once")).to_contain_text("±", timeout=SLOW)
    assert axe(page) == []
