"""The plan of the fleet: made from changes, counted by every outlook, withdrawn, and known to a past day as it stood then."""

from __future__ import annotations

from datetime import date, datetime, timedelta

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.core.parts.declared.kinds import FORECAST_KINDS
from almanac.services.clock import Clock
from almanac.services.errors import NotFound, Refused
from almanac.services.fleet_plans import plan, planned, withdraw
from almanac.services.outlook.inputs import read_inputs
from almanac.services.outlook.past import inputs_at, start_of
from almanac.services.outlook.since import changes_of
from almanac.services.scenarios.changes import Buy, Planned, Retire, Swap
from almanac.services.scenarios.look import look
from almanac.store import catalog
from tests.services.looks import builder_of, year_of

DRYDOCK, COUNTER, SOON = 12, "Counter 24", date(2027, 1, 15)


def model(session: Session, name: str) -> int:
    return session.scalar(text("SELECT id FROM device_model WHERE name = :n"), {"n": name}) or 0


def years(session: Session) -> dict[str, float]:
    return {row.part.number: year_of(row) for row in builder_of(session).rows()}


@pytest.mark.parametrize(
    "changes",
    [
        [Buy(DRYDOCK, SOON, "ELD", "office_hours", 40)],
        [Retire(DRYDOCK, SOON)],
        [Retire(DRYDOCK, SOON, quantity=3)],
        [Buy(DRYDOCK, SOON, "TER", "two_shifts", 5), Retire(DRYDOCK, SOON + timedelta(days=40), "ELD")],
    ],
)
def test_what_is_planned_is_what_the_scenario_said(session: Session, clock: Clock, changes: list[Planned]) -> None:
    said = {pair.scenario.part.number: year_of(pair.scenario) for pair in look(session, list(changes)).pairs}
    plan(session, changes, "as looked at", clock=clock, author_id=1)
    assert years(session) == pytest.approx(said, rel=1e-9)


def test_a_swap_draws_its_parts_on_its_day(session: Session, clock: Clock) -> None:
    swap = Swap(model(session, COUNTER), "memory_b", "LM-16320", SOON, quantity=7)
    before = next(p for p in look(session, [swap]).pairs if p.planned.part.number == "LM-16320")
    scenario, as_planned = before.scenario.projection.year, before.planned.projection.year
    assert scenario is not None
    assert as_planned is not None
    assert scenario.planned - as_planned.planned == pytest.approx(7.0)
    made = plan(session, [swap], "", clock=clock, author_id=1)
    rows = [row for row in planned(session, clock=clock) if row.id in made]
    assert sum(row.quantity for row in rows) == 7
    assert {(row.action, row.part_number, row.author) for row in rows} == {("swap", "LM-16320", "M. Quay")}
    assert all(row.position for row in rows)


def test_machines_are_spread_over_sites_and_duties_in_whole_numbers(session: Session, clock: Clock) -> None:
    packet = model(session, "Packet 14")
    made = plan(session, [Retire(packet, SOON, quantity=11)], "", clock=clock, author_id=1)
    rows = [row for row in planned(session, clock=clock) if row.id in made]
    assert sum(row.quantity for row in rows) == 11
    assert len({(row.site, row.duty) for row in rows}) == len(rows) > 1


def test_what_is_withdrawn_counts_no_more_and_stays_on_record(session: Session, clock: Clock) -> None:
    before = years(session)
    made = plan(session, [Buy(DRYDOCK, SOON, "ELD", "office_hours", 40)], "", clock=clock, author_id=1)
    assert years(session) != before
    withdraw(session, made[0], clock=clock, author_id=1)
    assert years(session) == before
    assert session.scalar(text("SELECT withdrawn_by_id FROM fleet_plan WHERE id = :i"), {"i": made[0]}) == 1
    with pytest.raises(NotFound):
        withdraw(session, made[0], clock=clock, author_id=1)


def test_what_has_come_cannot_be_withdrawn(session: Session, clock: Clock) -> None:
    made = plan(session, [Buy(DRYDOCK, SOON, "ELD", "office_hours", 4)], "", clock=clock, author_id=1)
    later = Clock(SOON, clock.now + timedelta(days=90))
    with pytest.raises(Refused, match="has come"):
        withdraw(session, made[0], clock=later, author_id=1)


@pytest.mark.parametrize(
    ("changes", "place"),
    [
        ([], "changes"),
        ([Buy(DRYDOCK, date(2026, 10, 1), "ELD", "office_hours", 4)], "changes.0.on"),
        ([Buy(DRYDOCK, SOON, "ELD", "office_hours", 4), Buy(DRYDOCK, SOON, "XXX", "office_hours", 4)], "changes.1.site"),
        ([Swap(DRYDOCK, "nowhere", "LM-16320", SOON)], "changes.0.position"),
        ([Retire(9999, SOON)], "changes.0.model_id"),
    ],
)
def test_what_cannot_be_done_is_refused_whole(session: Session, clock: Clock, changes: list[Planned], place: str) -> None:
    before = planned(session, clock=clock)
    with pytest.raises(Refused) as refused:
        plan(session, changes, "", clock=clock, author_id=1)
    assert refused.value.faults[0].field == place
    assert planned(session, clock=clock) == before


def test_a_part_that_does_not_fit_is_refused_with_those_that_do(session: Session, clock: Clock) -> None:
    with pytest.raises(Refused, match="LM-16320"):
        plan(session, [Swap(model(session, COUNTER), "memory_b", "OB-P14-60", SOON)], "", clock=clock, author_id=1)


def test_a_model_that_nobody_has_cannot_be_retired(session: Session, clock: Clock) -> None:
    session.execute(text("UPDATE asset SET retired_on = '2026-10-01' WHERE model_id = :m AND retired_on IS NULL"), {"m": DRYDOCK})
    with pytest.raises(Refused, match="in service"):
        plan(session, [Retire(DRYDOCK, SOON)], "", clock=clock, author_id=1)


def test_a_note_has_an_end(session: Session, clock: Clock) -> None:
    with pytest.raises(Refused, match="200"):
        plan(session, [Retire(DRYDOCK, SOON)], "x" * 201, clock=clock, author_id=1)


class TestAPastDay:
    def test_knows_what_was_planned_by_then(self, session: Session) -> None:
        def known(day: date) -> set[str]:
            return {row.note for row in catalog.fleet_plans(session, after=day, known_at=start_of(day))}

        assert known(date(2026, 9, 1)) == set()
        assert known(date(2026, 10, 1)) == {"spring notebooks", "new departure boards", "till software needs more memory"}
        assert known(date(2026, 10, 20)) == known(date(2026, 10, 1)) | {"ticket office closes"}

    def test_still_counts_on_what_was_withdrawn_since(self, session: Session) -> None:
        since = date(2026, 10, 1)
        session.execute(text("UPDATE fleet_plan SET withdrawn_at = '2026-10-20' WHERE note = 'spring notebooks'"))
        inputs = read_inputs(session)
        then = inputs_at(session, inputs, since, settings=inputs.settings)
        gone = [plan for plan in then.plans if plan not in inputs.plans]
        assert [plan.action for plan in gone] == ["purchase"]
        bare = inputs_at(session, inputs, since, settings=inputs.settings, purchases=False)
        assert {row.action for row in bare.plans} == {"swap"}

    def test_a_plan_made_since_is_a_change_of_the_fleet(self, session: Session, clock: Clock) -> None:
        def fleet() -> dict[int, float]:
            builder = builder_of(session)
            found = [change for kind in FORECAST_KINDS for change in changes_of(session, builder, kind.value)[1]]
            assert all(c.before + c.ageing + c.fleet + c.log + c.settings == pytest.approx(c.now) for c in found)
            return {change.part_id: change.fleet for change in found}

        before = fleet()
        plan(session, [Buy(DRYDOCK, SOON, "ELD", "office_hours", 200)], "", clock=clock, author_id=1)
        moved = {part for part, value in fleet().items() if value > before[part] + 1e-6}
        fitted = {part for part, life in read_inputs(session).life.items() if DRYDOCK in life.models}
        assert moved
        assert moved <= fitted

    def test_machines_of_then_are_counted(self, session: Session) -> None:
        from almanac.store import evidence

        now = evidence.assets_in_service(session, [DRYDOCK], as_of=date(2026, 11, 1))
        session.execute(text("UPDATE asset SET retired_on = '2026-10-20' WHERE model_id = :m AND retired_on IS NULL"), {"m": DRYDOCK})
        assert evidence.assets_in_service(session, [DRYDOCK], as_of=date(2026, 11, 1)) == {}
        then = evidence.assets_in_service(session, [DRYDOCK], as_of=date(2026, 10, 1))
        assert 0 < sum(then.values()) <= sum(now.values()) + 5


def test_plans_made_before_there_was_a_record_were_always_known(session: Session, clock: Clock) -> None:
    session.execute(text("UPDATE fleet_plan SET recorded_at = '2000-01-01'"))
    assert {row.recorded_at for row in planned(session, clock=clock)} == {None}
    assert len(catalog.fleet_plans(session, after=date(2025, 1, 1), known_at=datetime.fromisoformat("2025-01-01T00:00:00+00:00"))) == 4
