"""The rehearsal: every stock part played forward from where its shelves stand, under the plan and under other rules."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import ClassVar

import numpy as np

from almanac.core.answers.question import Named, Question
from almanac.core.demand.law import DemandLaw
from almanac.core.demand.months import MonthStep
from almanac.core.rehearsal.figures import Estimate, Shown, mean, share, shown
from almanac.core.rehearsal.play import play
from almanac.core.rehearsal.rules import FIXED_SHARE, ONE_LEFT, TODAY, rules_of_thumb
from almanac.core.rehearsal.table import Kept, PartToPlay, changes_of, policies_of, requests_of, start_of
from almanac.core.rehearsal.tally import QUARTERS, YEAR_DAYS, Record
from almanac.core.stock.reorder import Measure
from almanac.core.stock.shelf import Shelf, ShelfPlan
from almanac.core.stock.shelf_plan import plan_shelf
from almanac.services.answers.ask import ask, ask_all
from almanac.services.answers.progress import tell
from almanac.services.errors import Fault, Refused
from almanac.services.outlook.builder import OutlookBuilder
from almanac.services.outlook.demand import books_of, part_of, with_time_line
from almanac.services.outlook.order_plans import OutlookOfPart, PartOutlook, Row, outposts_of
from almanac.services.outlook.played import UNEVEN, Spread, kept_by, part_to_play, spread, stands_of
from almanac.store.planning import StockPart

PLAN = "plan"
AIMS = (0.90, 0.95, 0.98, 0.99)
"""Other aims that are played beside the plan's."""
YEARS, SEED = 2, 28
RUNS, FEW_RUNS, MANY_CELLS = 200, 50, 4000
"""A fleet of more parts and places than so many is played fewer times."""


def aim_name(aim: float) -> str:
    """The rule of an aim, as it is asked for."""
    return f"aim-{aim:.2f}"


RULES = (PLAN, *(aim_name(aim) for aim in AIMS), ONE_LEFT, FIXED_SHARE, TODAY)


@dataclass(frozen=True)
class Playable:
    """A part to play, and what a rule keeps of it."""

    part: PartToPlay
    kept: Kept


@dataclass(frozen=True)
class ToPlay(Question[Playable]):
    """A part whose row was answered, under a rule. aim : another than the part's own · fixed_share : of the fleet, for the rule of thumb"""

    NAME: ClassVar[str] = "part to play"
    VERSION: ClassVar[int] = 1
    row: OutlookOfPart
    answer: PartOutlook
    part: StockPart
    rule: str
    aim: float | None
    fixed_share: float

    def compute(self) -> Playable:
        return self.compute_many([self])[0]

    @classmethod
    def compute_many(cls, questions: Sequence[ToPlay]) -> list[Playable]:
        """Parts of a kind share their tables."""
        found: dict[int, Playable] = {}
        for book, places in books_of([one.row for one in questions]):
            for place in places:
                one = questions[place]
                with_time_line(book, part_of(one.row), one.row.demand.content)
                law, plan = book.part_law(part_of(one.row)), one.answer.plan
                assert law is not None
                assert plan is not None
                row = Row(one.part, one.row.shelf, one.row.policy, one.answer.projection, plan)
                part = part_to_play(law.law, row, plan, list(one.row.steps))
                found[place] = Playable(part, one._kept(law.law, row, plan))
        return [found[place] for place in range(len(questions))]

    def _kept(self, law: DemandLaw, row: Row, plan: ShelfPlan) -> Kept:
        if self.aim is not None:
            return _at_aim(law, row, plan, self.aim, list(self.row.steps))
        if self.rule == PLAN:
            return kept_by(law, row, plan, list(self.row.steps))
        return rules_of_thumb(stands_of(row, plan), self.fixed_share)[self.rule]


def _at_aim(law: DemandLaw, row: Row, plan: ShelfPlan, aim: float, steps: list[MonthStep]) -> Kept:
    """What the plan would keep for another aim; least cost has none, so requests met are counted then."""
    measure = Measure.FILL if row.policy.measure == Measure.LEAST_COST else row.policy.measure
    policy = replace(row.policy, target=aim, measure=measure)
    shelf = Shelf(row.shelf.holding, row.shelf.lots, outposts_of(plan, row.shelf))
    other = plan_shelf(law, shelf, policy, horizon_days=YEAR_DAYS)
    assert other is not None
    return kept_by(law, replace(row, policy=policy, plan=other), other, steps)


@dataclass(frozen=True)
class Asked:
    """A part as the rehearsal tells of it."""

    number: str
    name: str
    kind: str
    price: float
    order_cost: float
    target: float


@dataclass(frozen=True)
class Hole:
    """Before an order of today can be there: requests met at once, and machine-days lost."""

    fill: Estimate | None
    waiting: Estimate


@dataclass(frozen=True)
class PartPlayed:
    """What was seen of one part. why : what its waiting comes from, in words"""

    number: str
    name: str
    kind: str
    figures: Shown
    before: float
    a_year: float
    why: str


@dataclass(frozen=True)
class Rehearsed:
    """What was seen of all parts under a rule, from the first day an order of today can be there.

    kinds : by kind · sites : requests met at once by place, the depot's first · hole : before that day · money : spent in the first year,
    and by kind and quarter (kind, quarter) · stock_value : on the shelves and on boats · scrapped_value : of a year
    worst : parts with most waiting, the plan's ten worst · left_out : parts of which nothing can be said
    """

    whole: Shown
    kinds: dict[str, Shown]
    sites: list[Estimate | None]
    hole: Hole
    money: Spread
    quarters: dict[str, list[Spread]]
    stock_value: Estimate
    scrapped_value: Estimate
    worst: list[PartPlayed]
    parts: int
    left_out: int
    runs: int
    years: int


@dataclass(frozen=True)
class Rehearsal(Question[Rehearsed]):
    """Parts under one rule, each with its Playable. left_out : parts that cannot be played"""

    NAME: ClassVar[str] = "rehearsal"
    VERSION: ClassVar[int] = 1
    rule: str
    asked: tuple[Asked, ...]
    parts: tuple[Named, ...]
    left_out: int
    runs: int
    years: int

    def compute(self) -> Rehearsed:
        playable: list[Playable] = [one.content for one in self.parts]
        parts, kept = [one.part for one in playable], [one.kept for one in playable]
        first = np.array([min(part.helped_on, YEAR_DAYS) for part in parts])
        record = play(
            policies_of(parts, kept), requests_of(parts, self.runs, SEED), start_of(parts),
            days=self.years * YEAR_DAYS, seed=SEED, counts_from=first, changes=changes_of(kept),
            told=lambda day, days: tell(f"rehearsal: {self.rule}", day, days),
        )  # fmt: skip
        return self._told(record, parts)

    def _told(self, record: Record, parts: list[PartToPlay]) -> Rehearsed:
        price, cost = np.array([one.price for one in self.asked]), np.array([one.order_cost for one in self.asked])
        kinds = {kind: np.array([row for row, one in enumerate(self.asked) if one.kind == kind]) for kind in self._kinds}
        spent = record.ordered_by_quarter * price[None, :, None] + record.orders_by_quarter * cost[None, :, None]
        days = record.days.astype(np.float64)[:, None]
        places = record.asked.shape[1]
        return Rehearsed(
            whole=shown(record, price, cost),
            kinds={kind: shown(record, price, cost, rows) for kind, rows in kinds.items()},
            sites=[share(record.met[:, place].sum(axis=0), record.asked[:, place].sum(axis=0)) for place in range(places)],
            hole=Hole(share(record.before_met.sum(axis=0), record.before_asked.sum(axis=0)), mean(record.before_waiting.sum(axis=0))),
            money=spread(spent[:QUARTERS].sum(axis=(0, 1))),
            quarters={kind: [spread(spent[q, rows].sum(axis=0)) for q in range(QUARTERS)] for kind, rows in kinds.items()},
            stock_value=mean((record.held * price[:, None] / days).sum(axis=0)),
            scrapped_value=mean((record.scrapped * price[:, None] / days * YEAR_DAYS).sum(axis=0)),
            worst=self._worst(record, parts, price, cost),
            parts=len(parts),
            left_out=self.left_out,
            runs=self.runs,
            years=self.years,
        )

    @property
    def _kinds(self) -> list[str]:
        return list(dict.fromkeys(one.kind for one in self.asked))

    def _worst(self, record: Record, parts: list[PartToPlay], price: np.ndarray, cost: np.ndarray) -> list[PartPlayed]:
        lost = (record.waiting / (record.days[:, None] / YEAR_DAYS) + record.before_waiting).mean(axis=1)
        rows = [int(row) for row in np.argsort(-lost)[:WORST] if lost[row] > 0]
        return [
            PartPlayed(
                one.number, one.name, one.kind,
                figures := shown(record, price, cost, row),
                before := float(record.before_waiting[row].mean()),
                a_year := float(record.asked[row].sum(axis=0).mean() / (record.days[row] / YEAR_DAYS)),
                why_waiting(parts[row], figures, before, a_year),
            )
            for row in rows
            for one in (self.asked[row],)
        ]  # fmt: skip


WORST = 10
MOST_OF_IT, SPREAD_OUT, SELDOM, UNSURE = 0.5, 1.5, 0.05, 6.0
"""From which on a cause is named: share of the waiting, longest lead to the usual one and its share, and failures' worth of doubt."""


def why_waiting(part: PartToPlay, figures: Shown, before: float, a_year: float) -> str:
    """Where the waiting for a part comes from, the first of these that holds."""
    if before > MOST_OF_IT * (before + figures.expected_waiting.value):
        return f"short until an order of today is there, {part.helped_on} days from now"
    if part.last_order is not None and part.last_order < YEARS * YEAR_DAYS:
        return "its supplier stops selling it" if part.last_order >= 0 else "its supplier sells it no more"
    if part.expires and figures.scrapped_a_year.value > 0.05 * max(a_year, 1e-9):
        return f"kept low because it expires: {figures.scrapped_a_year.value:.1f} a year do all the same"
    return _why_by_nature(part, a_year)


def _why_by_nature(part: PartToPlay, a_year: float) -> str:
    if max(part.a_day) > UNEVEN * max(min(part.a_day), 1e-9):
        return "asked for unevenly over the year, as planned swaps and purchases make it"
    days, weights = part.lead
    longest = max(day for day, weight in zip(days, weights, strict=True) if weight >= SELDOM)
    if longest > SPREAD_OUT * part.helped_on:
        return f"its supplier needs {part.helped_on} days as a rule and up to {longest} at times"
    if part.doubt is not None and part.doubt < UNSURE:
        return "few failures are on record: its rate may be quite another"
    return f"asked for often: {a_year:.0f} a year" if a_year >= 1 else f"asked for {a_year:.1f} times a year"


def question_of(builder: OutlookBuilder, rule: str) -> Rehearsal:
    """The rehearsal of an outlook of all places under a rule.

    Raises
    ------
    Refused : a rule that is none, or nothing that can be played
    """
    if rule not in RULES:
        raise Refused(Fault("rule", f"one of {', '.join(RULES)} was wanted, got {rule}"))
    rows = builder.rows()
    played = [row for row in rows if row.plan is not None and row.projection.said]
    if not played:
        raise Refused(Fault("rule", "of no stock part can anything be forecast yet: there is nothing to play"))
    aim = next((one for one in AIMS if aim_name(one) == rule), None)
    questions = [_to_play(builder, row, rule, aim) for row in played]
    places = len(played) * (1 + len(played[0].shelf.outposts))
    answers = ask_all(builder.session, questions)
    return Rehearsal(
        rule,
        tuple(
            Asked(row.part.number, row.part.name, row.part.kind, float(row.part.price), row.policy.order_cost, row.policy.target)
            for row in played
        ),
        tuple(Named(question.key, answer) for question, answer in zip(questions, answers, strict=True)),
        len(rows) - len(played),
        RUNS if places <= MANY_CELLS else FEW_RUNS,
        YEARS,
    )


def _to_play(builder: OutlookBuilder, row: Row, rule: str, aim: float | None) -> ToPlay:
    fixed = builder.fixed_share(row.part) if rule == FIXED_SHARE else 0.0
    return ToPlay(builder.question(row.part), PartOutlook(row.projection, row.plan), row.part, rule, aim, fixed)


def rehearsed(builder: OutlookBuilder, rule: str) -> Rehearsed:
    """What was seen under a rule, played now or before.

    Raises
    ------
    Refused : a rule that is none, or nothing that can be played
    """
    return ask(builder.session, question_of(builder, rule))
