"""`calc policy` and `calc reorder`: when one shelf orders, how much, and what that gives."""

from __future__ import annotations

from typing import Any

import numpy as np

from almanac.calculator.inputs import InputFaults, JsonInput
from almanac.calculator.shelf_inputs import MOST_DAYS, read_lead, read_lot, read_promise, read_rate
from almanac.core.errors import ContractError, NoEstimate
from almanac.core.stock.due import next_order
from almanac.core.stock.levels import poisson_demand
from almanac.core.stock.rates import Rate
from almanac.core.stock.reorder import ReorderPolicy, reorder_point, service_of
from almanac.core.stock.review import excess, review_demand


def policy(path: str) -> dict[str, Any]:
    """s and Q of one shelf at a constant rate, and what they give."""
    given = JsonInput(path)
    rate = read_rate(given, given.values)
    lead = read_lead(given, given.values)
    review = given.number("review_days", low=1e-3, high=MOST_DAYS)
    promise = read_promise(given, given.values)
    position = given.whole("position", low=-(10**6), high=10**6) if given.has("position") else None
    lot = read_lot(given, given.values, rate.mean_per_day) if not given.faults else 1
    given.finish()
    try:
        demand = review_demand(rate, lead, review)
        chosen = ReorderPolicy(reorder_point(demand, lot, promise), lot)
        service = service_of(demand, chosen, review)
        found: dict[str, Any] = {"s": chosen.s, "Q": lot, "level": chosen.most, **vars(service)}
        return found if position is None else found | _today(rate, chosen, lead, review, position)
    except (ContractError, NoEstimate) as error:
        raise InputFaults([f"{path}: {error}"]) from error


def _today(rate: Rate, chosen: ReorderPolicy, lead: Any, review: float, position: int) -> dict[str, Any]:
    due = next_order(rate, chosen, lead, review, position)
    days = None if due.days is None else dict(zip(("p05", "p50", "p95"), due.days, strict=True))
    return {"due": due.due, "quantity": due.quantity, "due_day": days, "chance_of_waiting": due.chance_of_waiting}


def reorder(path: str) -> dict[str, Any]:
    """A shelf that is looked at all the time, at a known rate: what r and Q give."""
    given = JsonInput(path)
    rate = given.number("rate", low=1e-9, high=1e6)
    lead = given.number("lead_time", low=0.0, high=MOST_DAYS)
    pairs = _pairs(given)
    given.finish()
    try:
        pmf = poisson_demand(rate * lead).pmf
        figures = [_continuous(pmf, r, lot) for r, lot in pairs]
    except ContractError as error:
        raise InputFaults([f"{path}: {error}"]) from error
    return figures[0] if not isinstance(given.values.get("r"), list) and not given.has("levels") else {"levels": figures}


def _pairs(given: JsonInput) -> list[tuple[int, int]]:
    if given.has("levels"):
        entries = given.objects("levels")
        return [
            (given.whole("r", inside=entry, at=f"levels[{i}]", low=-1), given.whole("Q", inside=entry, at=f"levels[{i}]", low=1))
            for i, entry in enumerate(entries)
        ]
    points, lots = _list(given, "r", -1), _list(given, "Q", 1)
    if len(points) == 1:
        points *= len(lots)
    if len(lots) == 1:
        lots *= len(points)
    if len(points) != len(lots):
        given.fault("Q", f"as many as r were wanted, or one: got {len(lots)} for {len(points)}")
    return list(zip(points, lots, strict=False))


def _list(given: JsonInput, key: str, low: int) -> list[int]:
    value = given.values.get(key)
    items = value if isinstance(value, list) else [value]
    return [given.whole("value", inside={"value": item}, at=f"{key}[{i}]", low=low, high=10**6) for i, item in enumerate(items)]


def _continuous(pmf: np.ndarray, r: int, lot: int) -> dict[str, Any]:
    """Position is uniform on r + 1 ... r + Q (Hadley & Whitin 1963, section 4.7)."""
    positions = np.arange(r + 1, r + lot + 1)
    below = np.concatenate(([0.0], np.cumsum(pmf)))
    short = excess(pmf)
    mean = float(pmf @ np.arange(pmf.size))
    backorders = float(np.mean(short[np.minimum(positions, short.size - 1)]))
    return {
        "r": r,
        "Q": lot,
        "fill_rate": float(np.mean(np.minimum(below[np.minimum(positions, below.size - 1)], 1.0))),
        "expected_backorders": backorders,
        "expected_on_hand": float(positions.mean()) - mean + backorders,
    }
