"""The Rates tab in the browser."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.conftest import SignIn

Axe = Callable[[Page], list[dict[str, Any]]]


def test_each_kind_says_how_it_dies_and_why(sign_in: SignIn) -> None:
    page = sign_in("ledger")
    page.keyboard.press("6")
    plate = page.get_by_role("region", name="Kind", exact=True)
    expect(plate.get_by_role("heading", name="Battery")).to_be_visible()
    expect(plate.get_by_text("all but 2%, shape 2.9")).to_be_visible()
    expect(plate.get_by_text("failures come with age")).to_be_visible()
    shapes = plate.get_by_role("region", name="Shape by part")
    expect(shapes).to_contain_text("No part is known to fail in another way than its kind.")
    expect(shapes.get_by_role("row").filter(has_text="OB-P14-60")).to_contain_text(re.compile(r"130\.9\D*[23]\.\d\d"))
    beside = plate.get_by_role("region", name="Damage, and draws on suspicion")
    expect(beside.get_by_role("row")).to_have_count(7)
    beside.get_by_role("button", name=re.compile("Show all")).click()
    expect(beside.get_by_role("row")).not_to_have_count(7)
    page.get_by_role("navigation", name="Kinds").get_by_role("link", name="SSD").click()
    expect(plate.get_by_text(re.compile(r"carries \d+%, a constant rate \d+%"))).to_be_visible()
    expect(plate.get_by_text("the forecast is the average of both")).to_be_visible()
    page.keyboard.press("t")
    expect(plate.get_by_role("columnheader", name="survival")).to_be_visible()
    plate.get_by_role("link", name="open finding").click()
    expect(page.get_by_role("heading", name="Ledger")).to_be_visible()
    expect(page).to_have_url(re.compile("kind=ssd"))


def test_a_lead_states_what_is_believed_and_takes_it_back(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("quay", "/rates/fan")
    page.get_by_role("button", name="state what is believed").click()
    sheet = page.get_by_role("dialog")
    sheet.get_by_label("Of 100, so many fail in a year").fill("8")
    sheet.get_by_role("button", name="State it").click()
    expect(sheet).to_contain_text("how sure: as if how many failures had been seen")
    assert axe(page) == []
    sheet.get_by_label("As sure as if I had seen so many fail").fill("5")
    sheet.get_by_role("button", name="State it").click()
    belief = "fan, 8 of 100 a year, as sure as if 5 failures had been seen"
    expect(page.get_by_text(f"Begins from a belief: {belief}")).to_be_visible()
    page.keyboard.press("1")
    expect(page.get_by_text(f"Begins from what is believed: {belief}.")).to_be_visible()
    page.keyboard.press("6")
    page.get_by_role("navigation", name="Kinds").get_by_role("link", name="Fan").click()
    page.get_by_role("button", name="change", exact=True).click()
    sheet.get_by_role("button", name="I do not know: take it back").click()
    expect(page.get_by_text("Nothing is stated to begin from.")).to_be_visible()


def test_others_state_nothing(sign_in: SignIn) -> None:
    page = sign_in("pell", "/rates/fan")
    expect(page.get_by_role("heading", name="Fan")).to_be_visible()
    expect(page.get_by_role("button", name="state what is believed")).to_have_count(0)


@pytest.mark.parametrize("lamp", [False, True])
def test_everybody_can_read_the_rates(sign_in: SignIn, axe: Axe, lamp: bool) -> None:
    page = sign_in("ledger", "/rates/fan")
    expect(page.get_by_role("heading", name="Fan")).to_be_visible()
    page.evaluate("(on) => document.documentElement.classList.toggle('lamp', on)", lamp)
    assert axe(page) == []


def test_the_past_is_forecast_and_held_against_what_was_drawn(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("ledger", "/rates/fan")
    page.get_by_role("link", name="How well the forecasts have done").click()
    expect(page.get_by_text(re.compile(r"of the counts of the past \d+ quarters"))).to_be_visible()
    page.get_by_role("region", name="Marks").get_by_role("link", name="Battery").click()
    plate = page.get_by_role("region", name="Chosen kind")
    expect(plate.get_by_role("heading", name="Battery")).to_be_visible()
    page.keyboard.press("t")
    expect(plate.get_by_role("columnheader", name="share of the counts")).to_be_visible()
    assert axe(page) == []


def test_the_data_check_leads_to_the_rows(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("ledger", "/rates")
    page.get_by_role("link", name="Data check").click()
    expect(page.get_by_role("heading", name="Data check")).to_be_visible()
    page.get_by_role("link", name=re.compile("Open for more than")).click()
    rows = page.get_by_role("region", name="Rows", exact=True)
    expect(rows.get_by_role("heading", name=re.compile("Open for more than"))).to_be_visible()
    assert axe(page) == []
    rows.get_by_role("link", name="entry").first.click()
    expect(page).to_have_url(re.compile(r"/ledger/\d+"))


def test_a_rate_leads_to_its_lives_and_they_to_the_log(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("ledger", "/rates/fan")
    expect(page.get_by_role("heading", name="How fast they age")).to_be_visible()
    expect(page.get_by_role("row", name=re.compile("round the clock 2.0"))).to_be_visible()
    page.get_by_role("link", name=re.compile("Lives of BF-C20-S in Brindwell Counter 20, two shifts, dust")).click()
    expect(page.get_by_role("heading", name="BF-C20-S in Brindwell Counter 20")).to_be_visible()
    expect(page.get_by_text("18 confirmed failures")).to_be_visible()
    assert axe(page) == []
    page.get_by_role("link", name="failed, confirmed").first.click()
    expect(page).to_have_url(re.compile(r"/ledger/\d+"))


def test_readings_are_followed_and_one_can_be_written_down(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("pell", "/outlook/OB-H12-38")
    wear = page.get_by_role("region", name="Followed by readings")
    expect(wear.get_by_text("The forecast takes the readings.")).to_be_visible()
    page.keyboard.press("t")
    expect(wear.get_by_role("columnheader", name="half by")).to_be_visible()
    tag = wear.get_by_role("row").nth(1).get_by_role("cell").first.inner_text()
    before = int(wear.get_by_role("row").nth(1).get_by_role("cell").nth(1).inner_text())
    wear.get_by_role("button", name="Write a reading down").click()
    sheet = page.get_by_role("dialog")
    sheet.get_by_label("Asset tag").fill("NOBODY")
    sheet.get_by_label("Full capacity, Wh").fill("27")
    sheet.get_by_label("Design capacity, Wh").fill("38")
    sheet.get_by_role("button", name="Keep the reading").click()
    expect(sheet.get_by_text("no part is on record in battery of NOBODY")).to_be_visible()
    assert axe(page) == []
    sheet.get_by_label("Asset tag").fill(tag)
    sheet.get_by_role("button", name="Keep the reading").click()
    expect(sheet).to_be_hidden()
    expect(wear.get_by_role("row", name=re.compile(f"{tag} {before + 1} 71%"))).to_be_visible()
