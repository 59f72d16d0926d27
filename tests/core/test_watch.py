"""Charts: how often they speak without cause, how soon with cause, and since when."""

from __future__ import annotations

import numpy as np
import pytest

from almanac.core.errors import ContractError
from almanac.core.life.alarms.cusum import Chart, limit_for, watch


def spoken(limit: float, failures: np.ndarray, expected: float) -> np.ndarray:
    """(n, t) alarms of charts (n, t), ratio 2."""
    height, found = np.zeros(failures.shape[0]), np.zeros(failures.shape, bool)
    for period in range(failures.shape[1]):
        height = np.maximum(0.0, height + failures[:, period] * np.log(2.0) - expected)
        found[:, period] = height >= limit
        height[found[:, period]] = 0.0
    return found


@pytest.mark.parametrize(("charts", "cv", "expected"), [(20, 0.1, 1.0), (20, 0.0, 0.2), (200, 0.2, 3.0)])
def test_all_charts_together_speak_without_cause_once_a_year(charts: int, cv: float, expected: float) -> None:
    chance = np.random.default_rng(1)
    limit = limit_for(expected, cv, 2.0, 1 / (12 * charts))
    level = chance.gamma(cv**-2, cv**2, 6000) if cv else np.ones(6000)
    alarms = spoken(limit, chance.poisson((level * expected)[:, None], (6000, 240)), expected)
    assert alarms.sum() / 6000 / 20 * charts == pytest.approx(1.0, abs=0.3)


@pytest.mark.parametrize(("charts", "ratio", "months"), [(200, 2, 15), (200, 3, 7), (20, 2, 8), (20, 3, 4)])
def test_a_rate_that_rose_is_noticed_soon(charts: int, ratio: int, months: int) -> None:
    chance = np.random.default_rng(2)
    limit = limit_for(1.0, 0.1, 2.0, 1 / (12 * charts))
    alarms = spoken(limit, chance.poisson(ratio * chance.gamma(100, 0.01, 2000)[:, None], (2000, 240)), 1.0)
    assert np.median(alarms.argmax(axis=1) + 1) <= months


def test_an_alarm_says_since_when_and_the_chart_begins_anew() -> None:
    quiet, loud = [0] * 6, [2, 3, 3, 3]
    chart = Chart(np.array([*quiet, *loud, *quiet]), np.full(16, 0.5))
    (found,) = watch([chart], years_between_false_alarms=100.0)
    (alarm,) = found.alarms
    assert alarm.since == 6
    assert alarm.observed == sum(loud[: alarm.period - 5])
    assert alarm.expected == pytest.approx(0.5 * (alarm.period - 5))
    assert found.statistic < found.limit
    assert found.since > alarm.period


def test_more_charts_or_less_knowledge_ask_for_more() -> None:
    few, many, unsure = limit_for(1.0, 0.0, 2.0, 1 / 240), limit_for(1.0, 0.0, 2.0, 1 / 2400), limit_for(1.0, 0.3, 2.0, 1 / 240)
    assert few < many
    assert few < unsure


def test_what_cannot_be_watched_is_refused() -> None:
    with pytest.raises(ContractError, match="charts"):
        watch([])
    with pytest.raises(ContractError, match="ratio"):
        watch([Chart(np.array([1]), np.ones(1))], ratio=1.0)
    with pytest.raises(ContractError, match="failures"):
        watch([Chart(np.array([1, 2]), np.ones(3))])
