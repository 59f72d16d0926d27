"""A machine kept up by hand: changed, moved, retired and brought back, with its history."""

from __future__ import annotations

from dataclasses import replace
from datetime import date, timedelta
from typing import Any

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.services.errors import NotFound, Refused, Stale
from almanac.services.fleet.edit import By, MachineEdit, edit_machine, reinstate, retire, send_machine
from almanac.services.fleet.machine import MachinePage, read_machine

TAG = "SK-0417"


def page(session: Session, clock: Clock) -> MachinePage:
    session.flush()
    session.expire_all()
    return read_machine(session, TAG, clock)


def by(session: Session, clock: Clock) -> By:
    return By(clock, 1, read_machine(session, TAG, clock).number_of_changes)


def as_it_is(session: Session, clock: Clock) -> MachineEdit:
    asset = read_machine(session, TAG, clock).asset
    return MachineEdit(asset.serial, asset.duty, asset.retire_planned_on)


def rows(session: Session) -> list[str]:
    session.flush()
    found: list[str] = []
    for table in ("asset", "asset_stay", "tenure"):
        found.extend(session.execute(text(f"SELECT row_to_json(x)::text FROM {table} x ORDER BY id")).scalars())
    return found


def test_the_page_tells_what_is_in_it_and_what_happened(session: Session, clock: Clock) -> None:
    found = read_machine(session, TAG.lower(), clock)
    assert found.site_code == "TER"
    assert [part.row.label for part in found.held] == ["Memory slot A", "Drive", "Battery", "Fan, left"]
    pack = found.held[2]
    assert pack.age_days == (clock.today - pack.row.fitted_on).days
    assert found.lacking == ["On-board memory"]
    assert [event.day for event in found.events] == sorted((event.day for event in found.events), reverse=True)
    assert {event.what for event in found.events} == {"incident", "fitted", "removed", "stands"}
    with pytest.raises(NotFound):
        read_machine(session, "NOPE", clock)


def test_what_is_read_and_written_unchanged_is_unchanged(session: Session, clock: Clock) -> None:
    before = rows(session)
    assert edit_machine(session, TAG, as_it_is(session, clock), by(session, clock)) == 0
    assert rows(session) == before


def test_it_is_changed_with_its_history(session: Session, clock: Clock) -> None:
    seen = by(session, clock)
    wanted = replace(as_it_is(session, clock), serial=" SN-1 ", duty="round_the_clock", retire_planned_on=None)
    assert edit_machine(session, TAG, wanted, seen) == 3
    found = page(session, clock)
    assert (found.asset.serial, found.asset.duty, found.asset.retire_planned_on) == ("SN-1", "round_the_clock", None)
    assert {(row.field, row.after) for row in found.changes} == {
        ("serial", "SN-1"), ("use", "round the clock"), ("to be retired on", "not known"),
    }  # fmt: skip
    with pytest.raises(Stale):
        edit_machine(session, TAG, wanted, seen)


@pytest.mark.parametrize(
    ("wanted", "field", "words"),
    [
        ({"serial": "x" * 61}, "serial", "up to 60"), ({"duty": "night"}, "duty", "office_hours"),
        ({"retire_planned_on": date(2020, 1, 1)}, "retire_planned_on", "went into service"), ({"serial": "other"}, "serial", "has this serial"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_told_at_its_place(session: Session, clock: Clock, wanted: dict[str, Any], field: str, words: str) -> None:
    if wanted.get("serial") == "other":
        wanted = {"serial": session.execute(text("SELECT serial FROM asset WHERE tag = 'SK-0001'")).scalar()}
    with pytest.raises(Refused, match=words) as refused:
        edit_machine(session, TAG, replace(as_it_is(session, clock), **wanted), by(session, clock))
    assert refused.value.faults[0].field == field


def test_it_moves_and_not_before_it_came(session: Session, clock: Clock) -> None:
    on = clock.today - timedelta(days=3)
    send_machine(session, TAG, "gul", on, by(session, clock))
    found = page(session, clock)
    assert found.site_code == "GUL"
    assert found.events[0][:3] == (on, "stands", "Gullskerry")
    assert found.changes[0].after == "Gullskerry"
    for site, day, words in (
        ("GUL", clock.today, "stands at Gullskerry already"), ("ELD", on, "a later day was wanted"), ("NOP", clock.today, "no site has the code"),
        ("ELD", clock.today + timedelta(days=1), "in the future"),
    ):  # fmt: skip
        with pytest.raises(Refused, match=words):
            send_machine(session, TAG, site, day, by(session, clock))


def test_it_is_retired_with_what_it_holds_and_brought_back_whole(session: Session, clock: Clock) -> None:
    before = rows(session)
    retire(session, TAG, clock.today, by(session, clock))
    found = page(session, clock)
    assert found.asset.retired_on == clock.today
    assert found.held == []
    with pytest.raises(Refused, match="was retired on"):
        retire(session, TAG, clock.today, by(session, clock))
    with pytest.raises(Refused, match="bring it back first"):
        send_machine(session, TAG, "GUL", clock.today, by(session, clock))
    reinstate(session, TAG, by(session, clock))
    session.expire_all()
    assert rows(session) == before
    assert [row.after for row in page(session, clock).changes] == ["in use", "1 Nov 2026"]
    with pytest.raises(Refused, match="it is in use"):
        reinstate(session, TAG, by(session, clock))


def test_what_failed_on_the_day_it_left_stays_failed(session: Session, clock: Clock) -> None:
    """A part that an incident took out on that day is not put back with the rest."""
    incident = session.execute(
        text("""SELECT i.occurred_on FROM incident i JOIN asset a ON a.id = i.asset_id JOIN event_revision r ON r.incident_id = i.id
                JOIN event_line l ON l.revision_id = r.id WHERE a.tag = :tag AND l.action <> 'kept' ORDER BY i.occurred_on DESC LIMIT 1"""),
        {"tag": TAG},
    ).scalar()
    assert incident is not None
    gone = "SELECT count(*) FROM tenure t JOIN asset a ON a.id = t.asset_id WHERE a.tag = :tag AND t.removed_on IS NOT NULL"
    before = session.execute(text(gone), {"tag": TAG}).scalar()
    retire(session, TAG, incident, by(session, clock))
    reinstate(session, TAG, by(session, clock))
    assert session.execute(text(gone), {"tag": TAG}).scalar() == before


def test_with_an_open_job_it_stays(session: Session, clock: Clock) -> None:
    session.execute(
        text("""INSERT INTO job (asset_id, model_id, site_id, page_revision_id, purpose, state, symptom, events, plan, planned_minutes,
                                 opened_on, opened_at)
                SELECT a.id, a.model_id, y.site_id, r.id, 'repair', 'parked', 'dark', '[]', '{}', 10, '2026-10-20', '2026-10-20T08:00Z'
                FROM asset a JOIN asset_stay y ON y.asset_id = a.id AND y.until_on IS NULL
                JOIN model_revision r ON r.model_id = a.model_id WHERE a.tag = :tag ORDER BY r.number DESC LIMIT 1"""),
        {"tag": TAG},
    )
    with pytest.raises(Refused, match="a job is open on it"):
        retire(session, TAG, clock.today, by(session, clock))
