"""Alarms of the demo, whose truth holds one bad lot of fans: it speaks, it alone, and what is decided about it is what follows."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date, timedelta
from typing import Any

import numpy as np
import pytest
from sqlalchemy import select, text
from sqlalchemy.orm import Session

from almanac.core.life.outcomes import Bucket
from almanac.demo import truth
from almanac.services.alarms.decide import DecisionRequest, accepted_since, decide, followed_of, withdraw
from almanac.services.alarms.decided import accepted_of, day_number
from almanac.services.alarms.expected import ChartKey, ExpectedChart
from almanac.services.alarms.names import chart_named, name_of, title_of
from almanac.services.alarms.watch import ChartFollowed, CompanyWatch, _followed, read_watch
from almanac.services.alarms.would import would_change
from almanac.services.clock import Clock
from almanac.services.errors import NotFound, Refused, Stale
from almanac.services.ledger.record import IncidentRequest, LineRequest, record_incident
from almanac.services.outlook.inputs import read_inputs
from almanac.services.rates.kind import PoolName, read_kind
from almanac.services.rates.pool import read_pool
from almanac.services.stores.ages import lot_of
from almanac.store.lots import receipts_of_lot, units_of_lot
from almanac.store.models import AlarmDecision, LotKnownBy, Part, StockMove, Unit
from almanac.store.shelves import shelf_for_update
from tests.services.looks import builder_of, year_of

CHART = f"fan~lot~{truth.BAD_LOT_PART}~{truth.BAD_LOT_MADE.isoformat()}"


def followed(watch: CompanyWatch, name: str = CHART) -> ChartFollowed:
    return followed_of(watch, chart_named(watch.inputs, name))


def other_rate(session: Session) -> float:
    """Of the pool of another fan that borrows most from its kind."""
    pools = [pool for pool in read_kind(session, "fan").pools if pool.name.part != truth.BAD_LOT_PART and pool.shrunk is not None]
    least = min(pools, key=lambda pool: (pool.exposure_years, pool.name))
    assert least.shrunk is not None
    return least.shrunk.rate


def say(session: Session, clock: Clock, verdict: str, *, reason: str = "the supplier confirms it", failed: float | None = None) -> int:
    seen = followed(read_watch(session)).alarm
    observed = seen.observed if seen is not None else 0.0
    return decide(session, DecisionRequest(CHART, verdict, reason, observed if failed is None else failed), clock=clock, author_id=1)


def rate_of(session: Session, *, lot: bool) -> float:
    """Of the pools of the part with most units, in the lot or in none."""
    pools = [pool for pool in read_kind(session, "fan").pools if pool.name.part == truth.BAD_LOT_PART and pool.units]
    own = max((pool for pool in pools if (pool.name.lot is not None) == lot), key=lambda pool: pool.units)
    assert own.shrunk is not None
    return own.shrunk.rate


def test_the_bad_lot_speaks_and_nothing_else(session: Session) -> None:
    watch = read_watch(session)
    assert [name_of(watch.inputs, one.kind, one.key) for one in watch.open] == [CHART]
    one = watch.open[0]
    assert one.alarm is not None
    assert one.alarm.observed > 4 * one.alarm.expected
    assert one.stands_out
    assert sum(other.stands_out for other in watch.charts) == 1
    assert title_of(watch.inputs, one.kind, one.key) == "QF-BL-L, lot of 1 Jul 2025"
    assert watch.silent == ()


def test_what_is_expected_adds_up_to_what_failed(session: Session) -> None:
    """Part charts of a kind hold every failure once, and their own record before each month: nobody is held against a wrong level."""
    for kind in ("fan", "battery", "ssd", "memory"):
        parts = [one for one in read_watch(session).charts if one.kind == kind and one.key.scope == "part"]
        pools = [one for one in read_watch(session).charts if one.kind == kind and one.key.scope == "pool"]
        failed = sum(one.failed for one in parts + _alone(parts, pools))
        assert 0.85 < failed / sum(one.expected for one in parts + _alone(parts, pools)) < 1.18


def _alone(parts: list[ChartFollowed], pools: list[ChartFollowed]) -> list[ChartFollowed]:
    """Pools whose part has no chart of its own, for it would be the same."""
    charted = {one.key.part for one in parts}
    return [one for one in pools if one.key.part not in charted]


def test_accepting_gives_the_lot_its_own_rate_and_the_others_theirs(session: Session, clock: Clock) -> None:
    before, others = other_rate(session), year_of(row_of(session))
    (said,) = would_change(session, CHART)
    number = say(session, clock, "accepted")
    watch = read_watch(session)
    assert watch.open == []
    assert followed(watch).decision is not None
    assert rate_of(session, lot=True) > 3 * rate_of(session, lot=False)
    assert other_rate(session) < before  # what the bad lot did no longer makes its kind look worse
    own = followed(watch)
    assert own.expected == pytest.approx(own.failed, rel=0.25)
    after = row_of(session)
    assert said.year_before == pytest.approx(others)
    assert said.year_after == pytest.approx(year_of(after))
    assert after.plan is not None
    assert said.order_at_after == after.plan.order_at
    assert year_of(after) > others
    inputs = read_inputs(session)
    words = accepted_since(session, inputs, "fan", clock.today - timedelta(days=30))
    assert len(words) == 1
    assert words[0].startswith("QF-BL-L, lot of 1 Jul 2025: accepted on")
    assert accepted_since(session, inputs, "ssd", clock.today - timedelta(days=30)) == []
    withdraw(session, number, clock=clock, author_id=1)
    assert [one.key for one in read_watch(session).open] == [followed(watch).key]
    assert other_rate(session) == pytest.approx(before)
    with pytest.raises(NotFound, match="no decision"):
        withdraw(session, number, clock=clock, author_id=1)


def one_rate(session: Session) -> None:
    session.execute(
        text("""INSERT INTO setting (scope, scope_key, key, number, value, from_on, recorded_at)
                VALUES ('kind', 'fan', 'school', 1, '"constant"', '2026-01-01', now())""")
    )


def test_a_lot_of_its_own_is_worse_at_one_constant_rate_too(session: Session, clock: Clock) -> None:
    trial = session.begin_nested()
    one_rate(session)
    before, watched = year_of(row_of(session)), followed(read_watch(session))
    # One rate at every age expects more of young fans, so that fewer of them are too many.
    assert watched.failed > 3 * watched.expected
    trial.rollback()
    session.expire_all()
    say(session, clock, "accepted")
    one_rate(session)
    assert rate_of(session, lot=True) > 2 * rate_of(session, lot=False)
    assert year_of(row_of(session)) > 1.05 * before
    own = followed(read_watch(session))
    assert own.expected == pytest.approx(own.failed, rel=0.25)
    assert not own.is_open


def row_of(session: Session) -> Any:
    builder = builder_of(session)
    return builder.row(builder.inputs.part(truth.BAD_LOT_PART))


def test_lives_of_the_lot_stand_apart(session: Session, clock: Clock) -> None:
    pool = next(pool for pool in read_kind(session, "fan").pools if pool.name.part == truth.BAD_LOT_PART and pool.units > 30).name
    whole = read_pool(session, pool)
    say(session, clock, "accepted")
    rest, lot = read_pool(session, pool), read_pool(session, pool._replace(lot=truth.BAD_LOT_MADE))
    assert len(rest.rows) + len(lot.rows) == len(whole.rows)
    assert lot.rows
    assert {row.made_on for row in lot.rows} == {truth.BAD_LOT_MADE}
    assert rest.confirmed + lot.confirmed == whole.confirmed
    assert {PoolName(*pool[:4], lot=None), pool._replace(lot=truth.BAD_LOT_MADE)} <= {one.name for one in read_kind(session, "fan").pools}


def test_put_aside_it_stays_as_it_is_until_it_speaks_again(session: Session, clock: Clock) -> None:
    before = read_inputs(session).fit_of("fan").key
    say(session, clock, "aside", reason="one room was too warm")
    watch = read_watch(session)
    assert watch.open == []
    assert read_inputs(session).fit_of("fan").key == before
    row = session.scalars(select(AlarmDecision)).one()
    row.spoke_on = row.spoke_on.replace(year=row.spoke_on.year - 1)  # as if it had been about an earlier alarm
    row.since = min(row.since, row.spoke_on)
    session.flush()
    assert [one.key for one in read_watch(session).open] == [followed(watch).key]


def test_a_decision_needs_a_reason_an_open_alarm_and_the_page_as_it_is(session: Session, clock: Clock) -> None:
    with pytest.raises(Refused, match="say in a few words why"):
        say(session, clock, "accepted", reason="ok")
    with pytest.raises(Stale, match="more is on record"):
        say(session, clock, "accepted", failed=3.0)
    say(session, clock, "accepted")
    with pytest.raises(Refused, match="no alarm is open"):
        decide(session, DecisionRequest(CHART, "aside", "once more, please", 10.0), clock=clock, author_id=1)
    with pytest.raises(Refused, match="no alarm is open"):
        would_change(session, CHART)


@pytest.mark.parametrize("name", ["", "fan", "fan~lot", "fan~lot~NOPE~2025-07-01", "fan~lot~OF-P14~soon", "fan~street~X", "fan~site~NOPE"])
def test_a_name_of_nothing_is_told_so(session: Session, name: str) -> None:
    with pytest.raises(NotFound, match="nothing is watched"):
        chart_named(read_inputs(session), name)


def test_every_chart_is_found_by_its_name(session: Session) -> None:
    watch = read_watch(session)
    assert {one.key.scope for one in watch.charts} == {"pool", "part", "site", "lot"}
    for one in watch.charts:
        named = chart_named(watch.inputs, name_of(watch.inputs, one.kind, one.key))
        assert (named.kind, named.key) == (one.kind, one.key)


@pytest.fixture
def site_alarm(session: Session, clock: Clock) -> Iterator[AlarmDecision]:
    """An accepted alarm of a site, a part and a pool each leave out what came before."""
    row = AlarmDecision(
        kind="fan",
        scope="site",
        site_id=4,
        since=clock.today - timedelta(days=400),
        spoke_on=clock.today - timedelta(days=30),
        observed=9.0,
        expected=3.0,
        verdict="accepted",
        reason="dust since the roof was opened",
        decided_at=clock.now,
        author_id=1,
    )
    session.add(row)
    session.flush()
    yield row


def site_chart(session: Session) -> ChartFollowed:
    return next(one for one in read_watch(session).charts if (one.kind, one.key.scope, one.key.site) == ("fan", "site", 4))


def early_of(one: ChartFollowed) -> float:
    """What was expected more than four hundred days ago."""
    until = read_until(one.months)
    return float(one.chart.expected[:until].sum())


def read_until(months: tuple[date, ...]) -> int:
    return sum(month <= months[-1] - timedelta(days=440) for month in months)


def test_a_site_accepted_counts_from_its_day_on(session: Session, clock: Clock, site_alarm: AlarmDecision) -> None:
    found = accepted_of(session)
    fans = {part.id for part in read_inputs(session).parts if part.kind == "fan"}
    assert fans <= set(found)
    assert {one.since for own in found.values() for one in own} == {day_number(site_alarm.since)}  # type: ignore[union-attr]
    pool = next(pool.name for pool in read_kind(session, "fan").pools if pool.units)
    lives, counts = read_pool(session, pool), site_chart(session)
    site_alarm.withdrawn_at = clock.now
    session.flush()
    assert len(read_pool(session, pool).rows) == len(lives.rows) + lives.before
    assert accepted_of(session) == {}
    assert site_chart(session).failed > 0 == early_of(counts)
    assert early_of(site_chart(session)) > 0
    assert accepted_of(session, known_at=clock.now - timedelta(days=1)) == {}


def test_what_comes_off_a_shelf_keeps_its_lot(session: Session) -> None:
    part_id, site, day = session.execute(
        text("""SELECT h.part_id, h.site_id, m.moved_on FROM stock_move m JOIN shelf h ON h.id = m.shelf_id JOIN part p ON p.id = h.part_id
                WHERE m.bucket = 'on_hand' AND m.made_on IS NOT NULL AND m.quantity > 0 AND p.shelf_life_days IS NULL
                ORDER BY m.moved_on, m.id LIMIT 1""")
    ).one()
    shelf, part = shelf_for_update(session, part_id, site), session.get_one(Part, part_id)
    session.execute(text("ALTER TABLE stock_move DISABLE TRIGGER append_only"))
    session.execute(text("DELETE FROM stock_move WHERE shelf_id = :s"), {"s": shelf.id})
    of = (part, shelf, Bucket.ON_HAND)
    assert lot_of(session, of, None, day) is None  # the books hold less than a hand does
    counted = text("""INSERT INTO stock_move (shelf_id, bucket, quantity, cause, made_on, moved_on, recorded_at)
                      VALUES (:shelf, 'on_hand', 3, 'counted', :made, :day, now())""")
    early, late = day - timedelta(days=90), day - timedelta(days=10)
    session.execute(counted, {"shelf": shelf.id, "made": late, "day": day})
    assert lot_of(session, of, None, day) == (late, LotKnownBy.ONLY_LOT)
    session.execute(counted, {"shelf": shelf.id, "made": early, "day": day})
    assert lot_of(session, of, None, day) == (early, LotKnownBy.FIRST_OUT)
    part.shelf_life_days = 60  # the older lot has expired: nobody fits it while another lies there
    session.flush()
    assert lot_of(session, of, None, day) == (late, LotKnownBy.FIRST_OUT)
    part.shelf_life_days = None
    session.execute(counted, {"shelf": shelf.id, "made": None, "day": day})  # of some nobody knows: then it may be any
    session.flush()
    assert lot_of(session, of, None, day) is None


def test_a_swap_that_is_recorded_keeps_the_lot_of_the_new_part(session: Session, clock: Clock) -> None:
    row = session.execute(
        text("""SELECT a.tag, o.id AS position, p.number, s.code, h.id AS shelf FROM tenure t JOIN asset a ON a.id = t.asset_id
                JOIN asset_stay y ON y.asset_id = a.id AND y.until_on IS NULL JOIN site s ON s.id = y.site_id
                JOIN position o ON o.id = t.position_id JOIN part p ON p.id = t.part_id
                JOIN shelf h ON h.part_id = p.id AND h.site_id = s.id
                WHERE t.removed_on IS NULL AND a.retired_on IS NULL AND p.kind = 'fan' AND t.fitted_on < '2025-01-01'
                  AND NOT EXISTS (SELECT 1 FROM job j WHERE j.asset_id = a.id AND j.ended_at IS NULL)
                ORDER BY a.tag LIMIT 1""")
    ).one()
    session.execute(text("ALTER TABLE stock_move DISABLE TRIGGER append_only"))
    session.execute(text("UPDATE stock_move SET made_on = '2026-02-03' WHERE shelf_id = :s AND bucket = 'on_hand'"), {"s": row.shelf})
    session.execute(
        text("""INSERT INTO stock_move (shelf_id, bucket, quantity, cause, made_on, moved_on, recorded_at)
                VALUES (:s, 'on_hand', 50, 'counted', '2026-02-03', '2026-03-01', now())"""),
        {"s": row.shelf},
    )
    line = LineRequest(row.position, "replaced", row.number, row.code)
    asked = frozenset({"again", "stock", "early", "unusual"})
    record_incident(session, IncidentRequest(row.tag, clock.today, "grinds", "open", [line], confirmed=asked), clock=clock, author_id=1)
    unit = session.scalars(select(Unit).order_by(Unit.id.desc()).limit(1)).one()
    assert (unit.made_on, unit.lot_known_by) == (date(2026, 2, 3), "only_lot")
    gone = session.scalars(select(StockMove).where(StockMove.cause == "fitted").order_by(StockMove.id.desc()).limit(1)).one()
    assert gone.made_on == unit.made_on  # what is left of the lot is one less


def test_an_alarm_nobody_decided_about_is_history_after_a_year() -> None:
    months = tuple(date(2024 + place // 12, place % 12 + 1, 1) for place in range(36))
    failures, expected = np.zeros(35), np.full(35, 0.05)
    failures[3:6] = 3.0
    chart = ExpectedChart(ChartKey("part", 1), failures, expected, 0.1, 40)
    of = ("fan", months, chart, (4.0, 1e-4), None)
    fresh, old = _followed(*of, date(2025, 4, 30)), _followed(*of, date(2026, 11, 30))
    assert fresh.is_open
    assert not old.is_open
    assert old.watched.alarms == fresh.watched.alarms != ()


def test_units_of_a_lot_say_where_they_are_and_how_they_ended(session: Session) -> None:
    inputs = read_inputs(session)
    part = inputs.part(truth.BAD_LOT_PART).id
    units = units_of_lot(session, part, truth.BAD_LOT_MADE, most=500)
    assert len(units) == session.scalar(
        text("SELECT count(*) FROM tenure t JOIN unit u ON u.id = t.unit_id WHERE u.part_id = :p AND u.made_on = :d"),
        {"p": part, "d": truth.BAD_LOT_MADE},
    )
    failed = [unit for unit in units if unit.finding in ("confirmed", "open")]
    assert len(failed) >= 8
    assert all(unit.incident_id is not None and unit.removed_on is not None for unit in failed)
    assert receipts_of_lot(session, part, truth.BAD_LOT_MADE) == []
    assert {unit.lot_known_by for unit in units} == {None}  # they came with their machines
