"""People in the browser: a lead adds one, who chooses a password by the link; one who is ended is out with the next click."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

from playwright.sync_api import Browser, Page, expect

from tests.e2e.conftest import SignIn

Axe = Callable[[Page], list[dict[str, Any]]]
PASSWORD = "a long enough password"


def act(page: Page, name: str, what: str) -> None:
    page.get_by_role("button", name=f"Act on {name}").click()
    page.get_by_role("menuitem", name=what).click()


def test_a_person_is_added_welcomed_bound_and_ended(sign_in: SignIn, browser: Browser, axe: Axe) -> None:
    page = sign_in("quay", "/outlook")
    page.get_by_role("button", name=re.compile("Skerry Line")).click()
    page.get_by_role("menuitem", name="People", exact=True).click()
    page.get_by_role("button", name="Add a person").click()
    page.get_by_label("Login").fill("dunn")
    page.get_by_label("Name", exact=True).fill("Mara Dunn")
    page.get_by_label("Gullskerry").check()
    assert axe(page) == []
    page.get_by_role("button", name="Add", exact=True).click()
    link = page.get_by_label("The link").input_value()
    page.get_by_role("button", name="Done").click()
    row = page.get_by_role("row", name=re.compile("Mara Dunn"))
    expect(row).to_contain_text("GUL")
    expect(row).to_contain_text("link open until")
    assert axe(page) == []

    theirs = browser.new_context(bypass_csp=True)
    other = theirs.new_page()
    other.goto(link)
    expect(other.get_by_text("Welcome, Mara Dunn")).to_be_visible()
    other.get_by_label("Password", exact=True).fill(PASSWORD)
    other.get_by_label("Password again").fill("something else")
    other.get_by_role("button", name="Choose it and sign in").click()
    expect(other.get_by_text("the two differ")).to_be_visible()
    assert axe(other) == []
    other.get_by_label("Password again").fill(PASSWORD)
    other.get_by_role("button", name="Choose it and sign in").click()
    other.get_by_role("navigation", name="Tabs").wait_for()
    again = theirs.new_page()
    again.goto(link)
    expect(again.get_by_role("alert")).to_contain_text("this link opens nothing")

    act(page, "Mara Dunn", "Signs in no more")
    page.get_by_role("button", name="End it").click()
    expect(page.get_by_role("row", name=re.compile("Mara Dunn"))).to_contain_text("sign in no more")
    other.get_by_role("link", name="Stores").click()
    expect(other.get_by_text("You were signed out")).to_be_visible()
    other.get_by_label("Login").fill("dunn")
    other.get_by_label("Password").fill(PASSWORD)
    other.get_by_role("button", name="Sign in").click()
    expect(other.get_by_text("login and password do not match")).to_be_visible()
    page.get_by_role("button", name="Take back Mara Dunn").click()
    expect(page.get_by_label("The link")).not_to_have_value(link)
    page.get_by_role("button", name="Done").click()
    theirs.close()

    page.get_by_role("link", name="What people did").click()
    expect(page.get_by_role("row", name=re.compile("ended a person dunn"))).to_be_visible()
    page.get_by_label("What", exact=True).select_option("sign_ins")
    page.get_by_label("Words in it").fill("dunn")
    expect(page.get_by_role("row", name=re.compile("failed to sign in dunn"))).to_be_visible()
    expect(page.get_by_role("row", name=re.compile("ended a person"))).to_have_count(0)
    assert axe(page) == []
    with page.expect_download() as file:
        page.get_by_role("link", name="As a file (CSV)").click()
    written = file.value.path().read_text(encoding="utf-8-sig")
    assert "failed to sign in,dunn" in written
    assert "ended a person" not in written


def test_people_are_a_leads(sign_in: SignIn) -> None:
    page = sign_in("pell", "/company/people")
    expect(page.get_by_text("This needs the role lead")).to_be_visible()
