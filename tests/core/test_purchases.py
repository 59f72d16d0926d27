"""Buying: lead times that deliveries teach, prices, how orders stand, what suppliers answer, and who approves."""

from __future__ import annotations

from datetime import date
from decimal import Decimal

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.core.errors import ContractError
from almanac.core.stock.lead_time import LeadTime, lead_time
from almanac.core.stock.learnt import POINTS, Delivery, condensed, learn
from almanac.core.stock.purchase import (
    LineStanding,
    Need,
    Standing,
    approval_refusal,
    cheaper_from,
    far_above,
    standing_of,
    unit_price,
)
from almanac.core.stock.replies import Reply, Said, faults_of
from tests.strategies import lead_times

STATED = lead_time([18, 21, 28], [0.25, 0.5, 0.25])


def law_of(found: LeadTime) -> dict[int, float]:
    return dict(zip(found.days.tolist(), found.weight.tolist(), strict=True))


class TestLearning:
    def test_nothing_seen_is_what_is_stated(self) -> None:
        found = learn(STATED, [])
        assert law_of(found.law) == pytest.approx(law_of(STATED))
        assert (found.deliveries, found.late) == (0, 0)

    def test_deliveries_weigh_against_the_stated_word(self) -> None:
        """Five deliveries of 30 days against a word worth five: half and half."""
        found = learn(STATED, [Delivery(30)] * 5, weight=5.0)
        assert law_of(found.law) == pytest.approx({18: 0.125, 21: 0.25, 28: 0.125, 30: 0.5})
        assert found.deliveries == 5

    def test_a_delivery_a_half_life_old_weighs_half(self) -> None:
        old = learn(STATED, [Delivery(30, age_days=365)] * 2, weight=1.0)
        new = learn(STATED, [Delivery(30)], weight=1.0)
        assert law_of(old.law) == pytest.approx(law_of(new.law))

    def test_parts_of_one_order_weigh_as_one(self) -> None:
        halves = learn(STATED, [Delivery(30, share=0.5), Delivery(40, share=0.5)], weight=1.0)
        assert law_of(halves.law)[30] == pytest.approx(0.25) == law_of(halves.law)[40]

    def test_what_is_not_there_yet_lies_later(self) -> None:
        """An order open since 19 days came on none of the days before: its weight goes to 21 and 28 as two to one."""
        found = law_of(learn(STATED, [Delivery(19, open=True)], weight=4.0).law)
        assert found == pytest.approx({18: 1.0 / 5, 21: (2 + 2 / 3) / 5, 28: (1 + 1 / 3) / 5})

    def test_past_every_known_day_it_may_come_tomorrow(self) -> None:
        found = learn(STATED, [Delivery(60, open=True)], weight=4.0)
        assert law_of(found.law)[61] == pytest.approx(0.2)
        assert (found.late, found.deliveries) == (1, 0)
        assert learn(STATED, [Delivery(60, open=True)] * 2).late == 2

    @given(
        lead_times(),
        st.lists(st.builds(Delivery, st.integers(0, 90), st.floats(0.1, 1.0), st.booleans(), st.just(0)), max_size=12),
        st.floats(0.5, 20.0),
    )
    def test_the_law_is_self_consistent(self, stated: LeadTime, seen: list[Delivery], weight: float) -> None:
        """Efron's condition, before days are taken together: each day has what arrived on it and its part of what is waited for."""
        found = learn(stated, seen, weight=weight)
        assert found.law.weight.sum() == pytest.approx(1.0)
        assert len(found.law.days) <= POINTS
        fixed: dict[int, float] = {}
        last = max([*stated.days.tolist(), *(one.days for one in seen if not one.open)])
        events = [(int(d), weight * float(w)) for d, w in zip(stated.days, stated.weight, strict=True)]
        events += [(one.days, one.share) for one in seen if not one.open]
        events += [(one.days + 1, one.share) for one in seen if one.open and one.days >= last]
        for day, share in events:
            fixed[day] = fixed.get(day, 0.0) + share
        if len(fixed) > POINTS:
            return
        law = law_of(found.law)
        waited = [one for one in seen if one.open and one.days < last]
        total = sum(fixed.values()) + sum(one.share for one in waited)
        for day, share in law.items():
            own = sum(one.share * share / sum(w for d, w in law.items() if d > one.days) for one in waited if day > one.days)
            assert share == pytest.approx((fixed[day] + own) / total, rel=1e-9)

    def test_shares_that_pass_one_by_their_last_digit_are_one(self) -> None:
        law = lead_time([1, 2, 3, 4, 5, 6, 7, 8, 9, 10], [0.1] * 10)
        assert condensed(law, 1).weight.tolist() == [1.0]

    @given(lead_times(), st.integers(1, 8))
    def test_taking_days_together_never_shortens(self, law: LeadTime, points: int) -> None:
        fewer = condensed(law, points)
        assert len(fewer.days) <= points
        assert fewer.weight.sum() == pytest.approx(1.0)
        assert law.mean_days - 1e-9 <= fewer.mean_days <= law.mean_days + 1

    @pytest.mark.parametrize("wrong", [{"weight": 0.0}, {"half_life": -1.0}])
    def test_weights_are_above_nothing(self, wrong: dict[str, float]) -> None:
        with pytest.raises(ContractError):
            learn(STATED, [], **wrong)
        with pytest.raises(ContractError, match="points"):
            condensed(STATED, 0)

    def test_quantiles_of_a_lead_time(self) -> None:
        assert [STATED.days_for(share) for share in (0.25, 0.26, 0.75, 0.9, 1.0)] == [18, 21, 21, 28, 28]

    def test_a_supplier_that_got_slower_is_found_out(self) -> None:
        """Drawn from a truth 1.8 times as slow as stated: a dozen deliveries bring the mean most of the way."""
        rng = np.random.default_rng(3)
        days = np.round(rng.choice(STATED.days, size=12, p=STATED.weight) * 1.8)
        found = learn(STATED, [Delivery(int(day)) for day in days])
        assert STATED.mean_days * 1.45 < found.law.mean_days < STATED.mean_days * 1.8


BREAKS = [(50, Decimal("16.00")), (10, Decimal("17.50"))]


class TestPrices:
    @pytest.mark.parametrize(("quantity", "price"), [(1, "19"), (9, "19"), (10, "17.50"), (49, "17.50"), (50, "16"), (900, "16")])
    def test_the_highest_break_reached_counts(self, quantity: int, price: str) -> None:
        assert unit_price(Decimal(19), BREAKS, quantity) == Decimal(price)

    def test_more_that_cost_less_are_named_in_whole_packs(self) -> None:
        assert cheaper_from(Decimal(19), BREAKS, 48, 1) == (50, Decimal(800))
        assert cheaper_from(Decimal(19), BREAKS, 48, 4) == (52, Decimal(832))
        assert cheaper_from(Decimal(19), BREAKS, 9, 1) is None  # nine at 19 cost 171, ten 175
        assert cheaper_from(Decimal(19), [], 9, 1) is None


class TestStanding:
    @pytest.mark.parametrize(
        ("lines", "standing"),
        [
            ([(4, 0, 0, False)], Standing.SENT),
            ([(4, 0, 0, True), (2, 0, 0, False)], Standing.SENT),
            ([(4, 0, 0, True), (2, 0, 2, False)], Standing.CONFIRMED),
            ([(4, 1, 0, True)], Standing.PARTLY),
            ([(4, 4, 0, True), (2, 0, 0, True)], Standing.PARTLY),
            ([(4, 3, 1, False)], Standing.CLOSED),
            ([(4, 0, 4, False)], Standing.CANCELLED),
        ],
    )
    def test_an_order_stands_as_its_lines_do(self, lines: list[tuple[int, int, int, bool]], standing: Standing) -> None:
        assert standing_of([LineStanding(*line) for line in lines]) is standing


class TestFarAboveNeed:
    def test_more_than_all_places_take(self) -> None:
        assert far_above(500, Need(28, 4, None)) == "500 for 28 places in machines in service, with 4 there or on order already"
        assert far_above(25, Need(28, 4, None)) is not None
        assert far_above(24, Need(28, 4, None)) is None

    def test_more_than_years_use(self) -> None:
        assert far_above(60, Need(400, 0, 12)) == "60, while the busiest year on record used 12"
        assert far_above(36, Need(400, 0, 12)) is None
        assert far_above(300, Need(400, 0, None)) is None  # nobody knows what is used: nobody is told it is too much
        assert far_above(300, Need(400, 0, 0)) is None

    def test_a_handful_is_never_asked_about(self) -> None:
        assert far_above(10, Need(0, 0, 1)) is None
        assert far_above(11, Need(0, 0, 1)) is not None


class TestApproval:
    @pytest.mark.parametrize(
        ("asker", "approver", "leads", "own", "words"),
        [
            (1, 2, [1, 2], False, None),
            (1, 1, [1, 2], False, "another lead does"),
            (1, 1, [1, 2], True, "another lead does"),
            (1, 1, [1], False, "there is no other lead"),
            (1, 1, [1], True, None),
            (None, 1, [1], False, None),
        ],
    )
    def test_two_people_unless_there_is_one(self, asker: int | None, approver: int, leads: list[int], own: bool, words: str | None) -> None:
        found = approval_refusal(asker=asker, approver=approver, leads=leads, own_allowed=own)
        assert found is None if words is None else words in (found or "")


class TestReplies:
    PLACED = date(2026, 10, 1)

    def wrong(self, said: Said, to_come: int = 4) -> list[str]:
        return [field for field, _ in faults_of(said, to_come=to_come, placed_on=self.PLACED, own_number="A")]

    @pytest.mark.parametrize(
        ("said", "fields"),
        [
            (Said(Reply.CONFIRMED), []),
            (Said(Reply.CONFIRMED, date(2026, 9, 30)), ["expected_on"]),
            (Said(Reply.MOVED), ["expected_on"]),
            (Said(Reply.MOVED, date(2026, 12, 1)), []),
            (Said(Reply.SHORT), ["quantity"]),
            (Said(Reply.SHORT, quantity=4), ["quantity"]),
            (Said(Reply.SHORT, quantity=-1), ["quantity"]),
            (Said(Reply.SHORT, quantity=0), []),
            (Said(Reply.SHORT, quantity=3), []),
            (Said(Reply.SUBSTITUTE), ["part_number"]),
            (Said(Reply.SUBSTITUTE, part_number="A"), ["part_number"]),
            (Said(Reply.SUBSTITUTE, part_number="B"), []),
            (Said(Reply.PRICE), ["price"]),
            (Said(Reply.PRICE, price=Decimal(3)), []),
        ],
    )
    def test_each_answer_says_what_it_has_to(self, said: Said, fields: list[str]) -> None:
        assert self.wrong(said) == fields

    def test_what_is_settled_is_answered_no_more(self) -> None:
        assert self.wrong(Said(Reply.CONFIRMED), to_come=0) == ["reply"]
