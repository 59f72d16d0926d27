"""Keeping sites, suppliers and the company up: what is changed holds, what it was stays on record, and looking changes nothing."""

from __future__ import annotations

from dataclasses import replace
from datetime import date, timedelta

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.services.company_edit import (
    CompanyPage,
    Described,
    SiteEdit,
    SupplierEdit,
    add_site,
    add_supplier,
    edit_company,
    edit_site,
    edit_supplier,
    read_company,
)
from almanac.services.errors import NotFound, Refused, Stale


def page(session: Session, clock: Clock) -> CompanyPage:
    return read_company(session, clock)


def site_edit(session: Session, clock: Clock, code: str = "GUL") -> tuple[SiteEdit, int]:
    row = next(one for one in page(session, clock).sites if one.site.code == code)
    site = row.site
    return SiteEdit(site.name, site.time_zone, site.environment, site.log_began_on), row.number_of_changes


def test_what_is_read_and_written_unchanged_is_unchanged(session: Session, clock: Clock) -> None:
    before = page(session, clock)
    wanted, number = site_edit(session, clock)
    assert edit_site(session, "GUL", wanted, expected_changes=number, clock=clock, author_id=1) == 0
    supplier = before.suppliers[0]
    same = SupplierEdit(supplier.supplier.name, supplier.lead_time)
    assert edit_supplier(session, supplier.supplier.id, same, expected_changes=0, clock=clock, author_id=1) == 0
    assert edit_company(session, before.described, expected_changes=0, clock=clock, author_id=1) == 0
    assert page(session, clock).changes == before.changes


def test_a_site_is_renamed_with_its_history(session: Session, clock: Clock) -> None:
    wanted, number = site_edit(session, clock)
    edit = replace(wanted, name="Gullskerry North", environment="dust")
    assert edit_site(session, "gul", edit, expected_changes=number, clock=clock, author_id=1) == 2
    again = page(session, clock)
    assert next(row.site.name for row in again.sites if row.site.code == "GUL") == "Gullskerry North"
    assert {(subject, row.field, row.after) for subject, row in again.changes} == {
        ("site GUL", "name", "Gullskerry North"), ("site GUL", "air", "dust"),
    }  # fmt: skip
    with pytest.raises(Stale):
        edit_site(session, "GUL", edit, expected_changes=number, clock=clock, author_id=1)
    with pytest.raises(NotFound):
        edit_site(session, "NOP", edit, expected_changes=0, clock=clock, author_id=1)


def watched(session: Session, code: str) -> list[tuple[date, date]]:
    query = text("""SELECT t.fitted_on, t.observed_from FROM tenure t JOIN asset a ON a.id = t.asset_id
                    JOIN asset_stay y ON y.asset_id = a.id AND y.until_on IS NULL JOIN site s ON s.id = y.site_id
                    WHERE s.code = :code AND t.removed_on IS NULL ORDER BY t.id""")
    return [(row.fitted_on, row.observed_from) for row in session.execute(query, {"code": code})]


def test_a_log_that_began_earlier_watches_from_then_and_back_again(session: Session, clock: Clock) -> None:
    wanted, number = site_edit(session, clock)
    before = watched(session, "GUL")
    began = wanted.log_began_on
    earlier = began - timedelta(days=200)
    edit_site(session, "GUL", replace(wanted, log_began_on=earlier), expected_changes=number, clock=clock, author_id=1)
    after = watched(session, "GUL")
    assert after == [(fitted, max(fitted, earlier) if seen == max(fitted, began) else seen) for fitted, seen in before]
    assert after != before
    edit_site(session, "GUL", wanted, expected_changes=number + 1, clock=clock, author_id=1)
    assert watched(session, "GUL") == before


def test_a_log_cannot_begin_after_what_it_tells(session: Session, clock: Clock) -> None:
    wanted, number = site_edit(session, clock)
    for day, words in ((clock.today, "an incident of"), (clock.today + timedelta(days=1), "up to today"), (date(1926, 1, 1), "1926")):
        with pytest.raises(Refused, match=words):
            edit_site(session, "GUL", replace(wanted, log_began_on=day), expected_changes=number, clock=clock, author_id=1)


def test_a_new_site_and_the_first_of_all_is_the_depot(session: Session, empty_session: Session, clock: Clock) -> None:
    new = SiteEdit("Farhaven", "UTC", "office", date(2026, 9, 1), code="far")
    assert add_site(session, new, clock=clock, author_id=1) == "FAR"
    added = next(row.site for row in page(session, clock).sites if row.site.code == "FAR")
    assert (added.is_depot, added.log_began_on) == (False, date(2026, 9, 1))
    for wrong, words in (
        (replace(new, name="Other"), "FAR is another"), (replace(new, code="X1"), "another's name"), (replace(new, code="!", name="N"), "two to eight"),
        (replace(new, code="Y1", name="N", time_zone="Nowhere"), "IANA"), (replace(new, code="Y1", name="N", environment="swamp"), "one of"),
    ):  # fmt: skip
        with pytest.raises(Refused, match=words):
            add_site(session, wrong, clock=clock, author_id=1)
    assert add_site(empty_session, new, clock=clock, author_id=None) == "FAR"  # type: ignore[arg-type]
    assert page(empty_session, clock).sites[0].site.is_depot


def test_suppliers_are_added_and_changed(session: Session, clock: Clock) -> None:
    number = add_supplier(session, SupplierEdit("Tangle Parts", "18:0.25; 21:0.75"), clock=clock, author_id=1)
    assert edit_supplier(session, number, SupplierEdit("Tangle Spares", "20"), expected_changes=1, clock=clock, author_id=1) == 2
    row = next(one for one in page(session, clock).suppliers if one.supplier.id == number)
    assert (row.supplier.name, row.lead_time, row.parts) == ("Tangle Spares", "20", 0)
    taken = page(session, clock).suppliers[0].supplier.name
    for wanted, words in (
        (SupplierEdit(taken, "20"), "another's name"),
        (SupplierEdit("N", "soon"), "days such as"),
        (SupplierEdit(" ", "20"), "a name"),
    ):
        if taken != "Tangle Spares" or words != "another's name":
            with pytest.raises(Refused, match=words):
                add_supplier(session, wanted, clock=clock, author_id=1)
    with pytest.raises(NotFound):
        edit_supplier(session, 10**6, SupplierEdit("N", "20"), expected_changes=0, clock=clock, author_id=1)


def test_the_company_is_described_anew(session: Session, clock: Clock) -> None:
    before = page(session, clock).described
    assert edit_company(session, Described("Skerry Boats", before.currency, "UTC"), expected_changes=0, clock=clock, author_id=1) >= 1
    again = page(session, clock)
    assert again.described.name == "Skerry Boats"
    assert again.changes[0][0] == "company"
    assert session.execute(text("SELECT author_id FROM setting WHERE key = 'company_name' ORDER BY id DESC LIMIT 1")).scalar() == 1
    with pytest.raises(Refused, match="currency code"):
        edit_company(session, Described("S", "Euro", "UTC"), expected_changes=again.number_of_changes, clock=clock, author_id=1)
