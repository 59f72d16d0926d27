"""The table of hypotheses: priors from rates, age and events, results multiplied in, and the test worth most a minute (rule D1)."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from almanac.core.errors import ContractError
from almanac.core.triage.knowledge import Hypothesis, Symptom, Test

SAFETY_FLOOR = 0.005
"""A hypothesis that can hurt is looked for first until it is less likely than this."""
TELLS_NOTHING = 1e-9
STILL_SUSPECT = 0.05
"""Of what was replaced by a tested part this much of its weight stays: nothing is ever certain."""


@dataclass(frozen=True)
class Row:
    """A hypothesis with its prior and what the results made of it, both shares of 1."""

    hypothesis: Hypothesis
    weight: float
    prior: float
    posterior: float


@dataclass(frozen=True)
class Advice:
    """A test with what it is worth: bits of information expected, bits a minute, why it stands where it stands."""

    test: Test
    bits: float
    per_minute: float
    reason: str


@dataclass(frozen=True)
class Case:
    """What is known of the machine before any test: rates by kind per 100 a year, events, and age against its kind's mean age.

    replaced : by kind, the share of its parts that an earlier job replaced by tested ones: they are off the suspects (rule D4)
    """

    rates: Mapping[str, float]
    events: Sequence[str] = ()
    old: bool = False
    replaced: Mapping[str, float] = field(default_factory=dict)


def priors(symptom: Symptom, case: Case) -> list[Row]:
    """Priors of a symptom: each hypothesis' yearly rate times what the events make of it.

    Parameters
    ----------
    symptom : its hypotheses · case : rates of kinds per 100 a year, events such as drop, whether the machine is old for its kind

    Returns
    -------
    list of Row : priors add up to 1

    Raises
    ------
    ContractError : a hypothesis with neither a rate of its kind nor one of its own
    """
    weights = [_weight(hypothesis, case) for hypothesis in symptom.hypotheses]
    total = sum(weights)
    return [Row(item, weight, weight / total, weight / total) for item, weight in zip(symptom.hypotheses, weights, strict=True)]


def _weight(hypothesis: Hypothesis, case: Case) -> float:
    rate = case.rates.get(hypothesis.kind) if hypothesis.kind and hypothesis.per_100 is None else hypothesis.per_100
    if rate is None:
        raise ContractError(f"{hypothesis.id}: no rate of kind {hypothesis.kind} is known, state per_100")
    factor = math.prod(hypothesis.after.get(event, 1.0) for event in case.events)
    left = max(1.0 - case.replaced.get(hypothesis.kind or "", 0.0), STILL_SUSPECT)
    return max(rate, 1e-3) * factor * left * (hypothesis.old_age if case.old else 1.0)


def updated(rows: Sequence[Row], test: Test, outcome: str) -> list[Row]:
    """The table after a result: posterior ~ prior x likelihood. Equal likelihoods change nothing (rule D1).

    Parameters
    ----------
    rows : the table · test : done · outcome : one of its outcomes

    Returns
    -------
    list of Row

    Raises
    ------
    ContractError : an outcome the test does not have
    """
    if outcome not in test.outcomes:
        raise ContractError(f"outcome: one of {', '.join(test.outcomes)} was wanted, got {outcome!r}")
    weighed = [row.posterior * test.likelihood(outcome, row.hypothesis.id) for row in rows]
    total = sum(weighed)
    return [Row(row.hypothesis, row.weight, row.prior, weight / total) for row, weight in zip(rows, weighed, strict=True)]


def separates(rows: Sequence[Row], test: Test, outcome: str) -> bool:
    """Whether a result tells anything: one expected under every hypothesis that is left may not confirm any (rule D1)."""
    likely = [test.likelihood(outcome, row.hypothesis.id) for row in rows if row.posterior > 0]
    return max(likely) - min(likely) > TELLS_NOTHING


def information_bits(rows: Sequence[Row], test: Test) -> float:
    """Expected fall of entropy by a test, in bits.

    Parameters
    ----------
    rows : the table · test : not done yet

    Returns
    -------
    float : >= 0; 0 when every outcome is as likely under each hypothesis

    References
    ----------
    Lindley (1956), On a measure of the information provided by an experiment, Annals of Mathematical Statistics 27.
    """
    now = [row.posterior for row in rows]
    expected = 0.0
    for outcome in test.outcomes:
        weighed = [row.posterior * test.likelihood(outcome, row.hypothesis.id) for row in rows]
        chance = sum(weighed)
        if chance > 0:
            expected += chance * _entropy([weight / chance for weight in weighed])
    return max(_entropy(now) - expected, 0.0)


def _entropy(shares: Sequence[float]) -> float:
    return -sum(share * math.log2(share) for share in shares if share > 0)


def next_tests(symptom: Symptom, rows: Sequence[Row], done: Sequence[str] = ()) -> list[Advice]:
    """Tests left, best first: safety, then trivial causes, then information a minute, those that open the machine after those that do not.

    Parameters
    ----------
    symptom : with its tests · rows : the table as it stands · done : ids of tests already made

    Returns
    -------
    list of Advice : tests that tell nothing come last and say so
    """
    found = [_advice(test, rows) for test in symptom.tests if test.id not in done]
    return sorted(found, key=lambda item: (_rank(item, rows), -item.per_minute))


def _advice(test: Test, rows: Sequence[Row]) -> Advice:
    bits = information_bits(rows, test)
    if bits <= TELLS_NOTHING:
        return Advice(test, 0.0, 0.0, "tells nothing: every outcome is as likely under each hypothesis")
    reason = f"{bits:.2f} bits in {test.minutes:g} min"
    if _dangerous(test, rows):
        reason = f"safety first: {reason}"
    elif test.trivial:
        reason = f"a trivial cause: {reason}"
    return Advice(test, bits, bits / test.minutes, reason)


def _dangerous(test: Test, rows: Sequence[Row]) -> bool:
    return any(row.hypothesis.id == test.safety and row.posterior >= SAFETY_FLOOR for row in rows)


def _rank(advice: Advice, rows: Sequence[Row]) -> int:
    if advice.bits <= TELLS_NOTHING:
        return 3
    if _dangerous(advice.test, rows):
        return 0
    trivial_left = sum(row.posterior for row in rows if row.hypothesis.trivial)
    return 1 if advice.test.trivial and trivial_left > SAFETY_FLOOR else 2
