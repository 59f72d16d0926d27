"""Which stock parts to keep at all: a facility location problem, solved exactly (handbook of the method, section 6)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from scipy.optimize import Bounds, LinearConstraint, milp
from scipy.sparse import coo_matrix, vstack
from scipy.sparse.csgraph import connected_components
from scipy.special import pdtr, pdtri

from almanac.core import checks
from almanac.core.errors import ContractError
from almanac.core.parts.answers import Facts, known

NOT_WORSE = {"capacity_gb": 1, "grade_mt_s": 1, "energy_wh": 1, "generation": 1}
"""Facts that a part in place of another may not be worse in, where both are numbers."""


@dataclass(frozen=True)
class Need:
    """A position of the fleet: yearly demand in parts, and the parts that may serve it, the one kept today first."""

    key: str
    yearly: float
    candidates: tuple[str, ...]


@dataclass(frozen=True)
class LineUp:
    """Parts kept, what each covers, its pooled level S, yearly cost, and the cost with one part per need."""

    kept: tuple[str, ...]
    covers: Mapping[str, tuple[str, ...]]
    levels: Mapping[str, int]
    cost: float
    cost_today: float

    @property
    def saved(self) -> float:
        return self.cost_today - self.cost


def no_worse(part: Facts, fitted: Facts) -> bool:
    """Whether a part is at least as good as what is fitted now, in every number both state."""
    for key in NOT_WORSE:
        new, old = known(part, key), known(fitted, key)
        if new and old and isinstance(new.value, int | float) and isinstance(old.value, int | float) and new.value < old.value:
            return False
    return True


def level_for(mean: float, target: float) -> int:
    """Smallest S with P(D <= S) >= target for Poisson demand of this mean; 0 for no demand."""
    if mean <= 0:
        return 0
    level = 0
    while pdtr(level, mean) < target:
        level += 1
    return level


def choose_line_up(
    needs: Sequence[Need],
    prices: Mapping[str, float],
    *,
    lead_years: float,
    target: float,
    holding_share: float,
    line_cost: float,
) -> LineUp:
    """Least yearly demand x price + holding of each kept part's pooled S + a fixed cost a stocked line.

    Parameters
    ----------
    needs : each with at least one candidate · prices : of every candidate, > 0
    lead_years : lead time and review period, > 0 · target : cycle service of S · holding_share : of price a year, >= 0
    line_cost : of one stocked line a year, >= 0

    Returns
    -------
    LineUp : against one part per need, the first candidate

    Raises
    ------
    ContractError : a need without candidates, a price missing, or a value outside its range

    References
    ----------
    Daskin (2013), Network and Discrete Location, chapter on fixed-charge location; the pooled level enters as a choice among
    levels, each with the largest Poisson mean it serves.
    """
    years, service = checks.positive("lead_years", lead_years), checks.probability("target", target)
    holding, fixed = checks.number("holding_share", holding_share, low=0), checks.number("line_cost", line_cost, low=0)
    for need in needs:
        if not need.candidates or any(part not in prices for part in need.candidates):
            raise ContractError(f"needs[{need.key}]: candidates with prices were wanted, got {need.candidates}")
    chosen: dict[str, str] = {}
    for group in _components(needs):
        chosen.update(_solve(group, prices, (years, service, holding, fixed)))
    today = {need.key: need.candidates[0] for need in needs}
    yearly = {need.key: need.yearly for need in needs}
    cost = _cost(chosen, yearly, prices, (years, service, holding, fixed))
    before = _cost(today, yearly, prices, (years, service, holding, fixed))
    covers = _by_part(chosen)
    levels = {part: level_for(sum(yearly[key] for key in keys) * years, service) for part, keys in covers.items()}
    return LineUp(tuple(covers), covers, levels, cost, before)


def _by_part(chosen: Mapping[str, str]) -> dict[str, tuple[str, ...]]:
    covers: dict[str, list[str]] = {}
    for key, part in chosen.items():
        covers.setdefault(part, []).append(key)
    return {part: tuple(keys) for part, keys in sorted(covers.items())}


def _cost(chosen: Mapping[str, str], yearly: Mapping[str, float], prices: Mapping[str, float], terms: tuple[float, ...]) -> float:
    years, service, holding, fixed = terms
    total = 0.0
    for part, keys in _by_part(chosen).items():
        demand = sum(yearly[key] for key in keys)
        total += demand * prices[part] + holding * prices[part] * level_for(demand * years, service) + fixed
    return total


def _components(needs: Sequence[Need]) -> list[list[Need]]:
    """Needs that share no candidate, directly or through others, are decided apart."""
    parts = {part: place for place, part in enumerate(sorted({part for need in needs for part in need.candidates}))}
    rows = [place for place, need in enumerate(needs) for _ in need.candidates]
    columns = [len(needs) + parts[part] for need in needs for part in need.candidates]
    size = len(needs) + len(parts)
    _, labels = connected_components(coo_matrix((np.ones(len(rows)), (rows, columns)), shape=(size, size)), directed=False)
    groups: dict[int, list[Need]] = {}
    for place, need in enumerate(needs):
        groups.setdefault(int(labels[place]), []).append(need)
    return list(groups.values())


def _solve(needs: list[Need], prices: Mapping[str, float], terms: tuple[float, ...]) -> dict[str, str]:
    """One component. Binaries: x a need served by a part, z a part kept at a level, y a part kept at all."""
    if all(len(need.candidates) == 1 for need in needs):
        return {need.key: need.candidates[0] for need in needs}
    years, service, holding, fixed = terms
    parts = sorted({part for need in needs for part in need.candidates})
    at = {part: place for place, part in enumerate(parts)}
    served = [(place, at[part]) for place, need in enumerate(needs) for part in need.candidates]
    demand = np.array([need.yearly * years for need in needs])
    most = [level_for(float(sum(demand[place] for place, other in served if other == part)), service) for part in range(len(parts))]
    largest = [_largest_mean(level, service) for level in range(max(most) + 1)]
    kept = [(part, level) for part in range(len(parts)) for level in range(most[part] + 1)]
    price = [prices[part] for part in parts]
    cost = [needs[place].yearly * price[part] for place, part in served]
    cost += [holding * price[part] * level for part, level in kept] + [fixed] * len(parts)
    chosen = _least(np.array(cost), _constraints(served, kept, demand, largest))
    return {needs[place].key: parts[part] for column, (place, part) in enumerate(served) if chosen[column] > 0.5}


def _constraints(
    served: Sequence[tuple[int, int]], kept: Sequence[tuple[int, int]], demand: checks.Floats, largest: Sequence[float]
) -> LinearConstraint:
    """Each need served once; the mean a part serves within its level's; a part that serves is kept, at one level."""
    links, levels = np.array(served), np.array(kept)
    needs, parts = demand.size, int(levels[:, 0].max()) + 1
    x, z, y = np.arange(len(links)), len(links) + np.arange(len(levels)), len(links) + len(levels) + np.arange(parts)
    width = len(links) + len(levels) + parts
    rows_once = coo_matrix((np.ones(len(links)), (links[:, 0], x)), shape=(needs, width))
    mean = np.concatenate([demand[links[:, 0]], -np.array(largest)[levels[:, 1]]])
    rows_level = coo_matrix((mean, (np.concatenate([links[:, 1], levels[:, 0]]), np.concatenate([x, z]))), shape=(parts, width))
    pair = np.concatenate([np.ones(len(links)), -np.ones(len(links))])
    rows_kept = coo_matrix((pair, (np.tile(x, 2), np.concatenate([x, y[links[:, 1]]]))), shape=(len(links), width))
    one = np.concatenate([np.ones(len(levels)), -np.ones(parts)])
    rows_one = coo_matrix((one, (np.concatenate([levels[:, 0], np.arange(parts)]), np.concatenate([z, y]))), shape=(parts, width))
    low = np.concatenate([np.ones(needs), np.full(parts + len(links), -np.inf), np.zeros(parts)])
    high = np.concatenate([np.ones(needs), np.zeros(parts + len(links)), np.zeros(parts)])
    return LinearConstraint(vstack([rows_once, rows_level, rows_kept, rows_one]).tocsr(), low, high)


def _least(cost: checks.Floats, limits: LinearConstraint) -> checks.Floats:
    answer = milp(cost, constraints=limits, integrality=np.ones(cost.size), bounds=Bounds(0, 1), options={"mip_rel_gap": 0.0})
    if answer.x is None:
        raise ContractError(f"line-up: no solution was found: {answer.message}")
    return np.asarray(answer.x)


def _largest_mean(level: int, target: float) -> float:
    """The largest Poisson mean that a level serves with the target."""
    return float(pdtri(level, target))
