"""Stated starting points: on every figure they carry, overruled by the log, taken back where nobody knows."""

from __future__ import annotations

from dataclasses import replace

import pytest
from sqlalchemy.orm import Session

from almanac.core.answers.question import Named
from almanac.core.life.stated import Stated
from almanac.services.clock import Clock
from almanac.services.company_settings import SettingRequest, change_setting
from almanac.services.errors import NotFound, Refused, Stale
from almanac.services.outlook.demand_laws import LawBook
from almanac.services.outlook.fitted import FitOfKind
from almanac.services.outlook.inputs import read_inputs
from almanac.services.outlook.summary import read_outlook
from almanac.services.rates.kind import read_kind
from almanac.services.starting_points import StartingPoint, read_start, state_start
from tests.services.looks import working_of
from tests.services.stocks import PART


def state(session: Session, clock: Clock, start: StartingPoint, kind: str = "fan") -> int:
    number = read_start(session, kind, clock)[1]
    return state_start(session, kind, start, expected_number=number, clock=clock, author_id=1)


def rate_of(session: Session, number: str = PART) -> float:
    row = next(row for row in read_outlook(session).rows if row.part.number == number)
    assert row.projection.rate is not None
    return row.projection.rate.rate


def before_few(session: Session) -> float:
    """The rate of the fan with the fewest failures of its own, which borrows most from its kind."""
    rates = read_kind(session, "fan")
    pool = min((pool for pool in rates.pools if pool.shrunk is not None), key=lambda pool: pool.exposure_years)
    assert pool.shrunk is not None
    return pool.shrunk.rate


def test_a_belief_is_stated_shown_and_taken_back(session: Session, clock: Clock) -> None:
    assert read_start(session, "fan", clock) == (StartingPoint(None), 0)
    before, unstated, rates = rate_of(session), before_few(session), read_kind(session, "fan")
    belief = StartingPoint(60.0, 200.0)
    assert state(session, clock, belief) == 1
    assert read_start(session, "fan", clock) == (belief, 1)
    outlook = read_outlook(session)
    assert outlook.stated == ["fan, 60 of 100 a year, as sure as if 200 failures had been seen"]
    few = before_few(session)
    assert few > unstated
    sections = working_of(session, PART)
    rows = [row for section in sections for row in section.rows if row.label == "Stated starting point of the kind"]
    assert rows[0].value.startswith("200 failures in 333")
    assert read_kind(session, "fan").failures == rates.failures
    state(session, clock, StartingPoint(None))
    assert read_outlook(session).stated == []
    assert rate_of(session) == pytest.approx(before, rel=1e-9)


def test_what_cannot_be_stated_is_told_at_its_place(session: Session, clock: Clock) -> None:
    for start, field, words in (
        (StartingPoint(8.0), "stated_worth", "how sure"), (StartingPoint(8.0, 5.0, 3.0), "stated_later", "both or none"),
        (StartingPoint(8.0, 5.0, None, 15.0), "stated_after", "both or none"), (StartingPoint(-1.0, 5.0), "stated_rate", "0.01"),
        (StartingPoint(8.0, 5000.0), "stated_worth", "from 0.5 to 200"),
    ):  # fmt: skip
        with pytest.raises(Refused, match=words) as refused:
            state(session, clock, start)
        assert refused.value.faults[0].field == field
    with pytest.raises(NotFound):
        state_start(session, "keyboard", StartingPoint(8.0, 5.0), expected_number=0, clock=clock, author_id=1)
    state(session, clock, StartingPoint(8.0, 5.0, 3.0, 15.0))
    with pytest.raises(Stale):
        state_start(session, "fan", StartingPoint(8.0, 5.0), expected_number=0, clock=clock, author_id=1)
    with pytest.raises(Refused, match="stated of a kind"):
        change_setting(session, SettingRequest("company", "", "stated_rate", 8.0, 0), clock=clock, author_id=1)


def test_a_belief_alone_makes_a_forecast_as_wide_as_it_is_worth() -> None:
    """No part was ever on record: nodes of the constant rate and lives by age rest on the belief alone."""
    for worth in (2.0, 50.0):
        fitted = FitOfKind("fan", {}, {}, Named("nothing", content={}), Stated(0.08, worth, 3.0, 0.3)).compute()
        assert fitted.nodes is not None
        assert fitted.wear is not None
        level = fitted.nodes.shape / fitted.nodes.rate
        assert float(fitted.nodes.weight @ level) == pytest.approx(0.19, rel=0.25)
        assert fitted.wear.nodes is not None
        assert float(fitted.wear.nodes.weight @ fitted.wear.nodes.shape) > 1.0
        assert fitted.record.exposure_years == 0
    assert FitOfKind("fan", {}, {}, Named("nothing", content={})).compute().nodes is None


def test_an_empty_log_is_silence_until_something_is_believed(session: Session) -> None:
    inputs = read_inputs(session)
    silent = replace(inputs, logged=False)
    part = next(part for part in silent.parts if part.number == PART)
    fit = silent.fit_of("fan")
    assert LawBook(silent.of_part(part), fit.compute()).part_law(part.id) is None
    believed = replace(fit, stated=Stated(0.08, 5.0)).compute()
    assert LawBook(silent.of_part(part), believed).part_law(part.id) is not None
