"""The Ledger tab in the browser: an old log, repeat offenders, shares."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from playwright.sync_api import Page, expect

from tests.e2e.conftest import SignIn

Axe = Callable[[Page], list[dict[str, Any]]]


def test_an_old_log_is_mapped_explained_and_recorded(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("quay", "/ledger/old")
    data = "Machine,When,Component,Verdict\nSK-0031,3.2.2025,drive,kaputt\nSK-0031,x,drive,failed\n"
    page.get_by_label("Old log, CSV or XLSX").set_input_files({"name": "old.csv", "mimeType": "text/csv", "buffer": data.encode()})
    expect(page.get_by_text("0 of 2 rows understood")).to_be_visible()
    assert axe(page) == []
    page.get_by_label("“kaputt”").select_option("confirmed")
    expect(page.get_by_text("1 of 2 rows understood")).to_be_visible()
    expect(page.get_by_text("a day such as 2026-12-04")).to_be_visible()
    good = data.replace("SK-0031,x,drive,failed\n", "")
    page.get_by_label("Old log, CSV or XLSX").set_input_files({"name": "good.csv", "mimeType": "text/csv", "buffer": good.encode()})
    page.get_by_label("“kaputt”").select_option("confirmed")
    page.get_by_role("button", name="Record all 1").click()
    expect(page.get_by_text("1 incident recorded.")).to_be_visible()


def test_repeat_offenders_and_shares_lead_into_the_log(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("ledger", "/ledger")
    page.get_by_role("link", name="No-fault shares").click()
    expect(page.get_by_role("heading", name="No-fault shares")).to_be_visible()
    assert axe(page) == []
    page.get_by_role("link", name="Repeat offenders").click()
    expect(page.get_by_role("heading", name="Repeat offenders")).to_be_visible()
    assert axe(page) == []
    with page.expect_download() as download:
        page.get_by_role("link", name="CSV").click()
    assert download.value.suggested_filename == "failure-log.csv"
