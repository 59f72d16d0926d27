"""The working of a plate: formula in words, inputs with their values, and which log entries stand behind each."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import timedelta

import numpy as np

from almanac.core.demand.law import DemandLaw
from almanac.core.demand.unrecorded import Spread
from almanac.core.demand.wear_law import WearLaw
from almanac.core.life.outcomes import DEAD_ON_ARRIVAL_DAYS
from almanac.core.life.record import Stream
from almanac.core.stock.quantity import OrderSize
from almanac.services.outlook.laws import PartLaw
from almanac.services.outlook.lines import Line, OutlookBuilder
from almanac.services.outlook.lives import KindFit
from almanac.services.outlook.plate import YEAR_DAYS, Plate, open_range
from almanac.services.words import count, day, figure, money, per_hundred, percent

CONSTANT = (
    "Each pool's rate is (a + D) / (b + T): its own record, drawn towards the kind's mean a / b where the record is short. "
    "Pools are weighted by the units in service over the coming year."
)
BY_AGE = (
    "A unit of age x fails in a year with λ((x + 1)^β − x^β), counted again for what replaces it. Each pool's λ is (a + D) / (a / m + H): its own "
    "record, drawn towards the kind's mean m where the record is short. The rate is that of the ages in service over the coming year."
)


SCHOOL_WORDS = {"constant": "One constant rate", "wear-out": "Wear-out by age"}


@dataclass(frozen=True)
class WorkingRow:
    """One input or result. `entries` names the stream whose log entries stand behind it."""

    label: str
    value: str
    note: str = ""
    entries: str | None = None
    total: bool = False


@dataclass(frozen=True)
class WorkingSection:
    """One step of the computation and its rows."""

    title: str
    formula: str
    rows: list[WorkingRow] = field(default_factory=list)


def working_of(plate: Plate, builder: OutlookBuilder) -> list[WorkingSection]:
    """All steps from the log to the order; a part without any record says so instead."""
    line = plate.line
    if line.law is None:
        nothing = "No tenure of this kind is on record yet: there is nothing to estimate a rate from."
        return [WorkingSection("Failure rate", nothing, _unrecorded_rows(plate, None))]
    sections = [_rate(plate), _demand(plate)]
    sections += [_order_by(line, builder), _quantity(line, builder)] if line.plan else []
    return [*sections, _other_schools(plate)]


def _rate(plate: Plate) -> WorkingSection:
    line, law, kind = plate.line, plate.line.law, plate.evidence
    assert law is not None
    low, used, high = open_range(kind, law.records)
    still_open = sum(record.count(Stream.OPEN) for record in law.records)
    left_out = sum(record.without_exposure for record in law.records)
    share = kind.record.share
    rows = [
        WorkingRow("Tenures on record", figure(sum(record.tenures for record in law.records), 0)),
        WorkingRow(
            "of these without wear-out exposure", figure(left_out, 0), f"ended or observed within {DEAD_ON_ARRIVAL_DAYS} days of fitting"
        ),
        WorkingRow("Time in service, T", f"{figure(float(law.law.exposure_years.sum()))} unit-years", "from the day the site's log began"),
        WorkingRow("Confirmed failures", figure(low, 0), entries=Stream.CONFIRMED.value),
        WorkingRow(
            "Open findings, counted in part",
            f"{still_open} × {percent(share.share)}",
            f"{figure(share.confirmed, 0)} of {figure(share.settled, 0)} settled complaints of this kind were confirmed",
            entries=Stream.OPEN.value,
        ),
        WorkingRow(
            "Wear-out failures, D", figure(used, 2), f"{figure(low, 0)} if no open finding is confirmed, {figure(high, 0)} if all are"
        ),
        *_kind_rows(plate),
    ]
    if line.rate:
        interval = f"{per_hundred(line.rate.low)}–{per_hundred(line.rate.high)}, 90% credible"
        rows.append(WorkingRow("Annualised failure rate, per 100 units a year", per_hundred(line.rate.rate), interval, total=True))
    formula = BY_AGE if _by_age(plate) else CONSTANT
    return WorkingSection("Failure rate", f"{formula} School: {plate.evidence.school.reason}.", rows)


def _kind_rows(plate: Plate) -> list[WorkingRow]:
    """What the part borrows from its kind."""
    law, fit = plate.line.law, plate.evidence.fit
    followed = [] if law is None else _followed_rows(law.law)
    if law is None or fit is None or fit.nodes is None or not isinstance(law.law, WearLaw) or not _by_age(plate):
        return [WorkingRow("The kind's mean rate, per 100 units a year", per_hundred(_kind_mean(plate)), _shape_note(plate)), *followed]
    nodes = fit.nodes
    shape, level = float(nodes.weight @ nodes.shape), float(nodes.weight @ (nodes.a / nodes.b))
    gathered = float(nodes.weight @ law.law.wear.hazard_of_pools().sum(axis=1))
    spread = f"from {nodes.shape.min():.2f} to {nodes.shape.max():.2f} over {count(nodes.weight.size, 'weighted node')}"
    return [
        WorkingRow("Shape of the kind's lives, β", figure(shape, 2), spread),
        WorkingRow("The kind's mean level, m", figure(level, 4), "failures per unit and (year of age)^β"),
        WorkingRow("Gathered age of the pools, H", figure(gathered, 1), "age^β at the end less at the start, over all tenures, in years^β"),
        *_pace_rows(law, fit),
        *followed,
    ]


def _by_age(plate: Plate) -> bool:
    return plate.line.law is not None and isinstance(plate.line.law.law, WearLaw) and plate.evidence.school.name == "wear-out"


def _followed_rows(law: DemandLaw) -> list[WorkingRow]:
    """Units that readings tell more of than their age."""
    followed = law.wear.followed if isinstance(law, WearLaw) else None
    if followed is None:
        return []
    crossing = float(followed.crossed([YEAR_DAYS]).sum())
    note = f"{figure(crossing, 1)} of them expected to be worn within a year, by lines through their readings"
    return [WorkingRow("Units followed by readings", str(followed.pool.size), note)]


def _pace_rows(law: PartLaw, fit: KindFit) -> list[WorkingRow]:
    """How much faster the part's pools age than the ordinary class, where the log says so."""
    of_part = {("duty", pool.duty) for pool in law.pools} | {("air", pool.environment) for pool in law.pools}
    return [
        WorkingRow(
            f"Pace of ages, {pace.factor} {pace.of_class.replace('_', ' ')}",
            figure(pace.pace, 2),
            f"times the ordinary one, {pace.low:.2f} to {pace.high:.2f}; {pace.reason}",
        )
        for pace in fit.acceleration.classes
        if pace.low is not None and pace.high is not None and (pace.factor, pace.of_class) in of_part
    ]


def _kind_mean(plate: Plate) -> float:
    nodes = plate.evidence.nodes
    return float(nodes.weight @ (nodes.shape / nodes.rate)) if nodes else 0.0


def _shape_note(plate: Plate) -> str:
    nodes = plate.evidence.nodes
    if nodes is None or nodes.pooled:
        return "no failure of this kind yet: all pools share Gamma(0.5, T)"
    low, high = float(np.min(nodes.shape)), float(np.max(nodes.shape))
    return f"shape a from {low:.1f} to {high:.1f} over {nodes.weight.size} weighted nodes"


def _demand(plate: Plate) -> WorkingSection:
    line, kind = plate.line, plate.evidence
    assert line.law is not None and line.year is not None
    years = float(line.law.law.window_exposure(np.array([0]), np.array([365]))[0].sum())
    rates = {stream.name: stream.shape / stream.rate for stream in kind.side}
    fittings = f"{kind.record.dead_on_arrival} of {figure(kind.record.fittings, 0)} fittings of this kind"
    rows = [
        WorkingRow("Units in service now", figure(line.in_service, 0)),
        WorkingRow("Time in service in the coming year", f"{figure(years)} unit-years", "after planned retirements and purchases"),
        WorkingRow("Wear-out failures", figure(line.year.wear_out, 2)),
        WorkingRow(
            "Damage", figure(line.year.damage, 2), f"{per_hundred(rates.get('damage', 0.0))} per 100 units a year", Stream.DAMAGE.value
        ),
        WorkingRow(
            "Draws without a fault found",
            figure(line.year.no_fault_draw, 2),
            f"{per_hundred(rates.get('no_fault_draw', 0.0))} per 100 units a year",
            Stream.NO_FAULT_DRAW.value,
        ),
        WorkingRow("Planned swaps", figure(line.year.planned, 2)),
        WorkingRow(
            "Dead on arrival",
            figure(line.year.dead_on_arrival, 2),
            f"{percent(kind.dead_on_arrival)}: {fittings}",
            Stream.DEAD_ON_ARRIVAL.value,
        ),
        WorkingRow("Parts wanted in 365 days", figure(line.year.total, 2), total=True),
        *_unrecorded_rows(plate, (line.year.total - line.year.planned) / years if years > 0 else None),
    ]
    return WorkingSection(
        "Demand",
        "Failures expected of each pool over its time in service; every replacement may itself be dead on arrival. The spread is exact: gamma-mixed Poisson counts, convolved over pools.",
        rows,
    )


def _unrecorded_rows(plate: Plate, rate: float | None) -> list[WorkingRow]:
    """What machines without a record may add. `rate` : parts wanted per unit-year, where there is one."""
    units = plate.unrecorded
    if units.high == 0:
        return []
    held = f"{_span(units, 0)} by what is known of their model"
    rows = [WorkingRow("Units in machines without a record", figure(units.expected, 1), f"{held}; in no figure above")]
    if rate is not None:
        parts = units.times(rate)
        note = f"{_span(parts, 2)} in 365 days, at the {figure(rate, 3)} parts a unit-year of this part"
        rows.append(WorkingRow("Parts these may want besides", figure(parts.expected, 2), note))
    return rows


def _span(spread: Spread, digits: int) -> str:
    low, high = figure(spread.low, digits), figure(spread.high, digits)
    return low if low == high else f"{low} to {high}"


def _order_by(line: Line, builder: OutlookBuilder) -> WorkingSection:
    assert line.plan is not None
    today = builder.inputs.clock.today
    lead = line.policy.lead
    spread = ", ".join(f"{days} days {percent(weight)}" for days, weight in zip(lead.days, lead.weight, strict=True))
    rows = [
        WorkingRow("On hand", figure(line.on_hand, 0)),
        WorkingRow("Reserved and backordered", figure(line.promised, 0)),
        WorkingRow(
            "On order",
            figure(line.on_order, 0),
            f"{count(line.overdue, 'part')} overdue, taken to need one more review" if line.overdue else "",
        ),
        WorkingRow("Floor", figure(line.holding.floor, 0)),
        WorkingRow("Lead time", spread),
        WorkingRow("Target", f"{percent(line.policy.target)} no stock-out in a cycle"),
        WorkingRow("Chance below the floor if ordered today", percent(line.plan.chance_if_today)),
        WorkingRow("Order by", _order_by_words(line, builder), total=True),
    ]
    return WorkingSection(
        "Order-by day",
        f"The last day, from {day(today)} on, for which the path stays at the floor until the order arrives with at least the target's chance, looked at before every arrival and averaged over the lead time.",
        rows,
    )


def _order_by_words(line: Line, builder: OutlookBuilder) -> str:
    assert line.plan is not None
    on = line.order_by(builder.inputs.clock.today)
    if on is None:
        return "nothing due within a year"
    return "today, late" if line.plan.late else day(on)


def _quantity(line: Line, builder: OutlookBuilder) -> WorkingSection:
    plan = line.plan
    assert plan is not None
    currency = str(builder.inputs.settings.value("currency", default="EUR"))
    if plan.size is None or plan.order_day is None:
        return WorkingSection("Quantity", "Nothing is due within a year.")
    on = builder.inputs.clock.today + timedelta(days=plan.order_day)
    rows = [
        WorkingRow(
            "Order-up-to level, S",
            figure(plan.level or 0, 0),
            f"covers lead time and {count(line.policy.review_days, 'day')} of review from {day(on)}",
        ),
        WorkingRow(
            "Median position on that day",
            figure(plan.position or 0, 0),
            "on hand + on order − reserved − backordered − median demand until then",
        ),
        *([WorkingRow("Floor", figure(line.holding.floor, 0), "kept beneath S")] if line.holding.floor else []),
        WorkingRow("Needed", figure(plan.size.needed, 0), _smallest_note(plan.size)),
        WorkingRow("In whole packs", figure(plan.size.in_packs, 0), f"packs of {line.policy.pack}, at least {line.policy.minimum_order}"),
    ]
    if plan.size.cap is not None:
        rows.append(WorkingRow("Shelf-life cap", figure(plan.size.cap, 0), "median demand until a part ordered then expires"))
    if plan.size.scrap:
        rows.append(
            WorkingRow("Over the cap", f"{count(plan.size.scrap, 'part')}, {money(line.part.price * plan.size.scrap, currency)} of scrap")
        )
    rows.append(WorkingRow("Order", figure(plan.size.quantity, 0), money(line.cost, currency), total=True))
    return WorkingSection("Quantity", "S and the floor − median position, in whole packs, at most what is used before it expires.", rows)


def _smallest_note(size: OrderSize) -> str:
    if size.needed > 0 or size.quantity == 0:
        return ""
    return "nothing at median demand; without any order the target would be missed, so the smallest one is named"


def _other_schools(plate: Plate) -> WorkingSection:
    """What the rule of thumb and the other school would say, under the same log."""
    rows = []
    if fixed := plate.fixed_share:
        served = f"suffices over lead time and review with {percent(fixed.cycle_service)}"
        rows.append(WorkingRow(f"{percent(fixed.share)} of the fleet", f"keep {fixed.level}", served))
    for school in plate.schools:
        band = f"{school.low} to {school.high} (5–95%) in 365 days{', which the plan takes' if school.taken else ''}"
        rows.append(WorkingRow(SCHOOL_WORDS[school.school], f"{figure(school.expected, 1)} parts", band))
    return WorkingSection(
        "Other schools",
        "A fixed share of the units in service and the service it really gives; then the year's demand at one rate and by age.",
        rows,
    )
