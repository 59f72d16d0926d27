"""All charts of the company under one yearly allowance of false alarms: which speak, since when, and what was decided."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from typing import ClassVar

import numpy as np
from sqlalchemy.orm import Session

from almanac.core.answers.question import Question
from almanac.core.life.accepted import Accepted
from almanac.core.life.alarms.cusum import Alarm, Chart, Watched, follow, limit_for
from almanac.core.life.alarms.lots import lot_alarm, lot_tail, stand_out
from almanac.services.alarms.decided import accepted_of, day_number, day_of
from almanac.services.alarms.expected import FEWEST_OF_A_LOT, ChartKey, ChartsOfKind, ExpectedChart, ExpectedOfKind, Since
from almanac.services.alarms.histories import read_histories
from almanac.services.answers.ask import answer_of, ask_all
from almanac.services.outlook.inputs import Inputs, read_inputs, together
from almanac.store import alarms as store
from almanac.store.models import AlarmDecision, ChartScope, Verdict

RATIO = 2.0
"""Failures twice as frequent as expected are looked for."""
FALSE_A_YEAR = 1.0
OF_LOTS = 0.5
"""Share of the false alarms that is left to the whole records of lots; the rest is the charts'."""
OPEN_MONTHS = 12
"""An alarm that nobody decided about stays open for so many months; older ones are history."""
LOG_STEP, CV_STEP, COUNT_STEP = 0.2, 0.1, 1.1
"""Charts whose expectations, doubts or numbers differ by less share a limit."""
LOOKS = 4.0
"""A lot's whole record is looked at again each month: its level is that of so many looks at it that know nothing of one another."""
LEAST_GAINS = 1.5
"""A chart never speaks of a single failure, however seldom one is expected."""
LEAST = 1e-6
MONTHS_A_YEAR = 12.0


@dataclass(frozen=True)
class LimitOf(Question[float]):
    """The height at which a chart speaks: expected a month, cv of it, ratio, false alarms allowed a month."""

    NAME: ClassVar[str] = "limit of a chart"
    VERSION: ClassVar[int] = 1
    expected: float
    cv: float
    ratio: float
    allowance: float

    def compute(self) -> float:
        return max(limit_for(self.expected, self.cv, self.ratio, self.allowance), LEAST_GAINS * float(np.log(self.ratio)))


@dataclass(frozen=True)
class ChartFollowed:
    """A chart, followed. tail : of a lot, the probability of so many failures or more · stands_out : over all lots

    alarm : the last one, if it is open or was decided about · decision : what was decided about it, if anything
    """

    kind: str
    key: ChartKey
    months: tuple[date, ...]
    chart: ExpectedChart
    watched: Watched
    alarm: Alarm | None
    decision: AlarmDecision | None
    tail: float | None = None
    stands_out: bool = False

    @property
    def is_open(self) -> bool:
        """Whether somebody is to decide about it."""
        return self.alarm is not None and self.decision is None

    @property
    def failed(self) -> float:
        """Of all months."""
        return float(self.chart.failures.sum())

    @property
    def expected(self) -> float:
        """Of all months."""
        return float(self.chart.expected.sum())


@dataclass(frozen=True)
class CompanyWatch:
    """Every chart. silent : kinds of which nothing can be watched, for nothing of them ever failed · no_lot, lots_of_one : by kind"""

    inputs: Inputs
    charts: tuple[ChartFollowed, ...]
    silent: tuple[str, ...]
    no_lot: Mapping[str, int]
    lots_of_one: Mapping[str, int]
    false_a_year: float

    @property
    def open(self) -> list[ChartFollowed]:
        """Alarms to decide about, the one that runs furthest ahead first."""
        return sorted((one for one in self.charts if one.is_open), key=_ahead)


def _ahead(one: ChartFollowed) -> float:
    assert one.alarm is not None
    return one.alarm.expected - one.alarm.observed


def read_watch(session: Session) -> CompanyWatch:
    """Follow every chart of the company until today."""
    inputs = read_inputs(session)
    decisions = store.decisions(session)
    found = expected_of(session, inputs, decisions, accepted_of(session))
    kinds = {kind: charts for kind, charts in found.items() if charts is not None}
    rows = [(kind, charts.months, chart) for kind, charts in kinds.items() for chart in charts.charts if _tells(chart)]
    false_a_year = float(inputs.settings.value("false_alarms", default=FALSE_A_YEAR))
    limits = _limits(session, [chart for _, _, chart in rows], false_a_year)
    held = {(one.kind, key_of_decision(one)): one for one in decisions}
    today = inputs.clock.today
    lots = sum(chart.key.scope == ChartScope.LOT for _, _, chart in rows)
    level = min(OF_LOTS * false_a_year / (LOOKS * max(lots, 1)), 0.01)
    followed = [
        _followed(kind, months, chart, (limit, level), held.get((kind, chart.key)), today)
        for (kind, months, chart), limit in zip(rows, limits, strict=True)
    ]
    silent = tuple(kind for kind in inputs.kinds() if kind not in kinds)
    no_lot = {kind: charts.no_lot for kind, charts in kinds.items()}
    alone = {kind: charts.lots_of_one for kind, charts in kinds.items()}
    return CompanyWatch(inputs, tuple(_with_lots(followed)), silent, no_lot, alone, false_a_year)


def expected_of(
    session: Session, inputs: Inputs, decisions: Sequence[AlarmDecision], decided: Mapping[int, Accepted]
) -> dict[str, ChartsOfKind | None]:
    """Charts of every kind; None of one where nothing ever failed."""
    questions = {}
    histories = read_histories(session, list(inputs.life), as_of=inputs.clock.today, decided=decided)
    for kind in inputs.kinds():
        fit = inputs.fit_of(kind)
        accepted = [one for one in decisions if one.kind == kind and one.verdict == Verdict.ACCEPTED and one.scope != ChartScope.LOT]
        questions[kind] = ExpectedOfKind(
            kind=kind,
            today=inputs.clock.today,
            group=fit.group,
            air=fit.air,
            school=str(inputs.settings.value("school", kind=kind, default="auto")),
            fitted=answer_of(session, fit),
            histories=together({number: histories[number] for number in fit.group}),
            accepted=tuple(Since(key_of_decision(one), day_number(one.since)) for one in accepted),
        )
    return dict(zip(questions, ask_all(session, list(questions.values())), strict=True))


def key_of_decision(one: AlarmDecision) -> ChartKey:
    """The chart that was decided about."""
    made = None if one.made_on is None else day_number(one.made_on)
    return ChartKey(one.scope, one.part_id, one.model_id, one.duty, one.environment, one.site_id, made)


def _tells(chart: ExpectedChart) -> bool:
    """Whether anything could be seen on a chart: some unit was under watch, and a lot is more than one unit."""
    return chart.expected.sum() > LEAST and (chart.key.scope != ChartScope.LOT or chart.units >= FEWEST_OF_A_LOT)


def _limits(session: Session, charts: Sequence[ExpectedChart], false_a_year: float) -> list[float]:
    """The limit of each chart: all of them together speak without cause so often a year."""
    if not charts:
        return []
    many = COUNT_STEP ** np.ceil(np.log(len(charts)) / np.log(COUNT_STEP))
    allowance = float(f"{(1.0 - OF_LOTS) * false_a_year / (MONTHS_A_YEAR * many):.6g}")
    return ask_all(session, [LimitOf(*_rounded(chart), RATIO, allowance) for chart in charts])


def _rounded(chart: ExpectedChart) -> tuple[float, float]:
    """Expected a month while anything was under watch, and cv, so that charts nearly alike ask for one limit."""
    active = chart.expected[chart.expected > 0]
    mean = float(active.mean()) if active.size else LEAST
    at = round(float(np.log(max(mean, LEAST))) / LOG_STEP) * LOG_STEP
    return float(f"{np.exp(at):.6g}"), round(round(chart.cv / CV_STEP) * CV_STEP, 6)


def _followed(
    kind: str,
    months: tuple[date, ...],
    chart: ExpectedChart,
    levels: tuple[float, float],
    decision: AlarmDecision | None,
    today: date,
) -> ChartFollowed:
    """levels : the chart's limit, and the probability at which a lot's whole record speaks"""
    seen = Chart(chart.failures, chart.expected, chart.cv)
    watched = follow(seen, RATIO, levels[0])
    if chart.key.scope == ChartScope.LOT and (whole := lot_alarm(seen, levels[1])) is not None:
        watched = replace(watched, alarms=tuple(sorted((*watched.alarms, whole), key=lambda one: one.period)))
    last = watched.alarms[-1] if watched.alarms else None
    decided = decision if decision is not None and (last is None or months[last.period] <= decision.spoke_on) else None
    if last is not None and decided is None and _months_ago(months[last.period], today) > OPEN_MONTHS:
        last = None
    tail = lot_tail(float(chart.failures.sum()), float(chart.expected.sum()), chart.cv) if chart.key.scope == ChartScope.LOT else None
    return ChartFollowed(kind, chart.key, months, chart, watched, last, decided, tail)


def _months_ago(day: date, today: date) -> int:
    return 12 * (today.year - day.year) + today.month - day.month


def _with_lots(followed: list[ChartFollowed]) -> list[ChartFollowed]:
    """Lots that stand out over all of them."""
    lots = [place for place, one in enumerate(followed) if one.tail is not None]
    if not lots:
        return followed
    out = stand_out([tail for one in followed if (tail := one.tail) is not None])
    for place, stands in zip(lots, out.tolist(), strict=True):
        followed[place] = replace(followed[place], stands_out=stands)
    return followed


def made_on(key: ChartKey) -> date | None:
    """The day a lot was made."""
    return None if key.made is None else day_of(key.made)
