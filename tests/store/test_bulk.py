"""Many rows at once: copied or inserted, they are the same; what the record refuses is refused in one way."""

from __future__ import annotations

from datetime import date
from typing import Any

import pytest
from sqlalchemy import select, text
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from almanac.core.parts.kinds import Duty
from almanac.store.bulk import FEW, add_rows, among, new_ids
from almanac.store.models import Asset, Tenure, Unit


def machines(session: Session, many: int) -> list[dict[str, Any]]:
    model = session.scalar(text("SELECT min(id) FROM device_model"))
    ids = new_ids(session, Asset, many)
    return [
        {"id": number, "tag": f"B-{number}", "serial": None, "model_id": model, "options": {"radio": "yes, “new”", "n": 1},
         "duty": Duty.TWO_SHIFTS, "in_service_on": date(2024, 2, 29), "retire_planned_on": None, "retired_on": None}
        for number in ids
    ]  # fmt: skip


@pytest.mark.parametrize("many", [1, FEW, FEW + 1, 3 * FEW])
def test_rows_are_there_as_they_were_given_however_many(session: Session, many: int) -> None:
    rows = machines(session, many)
    add_rows(session, Asset, rows)
    found = session.scalars(select(Asset).where(among(Asset.id, [row["id"] for row in rows])).order_by(Asset.id)).all()
    assert [{name: getattr(asset, name) for name in rows[0]} for asset in found] == rows
    assert session.scalar(select(Asset.id).where(among(Asset.tag, [rows[-1]["tag"], "nobody"]))) == rows[-1]["id"]


def test_what_is_not_named_takes_its_default_and_balances_follow(session: Session) -> None:
    part = session.scalar(text("SELECT min(id) FROM part"))
    rows = [{"part_id": part, "serial": f"S-{number}", "received_on": None} for number in range(FEW + 5)]
    add_rows(session, Unit, rows)
    found = session.execute(
        text("SELECT condition, count(*) FROM unit WHERE serial LIKE 'S-%' AND part_id = :p GROUP BY 1"), {"p": part}
    ).all()
    assert [(row[0], row[1]) for row in found] == [("new", FEW + 5)]
    assert Tenure.__table__.c.as_delivered.default is not None


@pytest.mark.parametrize("many", [2, FEW + 2])
def test_a_row_that_the_record_refuses_is_an_integrity_error_either_way(session: Session, many: int) -> None:
    rows = machines(session, many)
    rows[-1]["tag"] = rows[0]["tag"]
    with pytest.raises(IntegrityError), session.begin_nested():
        add_rows(session, Asset, rows)
    assert session.scalar(text("SELECT count(*) FROM asset WHERE tag LIKE 'B-%'")) == 0


def test_one_statement_asks_for_more_than_it_takes_parameters(session: Session) -> None:
    every = session.scalars(select(Asset.id).where(among(Asset.id, range(70_000)))).all()
    assert len(every) == session.scalar(text("SELECT count(*) FROM asset"))
