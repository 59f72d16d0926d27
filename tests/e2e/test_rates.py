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
    expect(plate.get_by_text("They wear out: shape 2.9")).to_be_visible()
    expect(plate.get_by_text("failures come with age")).to_be_visible()
    page.get_by_role("navigation", name="Kinds").get_by_role("link", name="SSD").click()
    expect(plate.get_by_text("They fail at one rate, whatever their age.")).to_be_visible()
    page.keyboard.press("t")
    expect(plate.get_by_role("columnheader", name="survival")).to_be_visible()
    plate.get_by_role("link", name="open finding").click()
    expect(page.get_by_role("heading", name="Ledger")).to_be_visible()
    expect(page).to_have_url(re.compile("kind=ssd"))


@pytest.mark.parametrize("lamp", [False, True])
def test_everybody_can_read_the_rates(sign_in: SignIn, axe: Axe, lamp: bool) -> None:
    page = sign_in("ledger", "/rates/fan")
    expect(page.get_by_role("heading", name="Fan")).to_be_visible()
    page.evaluate("(on) => document.documentElement.classList.toggle('lamp', on)", lamp)
    assert axe(page) == []
