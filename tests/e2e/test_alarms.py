"""Alarms and fade in the browser: the strip, the chart, a decision and its way back; packs that are read."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

from playwright.sync_api import Page, expect

from tests.e2e.conftest import SignIn

Axe = Callable[[Page], list[dict[str, Any]]]
LOT = "QF-BL-L, lot of 1 Jul 2025"


def test_a_lead_follows_the_strip_accepts_the_lot_and_takes_it_back(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("quay")
    strip = page.get_by_role("list", name="Open alarms")
    expect(strip).to_contain_text(re.compile(r"10 failed of \d+, 1\.\d expected, since"))
    strip.get_by_role("link", name=LOT).click()
    expect(page.get_by_text("1 alarm is open")).to_be_visible()
    plate = page.get_by_role("region", name="Chart", exact=True)
    expect(plate.get_by_role("heading", name=LOT)).to_be_visible()
    would = plate.get_by_role("region", name="What accepting would change")
    expect(would.get_by_role("row").nth(1)).to_contain_text(re.compile(r"QF-BL-L.*→"))
    units = plate.get_by_role("region", name="Units of the lot")
    expect(units.get_by_role("link", name=re.compile("failed, confirmed")).first).to_be_visible()
    assert axe(page) == []
    page.keyboard.press("t")
    expect(plate.get_by_role("columnheader", name="Runs ahead by")).to_be_visible()
    plate.get_by_role("button", name="Accept: a pool of its own").click()
    sheet = page.get_by_role("dialog")
    sheet.get_by_label("Why").fill("no")
    sheet.get_by_role("button", name="Accept it").click()
    expect(sheet).to_contain_text("say in a few words why")
    assert axe(page) == []
    sheet.get_by_label("Why").fill("the supplier recalls it")
    sheet.get_by_role("button", name="Accept it").click()
    expect(page.get_by_text("No alarm is open.")).to_be_visible()
    decided = page.get_by_role("region", name="Decided")
    expect(decided).to_contain_text(re.compile(r"Accepted by M\. Quay: the supplier recalls it"))
    page.get_by_role("link", name="Rates", exact=True).click()
    page.get_by_role("navigation", name="Kinds").get_by_role("link", name="Fan").click()
    pools = page.get_by_role("region", name="Pools")
    expect(pools.get_by_text("lot of 1 Jul 2025").first).to_be_visible()
    pools.get_by_role("row", name=re.compile("lot of 1 Jul 2025")).first.get_by_role("link", name=re.compile("^Lives of")).click()
    expect(page.get_by_text(re.compile("lot of 1 Jul 2025")).first).to_be_visible()
    page.goto(page.url.split("/rates")[0] + "/rates/alarms")
    page.get_by_role("button", name="take it back").click()
    expect(page.get_by_text("1 alarm is open")).to_be_visible()


def test_others_read_alarms_and_decide_nothing(sign_in: SignIn) -> None:
    page = sign_in("ledger", "/rates/alarms")
    expect(page.get_by_text("A lead decides about it.")).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("Accept|Put aside"))).to_have_count(0)
    lots = page.get_by_role("region", name="Lots")
    expect(lots.get_by_role("row").nth(1)).to_contain_text("stands out")
    page.keyboard.press("ArrowDown")
    expect(page).to_have_url(re.compile("chart="))
    page.goto(page.url.split("/rates")[0] + "/rates/alarms?chart=fan~lot~NOPE~2025-01-01")
    expect(page.get_by_role("alert")).to_contain_text("nothing is watched")


def test_packs_that_are_read_say_how_they_fade(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("pell", "/rates/battery")
    page.get_by_role("link", name="Fade").click()
    expect(page.get_by_text(re.compile(r"Of \d+ units that readings speak for, \d+\.\d are expected to be worn"))).to_be_visible()
    plate = page.get_by_role("region", name="How it fades")
    expect(plate.get_by_text(re.compile("A straight fall carries"))).to_be_visible()
    expect(plate.get_by_role("region", name="Units").get_by_role("row").nth(1)).to_contain_text(re.compile(r"\w{3} 202\d"))
    assert axe(page) == []
    page.keyboard.press("t")
    expect(plate.get_by_role("columnheader", name="Age, years")).to_be_visible()
    page.get_by_role("region", name="Parts").get_by_role("link", name="OB-H12-38").click()
    expect(plate.get_by_role("heading", name="OB-H12-38")).to_be_visible()
    plate.get_by_role("link", name="OB-H12-38").click()
    expect(page.get_by_role("link", name="How it fades")).to_be_visible()
