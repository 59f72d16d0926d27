"""The backtest in a few figures: by kind and for all, by quarter, and beside two simple rivals."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

import numpy as np

from almanac.core.calibration.scores import coverage, pit_histogram, plain_coverage
from almanac.core.parts.declared.kinds import FORECAST_KINDS
from almanac.services.calibration.backtest import Backtest, Held

ALL = "all"


@dataclass(frozen=True)
class Marks:
    """How some forecasts have done.

    covered_half, covered_most : share within the 50 and 90% intervals, counts spread over their jumps
    expected, seen : parts over all forecasts · crps, last_year, fixed_share : mean score of the forecast and of its rivals, parts
    plain : forecasts with a mean of 50 or more and the share inside their closed 90% interval
    histogram : (10,) share of the counts in each tenth of their forecasts
    """

    name: str
    forecasts: int
    covered_half: float
    covered_most: float
    expected: float
    seen: int
    crps: float
    last_year: float
    fixed_share: float
    plain: tuple[int, float] | None
    histogram: list[float]


@dataclass(frozen=True)
class Quarter:
    """A past quarter of a kind: what was expected at its start and what was drawn."""

    kind: str
    start: date
    days: int
    forecasts: int
    expected: float
    seen: int
    within: int


def marks_of(found: Backtest) -> list[Marks]:
    """Marks of all forecasts first, then of each kind that has any; empty before the first quarter is done."""
    kind_of = {part.id: part.kind for part in found.inputs.parts}
    groups = [(ALL, found.held)] + [
        (kind.value, [one for one in found.held if kind_of[one.part_id] == kind.value]) for kind in FORECAST_KINDS
    ]
    return [_marks(name, held) for name, held in groups if held]


def _marks(name: str, held: Sequence[Held]) -> Marks:
    scored = [one.scored for one in held]
    return Marks(
        name=name,
        forecasts=len(held),
        covered_half=coverage(scored, 0.5),
        covered_most=coverage(scored, 0.9),
        expected=sum(one.mean for one in scored),
        seen=sum(one.seen for one in scored),
        crps=float(np.mean([one.crps for one in scored])),
        last_year=float(np.mean([abs(one.last_year - one.scored.seen) for one in held])),
        fixed_share=float(np.mean([abs(one.fixed_share - one.scored.seen) for one in held])),
        plain=plain_coverage(scored),
        histogram=pit_histogram(scored).tolist(),
    )


def quarters_of(found: Backtest) -> list[Quarter]:
    """Every quarter of every kind, in order of time."""
    kind_of = {part.id: part.kind for part in found.inputs.parts}
    groups: dict[tuple[date, str], list[Held]] = {}
    for one in found.held:
        groups.setdefault((one.origin, kind_of[one.part_id]), []).append(one)
    return [
        Quarter(
            kind=kind,
            start=start,
            days=held[0].days,
            forecasts=len(held),
            expected=sum(one.scored.mean for one in held),
            seen=sum(one.scored.seen for one in held),
            within=sum(one.scored.inside for one in held),
        )
        for (start, kind), held in sorted(groups.items())
    ]
