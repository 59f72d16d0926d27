"""`calc stock`: stock levels and what they achieve."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from almanac.calculator.inputs import InputFaults, JsonInput
from almanac.core.errors import ContractError
from almanac.core.stock import levels
from almanac.core.stock.levels import Demand

SCHOOLS = ("cycle-service", "fill-rate", "least-cost")
MOST_LEVELS = 100_000


def stock(path: str) -> dict[str, Any]:
    """The level a school chooses and the figures around it, or the figures of the levels asked for."""
    given = JsonInput(path)
    by_period = given.has("demand_lead") and given.has("demand_review")
    demand = None if by_period else _demand(given)
    wanted = (
        [int(value) for value in given.numbers(given.values["levels"], "levels", low=0, high=MOST_LEVELS)] if given.has("levels") else None
    )
    given.finish()
    try:
        if by_period:
            return _period(given, wanted)
        assert demand is not None
        chosen = None if wanted is not None else _choose(given, demand)
        shown = wanted if wanted is not None else range(max(0, (chosen or 0) - 3), (chosen or 0) + 4)
        return {"level": chosen, "levels": [_figures(demand, level) for level in shown]}
    except ContractError as error:
        raise InputFaults([f"{path}: {error}"]) from error


def _demand(given: JsonInput) -> Demand | None:
    inside = given.values.get("demand")
    if not isinstance(inside, dict):
        given.fault("demand", "an object with model and mean, or with pmf, was wanted")
        return None
    try:
        if "pmf" in inside:
            pmf = given.numbers(inside["pmf"], "demand.pmf", low=0.0, high=1.0)
            return levels.given_demand(pmf) if not given.faults else None
        model = inside.get("model")
        mean = given.number("mean", inside=inside, at="demand", low=0.0, high=1e6)
        if model == "poisson":
            return levels.poisson_demand(mean) if not given.faults else None
        if model == "negative-binomial":
            ratio = given.number("variance_to_mean", inside=inside, at="demand", low=1.0, high=1e6)
            return levels.negative_binomial_demand(mean, ratio) if not given.faults else None
        given.fault("demand.model", f"poisson or negative-binomial was wanted, got {model!r}")
    except ContractError as error:
        given.fault("demand", str(error))
    return None


def _school(given: JsonInput) -> str:
    school = given.values.get("school", "cycle-service")
    if school not in SCHOOLS:
        raise InputFaults([f"{given.path}: school: one of {', '.join(SCHOOLS)} was wanted, got {school!r}"])
    return str(school)


def _target(given: JsonInput) -> float:
    target = given.number("target", low=0.0, high=1.0)
    given.finish()
    return target


def _choose(given: JsonInput, demand: Demand) -> int:
    school = _school(given)
    if school == "least-cost":
        holding, waiting = given.number("holding", low=1e-300), given.number("waiting", low=1e-300)
        given.finish()
        return levels.cycle_service_level(demand.pmf, waiting / (waiting + holding))
    if school == "fill-rate":
        return levels.fill_rate_level(demand, _target(given))
    return levels.cycle_service_level(demand.pmf, _target(given))


def _figures(demand: Demand, level: int) -> dict[str, Any]:
    found = asdict(levels.figures(demand, level))
    return {"S": found.pop("level"), **found}


def _period(given: JsonInput, wanted: list[int] | None) -> dict[str, Any]:
    """Fill rate of a periodic review, from the demand over the lead time and over the review period."""
    lead, review = (_pmf(given, key) for key in ("demand_lead", "demand_review"))
    given.finish()
    if wanted is not None:
        return {"level": None, "levels": [{"S": level, "fill_rate": levels.period_fill_rate(lead, review, level)} for level in wanted]}
    target = _target(given)
    for level in range(len(lead) + len(review)):
        reached = levels.period_fill_rate(lead, review, level)
        if reached >= target:
            return {"level": level, "levels": [{"S": level, "fill_rate": reached}]}
    raise ContractError(f"target: {target} is not reached")


def _pmf(given: JsonInput, key: str) -> list[float]:
    inside = given.values[key]
    return given.numbers(inside.get("pmf") if isinstance(inside, dict) else inside, f"{key}.pmf", low=0.0, high=1.0)
