"""The books add up in the demo and after honest work; each rule finds what breaks it."""

from __future__ import annotations

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.store.books import CHECKS, breaks

MOVES_OPEN = "ALTER TABLE stock_move DISABLE TRIGGER USER"
WRONG = {
    "balance": ["UPDATE shelf_balance SET quantity = quantity + 1 WHERE bucket = 'on_hand'"],
    "under_way": ["UPDATE transfer SET quantity = quantity + 2 WHERE arrived_on IS NULL AND cancelled_on IS NULL"],
    "issued": [
        "INSERT INTO stock_move (shelf_id, bucket, quantity, cause, moved_on, recorded_at) SELECT min(id), 'issued', 1, 'issued', '2026-11-01', now() FROM shelf"
    ],
    "promised": ["UPDATE reservation SET quantity = 1000 WHERE released_on IS NULL"],
    "received": ["UPDATE purchase_line SET cancelled = 1 WHERE id = (SELECT min(line_id) FROM receipt)"],
    "on_the_shelf": [
        MOVES_OPEN,
        "UPDATE stock_move SET receipt_id = NULL WHERE id = (SELECT min(id) FROM stock_move WHERE receipt_id IS NOT NULL)",
    ],
    "fitted": [
        MOVES_OPEN,
        "UPDATE stock_move SET cause = 'counted' WHERE id = (SELECT min(id) FROM stock_move WHERE cause = 'fitted')",
    ],
}


def test_the_demo_adds_up(session: Session) -> None:
    assert breaks(session) == []


def test_every_rule_has_something_that_breaks_it() -> None:
    assert set(WRONG) == set(CHECKS)


@pytest.mark.parametrize("check", WRONG)
def test_what_does_not_add_up_is_found(session: Session, check: str) -> None:
    for statement in WRONG[check]:
        session.execute(text(statement))
    found = [one for one in breaks(session) if one.check == check]
    assert found, check
    assert all(one.part and one.place and any(letter.isdigit() for letter in one.words) for one in found)
