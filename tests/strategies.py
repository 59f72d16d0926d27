"""What hypothesis draws: pools, laws, holdings."""

from __future__ import annotations

import numpy as np
from hypothesis import strategies as st

from almanac.core.demand.law import DemandLaw, SideStream
from almanac.core.life.nodes import kind_nodes
from almanac.core.stock.lead_time import LeadTime, lead_time
from almanac.core.stock.path import Arrival, Holding

HORIZON = 1200

pools = st.lists(st.tuples(st.integers(0, 40), st.floats(5.0, 800.0)), min_size=1, max_size=8)


@st.composite
def laws(draw: st.DrawFn) -> DemandLaw:
    """A law of demand over a few pools, with or without side streams, swaps and purchases."""
    record = draw(pools)
    failures = np.array([float(count) for count, _ in record])
    exposure = np.array([years for _, years in record])
    units = np.array([draw(st.integers(0, 200)) for _ in record])
    in_service = units[:, None] * np.arange(HORIZON + 1)[None] / 365.25
    damage, pairs = draw(st.integers(0, 5)), draw(st.integers(0, 3))
    years = float(exposure.sum())
    side = (SideStream("damage", damage + 0.5, years), SideStream("damage", pairs + 0.5, years * 4, batch=2))
    day, swaps, fitted = draw(st.integers(1, 300)), draw(st.integers(0, 12)), draw(st.integers(0, 40))
    step = (np.arange(HORIZON + 1) >= day).astype(float)
    return DemandLaw(
        nodes=kind_nodes(failures, exposure),
        failures=failures,
        exposure_years=exposure,
        in_service=in_service,
        side=side if draw(st.booleans()) else (),
        dead_on_arrival=draw(st.floats(0.001, 0.08)),
        planned_swaps=swaps * step,
        planned_fittings=fitted * step,
    )


@st.composite
def lead_times(draw: st.DrawFn) -> LeadTime:
    days = draw(st.lists(st.integers(0, 60), min_size=1, max_size=4, unique=True))
    weights = [draw(st.integers(1, 9)) for _ in days]
    return lead_time(days, [weight / sum(weights) for weight in weights])


@st.composite
def holdings(draw: st.DrawFn) -> Holding:
    arrivals = draw(st.lists(st.builds(Arrival, st.integers(1, 200), st.integers(1, 12)), max_size=3))
    return Holding(draw(st.integers(-2, 60)), tuple(sorted(arrivals, key=lambda arrival: arrival.day)), draw(st.integers(0, 3)))
