"""Wear lines against a second least-squares, and Fieller's limits against the test they invert."""

from __future__ import annotations

import json
from typing import Any

import numpy as np
import pytest
from click.testing import CliRunner
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats

from almanac.cli import main
from almanac.core.errors import ContractError, NoEstimate
from almanac.core.life.wear import crossing, shares_of, wear_line

READINGS = ([0, 90, 200, 290, 400, 520], [0.99, 0.965, 0.93, 0.915, 0.872, 0.85])


def test_the_line_is_that_of_the_library() -> None:
    line = wear_line(*READINGS)
    other = stats.linregress(*READINGS)
    assert [line.intercept, line.slope, line.se_slope] == pytest.approx([other.intercept, other.slope, other.stderr])


@settings(max_examples=60)
@given(st.lists(st.floats(-0.004, 0.004), min_size=6, max_size=6), st.floats(0.5, 0.95), st.sampled_from([0.8, 0.9, 0.95]))
def test_fiellers_limits_are_where_the_t_test_turns(noise: list[float], threshold: float, level: float) -> None:
    days = np.array(READINGS[0], dtype=float)
    line = wear_line(days, np.array(READINGS[1]) + np.array(noise))
    try:
        found = crossing(line, threshold, level=level)
    except NoEstimate:
        return
    assert found.low <= found.day <= found.high
    for limit in (found.low, found.high):
        spread = line.sigma * np.sqrt(1 / line.readings + (limit - line.mean_day) ** 2 / line.spread)
        value = abs(line.at(limit) - threshold) / spread
        assert value == pytest.approx(stats.t.ppf(0.5 + level / 2, line.readings - 2), rel=1e-6)


def test_no_trend_is_an_answer() -> None:
    with pytest.raises(NoEstimate, match="2 readings"):
        wear_line([0, 10], [1, 0.9])
    with pytest.raises(NoEstimate, match="one day"):
        wear_line([5, 5, 5], [1, 0.9, 0.8])
    with pytest.raises(NoEstimate, match="do not fall"):
        crossing(wear_line([0, 10, 20], [0.9, 0.92, 0.95]), 0.8)
    with pytest.raises(NoEstimate, match="no end"):
        crossing(wear_line([0, 10, 20, 30], [0.9, 0.8, 0.95, 0.84]), 0.5)
    with pytest.raises(ContractError, match="above 0"):
        shares_of([1.0], [0.0])


def _calc(text: str, *more: str) -> Any:
    return CliRunner().invoke(main, ["calc", "wear", "-", "--threshold", "0.8", "--json", *more], input=text)


def test_the_calculator_gives_the_day_and_names_faults() -> None:
    rows = "".join(f"A,2025-{1 + place:02d}-01,{60 * share},60\n" for place, share in enumerate(READINGS[1]))
    result = _calc("unit,date,full,design\n" + rows + "B,2025-01-01,50,60\n")
    assert result.exit_code == 0, result.output
    first, second = json.loads(result.stdout)["units"]
    assert set(first["crosses"]) == {"day", "date", "se_day", "low", "high"}
    assert first["crosses"]["date"] > "2025-06"
    assert first["reason"] is None
    assert (second["crosses"], second["slope"]) == (None, None)
    assert "1 readings" in second["reason"]
    wrong = _calc("unit,date,full,design\nA,soon,50,60\nA,2025-01-01,200,60\nA,2025-01-01,20,0\n")
    assert wrong.exit_code == 2
    assert {line.split(": ")[1] for line in wrong.stderr.splitlines()} == {
        "line 2, column date",
        "line 3, column full",
        "line 4, column design",
    }
