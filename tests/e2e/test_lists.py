"""A machine list in the browser: from an ugly file to a difference, applied, looked at again, and undone."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

import pytest
from playwright.sync_api import Page, expect
from sqlalchemy.orm import Session

from almanac.launch.cluster import Cluster
from almanac.store.engine import connect
from tests.e2e.conftest import SignIn
from tests.services.ugly import as_csv, rows_of

Axe = Callable[[Page], list[dict[str, Any]]]


@pytest.fixture
def ugly(address: str, cluster: Cluster) -> bytes:  # noqa: ARG001
    """The demo's machines, one moved, one scrapped, one missing, one new, and a printer."""
    engine = connect(cluster.url("browser"))
    with Session(engine) as session:
        rows = rows_of(session)
    engine.dispose()
    rows[0][3] = "Gulskerry" if rows[0][3] != "Gullskerry" else "Brakenquay"
    rows[1][6] = "verschrottet"
    del rows[2]
    rows.append(["SK-9200", "Ostrel", "Packet 14", "Ternhaven", "12.10.2026", "", ""])
    rows.append(["PR-0001", "Laserwerk", "Printer 900", "Ternhaven", "01.02.2024", "", ""])
    return as_csv(rows)


def test_a_list_is_understood_applied_and_undone(sign_in: SignIn, axe: Axe, ugly: bytes) -> None:
    page = sign_in("quay", "/import")
    page.get_by_role("link", name="machine list as you have it").click()
    page.get_by_label("The day it was made").fill("2026-10-30")
    page.get_by_label("File", exact=False).set_input_files({"name": "Geräte.csv", "mimeType": "text/csv", "buffer": ugly})
    taken = page.get_by_role("region", name="What it is taken for")
    expect(taken).to_contain_text("text with semicolons")
    expect(taken).to_contain_text("Taken for: ")
    assert axe(page) == []
    taken.get_by_label(re.compile("Model “Laserwerk Printer 900”")).select_option("-")
    difference = page.get_by_role("region", name="What it changes")
    expect(difference).to_contain_text("1 machine stands on record at sites of this list")
    expect(difference.get_by_role("button", name=re.compile("^Apply"))).to_be_disabled()
    difference.get_by_role("button", name="Retired on 30 Oct 2026").click()
    expect(difference).to_contain_text("1 is new; 1 has moved; 2 are gone")
    assert axe(page) == []
    difference.get_by_role("button", name="Apply 4 changes").click()
    expect(difference).to_contain_text("Applied.")
    applied = page.get_by_role("region", name="Applied lists")
    expect(applied).to_contain_text("Asset register, list of 30 Oct 2026: 1 new, 1 moved, 2 gone")
    applied.get_by_role("button", name=re.compile("^Undo the list")).click()
    expect(applied).to_contain_text("4 machines are as before.")
    page.get_by_role("button", name="Look again").click()
    expect(difference).to_contain_text("1 is new; 1 has moved; 2 are gone")


def test_a_technician_applies_no_list(sign_in: SignIn) -> None:
    page = sign_in("pell", "/import/machines")
    expect(page.get_by_text("Applying lists needs the role lead.")).to_be_visible()
    expect(page.get_by_label("File")).to_have_count(0)
