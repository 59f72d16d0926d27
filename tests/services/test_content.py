"""Keys of remembered lines: each change of what a part rests on changes its key, and only those it touches."""

from __future__ import annotations

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.services.outlook.content import Content
from almanac.services.outlook.inputs import read_inputs


def keys(session: Session, site: str | None = None) -> dict[str, bytes]:
    inputs = read_inputs(session, site_code=site)
    content = Content(inputs)
    return {part.number: content.of(part) for part in inputs.parts}


def changed(before: dict[str, bytes], after: dict[str, bytes]) -> set[str]:
    return {number for number, key in after.items() if before[number] != key}


def kind(session: Session, name: str) -> set[str]:
    return set(session.scalars(text("SELECT number FROM part WHERE kind = :k"), {"k": name}))


def test_the_same_state_has_the_same_keys(session: Session) -> None:
    assert keys(session) == keys(session)
    assert len(set(keys(session).values())) == 38


@pytest.mark.parametrize(
    ("statement", "touched"),
    [
        ("UPDATE part SET price = price + 1 WHERE number = 'OF-P14'", "OF-P14"),
        ("UPDATE purchase_line SET expected_on = expected_on + 1 WHERE part_id = (SELECT id FROM part WHERE number = 'OF-P14')", "OF-P14"),
        (
            "INSERT INTO reservation (shelf_id, quantity, reserved_on) SELECT h.id, 1, '2026-10-30' FROM shelf h JOIN part p ON p.id = h.part_id WHERE p.number = 'OF-P14' LIMIT 1",
            "OF-P14",
        ),
        (
            "INSERT INTO stock_move (shelf_id, bucket, quantity, cause, moved_on, recorded_at) SELECT h.id, 'on_hand', 1, 'counted', '2026-10-31', now() FROM shelf h JOIN part p ON p.id = h.part_id WHERE p.number = 'OF-P14' LIMIT 1",
            "OF-P14",
        ),
    ],
)
def test_what_concerns_one_part_changes_its_key_alone(session: Session, statement: str, touched: str) -> None:
    before = keys(session)
    session.execute(text(statement))
    assert changed(before, keys(session)) == {touched}


def test_a_tenure_changes_its_kind(session: Session) -> None:
    before = keys(session)
    session.execute(
        text("""UPDATE tenure SET fitted_on = fitted_on - 30, observed_from = observed_from - 30
                WHERE id = (SELECT t.id FROM tenure t JOIN part p ON p.id = t.part_id WHERE p.kind = 'ssd' AND t.removed_on IS NULL
                            AND NOT EXISTS (SELECT 1 FROM tenure o WHERE o.asset_id = t.asset_id AND o.position_id = t.position_id AND o.id <> t.id)
                            AND t.fitted_on = t.observed_from LIMIT 1)""")
    )
    assert changed(before, keys(session)) == kind(session, "ssd")


@pytest.mark.parametrize(
    "statement",
    [
        "UPDATE lane SET days = days + 1",
        'UPDATE supplier SET lead_time = \'[{"days": 9, "weight": 1}]\'',
        "UPDATE fleet_plan SET quantity = quantity + 1",
        "INSERT INTO setting (scope, scope_key, key, number, value, from_on, recorded_at) VALUES ('company', '', 'floor', 2, '1', '2026-11-01', now())",
    ],
)
def test_what_concerns_the_company_changes_every_key(session: Session, statement: str) -> None:
    before = keys(session)
    session.execute(text(statement))
    assert changed(before, keys(session)) == set(before)


def test_a_site_has_keys_of_its_own(session: Session) -> None:
    assert changed(keys(session), keys(session, "TER")) == set(keys(session))


SETTING = "INSERT INTO setting (scope, scope_key, key, number, value, from_on, recorded_at) VALUES (:scope, :of, :key, :n, :value, '2026-11-01', now())"


def decide(session: Session, scope: str, of: str, key: str, value: str) -> None:
    session.execute(text(SETTING), {"scope": scope, "of": of, "key": key, "n": 90, "value": value})


@pytest.mark.parametrize(
    ("scope", "of", "key", "value"),
    [
        ("kind", "fan", "target", "0.9"),
        ("kind", "fan", "school", '"constant"'),
        ("kind", "fan", "floor", "1"),
        ("kind", "fan", "review_days", "7"),
    ],
)
def test_a_setting_of_a_kind_changes_its_keys_alone(session: Session, scope: str, of: str, key: str, value: str) -> None:
    before = keys(session)
    decide(session, scope, of, key, value)
    assert changed(before, keys(session)) == kind(session, "fan")


def test_a_setting_of_a_part_changes_its_key_alone(session: Session) -> None:
    before = keys(session)
    decide(session, "part", "OF-P14", "target", "0.9")
    assert changed(before, keys(session)) == {"OF-P14"}


@pytest.mark.parametrize(("key", "value"), [("currency", '"USD"'), ("holding_share", "0.3"), ("company_name", '"Ferry"')])
def test_a_setting_that_no_line_rests_on_changes_no_key(session: Session, key: str, value: str) -> None:
    before = keys(session)
    decide(session, "company", "", key, value)
    assert changed(before, keys(session)) == set()


def test_the_same_value_decided_again_changes_no_key(session: Session) -> None:
    decide(session, "kind", "ssd", "target", "0.93")
    before = keys(session)
    session.execute(text(SETTING), {"scope": "kind", "of": "ssd", "key": "target", "n": 91, "value": "0.93"})
    assert changed(before, keys(session)) == set()


def test_a_target_leaves_what_stands_of_a_part_alone(session: Session) -> None:
    def standing() -> dict[str, bytes]:
        inputs = read_inputs(session)
        content = Content(inputs)
        return {part.number: content.besides_target(part) for part in inputs.parts}

    before, lines = standing(), keys(session)
    decide(session, "company", "", "target", "0.9")
    assert changed(before, standing()) == set()
    assert changed(lines, keys(session)) >= kind(session, "fan")
    decide(session, "part", "OF-P14", "floor", "2")
    assert changed(before, standing()) == {"OF-P14"}
