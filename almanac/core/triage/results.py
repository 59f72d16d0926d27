"""Results of tests as a whole: one that was made twice with two answers, and two that hardly go together."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from almanac.core.triage.knowledge import Symptom, Test
from almanac.core.triage.table import Row

CONFLICT_BITS = 2.0
"""Two results that are four times rarer together than apart are named."""


@dataclass(frozen=True)
class Result:
    """A result as written. job : of an earlier job the machine came back from, None for this one."""

    test: str
    outcome: str
    job: int | None = None


@dataclass(frozen=True)
class Heard:
    """Results that count, and those that do not go together, each in a sentence."""

    counted: list[tuple[Test, Result]]
    contradicting: list[tuple[Test, list[Result]]]


def heard(symptom: Symptom, results: Sequence[Result]) -> Heard:
    """Results of a symptom that count: one a test.

    Parameters
    ----------
    symptom : with its tests · results : in the order they were written, those of earlier jobs first

    Returns
    -------
    Heard : the same answer twice counts once, for a second look at the same thing is no second witness. Two answers of one job to
    one test count not at all until one is taken back; an answer of this job stands for one of an earlier job.
    """
    counted, contradicting = [], []
    for test in symptom.tests:
        own = [result for result in results if result.test == test.id and result.outcome in test.outcomes]
        now = [result for result in own if result.job is None] or own
        if len({result.outcome for result in now}) > 1:
            contradicting.append((test, now))
        elif now:
            counted.append((test, now[-1]))
    order = {result: place for place, result in enumerate(results)}
    return Heard(sorted(counted, key=lambda item: order[item[1]]), contradicting)


def conflict_bits(rows: Sequence[Row], one: tuple[Test, str], other: tuple[Test, str]) -> float:
    """How much rarer two results are together than apart, in bits, under the table before any test.

    Parameters
    ----------
    rows : with their priors · one, other : a test with its outcome

    Returns
    -------
    float : log2 of P(one) P(other) / P(one and other); above 0 they speak against each other

    References
    ----------
    Jensen, Chamberlain, Nordahl & Jensen (1990), Analysis in HUGIN of data conflict, Uncertainty in Artificial Intelligence 6.
    """
    first = [row.prior * one[0].likelihood(one[1], row.hypothesis.id) for row in rows]
    second = [row.prior * other[0].likelihood(other[1], row.hypothesis.id) for row in rows]
    both = sum(weight * other[0].likelihood(other[1], row.hypothesis.id) for weight, row in zip(first, rows, strict=True))
    return math.log2(sum(first) * sum(second) / both)


def conflicts(rows: Sequence[Row], counted: Sequence[tuple[Test, Result]]) -> list[tuple[tuple[Test, Result], tuple[Test, Result]]]:
    """Pairs of results that hardly go together under any one cause, the worst first."""
    pairs = [(one, other) for place, one in enumerate(counted) for other in counted[place + 1 :]]
    weighed = [(conflict_bits(rows, (a[0], a[1].outcome), (b[0], b[1].outcome)), (a, b)) for a, b in pairs]
    return [pair for bits, pair in sorted(weighed, key=lambda item: -item[0]) if bits >= CONFLICT_BITS]
