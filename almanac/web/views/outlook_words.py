"""Rows and plates of the outlook as they are sent."""

from __future__ import annotations

from datetime import date, timedelta

from almanac.core.demand.months import MonthStep
from almanac.core.stock.shelf import SitePlan
from almanac.services.outlook.builder import OutlookBuilder
from almanac.services.outlook.decide import LastBuyTold
from almanac.services.outlook.order_plans import Row
from almanac.services.outlook.others import OtherPart
from almanac.services.outlook.plate import PoolLine
from almanac.web.schemas import outlook as schemas
from almanac.web.schemas.part_decisions import LastBuyView, PartSettingView


def part_setting(builder: OutlookBuilder, row: Row, key: str, usual: float | str) -> PartSettingView:
    """What was decided for a part, and what holds."""
    settings, number = builder.inputs.settings, row.part.number
    return PartSettingView(
        own=settings.own("part", number, key),
        holds=settings.value(key, kind=row.part.kind, part_number=number, default=usual),
        number=settings.number("part", number, key),
        reason=settings.reasons.get(("part", number, key), ""),
    )


def last_buy_view(told: LastBuyTold | None, row: Row, today: date) -> LastBuyView | None:
    """The last buy as it is sent; None for a part that is sold for good."""
    if told is None:
        return None
    buy = told.buy
    return LastBuyView(
        expected=buy.expected if buy else None,
        enough=buy.enough if buy else None,
        there=buy.there if buy else None,
        quantity=buy.quantity if buy else None,
        cost=float(row.part.price) * buy.quantity if buy else None,
        until=today + timedelta(days=told.until_day) if told.until_day is not None else None,
        unknown=told.unknown,
        chance=told.chance,
        why=told.why,
    )


def model_name(builder: OutlookBuilder, model_id: int) -> str:
    """The full name of a model."""
    return builder.inputs.models[model_id].full_name


def row_view(row: Row, builder: OutlookBuilder) -> schemas.PartLine:
    """A row of the outlook as it is sent."""
    plan, seen, shelf = row.plan, row.projection, row.shelf
    return schemas.PartLine(
        number=row.part.number,
        name=row.part.name,
        kind=row.part.kind,
        equivalents=list(shelf.equivalents),
        supplier=builder.inputs.suppliers[row.part.supplier_id].name,
        price=float(row.part.price),
        rate=schemas.Rate.model_validate(seen.rate, extra="ignore") if seen.rate else None,
        failures=seen.failures,
        in_service=seen.in_service,
        on_hand=shelf.on_hand,
        expired=shelf.expired,
        promised=shelf.promised,
        on_order=shelf.holding.on_order,
        overdue=shelf.overdue,
        floor=shelf.holding.floor,
        todo=row.todo,
        risk=row.risk,
        position=plan.position if plan else None,
        order_at=plan.order_at if plan else None,
        lot=plan.lot if plan else None,
        most=plan.most if plan else None,
        fill=plan.fill if plan else None,
        fill_less=plan.fill_less if plan else None,
        fill_more=plan.fill_more if plan else None,
        next_order=likely_order(row, builder),
        next_days=list(plan.next_days or ()) if plan else [],
        waiting=plan.waiting.machines if plan else 0,
        help_on=row.help_on(builder.inputs.clock.today),
        chance_of_waiting=plan.waiting.chance if plan else None,
        chance_in_time=plan.waiting.chance_in_time if plan else None,
        quantity=row.quantity,
        drafted=sum(builder.inputs.drafted.get(part, 0) for part in builder.inputs.members(row.part.id)),
        cost=float(row.cost),
        sites=[_site(site, row, builder) for site in plan.sites] if plan else [],
        a_month=seen.year.total / 12 if seen.year else None,
        arrivals=[schemas.ArrivalDue.model_validate(arrival) for arrival in shelf.holding.arrivals],
        path=[schemas.Point.model_validate(point) for point in seen.path],
        scrap_expected=seen.scrap_expected,
        end_of_supply_on=row.part.end_of_supply_on,
        due_after_supply=row.due_after_supply(builder.inputs.clock.today),
        stocked=row.policy.stocked,
    )


def other_order(other: OtherPart, builder: OutlookBuilder) -> schemas.OtherOrder:
    """An order of another part as it is sent."""
    row = other.row
    return schemas.OtherOrder(
        number=row.number,
        name=row.name,
        kind=row.kind,
        supplier=builder.inputs.suppliers[row.supplier_id].name,
        quantity=other.quantity,
        drafted=builder.inputs.drafted.get(row.id, 0),
        cost=float(row.price) * other.quantity,
    )


def likely_order(row: Row, builder: OutlookBuilder) -> schemas.LikelyOrder:
    """When the next order is likely, as it is sent."""
    early, likely, late = row.next_order(builder.inputs.clock.today)
    return schemas.LikelyOrder(early=early, likely=likely, late=late)


def _site(site: SitePlan, row: Row, builder: OutlookBuilder) -> schemas.SiteLevel:
    stocked = row.policy.stocked and all(post.stocked for post in row.shelf.outposts if post.site_id == site.site_id)
    of = next(one for one in builder.inputs.sites if one.id == site.site_id)
    return schemas.SiteLevel(
        code=of.code,
        name=of.name,
        level=site.level,
        free=site.free,
        coming=site.coming,
        load=site.load,
        fill=site.fill,
        chance=site.chance,
        risk=site.risk,
        stocked=stocked,
        share=site.share,
    )


def pool_view(pool: PoolLine, builder: OutlookBuilder) -> schemas.PoolView:
    """A pool as it is sent."""
    return schemas.PoolView(
        model_id=pool.pool.model_id,
        model=model_name(builder, pool.pool.model_id),
        duty=pool.pool.duty,
        environment=pool.pool.environment,
        units=pool.units,
        tenures=pool.record.tenures,
        unit_years=pool.record.exposure_years,
        failures=pool.failures,
        own_rate=pool.own.rate,
        own_low=pool.own.low,
        own_high=pool.own.high if pool.own.rate is not None else None,
        used=schemas.Rate.model_validate(pool.used, extra="ignore") if pool.used else None,
    )


def step_view(step: MonthStep) -> schemas.MonthStart:
    """A month as it is sent."""
    return schemas.MonthStart.model_validate(step)
