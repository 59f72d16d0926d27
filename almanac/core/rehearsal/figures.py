"""What a rehearsal showed, each figure with its Monte Carlo error."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from almanac.core import checks
from almanac.core.rehearsal.plan import Ints
from almanac.core.rehearsal.tally import YEAR_DAYS, Record


@dataclass(frozen=True)
class Estimate:
    """A figure and its standard error over the runs."""

    value: float
    error: float


@dataclass(frozen=True)
class Shown:
    """What was seen of one part, or of all. Rates are per year of 365 days.

    fill : requests met at once · ready : days with one on the shelf, places weighted by what is asked there
    chance_of_waiting_a_year : of a year in which anybody waits · spent_a_year : price and cost of orders · scrapped_a_year : parts that
    expired unused
    """

    fill: Estimate | None
    ready: Estimate
    expected_waiting: Estimate
    chance_of_waiting_a_year: Estimate
    orders_a_year: Estimate
    spent_a_year: Estimate
    on_hand: Estimate
    scrapped_a_year: Estimate


def shown(record: Record, price: checks.Floats, order_cost: checks.Floats, part: int | Ints | None = None) -> Shown:
    """Figures of one part, of some, or of all together.

    Parameters
    ----------
    record : what was played · price, order_cost : (p,) of a part, of an order line · part : a row, or several; all unless named
    """
    rows = np.arange(record.orders.shape[0]) if part is None else np.atleast_1d(np.asarray(part, dtype=np.int64))
    days = record.days[rows].astype(np.float64)[:, None]
    years = days / YEAR_DAYS
    asked, met = record.asked[rows].sum(axis=(0, 1)), record.met[rows].sum(axis=(0, 1))
    spent = ((record.ordered[rows] * price[rows, None] + record.orders[rows] * order_cost[rows, None]) / years).sum(axis=0)
    weight = record.asked[rows].sum(axis=2).astype(np.float64)
    weight = weight / weight.sum() if weight.sum() > 0 else np.full(weight.shape, 1.0 / weight.size)
    waited = record.years_waited[rows[0]] if rows.size == 1 else record.years_any
    return Shown(
        fill=share(met, asked),
        ready=mean(np.einsum("pj,pjn->n", weight, record.ready[rows] / days[:, None])),
        expected_waiting=mean((record.waiting[rows] / years).sum(axis=0)),
        chance_of_waiting_a_year=mean(waited / np.ceil(float(years.min()))),
        orders_a_year=mean((record.orders[rows] / years).sum(axis=0)),
        spent_a_year=mean(spent),
        on_hand=mean((record.held[rows] / days).sum(axis=0)),
        scrapped_a_year=mean((record.scrapped[rows] / years).sum(axis=0)),
    )


def mean(values: checks.Floats) -> Estimate:
    """Mean over runs (n,), and its error; of one run the error is not known and said as the figure itself."""
    if values.size < 2:
        return Estimate(float(values.mean()), float(abs(values.mean())))
    return Estimate(float(values.mean()), float(values.std(ddof=1) / np.sqrt(values.size)))


def share(met: checks.Floats, asked: checks.Floats) -> Estimate | None:
    """A ratio of sums over runs, with its error by the delta method; None where nothing was asked for."""
    total = float(asked.sum())
    if total <= 0:
        return None
    ratio = float(met.sum()) / total
    if met.size < 2:
        return Estimate(ratio, float(np.sqrt(max(ratio * (1 - ratio), 0.0) / total)))
    off = (met - ratio * asked) / (total / met.size)
    return Estimate(ratio, float(off.std(ddof=1) / np.sqrt(met.size)))
