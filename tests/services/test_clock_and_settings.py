"""The day everything is counted from, and settings with their history."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.services.clock import VARIABLE, Clock, read_clock
from almanac.services.company_settings import SettingRequest, change_setting, describe_company
from almanac.services.errors import Refused, Stale
from almanac.services.words import count, day, figure, money, per_hundred, percent
from almanac.store.settings import settings_on


def test_the_demo_fixes_the_day_and_a_variable_moves_it(session: Session, monkeypatch: pytest.MonkeyPatch) -> None:
    assert read_clock(session).today == date(2026, 11, 1)
    monkeypatch.setenv(VARIABLE, "2027-02-28")
    moved = read_clock(session)
    assert moved.today == moved.now.date() == date(2027, 2, 28)
    monkeypatch.setenv(VARIABLE, "tomorrow")
    with pytest.raises(ValueError, match="tomorrow"):
        read_clock(session)


def test_without_a_fixed_day_it_is_today_where_the_company_is(empty_session: Session) -> None:
    empty_session.execute(
        text(
            "INSERT INTO setting (scope, scope_key, key, number, value, from_on, recorded_at) VALUES ('company', '', 'time_zone', 1, '\"Etc/GMT-14\"', '2020-01-01', now())"
        )
    )
    clock = read_clock(empty_session)
    assert clock.today == (datetime.now(UTC) + timedelta(hours=14)).date()
    assert clock.now.utcoffset() == timedelta(0)


def change(session: Session, clock: Clock, **changes: object) -> int:
    values: dict[str, object] = {"scope": "company", "scope_key": "", "key": "target", "value": 0.9, "expected_number": 1}
    return change_setting(session, SettingRequest(**(values | changes)), clock=clock, author_id=1)  # type: ignore[arg-type]


def test_a_change_holds_from_its_day_and_the_old_value_stays(session: Session, clock: Clock) -> None:
    assert change(session, clock) == 2
    assert settings_on(session, clock.today).value("target") == 0.9
    assert settings_on(session, clock.today - timedelta(days=1)).value("target") == 0.95
    assert settings_on(session, clock.today).number("company", "", "target") == 2


@pytest.mark.parametrize(
    ("changes", "field"),
    [
        ({"value": 0.2}, "value"),
        ({"value": float("nan")}, "value"),
        ({"key": "review_days", "value": 3.5}, "value"),
        ({"key": "password"}, "key"),
        ({"scope": "kind", "scope_key": "gearbox"}, "scope_key"),
        ({"scope": "part", "scope_key": "NOPE"}, "scope_key"),
    ],
)
def test_a_setting_that_cannot_be(session: Session, clock: Clock, changes: dict[str, object], field: str) -> None:
    with pytest.raises(Refused) as caught:
        change(session, clock, **changes)
    assert caught.value.faults[0].field == field
    assert settings_on(session, clock.today).value("target") == 0.95


def test_a_company_says_what_it_is_called_and_keeps_what_it_was(session: Session, clock: Clock) -> None:
    describe_company(session, clock=clock, name=" Boat Line ", currency="NOK")
    found = settings_on(session, clock.today)
    assert (found.value("company_name"), found.value("currency"), found.value("time_zone")) == ("Boat Line", "NOK", "UTC")
    assert settings_on(session, clock.today - timedelta(days=1)).value("company_name") == "Skerry Line"
    with pytest.raises(Refused) as caught:
        describe_company(session, clock=clock, name=" ", currency="euro", time_zone="Nowhere")
    assert [fault.field for fault in caught.value.faults] == ["name", "currency", "time_zone"]


def test_a_stale_change_is_refused(session: Session, clock: Clock) -> None:
    change(session, clock)
    with pytest.raises(Stale):
        change(session, clock, value=0.8)


def test_words() -> None:
    assert day(date(2026, 12, 4)) == "4 Dec 2026"
    assert figure(2604.54, 1) == "2,604.5"
    assert (count(1, "day"), count(14, "day"), count(2, "entry", "entries")) == ("1 day", "14 days", "2 entries")
    assert (percent(0.05), percent(0.42), percent(0.95), percent(0.9999), percent(0.0004)) == (
        "5.0%",
        "42%",
        "95.0%",
        "over 99.9%",
        "under 0.1%",
    )
    assert (percent(0.0), percent(1.0)) == ("0%", "100%")
    assert per_hundred(0.0893) == "8.9"
    assert money(1234.5, "EUR") == "EUR 1,234.50"


def test_a_school_is_one_of_three_words(session: Session) -> None:
    clock = read_clock(session)
    author = session.scalar(text("SELECT id FROM \"user\" WHERE login = 'quay'"))
    with pytest.raises(Refused, match="auto, constant, wear-out"):
        change_setting(session, SettingRequest("kind", "fan", "school", "wishful", 0), clock=clock, author_id=author)
    with pytest.raises(Refused, match="probability"):
        change_setting(session, SettingRequest("company", "", "target", "high", 1), clock=clock, author_id=author)
    number = settings_on(session, clock.today).number("kind", "fan", "school")
    assert change_setting(session, SettingRequest("kind", "fan", "school", "constant", number), clock=clock, author_id=author) == number + 1
    assert settings_on(session, clock.today).value("school", kind="fan") == "constant"
