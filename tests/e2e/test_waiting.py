"""What takes longer than a second says so, counts the seconds, and can be stopped and gone on with."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

from playwright.sync_api import Page, Route, expect

from tests.e2e.conftest import SignIn

Axe = Callable[[Page], list[dict[str, Any]]]


def slow(seconds: float) -> Callable[[Route], None]:
    def late(route: Route) -> None:
        time.sleep(seconds)
        route.continue_()

    return late


def test_an_outlook_that_takes_long_can_be_stopped(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("quay", "/ledger")
    page.route("**/api/v1/outlook", lambda _: None)  # never answered
    page.get_by_role("link", name="Outlook", exact=False).first.click()
    expect(page.get_by_role("progressbar", name="Computing the outlook")).to_be_visible(timeout=10_000)
    assert axe(page) == []
    page.get_by_role("button", name="Stop").click()
    expect(page.get_by_text("Stopped.")).to_be_visible()
    page.unroute("**/api/v1/outlook")
    page.get_by_role("button", name="Go on").click()
    expect(page.get_by_role("heading", name="Outlook")).to_be_visible(timeout=30_000)


def test_figures_stay_on_screen_while_new_ones_are_computed(sign_in: SignIn) -> None:
    page = sign_in("quay", "/outlook")
    expect(page.get_by_role("heading", name="Outlook")).to_be_visible()
    page.route("**/api/v1/outlook?site=TER", slow(3.0))
    page.get_by_role("button", name="All 6 sites").click()
    page.get_by_role("menuitemradio", name="Ternhaven").or_(page.get_by_role("menuitem", name="Ternhaven")).first.click()
    expect(page.get_by_role("progressbar", name="Computing the outlook")).to_be_visible(timeout=10_000)
    expect(page.get_by_role("table").first).to_be_visible()
    expect(page.get_by_role("progressbar", name="Computing the outlook")).to_have_count(0, timeout=30_000)


def test_quick_answers_show_no_progress(sign_in: SignIn) -> None:
    page = sign_in("quay", "/outlook")
    expect(page.get_by_role("heading", name="Outlook")).to_be_visible()
    expect(page.get_by_role("progressbar")).to_have_count(0)
