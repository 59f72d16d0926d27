"""A list of readings: taken as new or corrected ones, and withdrawn as one."""

from __future__ import annotations

from datetime import date

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.services.errors import Refused
from almanac.services.intake.apply import ListRequest, Looked, apply_list, look_at, undo_list
from almanac.services.intake.changes import Change, Group
from almanac.services.intake.settled import Settled
from almanac.services.readings import ReadingRequest, add_reading
from almanac.store.models import Part
from almanac.store.readings import followed_units, readings_held
from tests.services.ugly import LIST_ON, as_csv

HEADER = ["Asset tag", "Date", "Full charge capacity", "Design capacity"]


def request(rows: list[list[str]], header: list[str] = HEADER) -> ListRequest:
    return ListRequest("Management tool", "batteries.csv", as_csv(rows, header, encoding="utf-8", delimiter=","), LIST_ON, Settled())


def of(looked: Looked, group: Group) -> list[Change]:
    return [change for change in looked.difference.changes if change.group is group]


@pytest.fixture
def pack(session: Session) -> tuple[str, int, int]:
    """A machine in service with one pack since long before the list, never read: tag, tenure and part."""
    row = session.execute(
        text("""SELECT a.tag, t.id, t.part_id FROM tenure t JOIN asset a ON a.id = t.asset_id JOIN position p ON p.id = t.position_id
                WHERE p.kind = 'battery' AND t.removed_on IS NULL AND t.fitted_on < '2026-06-01' AND a.retired_on IS NULL
                  AND NOT EXISTS (SELECT 1 FROM reading r WHERE r.tenure_id = t.id)
                  AND (SELECT count(*) FROM tenure o WHERE o.asset_id = a.id AND o.position_id = t.position_id) = 1
                ORDER BY t.id LIMIT 1""")
    ).one()
    return row.tag, row.id, row.part_id


def shares(session: Session, pack: tuple[str, int, int]) -> list[tuple[date, float]]:
    own = [unit for unit in followed_units(session, [pack[2]], as_of=LIST_ON) if unit.row.tenure_id == pack[1]]
    return [(read.day, round(read.share, 4)) for unit in own for read in unit.readings]


def test_readings_are_taken_corrected_and_withdrawn(session: Session, clock: Clock, pack: tuple[str, int, int]) -> None:
    tag = pack[0]
    asked = request([[tag, "2026-07-01", "48000", "60000"], [tag, "2026-09-01", "45000", "60000"]])
    looked = look_at(session, asked, clock=clock)
    assert looked.subject.kind == "readings"
    assert [change.words.split(": ")[1] for change in of(looked, Group.NEW)] == ["80%", "75%"]
    first = apply_list(session, asked, looked.digest, clock=clock, author_id=1)
    assert shares(session, pack) == [(date(2026, 7, 1), 0.8), (date(2026, 9, 1), 0.75)]
    assert look_at(session, asked, clock=clock).difference.done == []
    other = request([[tag, "2026-09-01", "42000", "60000"]])
    looked = look_at(session, other, clock=clock)
    assert of(looked, Group.CHANGED)[0].words.endswith("70%, was 75%")
    second = apply_list(session, other, looked.digest, clock=clock, author_id=1)
    assert shares(session, pack)[-1] == (date(2026, 9, 1), 0.7)
    undo_list(session, second, clock=clock, author_id=1)
    assert shares(session, pack)[-1] == (date(2026, 9, 1), 0.75)
    undo_list(session, first, clock=clock, author_id=1)
    assert shares(session, pack) == []
    assert readings_held(session, [pack[1]]) == {}


def test_a_share_alone_is_of_a_hundred(session: Session, clock: Clock, pack: tuple[str, int, int]) -> None:
    looked = look_at(session, request([[pack[0], "1/9/2026", "83 %"]], ["Inventar", "Datum", "Akkuzustand"]), clock=clock)
    assert looked.understood.table.asks_order
    (change,) = looked.difference.changes
    assert (change.values["full"], change.values["design"]) == (83.0, 100.0)


def test_what_cannot_be_a_reading_is_told(session: Session, clock: Clock, pack: tuple[str, int, int]) -> None:
    tag = pack[0]
    rows = [
        ["SK-NONE", "2026-07-01", "40", "60"],
        [tag, "2001-07-01", "40", "60"],
        [tag, "2026-07-02", "130", "60"],
        [tag, "2026-07-03", "40", ""],
        [tag, "2026-10-31", "40", "60"],
        [tag, "2026-07-05", "40", "60"],
        [tag, "2026-07-05", "41", "60"],
        ["", "2026-07-05", "41", "60"],
    ]
    looked = look_at(session, request(rows), clock=clock)
    told = [change.words for change in of(looked, Group.UNUSABLE)]
    assert "no machine has the tag SK-NONE" in told
    assert any(words.startswith("nothing is on record as its battery") for words in told)
    assert any("more than twice" in words for words in told)
    assert any("made for" in words and "nothing says" in words for words in told)
    assert any("after the list's day" in words for words in told)
    assert "it has no asset tag" in told
    (twice,) = of(looked, Group.TWICE)
    assert twice.words.endswith("reads the same day: the later one counts")
    (new,) = of(looked, Group.NEW)
    assert new.values["full"] == 41.0
    with pytest.raises(Refused, match="no column was found for a capacity"):
        look_at(session, request([[tag, "2026-07-01", "x"]], ["Asset tag", "Date", "Position"]), clock=clock)


def test_what_was_read_again_since_is_not_withdrawn(session: Session, clock: Clock, pack: tuple[str, int, int]) -> None:
    asked = request([[pack[0], "2026-07-01", "48", "60"]])
    number = apply_list(session, asked, look_at(session, asked, clock=clock).digest, clock=clock, author_id=1)
    key = session.execute(
        text("SELECT p.key FROM tenure t JOIN position p ON p.id = t.position_id WHERE t.id = :id"), {"id": pack[1]}
    ).scalar()
    add_reading(session, ReadingRequest(pack[0], str(key), date(2026, 7, 1), 47.0, 60.0), clock=clock, author_id=1)
    with pytest.raises(Refused, match="corrected since"):
        undo_list(session, number, clock=clock, author_id=1)
    assert session.get(Part, pack[2]) is not None
