"""Ages nobody knows in the fitted model: parts replaced before anybody wrote it down no longer make the others look long-lived."""

from __future__ import annotations

from dataclasses import replace
from datetime import date

import numpy as np
import pytest
from sqlalchemy import select, text
from sqlalchemy.orm import Session

from almanac.core.life.age_spans import AgeSpans
from almanac.core.life.kind_likelihood import most_likely
from almanac.core.life.tenures import AgeCounts, age_counts
from almanac.core.life.wear_nodes import kind_penalty
from almanac.services.answers.ask import answer_of
from almanac.services.clock import Clock
from almanac.services.company_edit import SiteEdit, edit_site
from almanac.services.outlook.demand_laws import LawBook
from almanac.services.outlook.fitted import NEVER_FAILED, lasting_of, likelihood_of, lives_of
from almanac.services.outlook.inputs import read_inputs
from almanac.services.outlook.life import PartLog
from almanac.services.outlook.pools import Grouping, Pool, spans_of
from almanac.services.rates.kind import read_kind
from almanac.store import changes
from almanac.store.models import Site

POOL = Pool(1, 1, "office_hours", "office")
SHAPE, SCALE, WATCHED = 3.0, 4.0, 3.0


def fleet(seed: int, machines: int = 1500) -> tuple[AgeSpans, AgeCounts, AgeCounts]:
    """Machines up to eight years old whose repairs are written down for three: spans, the truth, and the machine's age as the part's.

    A part that fails is replaced, before the log began without a word. What is seen to be fitted is known, and left out here.
    """
    chance = np.random.default_rng(seed)
    rows, true = [], []
    for bought in chance.uniform(WATCHED, 8.0, machines):
        began, fitted = bought - WATCHED, 0.0
        while (fails := fitted + SCALE * chance.weibull(SHAPE)) < began:
            fitted = fails
        failed = fails < bought
        watched = (fails if failed else bought) - began
        rows.append((0.04, began, True, watched, 1.0 - failed, float(failed)))
        true.append((began - fitted, began - fitted + watched, float(failed), began, began + watched))
    columns = [np.array(column) for column in zip(*rows, strict=True)]
    own = AgeSpans(columns[0], columns[1], columns[2].astype(bool), *columns[3:])
    entry, stop, failed_at, machine, machine_end = (np.array(column) for column in zip(*true, strict=True))
    return own, age_counts(entry, stop, failed_at), age_counts(machine, machine_end, failed_at)


def lasting(lives: AgeCounts) -> tuple[float, float]:
    """Shape and scale that the same fit finds where ages are taken as known."""
    likelihood = likelihood_of("battery", {POOL: lives})
    shape, mean, _ = np.exp(most_likely(likelihood, kind_penalty("battery")))
    return float(shape), float(likelihood.unit * mean ** (-1 / shape))


def test_the_shape_is_that_of_the_truth_and_not_of_the_machines_age() -> None:
    weighed, machines = [], []
    for seed in (1, 2, 3):
        own, known, machine = fleet(seed)
        found = lasting_of("battery", {}, {POOL: own}, None)
        weighed.append((found.shape, found.rate[POOL] ** (-1 / found.shape)))
        machines.append(lasting(machine)[0])
        assert found.shape == pytest.approx(lasting(known)[0], abs=0.25)
        assert found.mean ** (-1 / found.shape) == pytest.approx(SCALE, rel=0.1), "of a pool that nothing is known of"
    shape, scale = np.mean(weighed, axis=0)
    assert shape == pytest.approx(SHAPE, abs=0.12)
    assert scale == pytest.approx(SCALE, rel=0.02)
    assert max(machines) < 2.2, "a machine's age for its part's would say that they hardly wear"


def test_known_and_unknown_ages_of_one_pool_go_together() -> None:
    own, known, _ = fleet(4)
    found = lasting_of("battery", {POOL: known}, {POOL: own}, None)
    whole = lives_of({POOL: known}, {POOL: own}, found)[POOL]
    assert whole.units == pytest.approx(known.units + own.units)
    assert whole.failures == pytest.approx(known.failures + own.failed.sum())
    assert found.shape == pytest.approx(SHAPE, abs=0.2)


def test_without_a_failure_every_first_part_is_still_in() -> None:
    own, _, _ = fleet(5, machines=50)
    quiet = replace(own, still=np.ones(50), failed=np.zeros(50))
    assert lasting_of("battery", {}, {POOL: quiet}, None) == NEVER_FAILED
    assert NEVER_FAILED.of(POOL) == (1.0, 0.0)


def unknown(session: Session) -> int:
    """Batteries older than their log whose age is known become ones whose age is not; returns how many of them serve."""
    session.execute(
        text("""UPDATE tenure t SET age_span_days = observed_from - fitted_on, as_delivered = true FROM part p, asset a
                WHERE p.id = t.part_id AND a.id = t.asset_id AND p.kind = 'battery' AND observed_from > fitted_on
                  AND fitted_on = a.in_service_on AND age_at_fitting_days = 0""")
    )
    session.commit()
    return int(
        session.scalar(text("SELECT count(*) FROM tenure WHERE age_span_days > 0 AND removed_on IS NULL AND fitted_on <= '2026-11-01'"))
        or 0
    )


def test_the_rates_of_a_kind_count_every_unit_and_say_whose_age_is_not_known(session: Session) -> None:
    before = read_kind(session, "battery")
    assert before.age_unknown == 0
    there = unknown(session)
    after = read_kind(session, "battery")
    assert after.age_unknown == there > 20
    assert after.served.sum() == pytest.approx(before.served.sum())
    assert after.failures == pytest.approx(before.failures)
    assert after.exposure_years == pytest.approx(before.exposure_years, rel=0.002)
    assert after.shape == pytest.approx(before.shape, rel=0.25)
    assert min(step.low or 0.0 for step in after.steps[:5]) > 0.9, (
        "a hundredth of a failure says nothing, least of all that all may have failed"
    )
    old = (before.served_age + 0.25) @ before.served / before.served.sum()
    assert (after.served_age + 0.25) @ after.served / after.served.sum() < old, "some of the oldest were replaced, says the renewal law"
    assert after.overall is not None
    assert before.overall is not None
    assert after.overall.rate == pytest.approx(before.overall.rate, rel=0.2)


def test_lives_of_unknown_age_are_all_there(session: Session) -> None:
    """Open findings too, which weigh as failures with one share and as lives with the rest; all of these came with their machine."""
    unknown(session)
    inputs = read_inputs(session)
    asked = inputs.fit_of("battery")
    logs = asked.log.content
    rows = [log.spanned for log in logs.values()]
    watched = session.scalar(
        text("""SELECT count(*) FROM tenure WHERE age_span_days > 0 AND (removed_on IS NULL OR removed_on > observed_from)
                AND observed_from < '2026-11-01'""")
    )
    assert sum(int((own.still + own.confirmed + own.open).sum()) for own in rows) == watched
    assert all((own.first == 1).all() for own in rows)
    own = max(rows, key=lambda one: one.model.size)
    some = np.minimum(own.still, 1)
    opened = replace(own, still=own.still - some, open=own.open + some)
    log = PartLog(None, None, None, opened)  # type: ignore[arg-type]
    found = spans_of({1: log}, Grouping({1: 1}, asked.air), 0.9).values()
    assert sum(one.units for one in found) == pytest.approx(int((own.still + own.open + own.confirmed).sum()))
    assert sum(one.failed.sum() for one in found) == pytest.approx(own.confirmed.sum() + 0.9 * opened.open.sum())
    oldest = session.scalar(text("SELECT max(date '2026-11-01' - fitted_on) FROM tenure WHERE age_span_days > 0 AND removed_on IS NULL"))
    spans = [part for part, life in inputs.life.items() if part in logs and life.fleet.content.spans.units.size]
    assert max(inputs.life[part].oldest_days for part in spans) >= int(oldest or 0) > 0


def test_positions_hold_every_unit_at_one_age_or_several(session: Session) -> None:
    def held() -> dict[int, float]:
        inputs = read_inputs(session)
        book = LawBook(inputs.of_kind("battery"), answer_of(session, inputs.fit_of("battery")).content)
        return {part: float(own.units.sum()) for part, own in book.positions.items()}

    before = held()
    unknown(session)
    assert held() == pytest.approx(before)


def test_the_day_a_log_began_moves_what_is_not_known(session: Session, clock: Clock) -> None:
    unknown(session)
    site = session.scalars(select(Site).where(Site.code == "ELD")).one()
    query = text("""SELECT count(*) FILTER (WHERE age_span_days <> observed_from - fitted_on) AS wrong, count(*) AS spans,
                           count(*) FILTER (WHERE observed_from = :began) AS moved FROM tenure t JOIN asset_stay y ON y.asset_id = t.asset_id AND y.until_on IS NULL
                    WHERE as_delivered AND y.site_id = :site AND removed_on IS NULL""")
    for began in (date(2021, 3, 1), date(2021, 6, 1)):
        edit = SiteEdit(site.name, site.time_zone, site.environment, began)
        edit_site(session, "ELD", edit, expected_changes=changes_of(session), clock=clock, author_id=1)
        session.commit()
        row = session.execute(query, {"site": site.id, "began": began}).one()
        assert row.wrong == 0
        assert row.spans >= row.moved > 10, "those that came from elsewhere are under watch since that log began"


def changes_of(session: Session) -> int:
    return changes.count_of(session, "site ELD")
