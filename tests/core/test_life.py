"""Tenures, rates, findings and records: bounds, published answers, and the bias that delayed entry cures."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from almanac.core.errors import ContractError
from almanac.core.life import findings
from almanac.core.life.outcomes import REMOVED_TO, Bucket, Finding
from almanac.core.life.rate import constant_rate
from almanac.core.life.record import Stream, TenureCount, kind_record, pool_record, stream_of
from almanac.core.life.tenures import age_counts, wear_out_window

tenures = st.lists(st.tuples(st.integers(0, 500), st.integers(0, 500), st.booleans(), st.integers(1, 4)), min_size=1, max_size=40)


def _arrays(drawn: list[tuple[int, int, bool, int]]) -> tuple[list[int], list[int], list[int], list[int]]:
    entry = [min(a, b) for a, b, _, _ in drawn]
    stop = [max(a, b) for a, b, _, _ in drawn]
    return entry, stop, [int(failed) for _, _, failed, _ in drawn], [count for _, _, _, count in drawn]


@given(tenures)
def test_counts_by_age_say_the_same_as_the_tenures(drawn: list[tuple[int, int, bool, int]]) -> None:
    entry, stop, failed, count = _arrays(drawn)
    ages = age_counts(entry, stop, failed, count)
    assert ages.exposure == pytest.approx(sum(c * (x - e) for e, x, c in zip(entry, stop, count, strict=True)))
    assert ages.failures == sum(c * d for e, x, d, c in zip(entry, stop, failed, count, strict=True) if x > e)
    assert ages.dropped == sum(c for e, x, c in zip(entry, stop, count, strict=True) if x == e)
    for age, at_risk in zip(ages.age, ages.at_risk(), strict=True):
        assert at_risk == sum(c for e, x, c in zip(entry, stop, count, strict=True) if e < age <= x)


@given(tenures)
def test_a_count_stands_for_as_many_rows(drawn: list[tuple[int, int, bool, int]]) -> None:
    entry, stop, failed, count = _arrays(drawn)
    folded = age_counts(entry, stop, failed, count)
    spread = age_counts(np.repeat(entry, count), np.repeat(stop, count), np.repeat(failed, count))
    np.testing.assert_array_equal(folded.failed, spread.failed)
    np.testing.assert_array_equal(folded.at_risk(), spread.at_risk())


def test_a_unit_that_leaves_before_it_enters_is_refused_by_place() -> None:
    with pytest.raises(ContractError, match=r"exit\[1\]: 2 is before entry 5"):
        age_counts([0, 5], [3, 2], [0, 0])


@pytest.mark.parametrize(("bad", "message"), [([-1.0], "entry"), ([float("nan")], "entry"), ([[1.0]], "one-dimensional")])
def test_arguments_outside_their_range_are_named(bad: list[float], message: str) -> None:
    with pytest.raises(ContractError, match=message):
        age_counts(bad, [5.0], [0])


def test_wear_out_exposure_starts_after_the_days_of_dead_on_arrival() -> None:
    entry, stop = wear_out_window([0, 0, 100, 3], [400, 9, 130, 14], 14)
    assert (stop - entry).tolist() == [386, 0, 30, 0]


def test_leaving_out_delayed_entry_makes_old_parts_look_immortal() -> None:
    """Parts fitted before the log began are only known to have survived until then."""
    chance = np.random.default_rng(7)
    life = 5.0 * chance.weibull(3.0, 20_000)
    log_began = chance.uniform(0.0, 6.0, life.size)
    seen = life > log_began  # what died before was never written down
    end = np.minimum(life, log_began + 2.0)
    failed = (life <= log_began + 2.0)[seen]
    truth = failed.sum() / (end[seen] - log_began[seen]).sum()
    naive = age_counts(np.zeros(seen.sum()), end[seen], failed)
    cured = age_counts(log_began[seen], end[seen], failed)
    assert cured.failures / cured.exposure == pytest.approx(truth)
    assert naive.failures / naive.exposure < 0.6 * truth


def test_exact_limits_agree_with_chi_square() -> None:
    """Garwood (1936): with 3 failures in 100 units of time the 90% limits are chi2(6)/200 and chi2(8)/200."""
    found = constant_rate(3, 100.0, level=0.90)
    assert found.rate == pytest.approx(0.03)
    assert found.low == pytest.approx(stats.chi2.ppf(0.05, 6) / 200)
    assert found.high == pytest.approx(stats.chi2.ppf(0.95, 8) / 200)


def test_no_failure_is_not_a_zero_rate() -> None:
    found = constant_rate(0, 50.0)
    assert found.low == 0.0
    assert found.high == pytest.approx(-np.log(0.05) / 50.0)


def test_no_exposure_has_no_rate() -> None:
    assert constant_rate(0, 0.0).rate is None
    assert constant_rate(0, 0.0).high == np.inf


@given(st.floats(0, 200), st.floats(0.1, 1e4), st.floats(0.5, 0.99))
def test_limits_enclose_the_rate_and_widen_with_confidence(failures: float, exposure: float, level: float) -> None:
    narrow, wide = constant_rate(failures, exposure, level=level / 2), constant_rate(failures, exposure, level=level)
    assert narrow.rate is not None
    assert wide.low <= narrow.low <= narrow.rate * (1 + 1e-9) + 1e-12
    assert narrow.rate <= narrow.high <= wide.high


def test_open_findings_weigh_with_the_settled_share() -> None:
    assert findings.settled_share(9, 10).share == pytest.approx(9.5 / 11)
    assert findings.settled_share(0, 0).share == 0.5
    with pytest.raises(ContractError, match="confirmed"):
        findings.settled_share(3, 2)


@given(st.integers(0, 50), st.integers(0, 500))
def test_dead_on_arrival_is_a_probability_and_grows_with_the_dead(dead: int, more: int) -> None:
    found = findings.dead_on_arrival_probability(dead, dead + more)
    assert 0 < found < 1
    if more:
        assert findings.dead_on_arrival_probability(dead + 1, dead + more) > found


@pytest.mark.parametrize("finding", [*Finding, None])
@pytest.mark.parametrize("early", [True, False])
def test_every_end_of_a_tenure_belongs_to_one_stream(finding: Finding | None, early: bool) -> None:
    stream = stream_of(finding, early=early, exposed=not early)
    if finding is Finding.DEAD_ON_ARRIVAL or (early and finding in (Finding.CONFIRMED, Finding.OPEN)):
        assert stream is Stream.DEAD_ON_ARRIVAL
    elif finding in (None, Finding.UPGRADE, Finding.PREVENTIVE):
        assert stream is Stream.CENSORED
    else:
        assert stream is not Stream.CENSORED


def test_every_finding_sends_the_removed_unit_somewhere_and_never_to_stock() -> None:
    assert set(REMOVED_TO) == set(Finding)
    assert Bucket.ON_HAND not in REMOVED_TO.values()


def test_a_kind_shares_its_settled_findings_and_splits_the_open_ones() -> None:
    rows = [
        TenureCount(None, False, True, True, 100, 300.0),
        TenureCount(Finding.CONFIRMED, False, True, True, 8, 20.0),
        TenureCount(Finding.OPEN, False, True, False, 4, 9.0),
        TenureCount(Finding.NO_FAULT_FOUND, False, True, True, 1, 2.0),
        TenureCount(Finding.CONFIRMED, True, False, True, 2, 0.0),
        TenureCount(Finding.DAMAGE, False, True, True, 1, 1.0),
    ]
    kind = kind_record(rows)
    assert (kind.share.confirmed, kind.share.settled) == (10, 12)
    assert kind.no_fault_draws == pytest.approx(1 + 4 * (1 - kind.share.share))
    assert (kind.dead_on_arrival, kind.damage, kind.fittings) == (2, 1, 112)
    pool = pool_record(rows)
    assert pool.tenures == sum(pool.streams.values()) == 116
    assert pool.exposure_years == pytest.approx(332.0)
    assert pool.without_exposure == 2


def test_a_failure_on_the_day_the_log_began_was_never_at_risk() -> None:
    assert stream_of(Finding.CONFIRMED, early=False, exposed=False) is Stream.CENSORED
    assert stream_of(Finding.DAMAGE, early=False, exposed=False) is Stream.DAMAGE
