"""Users and their passwords: hashes, limits, and what a new user needs."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import pytest
from argon2 import PasswordHasher
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.services.accounts import MOST_FAILURES, TooManyAttempts, create_user, password_matches, sign_in, user_by_id
from almanac.services.errors import Refused
from almanac.store.models import Role

NOW = datetime(2026, 11, 1, 12, tzinfo=UTC)
GOOD = "a long enough password"


def attempt(session: Session, login: str, password: str, *, at: datetime = NOW, address: str = "127.0.0.1") -> bool:
    return sign_in(session, login, password, address=address, now=at) is not None


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
    user.active = False
    empty_session.flush()
    assert user_by_id(empty_session, user.id) is None
    assert not attempt(empty_session, "harbour", GOOD)


def test_failures_close_a_login_for_ten_minutes_and_no_other(empty_session: Session) -> None:
    for login in ("harbour", "beacon"):
        create_user(empty_session, login=login, name="N.", role=Role.READER, password=GOOD)
    for _ in range(MOST_FAILURES):
        assert not attempt(empty_session, "harbour", "guess")
    with pytest.raises(TooManyAttempts):
        attempt(empty_session, "harbour", GOOD)
    assert attempt(empty_session, "beacon", GOOD)
    assert attempt(empty_session, "harbour", GOOD, at=NOW + timedelta(minutes=11))
    assert empty_session.scalar(text("SELECT count(*) FROM sign_in_attempt WHERE login = 'harbour'")) == 0


def test_one_address_cannot_try_many_logins_for_ever(empty_session: Session) -> None:
    for number in range(60):
        assert not attempt(empty_session, f"login{number}", "guess", address="127.0.0.9")
    with pytest.raises(TooManyAttempts):
        attempt(empty_session, "another", "guess", address="127.0.0.9")
    assert not attempt(empty_session, "another", "guess", address="127.0.0.8")
