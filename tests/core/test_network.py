"""A depot and its sites: played, at limits where one shelf is left, by brute force, and against published formulas."""

from __future__ import annotations

from dataclasses import astuple
from itertools import product

import numpy as np
import pytest
from scipy import stats
from scipy.stats import binom

from almanac.core.errors import ContractError, NoEstimate
from almanac.core.network.budget import BudgetPart, spend
from almanac.core.network.evaluate import Curves
from almanac.core.network.levels import Levels, Wanted, least_levels, most_for
from almanac.core.network.nodes import Lane, Network, own_nodes, shared_nodes
from almanac.core.network.repairables import Base, Method, echelon_figures
from almanac.core.network.transfers import DEPOT, Standing, Transfer, echelon_order, loading
from almanac.core.stock.lead_time import lead_time
from almanac.core.stock.rates import known_rate
from almanac.core.stock.reorder import Measure, Promise, reorder_point
from almanac.core.stock.review import review_demand
from tests.reference.shelves import depot_and_sites

LEADS = [(21, 0.6), (28, 0.4)]


def network(rates: list[float], lanes: list[tuple[float, float]], *, own: float = 0.0, lot: int = 1, review: float = 14.0) -> Network:
    """Rates a year."""
    return Network(
        np.ones(1),
        np.array([own / 365]),
        np.array([rates]) / 365,
        tuple(Lane(*lane) for lane in lanes),
        lead_time(*zip(*LEADS, strict=True)),
        review,
        lot,
    )


THREE = ([3.0, 1.0, 6.0], [(4.0, 7.0), (11.0, 14.0), (2.0, 7.0)])


@pytest.mark.parametrize(("own", "lot", "s", "levels"), [(5.0, 2, 2, (1, 1, 2)), (0.0, 1, -1, (2, 1, 3)), (8.0, 4, 0, (1, 1, 1))])
def test_levels_give_what_they_give_when_played(own: float, lot: int, s: int, levels: tuple[int, ...]) -> None:
    made = network(*THREE, own=own, lot=lot)
    found = Curves(made).figures(s, levels)
    seen = depot_and_sites(own / 365, [rate / 365 for rate in THREE[0]], THREE[1], LEADS, 14.0, s, lot, levels, years=6000, seed=11)
    assert found.fill == pytest.approx(seen.fill, abs=0.006)
    for site, fill in zip(found.sites, seen.fills[1:], strict=True):
        assert site.fill == pytest.approx(fill, abs=0.012)
    if own:
        assert found.depot.fill == pytest.approx(seen.fills[0], abs=0.012)
    assert found.expected_waiting == pytest.approx(seen.waiting, rel=0.12)


def split_binomially(curves: Curves, s: int, place: int) -> np.ndarray:
    """What a site is owed, part by part of what is owed at all."""
    owed, made = curves.owed(s), curves.network
    share = made.sites[:, place] / made.total
    found = np.zeros_like(owed)
    for node, chance in enumerate(share):
        for whole, probability in enumerate(owed[node]):
            found[node, : whole + 1] += probability * binom.pmf(np.arange(whole + 1), whole, chance)
    return found


@pytest.mark.parametrize(("lot", "rates"), [(1, (0.5, 3.0)), (3, (20.0, 1.0, 0.1)), (7, (150.0, 40.0))])
def test_all_reorder_points_at_once_owe_sites_what_each_does(lot: int, rates: tuple[float, ...]) -> None:
    weight, drawn = shared_nodes(3.0, 3.0 * 365 / sum(rates), [rate / (5 + sum(rates)) for rate in (5.0, *rates)])
    lanes = tuple(Lane(3.0 + place, 7.0) for place in range(len(rates)))
    curves = Curves(Network(weight, drawn[:, 0], drawn[:, 1:], lanes, lead_time([21, 35], [0.75, 0.25]), 14.0, lot))
    for s in (curves.size // 3, 0, -1, 5, curves.size + 9, 1):  # in no order: steps are kept and begun anew
        for place in range(len(rates)):
            wanted, found = split_binomially(curves, s, place), curves.site(s, place, 3).late
            assert found == pytest.approx(wanted[:, : found.shape[1]], abs=1e-10)
            assert wanted[:, found.shape[1] :].sum() < 1e-8


@pytest.mark.parametrize("lot", [1, 6])
@pytest.mark.parametrize("own", [0.0, 0.01])
def test_all_sites_at_once_are_each_by_itself(lot: int, own: float) -> None:
    curves = Curves(network([0.004, 0.03, 0.0, 0.11], [(2, 7), (9, 14), (5, 7), (0, 1)], own=own, lot=lot))
    for s in (-1, 0, 2, 9, curves.size - 1):
        at_once = curves.site_fills(s, 12)
        for place in range(4):
            assert np.allclose(at_once[place], curves.site(s, place, 12).fill, atol=1e-9)
        for levels in ((0, 0, 0, 0), (1, 5, 0, 2), (3, 12, 1, 8)):
            figures = curves.figures(s, levels)
            rates = [own, 0.004, 0.03, 0.0, 0.11]
            fills = [figures.depot.fill, *(site.fill for site in figures.sites)]
            for place, level in enumerate(levels):
                by_itself = curves.site(s, place, level).figures(level)
                assert astuple(figures.sites[place]) == pytest.approx(astuple(by_itself), abs=1e-7)
            assert curves.fill(s, levels) == pytest.approx(figures.fill, abs=1e-9)
            assert figures.fill == pytest.approx(np.average(fills, weights=rates), abs=1e-9)


def test_a_depot_alone_is_one_shelf() -> None:
    made = network([0.0], [(1.0, 7.0)], own=12.0, lot=2)
    demand = review_demand(known_rate(12 / 365), made.lead, 14.0)
    s = reorder_point(demand, 2, Promise(Measure.FILL, 0.95))
    levels, figures = least_levels(made, Wanted(0.95))
    assert levels == Levels(s, (0,))
    assert figures.depot.fill == pytest.approx(float(np.mean(demand.fill[s + 1 : s + 3])), abs=1e-9)


def test_a_depot_that_is_never_short_leaves_each_site_its_lane() -> None:
    made = network(*THREE)
    found = Curves(made).figures(60, (1, 1, 2))
    for site, level, rate, (days, every) in zip(found.sites, (1, 1, 2), *THREE, strict=True):
        alone = review_demand(known_rate(rate / 365), lead_time([int(days)], [1.0]), every)
        assert site.fill == pytest.approx(float(alone.fill[level]), abs=1e-9)
        assert site.expected_waiting == pytest.approx(365 * float(alone.waiting[level]), abs=1e-7)


@pytest.mark.parametrize("each", [False, True])
def test_the_least_stock_is_the_least(each: bool) -> None:
    """Every choice of levels up to some size is tried."""
    made, wanted = network(*THREE, own=4.0), Wanted(0.95, 0.85, each=each)
    levels, figures = least_levels(made, wanted)
    curves = Curves(made)

    def enough(s: int, sites: tuple[int, ...]) -> bool:
        found = curves.figures(s, sites)
        fills = [found.depot.fill, *(site.fill for site in found.sites)]
        return min(fills) >= 0.95 if each else found.fill >= 0.95 and min(fills) >= 0.85

    assert enough(levels.s, levels.sites)
    assert figures.fill >= 0.95
    best = min(s + sum(sites) for s in range(8) for sites in product(range(4), repeat=3) if enough(s, sites))
    assert levels.s + sum(levels.sites) == best


def test_a_shared_doubt_is_one_doubt() -> None:
    """The mixture is that of networks at rates drawn: shortages and requests are averaged, never fills."""
    weight, rates = shared_nodes(2.0, 2.0 * 365 / 0.3, [10, 20, 5])
    made = Network(weight, rates[:, 0], rates[:, 1:], (Lane(4, 7), Lane(8, 14)), lead_time([21], [1.0]), 14.0, 1)
    found = Curves(made).figures(1, (1, 1))
    met = asked = 0.0
    for part, row in zip(weight, rates, strict=True):
        one = Network(np.ones(1), row[:1], row[None, 1:], made.lanes, made.lead, 14.0, 1)
        figures = Curves(one).figures(1, (1, 1))
        met += part * figures.fill * row.sum()
        asked += part * row.sum()
    assert found.fill == pytest.approx(met / asked, rel=1e-6)


def test_doubts_of_their_own_keep_their_means_and_are_independent() -> None:
    weight, rates = own_nodes([(2.0, 400.0), (3.0, 900.0), (1.0, 100.0)])
    assert weight @ rates == pytest.approx([2 / 400, 3 / 900, 1 / 100], rel=1e-9)
    assert np.all(np.abs(np.corrcoef(rates.T) - np.eye(3)) < 0.3)


def test_a_budget_buys_no_less_the_larger_it_is() -> None:
    made = network(*THREE, own=4.0)
    waits = []
    for budget in (300.0, 500.0, 800.0, 1200.0):
        bought = most_for(made, 60.0, budget)
        assert bought.stock_value <= budget + 1e-6
        waits.append(bought.figures.expected_waiting)
    assert waits == sorted(waits, reverse=True)
    with pytest.raises(NoEstimate, match="below what is under way"):
        most_for(made, 60.0, 1.0)


def test_machines_that_wait_are_loaded_first_and_nothing_is_made() -> None:
    made, levels = network(*THREE), Levels(1, (1, 1, 2))
    moves = loading(made, levels, Standing(1, (1, -1, 0), (0, 0, 0), 0))
    assert moves == (Transfer(DEPOT, 1, 1),)
    moves = loading(made, levels, Standing(3, (0, -1, 0), (0, 0, 1), 0))
    assert sum(move.quantity for move in moves) == 3
    assert {move.go_to: move.quantity for move in moves}[1] >= 1
    assert loading(made, levels, Standing(5, (1, 1, 2), (0, 0, 0), 0)) == ()


def test_an_empty_depot_is_helped_from_above_another_sites_level() -> None:
    made, levels = network(*THREE), Levels(1, (1, 1, 2))
    assert loading(made, levels, Standing(0, (0, 3, 2), (0, 0, 0), 0)) == (Transfer(1, 0, 1),)
    assert loading(made, levels, Standing(0, (0, 1, 2), (0, 0, 0), 0)) == ()


def test_what_stands_too_high_at_a_site_spares_the_others_no_order() -> None:
    levels = Levels(1, (1, 1, 2))
    full = Standing(2, (1, 1, 2), (0, 0, 0), 0)
    assert echelon_order(levels, 2, full) == 0
    assert echelon_order(levels, 2, Standing(0, (1, 1, 2), (0, 0, 0), 0)) == 2
    assert echelon_order(levels, 2, Standing(0, (1, 9, 2), (0, 0, 0), 0)) == 2
    assert echelon_order(levels, 2, Standing(0, (1, 0, -1), (0, 1, 0), 2)) == 4
    with pytest.raises(ContractError, match="3 sites"):
        echelon_order(levels, 2, Standing(0, (1,), (0,), 0))


BASES = [Base(0.1, 0.2, 5.0, 3.0), Base(0.2, 0.2, 5.0, 3.0)]


def test_bases_that_repair_agree_with_repairs_drawn() -> None:
    """What the depot owes splits by whose failures came first; the pipelines are drawn as they are."""
    draws, count = np.random.default_rng(5), 400_000
    sent = np.array([base.sent for base in BASES])
    repairing = draws.poisson(sent.sum() * 20.0, count)
    owed = np.maximum(repairing - 4, 0)
    first = draws.binomial(owed, sent[0] / sent.sum())
    own = [draws.poisson(base.rate * base.repaired_here * base.repair_time + base.sent * base.order_ship, count) for base in BASES]
    short = [np.maximum(own[0] + first - 1, 0).mean(), np.maximum(own[1] + owed - first - 2, 0).mean()]
    exact = echelon_figures(BASES, 20.0, 4, [1, 2])
    assert exact.backorders == pytest.approx(short, abs=0.006)
    assert exact.depot_backorders == pytest.approx(owed.mean(), abs=0.01)
    assert exact.delay == pytest.approx(exact.depot_backorders / exact.depot_demand)


def test_the_methods_order_as_published_and_agree_without_a_depot_queue() -> None:
    metric, two, exact = (
        sum(echelon_figures(BASES, 20.0, 4, [1, 2], method).backorders) for method in (Method.METRIC, Method.TWO_MOMENT, Method.EXACT)
    )
    assert metric < two < exact
    assert two == pytest.approx(exact, rel=0.02)
    never = [sum(echelon_figures(BASES, 20.0, 40, [1, 2], method).backorders) for method in Method]
    assert never == pytest.approx([never[0]] * 3, rel=1e-6)
    mean = BASES[0].rate * BASES[0].repaired_here * 5 + BASES[0].sent * 3
    alone = echelon_figures(BASES[:1], 20.0, 40, [1], Method.METRIC).backorders[0]
    assert alone == pytest.approx(mean - 1 + stats.poisson.pmf(0, mean), rel=1e-6)


def test_money_buys_what_saves_most_and_skips_what_no_longer_fits() -> None:
    parts = [BudgetPart("a", 1.2, 10.0), BudgetPart("b", 0.5, 3.0), BudgetPart("c", 2.0, 7.0)]
    found = spend(parts, 40.0)
    assert found.cost <= 40.0
    assert found.left_over == pytest.approx(40.0 - found.cost)

    def short(levels: tuple[int, ...]) -> float:
        return sum(
            float(np.maximum(np.arange(60) - level, 0) @ stats.poisson.pmf(np.arange(60), part.pipeline))
            for part, level in zip(parts, levels, strict=True)
        )

    assert found.expected_backorders == pytest.approx(short(found.levels), rel=1e-9)
    best = min(short(levels) for levels in product(range(5), range(9), range(6)) if np.dot(levels, [10, 3, 7]) <= 40)
    assert found.expected_backorders <= best * 1.02
    whole = spend(parts, None)
    assert [step.expected_backorders for step in whole.curve] == sorted((step.expected_backorders for step in whole.curve), reverse=True)
    assert whole.left_over is None
    with pytest.raises(ContractError, match="name of its own"):
        spend([parts[0], parts[0]], 1.0)


def test_exchanges_better_a_greedy_choice() -> None:
    """One dear part would be out of reach for good where cheap ones were bought first."""
    parts = [BudgetPart("cheap", 0.4, 6.0), BudgetPart("dear", 3.0, 10.0, weight=1.4)]
    found = spend(parts, 16.0)
    greedy = found.curve[-1].expected_backorders
    assert found.expected_backorders <= greedy + 1e-12
    assert found.cost <= 16.0
