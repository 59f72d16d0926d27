"""Demand drawn part by part, to hold exact distributions against."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from almanac.core.demand.law import DemandLaw


def simulate(law: DemandLaw, days: list[int], *, runs: int, seed: int) -> NDArray[np.int64]:
    """(runs, days) cumulative parts drawn by each day: node, rates, events, and replacements dead on arrival."""
    chance = np.random.default_rng(seed)
    out = np.zeros((runs, len(days)), dtype=np.int64)
    edges = [0, *days]
    for run in range(runs):
        node = chance.choice(law.nodes.weight.size, p=law.nodes.weight)
        rates = chance.gamma(law.pool_shape[node], 1.0 / law.pool_rate[node])
        side = [(chance.gamma(stream.shape, 1.0 / stream.rate), stream.batch) for stream in law.side]
        for i in range(len(days)):
            exposure = law.in_service[:, edges[i + 1]] - law.in_service[:, edges[i]]
            events = chance.poisson(rates * (exposure if rates.size == exposure.size else exposure.sum())).sum()
            parts = int(events) + sum(batch * int(chance.poisson(rate * exposure.sum())) for rate, batch in side)
            parts += round(law.planned_swaps[edges[i + 1]] - law.planned_swaps[edges[i]])
            fitted = parts + round(law.planned_fittings[edges[i + 1]] - law.planned_fittings[edges[i]])
            again = int(chance.negative_binomial(fitted, 1.0 - law.dead_on_arrival)) if fitted else 0
            out[run, i] = parts + again
    return np.cumsum(out, axis=1)
