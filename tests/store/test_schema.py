"""What the database itself refuses, and that migrations and models are the same schema."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, date, datetime
from typing import Any

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import Engine, text
from sqlalchemy.exc import DatabaseError, IntegrityError
from sqlalchemy.orm import Session

from almanac.store.models import Asset, AssetStay, Base, Setting, Tenure, Unit

NOW = datetime(2026, 11, 1, tzinfo=UTC)


def _is_ours(_: object, name: str | None, *__: object) -> bool:
    """The queue's tables are its package's own."""
    return not (name or "").startswith("procrastinate_") and not (name or "").startswith("idx_procrastinate")


def test_the_migrations_make_the_models(empty_engine: Engine) -> None:
    with empty_engine.connect() as connection:
        context = MigrationContext.configure(connection, opts={"compare_type": True, "include_object": _is_ours})
        assert compare_metadata(context, Base.metadata) == []


def test_every_constraint_has_a_name(empty_engine: Engine) -> None:
    with empty_engine.connect() as connection:
        unnamed = connection.scalars(
            text("""SELECT conname FROM pg_constraint WHERE connamespace = 'public'::regnamespace
                    AND contype <> 'x' AND conname !~ '^(pk|fk|uq|ck)_' AND conrelid <> 'alembic_version'::regclass AND conrelid::regclass::text NOT LIKE 'procrastinate%'""")
        )
        assert list(unnamed) == []


@pytest.mark.parametrize("table", ["event_revision", "event_line", "stock_move", "receipt", "setting"])
@pytest.mark.parametrize("change", ["UPDATE {0} SET id = id", "DELETE FROM {0}"])
def test_the_record_is_append_only(session: Session, table: str, change: str) -> None:
    if table == "receipt":
        session.execute(
            text(
                "INSERT INTO receipt (line_id, received_on, quantity, recorded_at) SELECT min(id), '2026-10-31', 1, now() FROM purchase_line"
            )
        )
    with pytest.raises(DatabaseError, match=f"{table} is append-only"):
        session.execute(text(change.format(table)))


def _tenure(session: Session, **changes: Any) -> Tenure:
    """A tenure like the first one of the demo, with changes."""
    first = session.get_one(Tenure, session.scalar(text("SELECT min(id) FROM tenure")))
    values = {c.name: getattr(first, c.name) for c in Tenure.__table__.columns if c.name != "id"} | changes
    return Tenure(**values)


def _new_unit(session: Session, part_id: int) -> int:
    unit = Unit(part_id=part_id)
    session.add(unit)
    session.flush()
    return unit.id


def _overlapping_position(session: Session) -> Tenure:
    first = session.get_one(Tenure, session.scalar(text("SELECT min(id) FROM tenure")))
    return _tenure(session, unit_id=_new_unit(session, first.part_id))


def _overlapping_unit(session: Session) -> Tenure:
    first = session.get_one(Tenure, session.scalar(text("SELECT min(id) FROM tenure")))
    other = session.scalar(text("SELECT max(id) FROM position WHERE model_id = :m"), {"m": first.model_id})
    return _tenure(session, position_id=other)


def _other_models_position(session: Session) -> Tenure:
    first = session.get_one(Tenure, session.scalar(text("SELECT min(id) FROM tenure")))
    other = session.scalar(text("SELECT min(id) FROM position WHERE model_id <> :m"), {"m": first.model_id})
    return _tenure(session, unit_id=_new_unit(session, first.part_id), position_id=other)


def _removed_before_fitted(session: Session) -> Tenure:
    return _tenure(
        session, fitted_on=date(2026, 5, 2), observed_from=date(2026, 5, 2), removed_on=date(2026, 5, 1), removal_recorded_at=NOW
    )


def _other_part_than_its_unit(session: Session) -> Tenure:
    first = session.get_one(Tenure, session.scalar(text("SELECT min(id) FROM tenure")))
    past = {"fitted_on": date(2019, 1, 1), "observed_from": date(2019, 1, 1), "removed_on": date(2019, 2, 1), "removal_recorded_at": NOW}
    return _tenure(session, unit_id=_new_unit(session, first.part_id), part_id=first.part_id + 1, **past)


@pytest.mark.parametrize(
    ("make", "constraint"),
    [
        (_overlapping_position, "one_at_a_time"),
        (_overlapping_unit, "one_place_at_a_time"),
        (_other_models_position, "fk_tenure_position_model"),
        (_removed_before_fitted, "removed_after_fitted"),
        (_other_part_than_its_unit, "fk_tenure_unit_part"),
    ],
)
def test_a_tenure_that_cannot_be_is_refused_by_name(session: Session, make: Callable[[Session], Tenure], constraint: str) -> None:
    session.add(make(session))
    with pytest.raises((IntegrityError, DatabaseError), match=constraint):
        session.flush()


def test_an_asset_stands_at_one_site_at_a_time(session: Session) -> None:
    asset = session.get_one(Asset, 1)
    session.add(AssetStay(asset_id=asset.id, site_id=2, from_on=date(2026, 6, 1)))
    with pytest.raises(DatabaseError, match="one_site_at_a_time"):
        session.flush()


def test_two_numbers_of_a_setting_cannot_be_the_same(session: Session) -> None:
    session.add(Setting(scope="company", key="target", number=1, value=0.9, from_on=date(2026, 1, 1), recorded_at=NOW))
    with pytest.raises(IntegrityError, match="uq_setting"):
        session.flush()


def test_positions_belong_to_the_revision_they_are_projected_from(session: Session) -> None:
    written = session.execute(text("SELECT r.model_id, p.model_id AS owner FROM position p JOIN model_revision r ON r.id = p.revision_id"))
    assert all(row.model_id == row.owner for row in written)


def test_a_revision_of_a_page_is_never_changed_or_taken_away(session: Session) -> None:
    for change in ("UPDATE model_revision SET reason = 'x'", "DELETE FROM model_revision"):
        with pytest.raises(IntegrityError, match="append-only"), session.begin_nested():
            session.execute(text(change))
