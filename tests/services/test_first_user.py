"""The first user of an empty company: by the code the server printed, once, and slowed down where it is guessed."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest
from sqlalchemy.orm import Session

from almanac.services import first_user
from almanac.services.accounts import TooManyAttempts, sign_in
from almanac.services.clock import Clock, read_clock
from almanac.services.errors import Refused
from almanac.services.first_user import FirstUser, make_first_user, new_code, waits_for_first_user
from almanac.store.models import User
from almanac.store.settings import settings_on

NOW = datetime(2026, 11, 30, 9, 0, tzinfo=UTC)
WHO = FirstUser("", "Skerry Two", "eur", "UTC", "Quay", "M. Quay", "twelve letters and more")


def begin(session: Session, clock: Clock, who: FirstUser, *, now: datetime = NOW) -> User | None:
    return make_first_user(session, who, address="127.0.0.1", now=now, clock=clock)


def test_the_code_makes_a_lead_once(empty_session: Session) -> None:
    clock = read_clock(empty_session)
    assert waits_for_first_user(empty_session)
    old, code = new_code(empty_session, clock), new_code(empty_session, clock)
    assert begin(empty_session, clock, replace(WHO, code=old)) is None
    user = begin(empty_session, clock, replace(WHO, code=f" {code.lower().replace('-', ' ')} "))
    assert user is not None
    assert (user.login, user.role) == ("quay", "lead")
    assert settings_on(empty_session, clock.today).value("company_name") == "Skerry Two"
    assert settings_on(empty_session, clock.today).value("currency") == "EUR"
    assert sign_in(empty_session, "quay", WHO.password, address="127.0.0.1", now=NOW) is not None
    assert not waits_for_first_user(empty_session)
    with pytest.raises(Refused, match="somebody works here already"):
        begin(empty_session, clock, replace(WHO, code=code, login="second"))


def test_guesses_are_slowed_down(empty_session: Session) -> None:
    clock = read_clock(empty_session)
    code = new_code(empty_session, clock)
    for _ in range(5):
        assert begin(empty_session, clock, replace(WHO, code="AAAA-BBBB-CCCC")) is None
        empty_session.flush()
    with pytest.raises(TooManyAttempts):
        begin(empty_session, clock, replace(WHO, code=code))
    assert begin(empty_session, clock, replace(WHO, code=code), now=NOW + timedelta(minutes=2)) is not None


def test_without_a_code_nobody_begins_and_what_cannot_be_is_told(empty_session: Session) -> None:
    clock = read_clock(empty_session)
    assert begin(empty_session, clock, WHO) is None
    code = new_code(empty_session, clock)
    for wrong, words in (
        ({"currency": "Euro"}, "currency code"),
        ({"password": "short"}, "12 characters"),
        ({"login": " "}, "a login and a name"),
    ):
        with pytest.raises(Refused, match=words):
            begin(empty_session, clock, replace(WHO, code=code, **wrong))
    assert waits_for_first_user(empty_session)


def test_who_waited_behind_the_first_is_no_second(empty_session: Session, monkeypatch: pytest.MonkeyPatch) -> None:
    """Somebody else begins while the code is checked: tries queue, and the state of before the queue holds no longer."""
    clock = read_clock(empty_session)
    code = new_code(empty_session, clock)
    answers = iter([True, False])
    monkeypatch.setattr(first_user, "waits_for_first_user", lambda _: next(answers))
    with pytest.raises(Refused, match="somebody works here already"):
        begin(empty_session, clock, replace(WHO, code=code))
