"""What is read and computed at once: kept as long as no table it was read from is written, and never longer."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import UTC, datetime, timedelta

import pytest
from sqlalchemy import Engine, text
from sqlalchemy.orm import Session

from almanac.services.answers.ask import keep_pending
from almanac.services.answers.cache import FRONT
from almanac.services.answers.readings import EVER, Reading, kept, read, state_of
from almanac.services.clock import day_ends

PRICE = Reading[float]("dearest part", "1", {"kind": "fan"}, float)
READ: list[float] = []


@pytest.fixture(autouse=True)
def _forgetful() -> Iterator[None]:
    FRONT.clear()
    READ.clear()
    yield
    FRONT.clear()


def dearest(session: Session) -> float:
    READ.append(float(session.scalar(text("SELECT max(price) FROM part")) or 0))
    return READ[-1]


def ask(session: Session, *, good_until: datetime = EVER, reading: Reading[float] = PRICE) -> float:
    found = read(session, reading, lambda: dearest(session), good_until=good_until)
    keep_pending(session, session)
    FRONT.clear()  # whoever asks next is another process
    return found


def test_it_is_read_once_while_nothing_is_written(session: Session) -> None:
    assert ask(session) == ask(session)
    assert len(READ) == 1


def test_a_write_to_a_table_it_was_read_from_has_it_read_again(session: Session) -> None:
    first = ask(session)
    session.execute(text("UPDATE part SET price = price + 5"))
    assert ask(session) == first + 5
    assert len(READ) == 2


def test_a_write_to_another_table_does_not(session: Session) -> None:
    ask(session)
    session.execute(text("UPDATE lane SET days = days + 1"))
    ask(session)
    assert len(READ) == 1


def test_another_question_and_another_version_are_answered_by_themselves(session: Session) -> None:
    ask(session)
    ask(session, reading=Reading("dearest part", "1", {"kind": "ssd"}, float))
    ask(session, reading=Reading("dearest part", "2", {"kind": "fan"}, float))
    ask(session, reading=Reading("dearest part", "1", {"kind": "fan"}, float, ("2026-11-01",)))
    assert len(READ) == 4


def test_it_is_read_again_on_another_day(session: Session) -> None:
    soon = datetime.now(UTC) + timedelta(seconds=30)
    ask(session, good_until=soon)
    assert state_of(session, PRICE).holds
    assert not state_of(session, PRICE, now=soon).holds


def test_the_day_ends_at_midnight_of_the_company_and_never_where_it_is_fixed(session: Session, empty_session: Session) -> None:
    assert day_ends(session).year == 9999  # the demo's day is fixed
    ends = day_ends(empty_session)
    assert timedelta(0) < ends - datetime.now(UTC) <= timedelta(days=1)
    assert (ends.hour, ends.minute) == (0, 0)


def test_the_latest_answer_is_still_known_when_a_newer_one_is_wanted(session: Session) -> None:
    first = ask(session)
    session.execute(text("UPDATE part SET price = price + 5"))
    state = state_of(session, PRICE)
    assert not state.holds
    assert state.latest is not None
    assert kept(session, PRICE, state.latest.key) == first


def test_what_was_rolled_back_is_not_remembered_as_if_it_had_been(demo_engine: Engine) -> None:
    with Session(demo_engine) as writer, Session(demo_engine) as keeper:
        writer.execute(text("UPDATE part SET price = price + 1000"))
        wrong = read(writer, PRICE, lambda: dearest(writer))
        keep_pending(writer, keeper)
        writer.rollback()
        assert read(writer, PRICE, lambda: dearest(writer)) == wrong - 1000
        keeper.rollback()


def test_a_write_in_between_is_not_missed(demo_engine: Engine) -> None:
    """Somebody writes while it is read: what was read before is read again."""
    with Session(demo_engine) as reader, Session(demo_engine) as writer:
        reader.connection(execution_options={"isolation_level": "READ COMMITTED"})

        def interrupted() -> float:
            found = dearest(reader)
            if len(READ) == 1:
                writer.execute(text("UPDATE part SET price = price + 7"))
                writer.commit()
            return found

        found = read(reader, PRICE, interrupted)
        assert [found - 7, found] == READ
        reader.rollback()
        writer.execute(text("UPDATE part SET price = price - 7"))
        writer.commit()


def test_a_reading_inside_another_is_part_of_what_it_was_read_from(session: Session) -> None:
    outer = Reading[float]("twice the dearest", "1", {}, float)
    inner = Reading[float]("the dearest", "1", {}, float)

    def twice() -> float:
        return 2 * read(session, inner, lambda: dearest(session))

    read(session, inner, lambda: dearest(session))  # known already when the outer one is read
    first = read(session, outer, twice)
    keep_pending(session, session)
    session.execute(text("UPDATE part SET price = price + 5"))
    assert read(session, outer, twice) == first + 10
