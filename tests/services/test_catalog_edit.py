"""Keeping parts and suppliers up: what is changed holds, what it was stays on record, and nothing is changed by looking."""

from __future__ import annotations

from dataclasses import replace
from datetime import date
from decimal import Decimal

import pytest
from sqlalchemy import text
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from almanac.services.catalog_edit import PartEdit, edit_part, read_part
from almanac.services.clock import Clock
from almanac.services.errors import NotFound, Refused, Stale
from almanac.services.outlook.summary import read_builder

PART = "OB-P14-60"


def changed(session: Session, clock: Clock, wanted: PartEdit, *, expected: int | None = None) -> int:
    known = read_part(session, PART).number_of_changes if expected is None else expected
    return edit_part(session, PART, wanted, expected_changes=known, clock=clock, author_id=1)


def test_what_is_read_and_written_unchanged_is_unchanged(session: Session, clock: Clock) -> None:
    before = read_part(session, PART)
    assert changed(session, clock, before.edit) == 0
    assert read_part(session, PART) == before


def test_what_is_changed_holds_and_what_it_was_stays_on_record(session: Session, clock: Clock) -> None:
    was = read_part(session, PART).edit
    wanted = replace(
        was,
        price=Decimal("64.50"),
        pack=2,
        minimum_order=2,
        warranty_days=None,
        end_of_supply_on=date(2028, 1, 31),
        breaks=[(40, Decimal("60.00"))],
        lead_time="20:0.5; 30:0.5",
    )
    assert changed(session, clock, wanted) == 7
    found = read_part(session, PART)
    assert (found.edit.price, found.edit.pack, list(found.edit.breaks)) == (Decimal("64.50"), 2, [(40, Decimal("60.00"))])
    said = {row.field: (row.before, row.after, row.author) for row in found.changes}
    assert said["price"] == ("61.00", "64.50", "M. Quay")
    assert said["sold until"] == ("not known", "31 Jan 2028", "M. Quay")
    assert said["days of warranty"] == ("365", "not known", "M. Quay")
    assert said["price breaks"] == ("20:58.50; 60:55.00", "40:60.00", "M. Quay")
    assert said["stated lead time"][1] == "20:0.5; 30:0.5"
    line = next(row for row in read_builder(session).rows() if row.part.number == PART)
    assert (line.policy.pack, line.part.price) == (2, Decimal("64.50"))
    with pytest.raises(DBAPIError, match="append-only"), session.begin_nested():
        session.execute(text("DELETE FROM catalog_change"))


def test_the_lead_time_of_a_supplier_is_that_of_its_other_parts(session: Session, clock: Clock) -> None:
    found = read_part(session, PART)
    assert found.shared_by > 3
    changed(session, clock, replace(found.edit, lead_time="40"))
    other = read_part(session, "OF-P14")
    assert other.edit.lead_time == "40"
    assert [row.field for row in other.changes] == ["stated lead time"]


def test_the_same_lead_time_typed_otherwise_is_no_change(session: Session, clock: Clock) -> None:
    was = read_part(session, PART).edit
    assert changed(session, clock, replace(was, lead_time=was.lead_time.replace("; ", ";  ").replace("0.25", "0.250"))) == 0
    assert read_part(session, PART).number_of_changes == 0


def test_two_who_edit_are_told(session: Session, clock: Clock) -> None:
    was = read_part(session, PART).edit
    changed(session, clock, replace(was, price=Decimal(70)))
    with pytest.raises(Stale, match="changed meanwhile"):
        changed(session, clock, replace(was, price=Decimal(71)), expected=0)


@pytest.mark.parametrize(
    ("wrong", "field"),
    [
        ({"name": "  "}, "name"),
        ({"price": Decimal(-1)}, "price"),
        ({"pack": 0}, "pack"),
        ({"minimum_order": 0}, "minimum_order"),
        ({"shelf_life_days": 0}, "shelf_life_days"),
        ({"warranty_days": 20_001}, "warranty_days"),
        ({"breaks": [(10, Decimal(1)), (10, Decimal(2))]}, "breaks"),
        ({"breaks": [(1, Decimal(1))]}, "breaks"),
        ({"lead_time": "soon"}, "lead_time"),
        ({"lead_time": "20:0.5"}, "lead_time"),
    ],
)
def test_what_cannot_be_names_its_place(session: Session, clock: Clock, wrong: dict[str, object], field: str) -> None:
    was = read_part(session, PART)
    with pytest.raises(Refused) as caught:
        changed(session, clock, replace(was.edit, **wrong))  # type: ignore[arg-type]
    assert [fault.field for fault in caught.value.faults] == [field]
    assert read_part(session, PART) == was


def test_a_part_nobody_has(session: Session) -> None:
    with pytest.raises(NotFound):
        read_part(session, "NO-1")
