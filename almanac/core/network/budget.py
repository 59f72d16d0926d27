"""What money buys over many parts: backorders against cost, part by part, and exchanges that better it."""

from __future__ import annotations

import heapq
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import permutations

import numpy as np

from almanac.core import checks
from almanac.core.errors import ContractError
from almanac.core.stock.levels import poisson_demand
from almanac.core.stock.review import excess

WHOLE_GAIN = 1e-9
"""A further part that saves less is not bought when no budget is named."""


@dataclass(frozen=True)
class BudgetPart:
    """A part. pipeline : mean of what is out of stock at a time, Poisson · cost : of one, > 0 · weight : of one backorder"""

    part: str
    pipeline: float
    cost: float
    weight: float = 1.0


@dataclass(frozen=True)
class Bought:
    """One step of the curve: the part bought, money spent so far, weighted backorders left."""

    part: str
    cost: float
    expected_backorders: float


@dataclass(frozen=True)
class Budget:
    """What is chosen. levels : by part, in the order given · exchanges : (part given up, part taken) that bettered the greedy choice"""

    levels: tuple[int, ...]
    cost: float
    expected_backorders: float
    left_over: float | None
    curve: tuple[Bought, ...]
    exchanges: tuple[tuple[str, str], ...]


def spend(parts: Sequence[BudgetPart], budget: float | None) -> Budget:
    """Levels by marginal analysis: always the part that saves most backorders for its money; what no longer fits is skipped.

    Parameters
    ----------
    parts : at least one, names used once · budget : money, >= 0; None for the whole curve

    Returns
    -------
    Budget : with the exchanges that spend the same money better

    Raises
    ------
    ContractError : an argument outside its range

    References
    ----------
    Sherbrooke (2004), Optimal Inventory Modeling of Systems, section 2.6; Fox (1966), Management Science 13.
    """
    if not parts or len({part.part for part in parts}) != len(parts):
        raise ContractError("parts: at least one was wanted, each with a name of its own")
    for part in parts:
        checks.positive("cost", part.cost)
        checks.number("pipeline", part.pipeline, low=0.0)
        checks.number("weight", part.weight, low=0.0)
    money = None if budget is None else checks.number("budget", budget, low=0.0)
    curves = [part.weight * excess(poisson_demand(part.pipeline).pmf) for part in parts]
    levels = [0] * len(parts)
    spent, short = 0.0, float(sum(curve[0] for curve in curves))
    queue = [(-_gain(curve, 0) / part.cost, place) for place, (curve, part) in enumerate(zip(curves, parts, strict=True))]
    heapq.heapify(queue)
    steps: list[Bought] = []
    while queue:
        rank, place = heapq.heappop(queue)
        if -rank <= (WHOLE_GAIN / parts[place].cost if money is None else 0.0):
            break
        if money is not None and spent + parts[place].cost > money + 1e-9:
            continue
        short -= _gain(curves[place], levels[place])
        spent += parts[place].cost
        levels[place] += 1
        steps.append(Bought(parts[place].part, spent, short))
        heapq.heappush(queue, (-_gain(curves[place], levels[place]) / parts[place].cost, place))
    exchanges: list[tuple[str, str]] = []
    if money is not None:
        spent = _exchange(parts, curves, levels, spent, money, exchanges)
    short = float(sum(curve[min(level, curve.size - 1)] for curve, level in zip(curves, levels, strict=True)))
    left = None if money is None else money - spent
    return Budget(tuple(levels), spent, short, left, tuple(steps), tuple(exchanges))


def _gain(curve: checks.Floats, level: int) -> float:
    """Backorders that one more part saves."""
    return float(curve[min(level, curve.size - 1)] - curve[min(level + 1, curve.size - 1)])


def _exchange(
    parts: Sequence[BudgetPart],
    curves: Sequence[checks.Floats],
    levels: list[int],
    spent: float,
    money: float,
    done: list[tuple[str, str]],
) -> float:
    """Give up one of a part for as many of another as its money buys, where that saves more; in place."""
    while len(done) < 1000:
        best: tuple[float, int, int, int] | None = None
        for out, into in permutations(range(len(parts)), 2):
            if levels[out] == 0:
                continue
            room = money - spent + parts[out].cost
            count = int(np.floor(room / parts[into].cost + 1e-9))
            if count < 1:
                continue
            curve = curves[into]
            saved = float(curve[min(levels[into], curve.size - 1)] - curve[min(levels[into] + count, curve.size - 1)])
            better = saved - _gain(curves[out], levels[out] - 1)
            if better > 1e-12 and (best is None or better > best[0]):
                best = better, out, into, count
        if best is None:
            break
        _, out, into, count = best
        levels[out] -= 1
        levels[into] += count
        spent += count * parts[into].cost - parts[out].cost
        done.append((parts[out].part, parts[into].part))
    return spent
