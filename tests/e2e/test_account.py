"""One's own account in the browser."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from playwright.sync_api import Page, expect

from tests.conftest import PASSWORDS
from tests.e2e.conftest import SignIn

NEW = "another long password"


def test_a_reader_ends_a_sign_in_elsewhere_and_takes_another_password(sign_in: SignIn, axe: Callable[[Page], list[dict[str, Any]]]) -> None:
    page = sign_in("ledger")
    page.get_by_role("button", name="A. Ledger, reader").click()
    page.get_by_role("menuitem", name="Your account").click()
    expect(page.get_by_text("Only here.")).to_be_visible()
    assert axe(page) == []
    page.get_by_label("Present password").fill(PASSWORDS["ledger"])
    page.get_by_label("New password", exact=True).fill(NEW)
    page.get_by_label("New password again").fill("something else here")
    page.get_by_role("button", name="Change it").click()
    expect(page.get_by_text("the two differ")).to_be_visible()
    page.get_by_label("New password again").fill(NEW)
    page.get_by_label("Present password").fill("not the present one")
    page.get_by_role("button", name="Change it").click()
    expect(page.get_by_text("that is not your present password")).to_be_visible()
    page.get_by_label("Present password").fill(PASSWORDS["ledger"])
    page.get_by_role("button", name="Change it").click()
    expect(page.get_by_text("Changed.")).to_be_visible()
    expect(page.get_by_label("Present password")).to_have_value("")
