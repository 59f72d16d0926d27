"""How long reorder points, levels, due days, the curve of money and the rehearsal take for a large company, at rates drawn at random."""

from __future__ import annotations

import time
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor

import click
import numpy as np

from almanac.bench.measure import best_of, peak_megabytes, show
from almanac.bench.steady import Steady
from almanac.core.network.evaluate import Curves
from almanac.core.network.frontier import Point, chosen_for, company_curve, network_frontier
from almanac.core.network.levels import Levels, Wanted, least_levels
from almanac.core.network.nodes import Lane, Network, nodes_enough
from almanac.core.rehearsal.figures import share
from almanac.core.rehearsal.plan import PlayedPolicies, Requests, lead_table, steady
from almanac.core.rehearsal.play import YEAR_DAYS, play
from almanac.core.rehearsal.table import Kept, PartToPlay, policies_of, requests_of, start_of
from almanac.core.stock.lead_time import lead_time
from almanac.core.stock.path import Holding
from almanac.core.stock.policy import Policy
from almanac.core.stock.rates import Rate, doubted_rate, known_rate
from almanac.core.stock.shelf import Outpost, Shelf
from almanac.core.stock.shelf_plan import later_levels, plan_shelf

PARTS, SITES, MANY_SITES, CORES = 500, 6, 30, 2
LEAD = lead_time([16, 21, 34], [0.6, 0.3, 0.1])


def measure_shelves() -> None:
    """Print times of 500 parts at six places, of one part at twenty, and of a rehearsal at thirty."""
    click.echo(f"{PARTS} parts at {SITES} places, asked for 0.3 to 100 times a year, {CORES} processes")
    show("reorder points, levels and due days", _shared(_plans), "s", "< 3")
    show("the same in 3, 6 and 12 months", _shared(_later), "s", "< 15")
    _money()
    click.echo("One part at 20 sites")
    _one_part()
    click.echo(f"Rehearsal: {PARTS} parts at {MANY_SITES} places, 50 runs of two years, one process")
    _rehearsal()
    click.echo("Worked out beside played, the lead fixed in each run and departures redrawn")
    _beside()


def rates_of(parts: int, seed: int = 1) -> list[Rate]:
    """Rates known to about a third."""
    drawn = np.exp(np.random.default_rng(seed).uniform(np.log(0.3), np.log(100), parts))
    return [doubted_rate(8.0, 8.0 / (rate / YEAR_DAYS)) for rate in drawn]


def _shelf(place: int, sites: int = SITES - 1) -> Shelf:
    draws = np.random.default_rng(place)
    share = draws.dirichlet(np.ones(sites + 1))[1:]
    free = draws.integers(0, 4, sites)
    posts = tuple(
        Outpost(n, int(free[n]), 0, float(share[n]), int(draws.integers(2, 12)), int(draws.choice([7, 14]))) for n in range(sites)
    )
    return Shelf(Holding(int(free.sum() + draws.integers(0, 12))), (), posts)


def _policy(place: int) -> Policy:
    return Policy(0.95, 14, LEAD, pack=(1, 1, 2, 5)[place % 4], order_cost=8.0, holding_cost=8.0)


def _plans(places: range) -> None:
    rates = rates_of(PARTS)
    for place in places:
        plan_shelf(Steady(rates[place]), _shelf(place), _policy(place), horizon_days=YEAR_DAYS)


def _later(places: range) -> None:
    rates = rates_of(PARTS)
    for place in places:
        law, shelf, policy = Steady(rates[place]), _shelf(place), _policy(place)
        plan = plan_shelf(law, shelf, policy, horizon_days=YEAR_DAYS)
        assert plan is not None
        later_levels(law, shelf, policy, plan, (91, 182, 365))


def _shared(work: Callable[[range], None]) -> float:
    """Seconds of work shared among processes that are there already."""
    with ProcessPoolExecutor(CORES) as pool:
        list(pool.map(work, [range(1)] * CORES))
        begun = time.perf_counter()
        list(pool.map(work, [range(start, PARTS, CORES) for start in range(CORES)]))
        return time.perf_counter() - begun


def network(rate: Rate, shelf: Shelf, lot: int) -> Network:
    """A depot and its sites at one rate."""
    values, weight = rate.nodes(nodes_enough(rate))
    share = np.array([post.share for post in shelf.outposts])
    lanes = tuple(Lane(float(post.lane_days), float(post.every_days)) for post in shelf.outposts)
    return Network(weight, values * (1 - share.sum()), values[:, None] * share[None], lanes, LEAD, 14.0, lot)


def frontiers_of(places: range) -> list[tuple[Point, ...]]:
    """What money buys of some parts."""
    rates = rates_of(PARTS)
    return [network_frontier(network(rates[place], _shelf(place), _policy(place).pack)) for place in places]


def _money() -> None:
    begun = time.perf_counter()
    with ProcessPoolExecutor(CORES) as pool:
        shares = list(pool.map(frontiers_of, [range(start, PARTS, CORES) for start in range(CORES)]))
    frontiers = [points for own in shares for points in own]
    prices = np.random.default_rng(2).uniform(10, 120, PARTS).tolist()
    curve = company_curve(frontiers, prices)
    show("the curve of money, nothing known", time.perf_counter() - begun, "s", "< 20")
    middle = (curve.money[0] + curve.money[-1]) / 2
    show(f"a sum on it, of {len(curve.part):,} steps", best_of(lambda: chosen_for(curve, PARTS, middle), 20) * 1e3, "ms", "< 50")


def _one_part() -> None:
    shelf = _shelf(3, 20)
    rate = known_rate(60 / YEAR_DAYS)
    known, doubted = network(rate, shelf, 1), network(doubted_rate(8.0, 8.0 / rate.mean_per_day), shelf, 1)
    levels, _ = least_levels(known, Wanted(0.95))
    show("evaluation at a known rate", best_of(lambda: Curves(known).figures(levels.s, levels.sites), 20) * 1e3, "ms", "< 5")
    nodes = f"evaluation over {doubted.weight.size} nodes"
    show(nodes, best_of(lambda: Curves(doubted).figures(levels.s, levels.sites), 10) * 1e3, "ms", "< 40 over nine")
    show("least levels, known rate", best_of(lambda: least_levels(known, Wanted(0.95)), 3) * 1e3, "ms", "< 200")
    show("least levels, doubted rate", best_of(lambda: least_levels(doubted, Wanted(0.95)), 2) * 1e3, "ms")


def _rehearsal() -> None:
    parts, kept = [], []
    for place, rate in enumerate(rates_of(PARTS)):
        shelf = _shelf(place, MANY_SITES - 1)
        a_month = rate.mean_per_day
        lanes = tuple((post.lane_days, post.every_days) for post in shelf.outposts)
        sites = tuple(post.free for post in shelf.outposts)
        shares = tuple(post.share for post in shelf.outposts)
        depot = shelf.holding.available - sum(sites)
        lead = (tuple(LEAD.days.tolist()), tuple(LEAD.weight.tolist()))
        parts.append(PartToPlay((0,), (a_month,), 8.0, shares, lead, 14, lanes, depot, sites))
        levels = tuple(int(np.ceil(a_month * share * (days + every))) for share, (days, every) in zip(shares, lanes, strict=True))
        kept.append(Kept(int(np.ceil(a_month * 40)), 1, levels))
    begun = time.perf_counter()
    play(policies_of(parts, kept), requests_of(parts, 50, 1), start_of(parts), days=2 * YEAR_DAYS, seed=1)
    show("played", time.perf_counter() - begun, "s", "< 60 on two")
    show("most memory", peak_megabytes(), "MB", "< 600")


def _beside() -> None:
    for lead in (14, 28):
        rates = np.array([6.0, 3.0, 1.0, 8.0]) / YEAR_DAYS
        lanes = (Lane(4.0, 7.0), Lane(11.0, 14.0), Lane(2.0, 7.0))
        made = Network(np.ones(1), rates[:1], rates[None, 1:], lanes, lead_time([lead], [1.0]), 14.0, 2)
        levels = Levels(2, (1, 1, 2))
        days, cumulative = lead_table([([lead], [1.0])])
        lane, every = np.array([[4, 11, 2]]), np.array([[7, 14, 7]])
        policies = PlayedPolicies(
            np.array([levels.s]), np.array([2]), np.array([14]), np.array([levels.sites]), lane, every, days, cumulative
        )
        requests = Requests((0,), (np.repeat(rates[None, :, None], 4000, axis=2),))
        record = play(policies, requests, steady(policies), days=12 * YEAR_DAYS, seed=5, counts_from=2 * YEAR_DAYS)
        found = share(record.met.sum(axis=(0, 1)), record.asked.sum(axis=(0, 1)))
        assert found is not None
        worked = Curves(made).figures(levels.s, levels.sites).fill
        click.echo(f"  lead {lead} days: worked out {100 * worked:.2f}, played {100 * found.value:.2f} ± {100 * found.error:.2f} of 100")
