"""A machine list in the browser: from an ugly file to a difference, applied, looked at again, and undone."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

import pytest
from playwright.sync_api import Page, expect
from sqlalchemy import text
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
    page.get_by_role("link", name="Lists as you have them").click()
    page.get_by_label("The day it was made").fill("2026-10-30")
    page.get_by_label("File", exact=False).set_input_files({"name": "Geräte.csv", "mimeType": "text/csv", "buffer": ugly})
    taken = page.get_by_role("region", name="What it is taken for")
    expect(taken).to_contain_text("text with semicolons")
    expect(taken).to_contain_text("Taken for a machine list with ")
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
    expect(applied).to_contain_text("4 changes are taken back.")
    page.get_by_role("button", name="Look again").click()
    expect(difference).to_contain_text("1 is new; 1 has moved; 2 are gone")


def test_a_technician_applies_no_list(sign_in: SignIn) -> None:
    page = sign_in("pell", "/import/lists")
    expect(page.get_by_text("Applying lists needs the role lead.")).to_be_visible()
    expect(page.get_by_label("File")).to_have_count(0)


SHELVES = """Lagerliste;;;;;;
Stand 30.10.2026;;;;;;
Artikel-Nr.;Bezeichnung;Lieferant;EK-Preis;Lieferzeit;Lagerort;Bestand
OB-P14-60;;;64,50 €;;Elderport?;9
OF-P14;;;;;ELD;3
NP-100;Ersatzakku 57 Wh;Tangle Parts;1.071,20 €;;ELD;4
NP-101;Lüfter Wisp 13;Tangle Parts;12,40 €;;ELD;2
"""


def test_a_shelf_list_with_prices_asks_what_decides_and_is_undone(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("quay", "/import/lists")
    page.get_by_label("The day it was made").fill("2026-11-01")
    content = SHELVES.encode("cp1252")
    page.get_by_label("File", exact=False).set_input_files({"name": "Lager.csv", "mimeType": "text/csv", "buffer": content})
    taken = page.get_by_role("region", name="What it is taken for")
    expect(taken).to_contain_text("Taken for a list of parts or shelves with 4 parts")
    taken.get_by_label(re.compile("Where it lies “Elderport")).select_option("ELD")
    taken.get_by_label(re.compile("are they ours")).select_option("+")
    taken.get_by_label(re.compile("Who sells it “Tangle Parts”")).select_option("+")
    taken.get_by_role("spinbutton", name=re.compile("Days until an order comes from “Tangle Parts”")).fill("17")
    assert axe(page) == []
    taken.get_by_role("button", name=re.compile("^Say so: Days")).click()
    difference = page.get_by_role("region", name="What it changes")
    difference.get_by_role("button", name="The list is not of all: leave them").click()
    expect(difference).to_contain_text("Ersatzakku 57 Wh; battery; 1071.20 from Tangle Parts")
    expect(difference).to_contain_text("4 parts there; nobody had booked any")
    assert axe(page) == []
    difference.get_by_role("button", name=re.compile("^Apply [0-9]+ changes")).click()
    expect(difference).to_contain_text("Applied.")
    applied = page.get_by_role("region", name="Applied lists")
    expect(applied).to_contain_text("Storeroom, list of 1 Nov 2026: 5 new")
    applied.get_by_role("button", name=re.compile("^Undo the list")).first.click()
    expect(applied).to_contain_text("On record all the same, with nothing in it: NP-100, NP-101.")


def test_tickets_are_reviewed_by_two_keys_and_enter_open(sign_in: SignIn, axe: Axe, address: str, cluster: Cluster) -> None:  # noqa: ARG001
    engine = connect(cluster.url("browser"))
    with Session(engine) as session:
        tag = session.execute(
            text("""SELECT a.tag FROM tenure t JOIN asset a ON a.id = t.asset_id JOIN position p ON p.id = t.position_id
                    WHERE p.kind = 'battery' AND t.removed_on IS NULL AND t.fitted_on < '2025-06-01' AND a.retired_on IS NULL
                      AND NOT EXISTS (SELECT 1 FROM incident i WHERE i.asset_id = a.id AND i.occurred_on > '2025-06-01')
                      AND (SELECT count(*) FROM position o WHERE o.model_id = a.model_id AND o.kind = 'battery') = 1
                    ORDER BY t.id LIMIT 1""")
        ).scalar()
    engine.dispose()
    rows = [
        "Ticket;Asset tag;Created;Description;Resolution",
        f"T-1;{tag};2026-03-03 10:00;battery and keyboard wet;battery renewed and keyboard cleaned",
        f"T-2;{tag};2026-06-03 10:00;odd smell in the room;fixed",
        f"T-3;{tag};2026-08-03 10:00;Akku leer;Akku getauscht",
    ]
    page = sign_in("quay", "/import/lists")
    page.get_by_label("The day it was made").fill("2026-11-01")
    page.get_by_label("File", exact=False).set_input_files(
        {"name": "tickets.csv", "mimeType": "text/csv", "buffer": "\n".join(rows).encode()}
    )
    taken = page.get_by_role("region", name="What it is taken for")
    expect(taken).to_contain_text("Taken for a list of tickets with 3 tickets")
    assert axe(page) == []
    taken.get_by_label(re.compile("battery and keyboard wet")).press("y")
    expect(taken.get_by_label(re.compile("odd smell"))).to_be_focused()
    taken.get_by_label(re.compile("odd smell")).press("n")
    difference = page.get_by_role("region", name="What it changes")
    expect(difference).to_contain_text("2 are new")
    difference.get_by_role("button", name="Apply 2 changes").click()
    expect(difference).to_contain_text("Applied.")
    applied = page.get_by_role("region", name="Applied lists")
    expect(applied).to_contain_text("Help desk, list of 1 Nov 2026: 2 new")
    applied.get_by_role("button", name=re.compile("^Undo the list")).first.click()
    expect(applied).to_contain_text("3 changes are taken back.")
