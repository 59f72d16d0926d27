"""Asks the questions that an outlook is made of, for one set of inputs: fits, demand distributions, rows."""

from __future__ import annotations

from dataclasses import replace
from functools import cached_property
from typing import Any

from sqlalchemy.orm import Session

from almanac.core.answers.question import Named
from almanac.core.demand.months import MonthStep, month_steps
from almanac.core.stock.lead_time import LeadTime, lead_time
from almanac.core.stock.policy import Policy
from almanac.core.stock.reorder import Measure
from almanac.core.stock.shelf import at_site
from almanac.services.answers.ask import AnswerNamed, answer_of, ask_all, known
from almanac.services.outlook.demand import DemandOfPart, DemandOfSites, same_books, with_time_line
from almanac.services.outlook.demand_laws import LawBook
from almanac.services.outlook.inputs import Inputs
from almanac.services.outlook.order_plans import OutlookOfPart, Row
from almanac.services.outlook.projection import boats_of, shelf_of
from almanac.services.outlook.shelves import departure_days_of, review_days_of, when_needed
from almanac.services.words import count, percent
from almanac.store.planning import StockPart


class OutlookBuilder:
    """Rows of one set of inputs."""

    def __init__(self, session: Session, inputs: Inputs) -> None:
        self.session, self.inputs = session, inputs
        self.steps: list[MonthStep] = month_steps(inputs.clock.today, 12)
        self._fits: dict[str, Named] = {}
        self._books: dict[str, LawBook] = {}

    def fitted(self, kind: str) -> Named:
        """The fitted model of a kind."""
        if kind not in self._fits:
            self._fits[kind] = answer_of(self.session, self.inputs.fit_of(kind))
        return self._fits[kind]

    def fit(self, kind: str) -> None:
        """Have the fitted model of a kind computed, unless it is known."""
        self.fitted(kind).content  # noqa: B018

    def rows(self) -> list[Row]:
        """All stock parts, in catalogue order."""
        return self._rows(self.inputs.parts)

    def rows_for(self, parts: list[StockPart]) -> list[Row]:
        """Some stock parts, in their order."""
        return self._rows(parts)

    def row(self, part: StockPart) -> Row:
        """One stock part."""
        return self._rows([part])[0]

    def _rows(self, parts: list[StockPart]) -> list[Row]:
        questions = [self.question(part) for part in parts]
        ready = known(self.session, {one.key: OutlookOfPart for one in questions})
        with same_books():
            self._draw([one for one in questions if one.key not in ready])
            answers = ask_all(self.session, questions)
        rows = [
            Row(part, question.shelf, question.policy, answer.projection, answer.plan)
            for part, question, answer in zip(parts, questions, answers, strict=True)
        ]
        return self._of_one_place(rows) if self.whole is not None else rows

    def _of_one_place(self, rows: list[Row]) -> list[Row]:
        """What one place is to do is its part of the plan for all of them, so that no two answers differ."""
        assert self.whole is not None
        assert self.inputs.site is not None
        site = None if self.inputs.site.is_depot else self.inputs.site.id
        plans = {row.part.id: row.plan for row in self.whole._rows([row.part for row in rows])}
        return [replace(row, plan=at_site(plan, site) if (plan := plans[row.part.id]) is not None else None) for row in rows]

    @cached_property
    def whole(self) -> OutlookBuilder | None:
        """The outlook of all places, where one is looked at and a depot feeds others."""
        if self.inputs.site is None or not self.inputs.lanes:
            return None
        return OutlookBuilder(self.session, replace(self.inputs, site=None))

    def _draw(self, questions: list[OutlookOfPart]) -> None:
        """Have what several rows rest on computed together; each row finds its own afterwards."""
        if questions:
            for name in ("demand", "sites"):
                ask_all(self.session, [named.question for one in questions if isinstance(named := getattr(one, name), AnswerNamed)])

    def question(self, part: StockPart) -> OutlookOfPart:
        """What is asked of a part."""
        inputs, fitted = Named.of(self.inputs.of_part(part)), self.fitted(part.kind)
        return OutlookOfPart(
            inputs,
            fitted,
            answer_of(self.session, DemandOfPart(inputs, fitted)),
            answer_of(self.session, DemandOfSites(inputs, fitted, boats_of(self.inputs, part))),
            shelf_of(self.inputs, part),
            self.policy(part),
            tuple(self.steps),
        )

    def book(self, kind: str) -> LawBook:
        """Laws of a kind, for one look at them."""
        if kind not in self._books:
            book = self._books[kind] = LawBook(self.inputs.of_kind(kind), self.fitted(kind).content)
            parts = [part for part in self.inputs.parts if part.kind == kind]
            demands = ask_all(self.session, [DemandOfPart(Named.of(self.inputs.of_part(part)), self.fitted(kind)) for part in parts])
            for part, demand in zip(parts, demands, strict=True):
                with_time_line(book, part.id, demand)
        return self._books[kind]

    def policy(self, part: StockPart) -> Policy:
        """Target, review period and lead time of a part at the chosen site."""
        return Policy(
            target=float(self.inputs.settings.value("target", kind=part.kind, part_number=part.number, default=0.95)),
            review_days=self._review_days(part),
            lead=self._lead(part),
            pack=part.pack if self._from_supplier else 1,
            minimum_order=part.minimum_order if self._from_supplier else 1,
            shelf_life_days=part.shelf_life_days,
            last_order_day=self._last_order_day(part),
            measure=Measure(str(self._setting("measure", part, Measure.FILL.value))),
            order_cost=float(self._setting("order_cost", part, 0.0)) if self._from_supplier else 0.0,
            holding_cost=float(self._setting("holding_share", part, 0.2)) * float(part.price),
            waiting_cost=float(self._setting("waiting_cost", part, 0.0)) or None,
            site_floor=float(self._setting("site_floor", part, 0.85)),
            stocked="all" not in when_needed(self.inputs, part),
        )

    def fixed_share(self, part: StockPart) -> float:
        """The share of the fleet that the rule of thumb would keep."""
        return float(self._setting("fixed_share", part, 0.02))

    def last_buy_chance(self, part: StockPart) -> float:
        """How likely a last buy is to suffice."""
        return float(self._setting("last_buy", part, 0.95))

    def _review_days(self, part: StockPart) -> int:
        if self.inputs.site is None or self._from_supplier:
            return review_days_of(self.inputs, part)
        return departure_days_of(self.inputs, self.inputs.site.id)

    def _setting(self, key: str, part: StockPart, default: Any) -> Any:
        return self.inputs.settings.value(key, kind=part.kind, part_number=part.number, default=default)

    def _last_order_day(self, part: StockPart) -> int | None:
        if part.end_of_supply_on is None or not self._from_supplier:
            return None
        return (part.end_of_supply_on - self.inputs.clock.today).days

    @cached_property
    def _from_supplier(self) -> bool:
        return self.inputs.site is None or self.inputs.site.is_depot

    def lead_from(self, part: StockPart) -> str:
        """Where the lead time of a part is known from, in words."""
        if not self._from_supplier:
            return "the lane's days"
        supplier = self.inputs.suppliers[part.supplier_id]
        if not supplier.deliveries and supplier.lead_time == supplier.stated:
            return f"as {supplier.name} states it: no delivery is on record"
        stated = ", ".join(f"{days} days {percent(weight)}" for days, weight in supplier.stated)
        said = f"{count(supplier.deliveries, 'delivery', 'deliveries')} on record weighed against what {supplier.name} states: {stated}"
        late = f"; {count(supplier.late, 'order is', 'orders are')} later than any day it states" if supplier.late else ""
        return said + late

    def _lead(self, part: StockPart) -> LeadTime:
        if not self._from_supplier and self.inputs.site is not None:
            return lead_time([self.inputs.lanes.get(self.inputs.site.id, 0)], [1.0])
        days, weights = zip(*self.inputs.suppliers[part.supplier_id].lead_time, strict=True)
        return lead_time(days, weights)
