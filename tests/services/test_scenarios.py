"""Scenarios: what they change, what they leave alone, and what is refused."""

from __future__ import annotations

from datetime import date

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.core.life.life_data import DUTIES
from almanac.services.clock import read_clock
from almanac.services.errors import NotFound, Refused
from almanac.services.outlook.inputs import Inputs, read_inputs
from almanac.services.outlook.pools import Unit, units_in_service
from almanac.services.scenarios.changes import Buy, Change, Move, Retire, Season, with_changes
from almanac.services.scenarios.kept import give_up, keep, kept
from almanac.services.scenarios.look import look, plates
from tests.services.looks import year_of

DRYDOCK, SOON = 12, date(2027, 1, 15)


def year(session: Session, changes: list[Change], *, site: str | None = None) -> dict[str, tuple[float, float]]:
    found = look(session, changes, site_code=site)
    return {p.planned.part.number: (year_of(p.planned), year_of(p.scenario)) for p in found.pairs}


def test_nothing_done_is_the_plan(session: Session) -> None:
    assert all(not pair.differs for pair in look(session, []).pairs)


def test_machines_that_go_early_need_less_and_only_theirs(session: Session) -> None:
    found = year(session, [Retire(DRYDOCK, SOON)])
    planned, scenario = found["QB-D15-90"]
    assert scenario < planned / 2
    assert found["OB-P14-60"][0] == found["OB-P14-60"][1]
    half = year(session, [Retire(DRYDOCK, SOON, quantity=max(machines(session) // 2, 1))])["QB-D15-90"][1]
    assert scenario < half < planned


def machines(session: Session) -> int:
    return session.scalar(text("SELECT count(*) FROM asset WHERE model_id = :m AND retired_on IS NULL"), {"m": DRYDOCK}) or 0


def test_machines_bought_need_more_from_then_on(session: Session) -> None:
    planned, more = year(session, [Buy(DRYDOCK, SOON, "ELD", "office_hours", 200)])["QB-D15-90"]
    _, twice = year(session, [Buy(DRYDOCK, SOON, "ELD", "office_hours", 400)])["QB-D15-90"]
    assert more > planned
    assert twice - planned == pytest.approx(2 * (more - planned), rel=1e-3)
    elsewhere = year(session, [Buy(DRYDOCK, SOON, "ELD", "office_hours", 200)], site="TER")["QB-D15-90"]
    assert elsewhere[0] == elsewhere[1]


def test_a_hotter_season_wears_out_its_kinds_only(session: Session) -> None:
    found = year(session, [Season(1.5, date(2027, 6, 1), date(2027, 9, 1), ("fan", "ssd"))])
    for number, (planned, scenario) in found.items():
        if number.startswith(("OF", "BF", "QF", "LD")):
            assert scenario > planned
        else:
            assert scenario == planned
    ratio = found["LD-80512"][1] / found["LD-80512"][0]
    assert 1.0 < ratio < 1 + 0.5 * 92 / 365  # one rate: half again in a quarter of the year, and only what wears out


def in_service(inputs: Inputs) -> list[Unit]:
    """Units of all kinds by pool and site."""
    kinds = [inputs.of_kind(kind) for kind in inputs.kinds()]
    return [unit for own in kinds for unit in units_in_service(own.fleets, own.grouping)]


def test_another_duty_moves_every_machine_of_the_model(session: Session) -> None:
    inputs = read_inputs(session)
    moved = with_changes(session, inputs, [Move(DRYDOCK, "round_the_clock")])
    own = [unit for unit in in_service(moved) if unit.pool.model_id == DRYDOCK]
    assert {unit.pool.duty for unit in own} == {"round_the_clock"}
    assert sum(unit.units for unit in in_service(moved)) == sum(unit.units for unit in in_service(inputs))
    served = [life.fleet.content.served for life in moved.life.values()]
    assert {DUTIES[duty] for rows in served for duty in rows.duty[rows.model == DRYDOCK]} == {"round_the_clock"}
    before, after = year(session, [Move(DRYDOCK, "round_the_clock")])["QF-D15-L"]
    assert before != after


def test_the_data_stay_as_they_are(session: Session) -> None:
    def state() -> tuple[int, ...]:
        return tuple(session.scalar(text(f"SELECT count(*) FROM {table}")) or 0 for table in ("fleet_plan", "asset", "tenure", "setting"))

    before = state()
    plates(session, [Buy(DRYDOCK, SOON, "ELD", "office_hours", 20), Retire(DRYDOCK, SOON)], "QB-D15-90")
    session.flush()
    assert state() == before


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (Retire(999, SOON), "no model"),
        (Retire(DRYDOCK, date(2026, 11, 1)), "a day after 2026-11-01"),
        (Buy(DRYDOCK, SOON, "ATL", "office_hours", 5), "ELD"),
        (Buy(DRYDOCK, SOON, "ELD", "asleep", 5), "office_hours"),
        (Buy(DRYDOCK, SOON, "ELD", "office_hours", 0), "machines were wanted"),
        (Season(0.0, SOON, date(2027, 3, 1), ("fan",)), "a factor"),
        (Season(2.0, SOON, SOON, ("fan",)), "a day after 2027-01-15"),
        (Season(2.0, SOON, date(2027, 3, 1), ("hinge",)), "battery"),
    ],
)
def test_what_cannot_be_done_says_where_and_why(session: Session, change: Change, words: str) -> None:
    with pytest.raises(Refused, match=words) as refused:
        with_changes(session, read_inputs(session), [change])
    assert refused.value.faults[0].field.startswith("changes.0.")


def test_scenarios_are_kept_by_name_and_given_up(session: Session) -> None:
    clock = read_clock(session)
    author = session.scalar(text("SELECT id FROM \"user\" WHERE login = 'quay'")) or 0
    number = keep(session, " Early goodbye ", [{"do": "retire"}], clock=clock, author_id=author)
    assert [(scenario.name, name) for scenario, name in kept(session)] == [("Early goodbye", "M. Quay")]
    with pytest.raises(Refused, match="kept already"):
        keep(session, "Early goodbye", [{"do": "retire"}], clock=clock, author_id=author)
    with pytest.raises(Refused, match="name"):
        keep(session, "  ", [{}], clock=clock, author_id=author)
    with pytest.raises(Refused, match="change"):
        keep(session, "Empty", [], clock=clock, author_id=author)
    give_up(session, number)
    assert kept(session) == []
    with pytest.raises(NotFound):
        give_up(session, number)
