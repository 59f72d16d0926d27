"""Users and their passwords: hashes, limits, and what a new user needs."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import pytest
from argon2 import PasswordHasher
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.services import accounts
from almanac.services.accounts import (
    BY_ADDRESS,
    BY_COUNTER,
    Slowing,
    TooManyAttempts,
    change_password,
    create_user,
    password_fault,
    password_matches,
    sign_in,
)
from almanac.services.clock import Clock
from almanac.services.company_settings import SettingRequest, change_setting
from almanac.services.errors import NotFound, Refused
from almanac.services.sessions import (
    IDLE,
    LONGEST,
    SEEN_EVERY,
    end_other_sign_ins,
    end_sign_in,
    end_web_session,
    note_seen,
    open_web_session,
    read_limits,
    read_sign_ins,
    user_and_seen,
    user_of_token,
)
from almanac.store.models import Role

NOW = datetime(2026, 11, 1, 12, tzinfo=UTC)
GOOD = "a long enough password"


def attempt(
    session: Session, login: str, password: str, *, at: datetime = NOW, address: str = "127.0.0.1", device: str | None = None
) -> bool:
    return sign_in(session, login, password, address=address, now=at, device=device) is not None


def test_a_user_signs_in_with_any_case_of_the_login(empty_session: Session) -> None:
    user = create_user(empty_session, login=" Harbour ", name="H. Arbour", role=Role.LEAD, password=GOOD)
    assert user.login == "harbour"
    assert attempt(empty_session, "HARBOUR", GOOD)
    assert not attempt(empty_session, "harbour", GOOD.upper())


def test_only_a_hash_is_kept(empty_session: Session) -> None:
    user = create_user(empty_session, login="harbour", name="H. Arbour", role=Role.READER, password=GOOD)
    assert user.password_hash.startswith("$argon2id$")
    assert GOOD not in user.password_hash
    assert password_matches(user.password_hash, GOOD)
    assert not password_matches("no hash at all", GOOD)


def test_a_weaker_hash_is_renewed_at_the_next_sign_in(empty_session: Session) -> None:
    user = create_user(empty_session, login="harbour", name="H. Arbour", role=Role.READER, password=GOOD)
    user.password_hash = PasswordHasher(time_cost=1, memory_cost=8192).hash(GOOD)
    weak = user.password_hash
    assert attempt(empty_session, "harbour", GOOD)
    assert user.password_hash != weak


@pytest.mark.parametrize(
    ("changes", "field"),
    [({"login": " "}, "login"), ({"name": ""}, "login"), ({"login": "taken"}, "login"), ({"password": "short"}, "password")],
)
def test_a_user_that_cannot_be(empty_session: Session, changes: dict[str, str], field: str) -> None:
    create_user(empty_session, login="taken", name="T. Aken", role=Role.READER, password=GOOD)
    values = {"login": "harbour", "name": "H. Arbour", "password": GOOD} | changes
    with pytest.raises(Refused) as caught:
        create_user(empty_session, role=Role.READER, **values)
    assert [fault.field for fault in caught.value.faults] == [field]


def test_a_deactivated_user_is_out_at_once(empty_session: Session) -> None:
    user = create_user(empty_session, login="harbour", name="H. Arbour", role=Role.READER, password=GOOD)
    token = open_web_session(empty_session, user, now=NOW)
    assert user_of_token(empty_session, token, now=NOW) is user
    user.active = False
    empty_session.flush()
    assert user_of_token(empty_session, token, now=NOW) is None
    assert not attempt(empty_session, "harbour", GOOD)


def test_failures_slow_an_account_and_no_other(empty_session: Session) -> None:
    for login in ("harbour", "beacon"):
        create_user(empty_session, login=login, name="N.", role=Role.READER, password=GOOD)
    for _ in range(BY_COUNTER.free):
        assert not attempt(empty_session, "harbour", "guess")
    with pytest.raises(TooManyAttempts) as caught:
        attempt(empty_session, "harbour", GOOD)
    assert caught.value.seconds == 1
    assert attempt(empty_session, "beacon", GOOD)
    assert attempt(empty_session, "harbour", GOOD, at=NOW + timedelta(seconds=2))
    assert empty_session.scalar(text("SELECT count(*) FROM sign_in_attempt WHERE counter = 'login harbour'")) == 0


def test_each_failure_doubles_the_wait_up_to_its_longest() -> None:
    slowing = Slowing(free=2, longest_seconds=60)
    waits = [slowing.wait(failures).total_seconds() for failures in range(12)]
    assert waits == [0, 0, 1, 2, 4, 8, 16, 32, 60, 60, 60, 60]
    assert slowing.wait(10_000).total_seconds() == 60


def test_a_known_browser_is_counted_by_itself(empty_session: Session) -> None:
    create_user(empty_session, login="harbour", name="N.", role=Role.READER, password=GOOD)
    for _ in range(BY_COUNTER.free):
        assert not attempt(empty_session, "harbour", "guess", address="127.0.0.7")
    with pytest.raises(TooManyAttempts):
        attempt(empty_session, "harbour", GOOD)
    assert attempt(empty_session, "harbour", GOOD, device="known")
    for _ in range(BY_COUNTER.free):
        assert not attempt(empty_session, "harbour", "guess", device="stolen")
    with pytest.raises(TooManyAttempts):
        attempt(empty_session, "harbour", GOOD, device="stolen")


def test_one_address_cannot_try_many_logins_for_ever_and_is_not_shut_out(empty_session: Session, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(accounts, "password_matches", lambda *_: False)  # thirty hashes take long and are not what is asked
    for number in range(BY_ADDRESS.free):
        assert not attempt(empty_session, f"login{number}", "guess", address="127.0.0.9")
    with pytest.raises(TooManyAttempts) as caught:
        attempt(empty_session, "another", "guess", address="127.0.0.9")
    assert caught.value.seconds <= BY_ADDRESS.longest_seconds
    assert not attempt(empty_session, "another", "guess", address="127.0.0.8")
    assert not attempt(empty_session, "another", "guess", address="127.0.0.9", at=NOW + timedelta(seconds=11))


def test_failures_are_forgotten_after_a_while(empty_session: Session) -> None:
    create_user(empty_session, login="harbour", name="N.", role=Role.READER, password=GOOD)
    for _ in range(BY_COUNTER.free):
        attempt(empty_session, "harbour", "guess")
    assert attempt(empty_session, "harbour", GOOD, at=NOW + timedelta(minutes=16))


def test_a_session_ends_by_signing_out_and_by_time(empty_session: Session) -> None:
    user = create_user(empty_session, login="harbour", name="H. Arbour", role=Role.READER, password=GOOD)
    token, other = (open_web_session(empty_session, user, now=NOW) for _ in range(2))
    assert token != other
    assert token not in str(empty_session.execute(text("SELECT token_hash FROM web_session")).all())
    end_web_session(empty_session, token, now=NOW)
    assert user_of_token(empty_session, token, now=NOW) is None
    assert user_of_token(empty_session, other, now=NOW) is user
    assert user_of_token(empty_session, other, now=NOW + LONGEST) is None
    assert user_of_token(empty_session, "no token", now=NOW) is None


@pytest.mark.parametrize(
    ("password", "taken"),
    [
        ("too short", False),
        ("password1234", False),
        ("Harbour12345", False),
        ("aaaaaaaaaaaaaaaa", False),
        ("abababababab", False),
        ("Qwertz123456", False),
        ("kettle oar lantern", True),
        ("a password nobody has", True),
    ],
)
def test_what_is_guessed_first_is_no_password(empty_session: Session, password: str, taken: bool) -> None:
    assert (password_fault(password, "harbour", "H. Arbour") is None) is taken
    if not taken:
        with pytest.raises(Refused):
            create_user(empty_session, login="harbour", name="H. Arbour", role=Role.READER, password=password)


def decide(session: Session, key: str, value: float, number: int = 1) -> None:
    author = create_user(session, login=f"lead-{key}-{number}", name="L. Ead", role=Role.LEAD, password=GOOD)
    request = SettingRequest("company", "", key, value, expected_number=number - 1)
    change_setting(session, request, clock=Clock(NOW.date(), NOW), author_id=author.id)


def test_what_the_company_decides_of_sign_ins_holds_at_once(empty_session: Session) -> None:
    user = create_user(empty_session, login="harbour", name="H. Arbour", role=Role.READER, password=GOOD)
    token = open_web_session(empty_session, user, now=NOW)
    assert user_of_token(empty_session, token, now=NOW + timedelta(hours=3)) is user
    decide(empty_session, "idle_hours", 2)
    assert user_of_token(empty_session, token, now=NOW + timedelta(hours=3)) is None
    assert user_and_seen(empty_session, token, now=NOW + timedelta(minutes=7)) == (user, True), "noted finer than the limit"
    assert user_and_seen(empty_session, token, now=NOW + timedelta(minutes=5)) == (user, False)
    decide(empty_session, "idle_hours", 400, number=2)
    decide(empty_session, "sign_in_days", 1)
    assert user_of_token(empty_session, token, now=NOW + timedelta(hours=23)) is user
    assert user_of_token(empty_session, token, now=NOW + timedelta(hours=25)) is None
    assert [item.value for item in read_limits(empty_session, Clock(NOW.date(), NOW))] == [400, 1]
    with pytest.raises(Refused, match=r"hours from 0\.25"):
        decide(empty_session, "idle_hours", 0, number=3)


def test_a_sign_in_that_nobody_uses_ends_and_one_in_use_goes_on(empty_session: Session) -> None:
    user = create_user(empty_session, login="harbour", name="H. Arbour", role=Role.READER, password=GOOD)
    used, left = (open_web_session(empty_session, user, now=NOW) for _ in range(2))
    assert user_and_seen(empty_session, used, now=NOW + SEEN_EVERY / 2) == (user, False)
    assert user_and_seen(empty_session, used, now=NOW + SEEN_EVERY * 2) == (user, True)
    later = NOW + IDLE - timedelta(hours=1)
    note_seen(empty_session, used, now=later)
    assert user_and_seen(empty_session, used, now=later + SEEN_EVERY / 2) == (user, False)
    assert user_of_token(empty_session, left, now=NOW + IDLE) is None
    assert user_of_token(empty_session, used, now=NOW + IDLE) is user
    assert user_of_token(empty_session, used, now=later + IDLE) is None
    assert [row.own for row in read_sign_ins(empty_session, user.id, used, now=NOW + IDLE)] == [True]


def test_own_sign_ins_are_listed_and_ended_and_nobody_elses(empty_session: Session) -> None:
    user, other = (create_user(empty_session, login=login, name="N.", role=Role.READER, password=GOOD) for login in ("harbour", "beacon"))
    here = open_web_session(empty_session, user, now=NOW, device="Here")
    there = open_web_session(empty_session, user, now=NOW + timedelta(minutes=1), device="There" * 100)
    foreign = open_web_session(empty_session, other, now=NOW)
    rows = read_sign_ins(empty_session, user.id, here, now=NOW)
    assert [(row.device[:5], len(row.device), row.own) for row in rows] == [("There", 300, False), ("Here", 4, True)]
    (theirs,) = read_sign_ins(empty_session, other.id, foreign, now=NOW)
    with pytest.raises(NotFound):
        end_sign_in(empty_session, user.id, theirs.id, now=NOW)
    end_sign_in(empty_session, user.id, rows[0].id, now=NOW)
    assert user_of_token(empty_session, there, now=NOW) is None
    with pytest.raises(NotFound):
        end_sign_in(empty_session, user.id, rows[0].id, now=NOW)
    again = open_web_session(empty_session, user, now=NOW)
    assert end_other_sign_ins(empty_session, user.id, here, now=NOW) == 1
    assert user_of_token(empty_session, again, now=NOW) is None
    assert user_of_token(empty_session, here, now=NOW) is user
    assert user_of_token(empty_session, foreign, now=NOW) is other


def test_a_password_is_changed_by_who_knows_it(empty_session: Session) -> None:
    user = create_user(empty_session, login="harbour", name="H. Arbour", role=Role.READER, password=GOOD)

    def change(current: str, new: str, at: datetime = NOW) -> bool:
        return change_password(empty_session, user, current, new, address="127.0.0.1", now=at)

    for new in ("short", GOOD):
        with pytest.raises(Refused) as caught:
            change(GOOD, new)
        assert [fault.field for fault in caught.value.faults] == ["new"]
    assert not change("a guess at it all", "another long one")
    assert attempt(empty_session, "harbour", GOOD)
    assert change(GOOD, "another long one")
    assert not attempt(empty_session, "harbour", GOOD)
    assert attempt(empty_session, "harbour", "another long one")
    for _ in range(BY_COUNTER.free):
        change("a guess at it all", "yet another long one")
    with pytest.raises(TooManyAttempts):
        change("another long one", "yet another long one")
