"""Retirements, early ones, purchases and swaps as dated changes of units in service."""

from __future__ import annotations

from collections import defaultdict
from datetime import date, timedelta

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.core.life.outcomes import DEAD_ON_ARRIVAL_DAYS
from almanac.services.outlook.fleet_change import ServiceChanges, service_changes
from almanac.services.outlook.inputs import read_inputs

TODAY = date(2026, 11, 1)


def plan(session: Session, action: str, model: str, day: date, quantity: int, **more: str) -> None:
    """Leave one plan only."""
    session.execute(
        text("DELETE FROM reservation WHERE plan_id IS NOT NULL; DELETE FROM backorder WHERE plan_id IS NOT NULL; DELETE FROM fleet_plan")
    )
    session.execute(
        text("""INSERT INTO fleet_plan (action, model_id, site_id, duty, planned_on, quantity, part_id, position_id, note)
                SELECT :action, m.id, s.id, :duty, :day, :quantity, (SELECT id FROM part WHERE number = :part),
                       (SELECT id FROM position WHERE model_id = m.id AND key = :position), ''
                FROM device_model m, site s WHERE m.name = :model AND s.code = :site"""),
        {
            "action": action,
            "model": model,
            "day": day,
            "quantity": quantity,
            "site": "ELD",
            "duty": "office_hours",
            "part": None,
            "position": None,
        }
        | more,
    )


def changes(session: Session) -> ServiceChanges:
    inputs = read_inputs(session)
    found = ServiceChanges()
    for kind in inputs.kinds():
        own = service_changes(inputs.of_kind(kind))
        found.now.update(own.now)
        found.changes += own.changes
        found.swaps += own.swaps
        found.fittings += own.fittings
    return found


def in_service(found: ServiceChanges, day: int, model: int | None = None) -> float:
    """Units in service at the start of a day."""
    return sum(size for pool, _, when, size in found.changes if when <= day and (model is None or pool.model_id == model))


def model_id(session: Session, name: str) -> int:
    return int(session.execute(text("SELECT id FROM device_model WHERE name = :n"), {"n": name}).scalar_one())


def test_units_now_are_those_of_the_database(session: Session) -> None:
    found = changes(session)
    stocked = session.scalar(
        text(
            "SELECT count(*) FROM tenure t JOIN part p ON p.id = t.part_id WHERE t.removed_on IS NULL AND p.kind IN ('memory', 'ssd', 'battery', 'fan')"
        )
    )
    assert in_service(found, 0) == sum(found.now.values()) == stocked


def test_no_pool_ever_falls_below_zero(session: Session) -> None:
    plan(session, "retire", "Packet 15", date(2026, 12, 1), 500)
    running: dict[object, float] = defaultdict(float)
    for pool, site, _, size in sorted(changes(session).changes, key=lambda change: change[2]):
        running[pool, site] += size
        assert running[pool, site] >= -1e-9


@pytest.mark.parametrize("quantity", [1, 20, 10_000])
def test_an_early_retirement_takes_those_who_would_have_gone_next(session: Session, quantity: int) -> None:
    day = date(2027, 1, 15)
    session.execute(
        text("DELETE FROM reservation WHERE plan_id IS NOT NULL; DELETE FROM backorder WHERE plan_id IS NOT NULL; DELETE FROM fleet_plan")
    )
    model, before = model_id(session, "Packet 15"), changes(session)
    plan(session, "retire", "Packet 15", day, quantity)
    after, when = changes(session), (day - TODAY).days
    gone = in_service(before, when, model) - in_service(after, when, model)
    machines = session.execute(
        text("""SELECT count(*) FROM asset a JOIN asset_stay y ON y.asset_id = a.id AND y.until_on IS NULL JOIN site s ON s.id = y.site_id
                WHERE a.model_id = :m AND a.duty = 'office_hours' AND s.code = 'ELD' AND a.retired_on IS NULL"""),
        {"m": model},
    ).scalar_one()
    units_each = (
        sum(
            size
            for pool, site, when_, size in before.changes
            if pool.model_id == model and site == 1 and pool.duty == "office_hours" and when_ == 0
        )
        / machines
    )
    leave_before = sum(
        -size
        for pool, site, w, size in before.changes
        if pool.model_id == model and site == 1 and pool.duty == "office_hours" and 0 < w <= when
    )
    assert gone == pytest.approx(min(quantity, machines) * units_each - (leave_before if quantity >= machines else 0), rel=0.35)
    assert in_service(before, 5000, model) <= in_service(before, when, model)
    assert in_service(after, 5000, model) <= in_service(before, 5000, model) + 1e-9


def test_a_purchase_comes_with_what_the_model_holds_and_serves_after_the_first_days(session: Session) -> None:
    day = date(2027, 2, 1)
    plan(session, "purchase", "Bollard Twin", day, 30)
    found, when = changes(session), (day - TODAY).days
    bought = [change for change in found.changes if change[3] > 0 and change[2] > 0]
    assert {change[2] for change in bought} == {when + DEAD_ON_ARRIVAL_DAYS}
    fans = sum(parts.quantity for parts in found.fittings if parts.part_id in _ids(session, "QF-BL-L", "QF-BL-R"))
    assert fans == pytest.approx(60.0)
    assert {parts.day for parts in found.fittings} == {when}


def _ids(session: Session, *numbers: str) -> set[int]:
    return set(session.scalars(text("SELECT id FROM part WHERE number = ANY(:n)"), {"n": list(numbers)}))


def test_a_planned_swap_draws_its_part_and_leaves_the_fleet_alone(session: Session) -> None:
    session.execute(
        text("DELETE FROM reservation WHERE plan_id IS NOT NULL; DELETE FROM backorder WHERE plan_id IS NOT NULL; DELETE FROM fleet_plan")
    )
    before = changes(session)
    plan(session, "swap", "Counter 24", TODAY + timedelta(days=30), 8, part="LM-16320", position="memory_a")
    after = changes(session)
    assert before.changes == after.changes
    assert [(swap.day, swap.quantity) for swap in after.swaps] == [(30, 8)]


def test_what_was_planned_for_a_day_already_past_is_no_plan(session: Session) -> None:
    plan(session, "purchase", "Packet 14 b", TODAY - timedelta(days=3), 50)
    assert changes(session).fittings == []
