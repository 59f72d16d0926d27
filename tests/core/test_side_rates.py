"""Damage and suspicion by pool: worked out by hand, held against draws, and batched with each part's own streams."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.core.demand.law import SideStream
from almanac.core.demand.side_rates import SideRates, side_rates
from almanac.core.demand.wear_batch import time_lines
from almanac.core.life.nodes import KindNodes
from tests.core.test_wear_batch import apart, several


def test_a_model_in_rough_hands_shows_its_own_rate() -> None:
    events, years = np.array([9.0, 0.0, 1.0, 0.0, 1.0]), np.array([300.0, 300.0, 250.0, 280.0, 310.0])
    found = side_rates("damage", events, years)
    means = found.means(events, years)
    kind = events.sum() / years.sum()
    assert 2.0 * kind < means[0] < 9 / 300
    assert (means[1:] > 0.0).all()
    assert means[1] < 0.5 * kind
    assert found.means(np.zeros(1), np.zeros(1))[0] == pytest.approx(kind, rel=0.8)  # a pool without a record is as its kind is


def test_what_never_happened_is_not_zero_and_one_for_all() -> None:
    found = side_rates("damage", np.zeros(3), np.array([100.0, 50.0, 50.0]))
    assert found.means(np.zeros(3), np.zeros(3)) == pytest.approx([0.5 / 200] * 3)
    stream = found.stream(np.zeros(3), np.zeros(3), np.array([1.0, 2.0, 3.0]))
    assert (stream.shape, stream.rate) == pytest.approx((0.5, 200.0))


@given(share=st.lists(st.floats(0.0, 50.0), min_size=2, max_size=2), seed=st.integers(0, 20))
def test_a_parts_stream_has_the_mean_and_variance_of_its_pools_together(share: list[float], seed: int) -> None:
    chance = np.random.default_rng(seed)
    nodes = KindNodes(np.array([0.3, 0.7]), chance.uniform(0.5, 4.0, 2), chance.uniform(50.0, 900.0, 2))
    events, years, weight = chance.integers(0, 6, 2).astype(float), chance.uniform(10, 400, 2), np.array(share)
    stream = SideRates("damage", nodes).stream(events, years, weight)
    node = chance.choice(2, 60_000, p=nodes.weight)
    rates = chance.gamma(nodes.shape[node][:, None] + events, 1.0 / (nodes.rate[node][:, None] + years))
    parts = weight / weight.sum() if weight.sum() > 0 else np.array([0.5, 0.5])
    assert stream.shape / stream.rate == pytest.approx((rates @ parts).mean(), rel=0.03)
    assert stream.shape / stream.rate**2 == pytest.approx((rates @ parts).var(), rel=0.12)


def test_parts_with_streams_of_their_own_are_drawn_together_as_alone() -> None:
    sides = [(SideStream("damage", 1.0 + row, 40.0), SideStream("no_fault_draw", 2.0, 30.0 + 50 * row)) for row in range(4)]
    together = [replace(law, side=side, line=[], kept={}) for law, side in zip(several(), sides, strict=True)]
    alone = [replace(law, side=side, line=[], kept={}) for law, side in zip(several(), sides, strict=True)]
    for law, line in zip(together, time_lines(together), strict=True):
        assert line is not None
        law.take_time_line(*line)
    for one, other in zip(together, alone, strict=True):
        assert apart(one.pmf([0], [365])[0], other.pmf([0], [365])[0]) < 1e-4
    assert together[0].pmf([0], [365])[0] @ np.arange(together[0].pmf([0], [365]).shape[1]) == pytest.approx(
        together[0].mean_parts([365])[0], rel=0.02
    )
