"""Whether reorder points keep their promise: played over a grid of rates, leads, reviews and packs, at one shelf and at a depot with
sites; with one part less; and beside the rule that waited for the last day."""

from __future__ import annotations

import time
from dataclasses import dataclass
from itertools import product

import click
import numpy as np

from almanac.bench.measure import show
from almanac.core.network.levels import Levels, Wanted, least_levels
from almanac.core.network.nodes import Lane, Network
from almanac.core.rehearsal.figures import share
from almanac.core.rehearsal.plan import PlayedPolicies, Requests, lead_table, steady
from almanac.core.rehearsal.play import YEAR_DAYS, play
from almanac.core.rehearsal.tally import Record
from almanac.core.stock.lead_time import lead_time
from almanac.core.stock.rates import known_rate
from almanac.core.stock.reorder import Measure, Promise, ReorderPolicy, reorder_point, service_of
from almanac.core.stock.review import review_demand

AIM, RUNS, YEARS, WARM = 0.95, 100, 100, 2
RATES, LEADS, REVIEWS, PACKS = (0.2, 0.5, 1.0, 3.0, 10.0, 30.0, 60.0), (7, 21, 90), (1, 14, 30), (1, 5, 10)
NETWORKS = ((1, 4.0), (2, 6.0), (5, 12.0), (10, 40.0))
"""Sites and requests a year of them all; each site is asked half as often as the one before."""
ERRORS = 3.0
NONE = np.zeros((1, 0), dtype=np.int64)


@dataclass(frozen=True)
class Cell:
    """A shelf of the grid."""

    rate: float
    lead: int
    review: int
    pack: int

    @property
    def point(self) -> int:
        demand = review_demand(known_rate(self.rate / YEAR_DAYS), lead_time([self.lead], [1.0]), self.review)
        return reorder_point(demand, self.pack, Promise(Measure.FILL, AIM))


def measure_promise() -> None:
    """Print how the grid was served."""
    click.echo(f"Reorder points played: aim {AIM:g}, {RUNS} runs of {YEARS} years")
    cells = [Cell(*one) for one in product(RATES, LEADS, REVIEWS, PACKS)]
    _grid(cells)
    for sites, rate in NETWORKS:
        _network(sites, rate)
    _old_rule()


def _grid(cells: list[Cell]) -> None:
    begun = time.perf_counter()
    points = [cell.point for cell in cells]
    record = _played(cells, points)
    fills, errors = _fills(record)
    kept = fills >= AIM - ERRORS * errors
    show(f"{len(cells)} shelves: aim met within {ERRORS:g} errors, of 100", 100 * float(kept.mean()), "", "100")
    show("worst of them, requests met of 100", 100 * float(fills.min()), "")
    some = [row for row, point in enumerate(points) if point > 0]
    less_fills, less_errors = _fills(_played([cells[row] for row in some], [points[row] - 1 for row in some]))
    missed = less_fills < AIM + ERRORS * less_errors
    show(f"{len(some)} with a point above 0, one less: aim missed, of 100", 100 * float(missed.mean()), "", "100")
    show("played in", time.perf_counter() - begun, "s")


def _played(cells: list[Cell], points: list[int]) -> Record:
    days, cumulative = lead_table([([cell.lead], [1.0]) for cell in cells])
    none = np.zeros((len(cells), 0), dtype=np.int64)
    columns = (np.array(points), np.array([cell.pack for cell in cells]), np.array([cell.review for cell in cells]))
    policies = PlayedPolicies(*columns, none, none, none, days, cumulative)
    rates = np.array([cell.rate for cell in cells])[:, None, None] / YEAR_DAYS * np.ones((1, 1, RUNS))
    days_played, first = (YEARS + WARM) * YEAR_DAYS, WARM * YEAR_DAYS
    return play(policies, Requests((0,), (rates,)), steady(policies), days=days_played, seed=3, counts_from=first)


def _fills(record: Record) -> tuple[np.ndarray, np.ndarray]:
    found = [share(record.met[row].sum(axis=0), record.asked[row].sum(axis=0)) for row in range(record.met.shape[0])]
    values = np.array([one.value if one else 1.0 for one in found])
    return values, np.array([max(one.error, 1e-4) if one else 1.0 for one in found])


def _network(sites: int, rate: float) -> None:
    weights = 0.5 ** np.arange(sites + 1)
    rates = rate * weights / weights.sum() / YEAR_DAYS
    lanes = tuple(Lane(float(3 + 2 * place), float((7, 14)[place % 2])) for place in range(sites))
    made = Network(np.ones(1), rates[:1], rates[None, 1:], lanes, lead_time([21, 28], [0.6, 0.4]), 14.0, 1)
    levels, figures = least_levels(made, Wanted(AIM, floor=0.0))
    fill, error = _network_fill(made, levels, rates)
    fewer = [_network_fill(made, less, rates)[0] for less in _one_less(levels)]
    words = f"{sites} site{'s' if sites > 1 else ''}, {rate:g} a year, {levels.total(1)} parts"
    show(f"{words}: worked out, of 100", 100 * figures.fill, "")
    show(f"{words}: played, of 100", 100 * fill, "", f"{100 * AIM:g}, ± {100 * ERRORS * error:.1f}")
    show(f"{words}: best with one less anywhere, of 100", 100 * max(fewer), "", f"under {100 * AIM:g}")


def _one_less(levels: Levels) -> list[Levels]:
    """The same with one part less at any one place."""
    found = [Levels(levels.s - 1, levels.sites)] if levels.s > -1 else []
    for place, level in enumerate(levels.sites):
        if level > 0:
            found.append(Levels(levels.s, (*levels.sites[:place], level - 1, *levels.sites[place + 1 :])))
    return found


def _network_fill(made: Network, levels: Levels, rates: np.ndarray) -> tuple[float, float]:
    days, cumulative = lead_table([(made.lead.days.tolist(), made.lead.weight.tolist())])
    lane, every = (np.array([[int(getattr(one, name)) for one in made.lanes]]) for name in ("days", "every"))
    policies = PlayedPolicies(
        np.array([levels.s]), np.array([made.lot]), np.array([14]), np.array([levels.sites]), lane, every, days, cumulative
    )
    runs = 2 * RUNS
    requests = Requests((0,), (np.repeat(rates[None, :, None], runs, axis=2),))
    record = play(policies, requests, steady(policies), days=42 * YEAR_DAYS, seed=3, counts_from=2 * YEAR_DAYS)
    found = share(record.met.sum(axis=(0, 1)), record.asked.sum(axis=(0, 1)))
    return (found.value, found.error) if found else (1.0, 0.0)


def _old_rule() -> None:
    """A table for a lead of 21 days and a review every 14: order on the last day on which waiting keeps the target, or at s."""
    click.echo("  requests a year · last day: s, met at once of 100 · reorder point: s, met at once of 100")
    for rate in (0.3, 1.0, 3.0, 10.0, 30.0):
        demand = review_demand(known_rate(rate / YEAR_DAYS), lead_time([21], [1.0]), 14)
        enough = np.flatnonzero(np.cumsum(demand.lead) >= AIM)
        late = int(enough[0]) - 1
        point = reorder_point(demand, 1, Promise(Measure.FILL, AIM))
        old, new = (service_of(demand, ReorderPolicy(s, 1), 14).fill for s in (late, point))
        click.echo(f"  {rate:>6g}   {late:>3d}  {100 * old:5.1f}   {point:>3d}  {100 * new:5.1f}")
