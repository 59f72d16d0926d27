"""Money: what the sum tied up in stock buys, over all parts; where today's shelves and other rules stand beside it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar

from almanac.core.answers.question import Named, Question
from almanac.core.network.frontier import (
    Chosen,
    Curve,
    Point,
    chosen_for,
    company_curve,
    network_frontier,
    network_point,
    shelf_frontier,
    shelf_point,
)
from almanac.core.rehearsal.rules import FIXED_SHARE, ONE_LEFT, TODAY, rules_of_thumb
from almanac.core.rehearsal.table import Kept
from almanac.core.stock.exact import exact_review, like_rate
from almanac.core.stock.reorder import ReorderPolicy
from almanac.core.stock.shelf import Shelf
from almanac.core.stock.shelf_plan import network_of
from almanac.services.answers.ask import ask, ask_all
from almanac.services.errors import Fault, Refused
from almanac.services.outlook.builder import OutlookBuilder
from almanac.services.outlook.demand import books_of, part_of, with_time_line
from almanac.services.outlook.order_plans import OutlookOfPart, PartOutlook, Row, outposts_of
from almanac.services.outlook.played import stands_of
from almanac.store.planning import StockPart

PLAN = "plan"
BESIDE = (PLAN, TODAY, ONE_LEFT, FIXED_SHARE)
"""What stands beside the curve."""


@dataclass(frozen=True)
class PartFrontier:
    """What money buys of a part, and where it stands under other rules, by name; lot : of its orders."""

    points: list[Point]
    beside: dict[str, Point]
    lot: int


@dataclass(frozen=True)
class FrontierOfPart(Question[PartFrontier]):
    """A part whose row was answered. fixed_share : of the fleet, for the rule of thumb"""

    NAME: ClassVar[str] = "what money buys of a part"
    VERSION: ClassVar[int] = 1
    row: OutlookOfPart
    answer: PartOutlook
    part: StockPart
    fixed_share: float

    def compute(self) -> PartFrontier:
        return self.compute_many([self])[0]

    @classmethod
    def compute_many(cls, questions: Sequence[FrontierOfPart]) -> list[PartFrontier]:
        """Parts of a kind share their tables."""
        found: dict[int, PartFrontier] = {}
        for book, places in books_of([one.row for one in questions]):
            for place in places:
                one = questions[place]
                with_time_line(book, part_of(one.row), one.row.demand.content)
                law = book.part_law(part_of(one.row))
                assert law is not None
                found[place] = one._frontier(law.law)
        return [found[place] for place in range(len(questions))]

    def _frontier(self, law: object) -> PartFrontier:
        plan, policy = self.answer.plan, self.row.policy
        assert plan is not None
        holding, posts = self.row.shelf.holding, outposts_of(plan, self.row.shelf)
        row = Row(self.part, self.row.shelf, policy, self.answer.projection, plan)
        stands = stands_of(row, plan)
        rules = {
            PLAN: Kept(plan.depot_s if posts else plan.order_at, plan.lot, tuple(site.level for site in plan.sites) if posts else ()),
            **rules_of_thumb(stands, self.fixed_share),
        }
        review = max(policy.review_days, 1)
        if not posts:
            demand = exact_review(law, policy.lead, review)  # type: ignore[arg-type]
            beside = {name: shelf_point(demand, kept.s, kept.lot) for name, kept in rules.items()}
            return PartFrontier(list(shelf_frontier(demand, plan.lot)), beside, plan.lot)
        rate = like_rate(law, int(policy.lead.days.max()) + review)  # type: ignore[arg-type]
        assert rate is not None
        shelf = Shelf(holding, self.row.shelf.lots, posts)
        networks = {lot: network_of(shelf, policy, rate, lot) for lot in {plan.lot, stands.lot}}
        empty = frozenset(place for place, post in enumerate(posts) if not post.stocked)
        beside = {name: network_point(networks[kept.lot], kept.s, kept.levels) for name, kept in rules.items()}
        return PartFrontier(list(network_frontier(networks[plan.lot], empty)), beside, plan.lot)


@dataclass(frozen=True)
class Tied:
    """A rule beside the curve: money tied up, machine-days lost a year, and requests met at once."""

    money: float
    waiting: float
    fill: float


@dataclass(frozen=True)
class Money:
    """What money buys over all parts. beside : other rules, by name"""

    curve: Curve
    beside: dict[str, Tied]


@dataclass(frozen=True)
class MoneyOfParts(Question[Money]):
    """Parts, each with its PartFrontier, its price and how often a year it is asked for."""

    NAME: ClassVar[str] = "what money buys"
    VERSION: ClassVar[int] = 1
    parts: tuple[Named, ...]
    prices: tuple[float, ...]
    wanted: tuple[float, ...]

    def compute(self) -> Money:
        frontiers: list[PartFrontier] = [one.content for one in self.parts]
        curve = company_curve([one.points for one in frontiers], self.prices)
        whole = sum(self.wanted)
        beside = {}
        for name in BESIDE:
            points = [one.beside[name] for one in frontiers]
            met = sum(point.fill * wanted for point, wanted in zip(points, self.wanted, strict=True))
            money = sum(point.stock * price for point, price in zip(points, self.prices, strict=True))
            beside[name] = Tied(money, sum(point.waiting for point in points), met / whole if whole > 0 else 1.0)
        return Money(curve, beside)


@dataclass(frozen=True)
class PartChosen:
    """A part at the chosen sum: its levels, and what they mean for today's shelves.

    buy : parts to order now · load : parts to move from the depot to its sites · above : parts there are more than are ever kept
    """

    row: Row
    point: Point
    lot: int
    buy: int
    load: int
    above: int

    @property
    def kept(self) -> bool:
        """Whether any is kept anywhere."""
        return self.point.s >= 0 or sum(self.point.levels) > 0 or self.lot > 1

    @property
    def sold(self) -> bool:
        """Whether its supplier still sells it."""
        return self.row.policy.can_order_on(0)


@dataclass(frozen=True)
class MoneyRead:
    """The curve, the sum chosen on it, and every part there."""

    builder: OutlookBuilder
    money: Money
    chosen: Chosen
    parts: list[PartChosen]
    left_out: int

    @property
    def fill(self) -> float:
        """Requests met at once at the chosen sum."""
        wanted = [part.row.year_total or 0.0 for part in self.parts]
        met = sum(part.point.fill * count for part, count in zip(self.parts, wanted, strict=True))
        return met / sum(wanted) if sum(wanted) > 0 else 1.0


def read_money(builder: OutlookBuilder, budget: float | None = None) -> MoneyRead:
    """What money buys, and what a sum would mean; as much as the plan ties up where none is named.

    Raises
    ------
    Refused : nothing of which anything can be said, a part without a price, or a sum that is none
    """
    if budget is not None and not 0 <= budget < 1e12:
        raise Refused(Fault("budget", f"an amount of money of at least 0 was wanted, got {budget:g}"))
    rows = builder.rows()
    told = [row for row in rows if row.plan is not None and row.projection.said]
    if not told:
        raise Refused(Fault("budget", "of no stock part can anything be forecast yet: there is nothing to weigh"))
    free = [row.part.number for row in told if float(row.part.price) <= 0]
    if free:
        raise Refused(Fault("price", f"{', '.join(free[:5])} {'has' if len(free) == 1 else 'have'} no price: type it on the part's page"))
    questions = [
        FrontierOfPart(builder.question(row.part), PartOutlook(row.projection, row.plan), row.part, builder.fixed_share(row.part))
        for row in told
    ]
    frontiers = ask_all(builder.session, questions)
    money = ask(
        builder.session,
        MoneyOfParts(
            tuple(Named(question.key, one) for question, one in zip(questions, frontiers, strict=True)),
            tuple(float(row.part.price) for row in told),
            tuple(row.year_total or 0.0 for row in told),
        ),
    )
    sum_of = money.beside[PLAN].money if budget is None else budget
    chosen = chosen_for(money.curve, len(told), sum_of)
    parts = [_at_point(row, one.points[place], one.lot) for row, one, place in zip(told, frontiers, chosen.points, strict=True)]
    return MoneyRead(builder, money, chosen, parts, len(rows) - len(told))


def _at_point(row: Row, point: Point, lot: int) -> PartChosen:
    """What levels mean for the shelves as they stand today."""
    assert row.plan is not None
    posts, holding = outposts_of(row.plan, row.shelf), row.shelf.holding
    depot = holding.available - sum(post.free for post in posts)
    held = [post.free + post.coming for post in posts]
    position = depot + holding.on_order - sum(post.coming for post in posts) + sum(map(min, held, point.levels)) - sum(point.levels)
    lacking = sum(max(level - there, 0) for level, there in zip(point.levels, held, strict=True))
    everywhere = holding.available + holding.on_order
    return PartChosen(
        row,
        point,
        lot,
        buy=ReorderPolicy(point.s, lot).quantity(position) if row.policy.can_order_on(0) else 0,
        load=min(lacking, max(depot, 0)),
        above=max(everywhere - (point.s + lot + sum(point.levels)), 0),
    )
