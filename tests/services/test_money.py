"""What money buys of the demo's shelves, and what happens when a sum is taken over."""

from __future__ import annotations

import pytest
from sqlalchemy import select, text
from sqlalchemy.orm import Session

from almanac.core.rehearsal.rules import TODAY
from almanac.services.clock import Clock
from almanac.services.company_settings import SettingRequest, change_setting
from almanac.services.errors import Refused
from almanac.services.outlook import decide as decided
from almanac.services.outlook.aims import give_back, take_over
from almanac.services.outlook.money import PLAN, MoneyRead, read_money
from almanac.services.outlook.summary import read_builder, read_plate
from almanac.store.models import Part, Setting

FAN, PACK = "OF-P15-S", "OB-P14-60"


def read(session: Session, budget: float | None = None) -> MoneyRead:
    return read_money(read_builder(session), budget)


def decide(session: Session, clock: Clock, number: str, value: str | None, reason: str = "seldom asked for") -> None:
    settings = read_builder(session).inputs.settings
    request = SettingRequest("part", number, "when_needed", value, settings.number("part", number, "when_needed"), reason)
    change_setting(session, request, clock=clock, author_id=1)


def test_the_curve_is_never_worse_than_the_plan_or_today_s_shelves(session: Session) -> None:
    found = read(session)
    for name in (PLAN, TODAY):
        rule = found.money.beside[name]
        assert read(session, rule.money).chosen.waiting <= rule.waiting
        assert read(session, rule.money).chosen.money <= rule.money + 1e-6
    plan = found.money.beside[PLAN]
    assert found.chosen.money == pytest.approx(plan.money, rel=0.01)
    assert 0.94 < plan.fill < 0.98
    assert found.money.beside[TODAY].waiting > plan.waiting


def test_more_money_never_loses_more(session: Session) -> None:
    waits = [read(session, budget).chosen.waiting for budget in (500, 3000, 9000, 14000, 30000)]
    assert waits == sorted(waits, reverse=True)
    assert read(session, 0).parts[0].point.s == -1


def test_what_a_sum_means_for_the_shelves_is_told_in_parts(session: Session) -> None:
    much, little = read(session, 40_000), read(session, 3000)
    assert sum(part.buy for part in much.parts) > sum(part.buy for part in little.parts)
    assert sum(part.above for part in much.parts) < sum(part.above for part in little.parts)
    assert all(part.load >= 0 for part in much.parts)


def test_a_sum_taken_over_sets_every_part_s_aim_and_can_be_given_back(session: Session, clock: Clock) -> None:
    before = {row.part.number: row.plan.order_at for row in read_builder(session).rows() if row.plan}
    found = read(session, 26_000)
    changed = take_over(session, found, clock=clock, author_id=1)
    assert changed > 30
    after = read_builder(session)
    for part in found.parts:
        assert after.policy(part.row.part).target == pytest.approx(min(part.point.fill, 0.9999), abs=1e-4)
    rows = {row.part.number: row.plan for row in after.rows() if row.plan}
    assert sum(plan.order_at for plan in rows.values()) > sum(before.values())
    assert take_over(session, read_money(after, 26_000), clock=clock, author_id=1) == 0
    reasons = set(session.scalars(select(Setting.reason).where(Setting.scope == "part", Setting.key == "target")))
    assert len(reasons) == 1
    assert "chosen on the curve of money" in reasons.pop()
    assert give_back(session, read_builder(session), clock=clock, author_id=1) == changed
    assert {row.part.number: row.plan.order_at for row in read_builder(session).rows() if row.plan} == before


def test_what_no_money_is_left_for_is_bought_when_needed_and_says_so(session: Session, clock: Clock) -> None:
    found = read(session, 700)
    never = [part.row.part.number for part in found.parts if not part.kept]
    assert never
    take_over(session, found, clock=clock, author_id=1)
    row = next(row for row in read_builder(session).rows() if row.part.number == never[0])
    assert row.plan is not None
    assert (row.policy.stocked, row.plan.order_at, {site.level for site in row.plan.sites}) == (False, -1, {0})
    take_over(session, read(session, 26_000), clock=clock, author_id=1)
    row = next(row for row in read_builder(session).rows() if row.part.number == never[0])
    assert row.policy.stocked


def test_what_is_sold_no_more_is_not_bought(session: Session) -> None:
    sold = next(part for part in read(session, 40_000).parts if part.row.part.number == FAN)
    assert sold.buy > 0
    session.execute(text("UPDATE part SET end_of_supply_on = '2026-10-01' WHERE number = :number"), {"number": FAN})
    session.expire_all()
    ended = next(part for part in read(session, 40_000).parts if part.row.part.number == FAN)
    assert (ended.buy, ended.sold) == (0, False)


def test_a_part_without_a_price_is_named(session: Session) -> None:
    part = session.scalars(select(Part).where(Part.number == FAN)).one()
    part.price = 0  # type: ignore[assignment]
    session.flush()
    with pytest.raises(Refused, match="OF-P15-S has no price"):
        read(session)


def test_a_sum_that_is_none_is_refused(session: Session) -> None:
    with pytest.raises(Refused, match="at least 0"):
        read(session, -5)


class TestBoughtWhenNeeded:
    def test_a_site_keeps_none_and_the_others_keep_their_promise(self, session: Session, clock: Clock) -> None:
        decide(session, clock, PACK, "GUL")
        builder = read_builder(session)
        plan = builder.row(builder.inputs.part(PACK)).plan
        assert plan is not None
        gul = next(site.id for site in builder.inputs.sites if site.code == "GUL")
        levels = {site.site_id: site.level for site in plan.sites}
        assert levels[gul] == 0
        assert min(level for site, level in levels.items() if site != gul) > 0
        served = [(site.share, site.fill) for site in plan.sites if site.site_id != gul]
        own = 1 - sum(site.share for site in plan.sites)
        fill = (own * plan.depot_fill + sum(share * met for share, met in served)) / (own + sum(share for share, _ in served))
        assert fill == pytest.approx(0.95, abs=0.03)
        assert fill >= 0.95
        chosen = read(session)
        part = next(one for one in chosen.parts if one.row.part.number == PACK)
        assert part.point.levels[[site.site_id for site in plan.sites].index(gul)] == 0

    def test_everywhere_means_no_order_before_somebody_waits(self, session: Session, clock: Clock) -> None:
        decide(session, clock, PACK, "all")
        builder = read_builder(session)
        row = builder.row(builder.inputs.part(PACK))
        assert row.plan is not None
        assert (row.plan.order_at, row.plan.quantity, row.plan.loads) == (-1, 0, 0)
        plate, _ = read_plate(session, PACK)
        assert plate.made.decisions.later == []

    def test_why_is_asked_and_places_are_checked(self, session: Session, clock: Clock) -> None:
        with pytest.raises(Refused, match="say why"):
            decide(session, clock, PACK, "GUL", "  ")
        with pytest.raises(Refused, match="sites that the depot feeds, were wanted, got ELD"):
            decide(session, clock, PACK, "ELD,GUL")
        with pytest.raises(Refused, match="got all"):
            decide(session, clock, PACK, "all,GUL")
        company = SettingRequest("company", "", "when_needed", "all", 0, "because")
        with pytest.raises(Refused, match="part by part"):
            change_setting(session, company, clock=clock, author_id=1)

    def test_it_ends_where_the_decision_is_given_back(self, session: Session, clock: Clock) -> None:
        decide(session, clock, PACK, "all")
        decide(session, clock, PACK, None)
        builder = read_builder(session)
        assert builder.policy(builder.inputs.part(PACK)).stocked
        with pytest.raises(Refused, match="nothing stands in"):
            change_setting(session, SettingRequest("company", "", "target", None, 1), clock=clock, author_id=1)


class TestPlateDecisions:
    def test_what_is_kept_later_follows_the_fleet(self, session: Session) -> None:
        growing, _ = read_plate(session, PACK)
        assert [one.months for one in growing.made.decisions.later] == [3, 6, 12]
        assert all(one.most > one.order_at for one in growing.made.decisions.later)
        shrinking, _ = read_plate(session, FAN)
        assert shrinking.made.decisions.later[-1].order_at < shrinking.row.plan.order_at  # type: ignore[union-attr]

    def test_the_last_buy_covers_what_is_left_until_the_last_machine_goes(self, session: Session) -> None:
        plate, _ = read_plate(session, FAN)
        told = plate.made.decisions.last_buy
        assert told is not None
        assert told.buy is not None
        assert told.buy.there == plate.row.plan.position  # type: ignore[union-attr]
        assert told.buy.enough > told.buy.expected > 0
        assert told.buy.quantity == max(told.buy.enough - told.buy.there, 0)
        assert told.until_day is not None
        year = plate.row.year_total or 0.0
        assert told.buy.expected < year * told.until_day / 365 * 1.5
        assert read_plate(session, PACK)[0].made.decisions.last_buy is None

    def test_what_wears_out_is_bought_for_its_later_rate(self, session: Session, monkeypatch: pytest.MonkeyPatch) -> None:
        def expected(faster: float) -> float:
            monkeypatch.setattr(decided, "_rising", lambda _: faster)
            builder = read_builder(session)
            book, row = builder.book("fan"), builder.row(builder.inputs.part(FAN))
            law = book.part_law(row.part.id)
            assert law is not None
            told = decided.decisions_of(book, law, row, 0.95).last_buy
            assert told is not None
            assert told.buy is not None
            return told.buy.expected

        assert expected(2.0) == pytest.approx(2 * expected(1.0), rel=1e-6)
        assert expected(0.5) == pytest.approx(expected(1.0), rel=1e-6)

    def test_nobody_can_say_a_last_buy_without_a_retirement(self, session: Session) -> None:
        session.execute(text("UPDATE asset SET retire_planned_on = NULL WHERE retired_on IS NULL"))
        told = read_plate(session, FAN)[0].made.decisions.last_buy
        assert told is not None
        assert told.buy is None
        assert "day of retirement" in told.why

    def test_stocking_weighs_waits_against_holding(self, session: Session, clock: Clock) -> None:
        found = read_plate(session, FAN)[0].made.decisions.stocking
        assert found is not None
        assert found.worth_it
        number = read_builder(session).inputs.settings.number("company", "", "waiting_cost")
        change_setting(session, SettingRequest("company", "", "waiting_cost", 0, number), clock=clock, author_id=1)
        assert read_plate(session, FAN)[0].made.decisions.stocking is None
