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
