"""Laws by age of several parts worked out together are those of each part alone."""

from __future__ import annotations

import numpy as np
import pytest

from almanac.core.checks import Floats
from almanac.core.demand import counts, wear_batch
from almanac.core.demand.age_groups import age_groups
from almanac.core.demand.crossings import crossings
from almanac.core.demand.failure_rate import rate_of
from almanac.core.demand.life_tables import LifeTables, life_tables
from almanac.core.demand.wear_batch import draw_heads, time_lines
from almanac.core.demand.wear_law import WearLaw, wear_law
from almanac.core.demand.wear_out import WearOut, join
from almanac.core.errors import ContractError
from almanac.core.life.wear_nodes import PoolNodes
from tests.core.test_wear_out import law_of, small_kind

KIND = small_kind(500)


def draw_time_lines(laws: list[WearLaw]) -> None:
    """Work time lines out together, and have each law take its own over."""
    for law, line in zip(laws, time_lines(laws), strict=True):
        if line is not None:
            law.take_time_line(*line)


def several(*, near: int = 400) -> list[WearLaw]:
    """Laws of one kind: of different sizes, with and without units that leave."""
    made = [law_of(rows, leave=leave, near=near, seed=rows) for rows, leave in ((1, np.inf), (6, 150.0), (40, 90.0), (25, np.inf))]
    for law in made:
        law.wear.kind = KIND
    return made


def apart(one: Floats, other: Floats) -> float:
    """Largest difference of cumulative probabilities."""
    size = max(one.size, other.size)
    return float(np.abs(np.cumsum(np.pad(one, (0, size - one.size))) - np.cumsum(np.pad(other, (0, size - other.size)))).max())


def test_time_lines_drawn_together_are_those_drawn_alone() -> None:
    together, alone = several(), several()
    draw_time_lines(together)
    assert all(law.has_time_line for law in together)
    for one, other in zip(together, alone, strict=True):
        for day in (1, 30, 100, 365):
            assert apart(one.pmf([0], [day])[0], other.pmf([0], [day])[0]) < 1e-4


def test_portions_change_nothing(monkeypatch: pytest.MonkeyPatch) -> None:
    whole, single = several(), several()
    draw_time_lines(whole)
    monkeypatch.setattr(wear_batch, "MOST_NUMBERS", 1)
    draw_time_lines(single)
    for one, other in zip(whole, single, strict=True):
        assert apart(one.pmf([0], [365])[0], other.pmf([0], [365])[0]) < 1e-5


def test_heads_drawn_together_are_those_drawn_alone() -> None:
    together, alone = several(near=0), several(near=0)
    draw_heads(together, [20, 45, 45, 200])
    for one, other, day in zip(together, alone, (20, 45, 45, 200), strict=True):
        assert set(one.kept) == {(0, day)}
        for start, end in one.kept:
            assert apart(one.kept[start, end], other.pmf([start], [end])[0]) < 1e-4


def test_units_followed_by_readings_are_joined_too() -> None:
    parts = []
    for days in ([[40.0], [90.0], [200.0]], [[10.0], [50.0], [500.0]]):
        positions = age_groups(np.zeros(2, dtype=np.int64), np.array([1.0, 2.0]), np.array([3.0, 2.0]), np.zeros(2), np.full(2, np.inf))
        parts.append(WearOut(KIND, np.array([0, 1]), positions, crossings([1], days, [np.inf])))
    windows, z = np.array([[0.0, 90.0], [0.0, 365.0]]), np.exp(-2j * np.pi * np.arange(17) / 32)
    whole = join(parts)
    rows = np.array([0, 1, 1]), np.array([0, 0, 1])
    found = whole.generating_of_parts(windows, *rows, z)
    mean, variance = whole.moments_of_parts(windows)
    for row, (window, part) in enumerate(zip(*rows, strict=True)):
        np.testing.assert_allclose(found[row], parts[part].generating(windows, z)[window], atol=1e-6)
        own = parts[part].moments(windows)
        assert mean[window, :, part] == pytest.approx(own[0][window])
        assert variance[window, :, part] == pytest.approx(own[1][window])


def test_later_windows_looked_up_are_near_those_worked_out() -> None:
    table = KIND.table
    for start, end in ((20.0, 77.0), (75.0, 130.0), (200.0, 245.0)):
        corner, share = table.corners_of(np.array([start]) / 365.25, np.array([end - start]) / 365.25)
        assert share.sum() == pytest.approx(1.0, abs=0.15)  # shares are per unit of time, so they add up to the length looked up
        found = sum(part * table.reached_at(int(key))[..., 0] for key, part in zip(corner[0], share[0], strict=True))
        exact = table.between(start / 365.25, end / 365.25)[..., 0]
        off = np.abs(np.asarray(found) - exact)[table.ages < 6.0]
        assert off[:, table.level < 0.05].max() < 2e-3
        assert off.max() < 6e-3  # levels so high that a part hardly lasts a year, which a pool has in one case of ten thousand


def test_only_parts_of_one_kind_are_joined() -> None:
    one = several()[0].wear
    with pytest.raises(ContractError, match="one kind"):
        join([])
    with pytest.raises(ContractError, match="one kind"):
        join([one, WearOut(small_kind(), one.pools, one.positions)])


def test_a_row_that_needs_more_roots_does_not_hold_up_the_others() -> None:
    gamma = counts.GammaPieces(np.array([[0.2]]), np.array([[1.0]]), np.array([[0.5], [400.0]]), np.array([1]))
    narrow, wide = counts.probabilities(gamma, 0.0, np.ones(1), np.zeros(2))
    assert narrow.sum() == pytest.approx(1.0, abs=1e-12)
    assert wide @ np.arange(wide.size) == pytest.approx(80.0, rel=1e-9)


def groups_kind(weights: list[list[float]], horizon: int = 500) -> LifeTables:
    """Two pools for each part group, of three shapes that weigh differently in each group."""
    weight = np.repeat(np.array(weights), 2, axis=0).T
    a, b = np.full(weight.shape, 2.6), np.repeat([[35.0], [130.0], [700.0]], weight.shape[1], axis=1)
    behind = np.tile([[30.0, 0.0], [120.0, 0.0], [640.0, 0.0]], len(weights))
    nodes = PoolNodes(weight, np.array([1.2, 2.2, 3.4]), a, b, behind)
    return life_tables(nodes, np.tile([6.0, 0.0], len(weights)), oldest_years=8.0, horizon_days=horizon)


def of_groups() -> list[WearLaw]:
    """Laws of one kind whose parts have shapes of their own."""
    weights = [[1.0, 0.0, 0.0], [0.0, 1.0, 0.0], [0.2, 0.3, 0.5], [0.0, 0.1, 0.9]]
    kind = groups_kind(weights)
    made = several()
    return [
        wear_law(law, WearOut(kind, law.wear.pools + 2 * group, law.wear.positions), near_days=law.near_days)
        for group, law in enumerate(made)
    ]


def test_parts_with_shapes_of_their_own_are_drawn_together_as_alone() -> None:
    together, alone = of_groups(), of_groups()
    draw_time_lines(together)
    for one, other in zip(together, alone, strict=True):
        assert apart(one.pmf([0], [365])[0], other.pmf([0], [365])[0]) < 1e-4
    for one in together:
        pmf = one.pmf([0], [365])[0]
        assert pmf @ np.arange(pmf.size) == pytest.approx(one.mean_parts([365])[0], rel=0.01)
    only = [
        wear_law(law, WearOut(groups_kind([[1.0, 0.0, 0.0]]), law.wear.pools - 2 * group, law.wear.positions), near_days=400)
        for group, law in enumerate(together)
    ]
    assert apart(together[0].pmf([0], [365])[0], only[0].pmf([0], [365])[0]) < 1e-4
    assert apart(together[3].pmf([0], [365])[0], only[3].pmf([0], [365])[0]) > 0.01  # its own shape, not the first part's


def test_a_rate_over_parts_lies_between_theirs_and_is_doubted_together() -> None:
    laws = of_groups()
    whole, each = rate_of(laws), [rate_of([law]) for law in laws]
    assert whole is not None
    rates = [one.rate for one in each if one is not None]
    years = [float(law.window_exposure(np.array([0]), np.array([365]))[0].sum()) for law in laws]
    assert whole.rate == pytest.approx(np.average(rates, weights=years))
    assert whole.low < whole.rate < whole.high
    # Four parts alike in all that is in doubt but their own levels: shared nodes and nodes apart are as much in doubt.
    alike = groups_kind([[0.2, 0.3, 0.5]] * 4)
    same = [wear_law(law, WearOut(alike, law.wear.pools, law.wear.positions), near_days=0) for law in several()]
    shared = rate_of(same)
    nearly = groups_kind([[0.2, 0.3, 0.5], *[[0.2, 0.3001, 0.4999]] * 3])
    other = rate_of(
        [wear_law(law, WearOut(nearly, law.wear.pools + 2 * row, law.wear.positions), near_days=0) for row, law in enumerate(several())]
    )
    assert shared is not None
    assert other is not None
    assert (other.rate, other.low, other.high) == pytest.approx((shared.rate, shared.low, shared.high), rel=0.12)
