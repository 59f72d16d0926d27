"""The rates of a kind against the truth the demo's log was drawn from, and against the log itself."""

from __future__ import annotations

import numpy as np
import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.core.life.mix import expected_first_failures, survival_curve
from almanac.core.parts.kinds import Duty, Environment, Kind
from almanac.demo.truth import KINDS
from almanac.services.errors import NotFound
from almanac.services.rates.data_check import data_check
from almanac.services.rates.kind import KindRates, rates_of, read_kind
from almanac.services.rates.pool import counted_as, read_pool, years_at_risk


@pytest.mark.parametrize(("kind", "school"), [("memory", "wear-out"), ("ssd", "constant"), ("battery", "wear-out"), ("fan", "wear-out")])
def test_the_shape_and_school_are_those_the_log_was_drawn_from(session: Session, kind: str, school: str) -> None:
    found = read_kind(session, kind)
    assert found.school.name == school
    assert found.free_shape == pytest.approx(KINDS[Kind(kind)].shape, rel=0.2)
    assert found.school.early_life == (kind == "memory")


def test_counts_are_those_of_the_log(session: Session) -> None:
    found = read_kind(session, "fan")
    units = session.scalar(
        text("""SELECT count(*) FROM tenure t JOIN part p ON p.id = t.part_id JOIN asset a ON a.id = t.asset_id
                WHERE p.kind = 'fan' AND t.removed_on IS NULL AND a.retired_on IS NULL AND a.in_service_on <= '2026-11-01'""")
    )
    assert sum(pool.units for pool in found.pools) == units == found.served.sum()
    confirmed = found.failures - found.open_share * found.open_findings
    assert confirmed == pytest.approx(round(confirmed))
    assert sum(pool.failures for pool in found.pools) == pytest.approx(found.failures)


def _falls(found: KindRates) -> bool:
    survival = [step.survival for step in found.steps]
    return survival == sorted(survival, reverse=True)


def test_survival_falls_and_the_curve_stays_near_it(session: Session) -> None:
    found = read_kind(session, "battery")
    assert _falls(found)
    assert all(step.at_risk >= 5 for step in found.steps)
    assert all(step.low is None or step.high is None or step.low <= step.survival <= step.high for step in found.steps)
    middle = next(step for step in found.steps if step.survival < 0.6)
    fitted = np.interp(middle.age, found.curve_age, found.curve)
    assert fitted == pytest.approx(middle.survival, abs=0.08)


def test_pools_move_towards_their_kind_and_none_is_zero(session: Session) -> None:
    found = read_kind(session, "ssd")
    for pool in found.pools:
        if pool.units == 0:
            continue
        assert pool.shrunk is not None
        assert 0 < pool.shrunk.low < pool.shrunk.rate < pool.shrunk.high
    raw = [pool.raw.rate for pool in found.pools if pool.shrunk and pool.raw.rate is not None]
    shrunk = [pool.shrunk.rate for pool in found.pools if pool.shrunk and pool.raw.rate is not None]
    assert np.std(shrunk) < np.std(raw)


def test_a_kind_that_is_not_forecast_has_no_rates(session: Session, empty_session: Session) -> None:
    with pytest.raises(NotFound, match="mainboard is none of them"):
        read_kind(session, "mainboard")
    with pytest.raises(NotFound, match="nothing of kind fan"):
        read_kind(empty_session, "fan")
    assert rates_of(empty_session, "fan") is None


def test_mixed_figures_have_their_closed_forms() -> None:
    many = expected_first_failures(2.0, 1e9, 1e11, [1.0], [10], [0.0, 1.0, 2.0])
    assert many == pytest.approx(10 * np.array([np.exp(0) - np.exp(-0.03), np.exp(-0.03) - np.exp(-0.08)]), rel=1e-6)
    assert survival_curve(1.0, 2.0, 10.0, [10.0]) == pytest.approx([0.25])


def test_fans_age_as_fast_under_duty_and_in_dust_as_was_drawn(session: Session) -> None:
    found = {pace.of_class: pace for pace in read_kind(session, "fan").paces}
    truth = KINDS[Kind.FAN]
    for duty in (Duty.TWO_SHIFTS, Duty.ROUND_THE_CLOCK):
        pace = found[duty.value]
        assert pace.taken
        assert pace.pace == pytest.approx(truth.duty[duty], rel=0.2)
    assert found["dust"].pace == pytest.approx(truth.environment[Environment.DUST], rel=0.2)
    batteries = {pace.of_class: pace for pace in read_kind(session, "battery").paces}
    assert batteries["two_shifts"].pace == 1.0
    assert "no difference can be told" in batteries["two_shifts"].reason


def test_the_fitted_life_goes_through_the_steps_at_the_mix_of_duties(session: Session) -> None:
    found = read_kind(session, "fan")
    for age in (1.0, 2.0, 3.0, 4.0):
        step = [step for step in found.steps if step.age <= age][-1]
        assert np.interp(age, found.curve_age, found.curve) == pytest.approx(step.survival, abs=0.02)


def test_the_lives_of_a_pool_are_what_its_rate_is_counted_from(session: Session) -> None:
    kind = read_kind(session, "fan")
    for pool in kind.pools[:4]:
        lives = read_pool(session, pool.name)
        assert lives.kind == "fan"
        assert lives.exposure_years == pytest.approx(pool.exposure_years, rel=1e-6)
        assert lives.confirmed + kind.open_share * lives.open == pytest.approx(pool.failures)
        assert sum(row.in_service for row in lives.rows) == pool.units
        assert all(years_at_risk(row) == 0 for row in lives.rows if counted_as(row) == "left_out")


def test_what_is_no_pool_is_not_found(session: Session) -> None:
    name = read_kind(session, "fan").pools[0].name
    with pytest.raises(NotFound, match="NO-1"):
        read_pool(session, name._replace(part="NO-1"))
    with pytest.raises(NotFound, match="Nobody"):
        read_pool(session, name._replace(model="Nobody Nothing"))
    assert read_pool(session, name._replace(duty="never")).rows == []


def test_lives_left_out_are_counted_by_kind(session: Session) -> None:
    by_kind = [read_kind(session, kind).left_out for kind in ("memory", "ssd", "battery", "fan")]
    assert sum(by_kind) == sum(found.count for found in data_check(session) if found.check.left_out)
