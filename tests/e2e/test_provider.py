"""Signing in through the company's identity provider, in the browser: there, back to the page that was wanted, and refused in words."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from almanac.exchange.provider import Provider
from almanac.launch.cluster import Cluster
from almanac.services.provided import groups_of
from almanac.standins.provider import Simulated
from almanac.web.outside import BACK, Outside, Through
from tests.conftest import PASSWORDS
from tests.e2e import conftest
from tests.simulated import served


@pytest.fixture
def simulated() -> Iterator[Simulated]:
    with served() as provider:
        yield provider


@pytest.fixture
def address(cluster: Cluster, demo_template: str, simulated: Simulated) -> Iterator[str]:
    def outside(own: str) -> Outside:
        provider = Provider(simulated.issuer, "Harbour ID", "parts-almanac", "a secret", "groups", own + BACK)
        return Outside(through=Through(provider, groups_of("it-leads=lead; bench-gul=technician@GUL; office=reader")))

    with conftest.served(cluster, demo_template, outside) as found:
        yield found


def test_the_way_there_and_back(page: Page, address: str, axe: Callable[[Page], list[dict[str, Any]]]) -> None:
    page.set_default_timeout(90_000)
    page.goto(f"{address}/company/people")
    there = page.get_by_role("link", name="Sign in with Harbour ID")
    expect(there).to_be_visible()
    assert axe(page) == []
    there.click()
    page.get_by_role("link", name="J. Holm").click()
    expect(page.get_by_role("alert")).to_contain_text("none of your groups there may work here")
    assert axe(page) == []
    there.click()
    page.get_by_role("link", name="T. Fenn").click()
    page.goto(f"{address}/company/people")
    expect(page.get_by_role("row", name=re.compile("T. Fenn"))).to_contain_text("with Harbour ID")
    page.get_by_role("button", name="Act on T. Fenn").click()
    page.get_by_role("menuitem", name="Name, role, sites").click()
    expect(page.get_by_role("dialog")).to_contain_text("follows their groups at the provider")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Act on R. Pell").click()
    page.get_by_role("menuitem", name="May sign in with Harbour ID").click()
    expect(page.get_by_role("row", name=re.compile("R. Pell"))).to_contain_text("may come with Harbour ID")
    page.get_by_role("button", name="When sign-ins end").click()
    expect(page.get_by_role("dialog").get_by_label(re.compile("that nobody uses ends after so many hours"))).to_have_value("168")
    assert axe(page) == []
    page.keyboard.press("Escape")
    page.get_by_role("button", name=re.compile("T. Fenn, lead")).click()
    page.get_by_role("menuitem", name="Sign out").click()
    page.get_by_label("Login").fill("quay")
    page.get_by_label("Password").fill(PASSWORDS["quay"])
    page.keyboard.press("Enter")
    page.get_by_role("navigation", name="Tabs").wait_for()


def test_the_page_that_was_wanted_comes_back(page: Page, address: str) -> None:
    page.set_default_timeout(90_000)
    page.goto(f"{address}/ledger?kind=fan")
    page.get_by_role("link", name="Sign in with Harbour ID").click()
    page.get_by_role("link", name="A. Wick").click()
    expect(page.get_by_role("heading", name="Ledger")).to_be_visible()
    expect(page).to_have_url(f"{address}/ledger?kind=fan")
    expect(page.get_by_text("A. Wick, reader")).to_be_visible()
