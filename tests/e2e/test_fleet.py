"""A machine's page in the browser."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from playwright.sync_api import Page, expect

from tests.e2e.conftest import SignIn

Axe = Callable[[Page], list[dict[str, Any]]]


def test_a_machine_is_found_read_moved_and_its_retirement_taken_back(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("quay", "/outlook")
    page.keyboard.press("/")
    page.keyboard.type("SK-0417")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="SK-0417")).to_be_visible()
    inside = page.get_by_role("region", name="What is in it")
    expect(inside).to_contain_text("OB-P14-60 Pack P14")
    expect(inside).to_contain_text("warranty ended 11 Feb 2025")
    expect(inside).to_contain_text("Nothing is on record in On-board memory")
    assert axe(page) == []
    page.get_by_role("button", name="Move").click()
    sheet = page.get_by_role("dialog")
    sheet.get_by_label("To").select_option("GUL")
    sheet.get_by_label("On").fill("2024-01-01")
    sheet.get_by_role("button", name="Move it").click()
    expect(sheet).to_contain_text("a later day was wanted")
    assert axe(page) == []
    sheet.get_by_label("On").fill("2026-11-01")
    sheet.get_by_role("button", name="Move it").click()
    expect(page.get_by_text("Stands at Gullskerry")).to_be_visible()
    expect(page.get_by_role("region", name="Changed by hand")).to_contain_text("Ternhaven → Gullskerry, M. Quay")


def test_it_is_retired_by_mistake_and_never_left(sign_in: SignIn) -> None:
    page = sign_in("quay", "/machines/SK-0417")
    page.get_by_role("button", name="Retire").click()
    sheet = page.get_by_role("dialog")
    sheet.get_by_role("button", name="Retire it").click()
    expect(page.get_by_text("retired on 1 Nov 2026")).to_be_visible()
    expect(page.get_by_role("link", name="Open a job")).to_have_count(0)
    page.get_by_role("button", name="It never left").click()
    sheet.get_by_role("button", name="Take the retirement back").click()
    expect(page.get_by_role("link", name="Open a job")).to_be_visible()
    expect(page.get_by_role("region", name="What is in it")).to_contain_text("OB-P14-60")


def test_a_reader_reads_and_changes_nothing(sign_in: SignIn) -> None:
    page = sign_in("ledger", "/machines/sk-0417")
    expect(page.get_by_role("heading", name="SK-0417")).to_be_visible()
    for name in ("Change", "Move", "Retire"):
        expect(page.get_by_role("button", name=name, exact=True)).to_have_count(0)
    expect(page.get_by_role("link", name="Open a job")).to_have_count(0)
