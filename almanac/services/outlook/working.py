"""The working of a plate: formula in words, inputs with their values, and which log entries stand behind each."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date

import numpy as np

from almanac.core.demand.law import DemandLaw
from almanac.core.demand.unrecorded import Spread
from almanac.core.demand.wear_law import WearLaw
from almanac.core.life.outcomes import DEAD_ON_ARRIVAL_DAYS
from almanac.core.life.record import PoolRecord, Stream
from almanac.core.stock.policy import Policy
from almanac.core.stock.reorder import Measure
from almanac.services.outlook.demand_laws import KindEvidence, LawBook, PartLaw
from almanac.services.outlook.fitted import WearFit
from almanac.services.outlook.order_plans import Row
from almanac.services.outlook.projection import YEAR_DAYS, PartShelf
from almanac.services.starting_points import stated_words
from almanac.services.words import count, day, figure, money, per_hundred, percent

CONSTANT = (
    "Each pool's rate is (a + D) / (b + T): its own record, drawn towards the kind's mean a / b where the record is short. "
    "Pools are weighted by the units in service over the coming year."
)
BY_AGE = (
    "A unit of age x fails in a year with λ((x + 1)^β − x^β), counted again for what replaces it. Each pool's λ is (a + D) / (a / m + H): its own "
    "record, drawn towards the kind's mean m where the record is short. The rate is that of the ages in service over the coming year."
)


SCHOOL_WORDS = {"constant": "One constant rate", "wear-out": "Wear-out by age", "averaged": "Both, averaged"}


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


@dataclass(frozen=True)
class FixedShare:
    """The rule of thumb beside the computed level: a fixed share of the fleet, and the service it really gives."""

    share: float
    level: int
    cycle_service: float


@dataclass(frozen=True)
class SchoolYear:
    """Demand of the coming 365 days under one school: mean and 5, 50, 95%; `taken` where the part's plan rests on it."""

    school: str
    taken: bool
    expected: float
    low: int
    median: int
    high: int


@dataclass(frozen=True)
class Worked:
    """What a working shows: laws of the kind, the part's own (None where nothing is on record), and its row."""

    book: LawBook
    law: PartLaw | None
    row: Row
    today: date
    currency: str
    unrecorded: Spread
    lead_from: str

    @property
    def evidence(self) -> KindEvidence:
        return self.book.evidence


def working_of(worked: Worked, fixed: FixedShare | None = None, schools: Sequence[SchoolYear] = ()) -> list[WorkingSection]:
    """All steps from the log to the order; a part without any record says so instead."""
    if worked.law is None:
        nothing = "No tenure of this kind is on record yet: there is nothing to estimate a rate from."
        return [WorkingSection("Failure rate", nothing, _unrecorded_rows(worked, None))]
    sections = [_rate(worked), _demand(worked)]
    sections += [_position(worked), _reorder(worked), _to_do(worked)] if worked.row.plan else []
    return [*sections, _other_schools(fixed, schools)]


def _rate(worked: Worked) -> WorkingSection:
    rate, law, kind = worked.row.projection.rate, worked.law, worked.evidence
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
        *_stated_rows(worked),
        *_kind_rows(worked),
    ]
    if rate:
        interval = f"{per_hundred(rate.low)}–{per_hundred(rate.high)}, 90% credible"
        rows.append(WorkingRow("Annualised failure rate, per 100 units a year", per_hundred(rate.rate), interval, total=True))
    formula = BY_AGE if _by_age(worked) else CONSTANT
    return WorkingSection("Failure rate", f"{formula} School: {worked.evidence.school.reason}.", rows)


def _stated_rows(worked: Worked) -> list[WorkingRow]:
    """What the kind begins from beside its log."""
    stated = worked.evidence.stated
    if stated is None:
        return []
    note = f"{stated_words(stated, worked.row.part.kind)}; it weighs on the kind's mean as a log of that size would, and the log overrules it as it grows"
    worth = f"{stated.worth:g} failures in {figure(stated.exposure_years)} unit-years"
    return [WorkingRow("Stated starting point of the kind", worth, note)]


def _kind_rows(worked: Worked) -> list[WorkingRow]:
    """What the part borrows from its kind."""
    law, fit = worked.law, worked.evidence.fit
    followed = [] if law is None else _followed_rows(law.law)
    if law is None or fit is None or fit.nodes is None or not isinstance(law.law, WearLaw) or not _by_age(worked):
        return [WorkingRow("The kind's mean rate, per 100 units a year", per_hundred(_kind_mean(worked)), _shape_note(worked)), *followed]
    nodes, own = law.law.nodes, fit.group_of(law.pools[0].part_id)
    assert own is not None
    level, gathered = (float(nodes.weight @ one) for one in (nodes.shape / nodes.rate, law.law.wear.hazard_of_pools().sum(axis=1)))
    spread = "{:.2f} to {:.2f}, 90% credible: its own failures, leaning on those of its kind".format(*own.interval)
    return [
        WorkingRow("Shape of the part's lives, β", figure(own.middle, 2), spread),
        WorkingRow("Mean level of its pools, m", figure(level, 4), "failures per unit and (year of age)^β"),
        WorkingRow("Gathered age of the pools, H", figure(gathered, 1), "age^β at the end less at the start, over all tenures, in years^β"),
        *_pace_rows(law, fit),
        *followed,
    ]


def _by_age(worked: Worked) -> bool:
    return worked.law is not None and isinstance(worked.law.law, WearLaw) and worked.evidence.school.wear_out > 0


def _followed_rows(law: DemandLaw) -> list[WorkingRow]:
    """Units that readings tell more of than their age."""
    followed = law.wear.followed if isinstance(law, WearLaw) else None
    if followed is None:
        return []
    crossing = float(followed.crossed([YEAR_DAYS]).sum())
    note = f"{figure(crossing, 1)} of them expected to be worn within a year, by lines through their readings"
    return [WorkingRow("Units followed by readings", str(followed.pool.size), note)]


def _pace_rows(law: PartLaw, fit: WearFit) -> list[WorkingRow]:
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


def _kind_mean(worked: Worked) -> float:
    nodes = worked.evidence.nodes
    return float(nodes.weight @ (nodes.shape / nodes.rate)) if nodes else 0.0


def _shape_note(worked: Worked) -> str:
    nodes = worked.evidence.nodes
    if nodes is None or nodes.pooled:
        return "no failure of this kind yet: all pools share Gamma(0.5, T)"
    low, high = float(np.min(nodes.shape)), float(np.max(nodes.shape))
    return f"shape a from {low:.1f} to {high:.1f} over {nodes.weight.size} weighted nodes"


def _demand(worked: Worked) -> WorkingSection:
    kind, seen, year = worked.evidence, worked.row.projection, worked.row.projection.year
    assert worked.law is not None and year is not None
    years = float(worked.law.law.window_exposure(np.array([0]), np.array([365]))[0].sum())
    rates = {stream.name: stream.shape / stream.rate for stream in worked.law.law.side}
    fittings = f"{kind.record.dead_on_arrival} of {figure(kind.record.fittings, 0)} fittings of this kind"
    rows = [
        WorkingRow("Units in service now", figure(seen.in_service, 0)),
        WorkingRow("Time in service in the coming year", f"{figure(years)} unit-years", "after planned retirements and purchases"),
        WorkingRow("Wear-out failures", figure(year.wear_out, 2)),
        WorkingRow("Damage", figure(year.damage, 2), f"{per_hundred(rates.get('damage', 0.0))} per 100 units a year", Stream.DAMAGE.value),
        WorkingRow(
            "Draws without a fault found",
            figure(year.no_fault_draw, 2),
            f"{per_hundred(rates.get('no_fault_draw', 0.0))} per 100 units a year",
            Stream.NO_FAULT_DRAW.value,
        ),
        WorkingRow("Planned swaps", figure(year.planned, 2)),
        WorkingRow(
            "Dead on arrival",
            figure(year.dead_on_arrival, 2),
            f"{percent(kind.dead_on_arrival)}: {fittings}",
            Stream.DEAD_ON_ARRIVAL.value,
        ),
        WorkingRow("Parts wanted in 365 days", figure(year.total, 2), total=True),
        *_unrecorded_rows(worked, (year.total - year.planned) / years if years > 0 else None),
    ]
    return WorkingSection(
        "Demand",
        "Failures expected of each pool over its time in service; every replacement may itself be dead on arrival. The spread is exact: gamma-mixed Poisson counts, convolved over pools.",
        rows,
    )


def _unrecorded_rows(worked: Worked, rate: float | None) -> list[WorkingRow]:
    """What machines without a record may add. `rate` : parts wanted per unit-year, where there is one."""
    units = worked.unrecorded
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


MEASURES = {
    Measure.FILL: "of 100 requests met at once",
    Measure.READY: "of 100 days with one on the shelf",
    Measure.CYCLE: "of 100 orders during which nobody is refused",
    Measure.LEAST_COST: "of 100 days nobody waits, as the costs say",
}


def _position(worked: Worked) -> WorkingSection:
    row, shelf = worked.row, worked.row.shelf
    assert row.plan is not None
    soon = shelf.holding.available + shelf.holding.on_order - row.plan.position
    rows = [
        WorkingRow("On the shelf", figure(shelf.on_hand, 0), _on_the_shelf(shelf)),
        WorkingRow(
            "Coming",
            figure(shelf.holding.on_order, 0),
            f"{count(shelf.overdue, 'part')} overdue, taken to need one more review" if shelf.overdue else "",
        ),
        WorkingRow("Promised and owed", figure(shelf.promised, 0)),
        *(
            [WorkingRow("Expires before an order could be there", figure(soon, 0), "beyond the median demand until its day")]
            if soon
            else []
        ),
        WorkingRow("Position", figure(row.plan.position, 0), total=True),
    ]
    return WorkingSection("Position", "On the shelf and coming, less what is promised, at all places looked at.", rows)


def _on_the_shelf(shelf: PartShelf) -> str:
    """What is beside or among the parts on the shelf."""
    among = f"{shelf.recovered} of them recovered and tested, with their age" if shelf.recovered else ""
    beside = f"{count(shelf.expired, 'more has', 'more have')} expired" if shelf.expired else ""
    return "; ".join(words for words in (among, beside) if words)


def _reorder(worked: Worked) -> WorkingSection:
    row, plan = worked.row, worked.row.plan
    assert plan is not None
    lead, promise = row.policy.lead, row.policy.promise
    spread = ", ".join(f"{days} days {percent(weight)}" for days, weight in zip(lead.days, lead.weight, strict=True))
    rows = [
        WorkingRow("Lead time", spread, worked.lead_from),
        WorkingRow("Days between reviews", figure(row.policy.review_days, 0)),
        WorkingRow("Aim", f"{figure(promise.target * 100, 1)} {MEASURES[promise.measure]}"),
        *_lot_rows(row.policy, plan.lot),
        *[
            WorkingRow(f"Kept at {name}", figure(site.level, 0), f"{figure(site.fill * 100, 0)} of 100 met at once there")
            for name, site in zip(_names(worked), plan.sites, strict=False)
        ],
        *([WorkingRow("Reorder point of the depot", figure(plan.depot_s, 0), "beside what its sites are kept at")] if plan.sites else []),
        WorkingRow("Order at", figure(plan.order_at, 0), f"{figure(plan.fill * 100, 1)} of 100 requests met at once", total=True),
    ]
    if plan.fill_less is not None:
        rows.append(WorkingRow("With one part less", f"{figure(plan.fill_less * 100, 1)} of 100"))
    rows.append(
        WorkingRow(
            "With one part more", f"{figure(plan.fill_more * 100, 1)} of 100", f"{money(row.part.price, worked.currency)} more tied up"
        )
    )
    return WorkingSection(
        "Reorder point",
        "The question at a review is whether an order may wait for the next one: what waits is there after lead time and review. "
        "The requests of the days that an order of today would serve are met as far as the position reaches; the reorder point is the "
        "least whose mean over what may stand above it meets the aim.",
        rows,
    )


def _names(worked: Worked) -> list[str]:
    return [post.name for post in worked.row.shelf.outposts]


def _lot_rows(policy: Policy, lot: int) -> list[WorkingRow]:
    packs = f"packs of {policy.pack}, at least {policy.minimum_order}"
    why = f"{packs}; of least cost of ordering and holding" if policy.order_cost and policy.holding_cost else packs
    return [WorkingRow("At a time", figure(lot, 0), why)]


def _to_do(worked: Worked) -> WorkingSection:
    row, plan, today = worked.row, worked.row.plan, worked.today
    assert plan is not None
    rows = []
    if plan.size is not None:
        size = plan.size
        rows.append(WorkingRow("Lots that bring it above the reorder point", figure(size.in_packs, 0)))
        if size.cap is not None:
            rows.append(WorkingRow("Shelf-life cap", figure(size.cap, 0), "median demand until a part ordered now expires"))
        if size.scrap:
            note = f"{count(size.scrap, 'part')}, {money(row.part.price * size.scrap, worked.currency)} of scrap"
            rows.append(WorkingRow("Over the cap", note))
        rows.append(WorkingRow("Order today", figure(size.quantity, 0), money(row.cost, worked.currency), total=True))
    else:
        rows.append(
            WorkingRow(
                "Likely next order", _likely(row, today), "the first review that finds the position at the reorder point", total=True
            )
        )
    for name, site in zip(_names(worked), plan.sites, strict=False):
        if site.load:
            rows.append(WorkingRow(f"Load for {name}", figure(site.load, 0), f"{site.free} there, kept at {site.level}"))
    rows += [
        WorkingRow("Machines that wait", figure(plan.waiting.machines, 0)),
        WorkingRow("Somebody waits before the next parts come", percent(plan.waiting.chance)),
        WorkingRow("The same, with an order placed in time", percent(plan.waiting.chance_in_time)),
    ]
    return WorkingSection("To do and risk", "What the position asks for at today's review, and what is risked until parts come.", rows)


def _likely(row: Row, today: date) -> str:
    early, likely, late = row.next_order(today)
    if likely is None:
        return "not within a year" if early is None else f"not within a year in the median; perhaps from {day(early)}"
    return f"{day(likely)} ({day(early) if early else 'now'} to {day(late) if late else 'later than a year'})"


def _other_schools(fixed: FixedShare | None, schools: Sequence[SchoolYear]) -> WorkingSection:
    """What the rule of thumb and the other school would say, under the same log."""
    rows = []
    if fixed:
        served = f"suffices over lead time and review with {percent(fixed.cycle_service)}"
        rows.append(WorkingRow(f"{percent(fixed.share)} of the fleet", f"keep {fixed.level}", served))
    for school in schools:
        band = f"{school.low} to {school.high} (5–95%) in 365 days{', which the plan takes' if school.taken else ''}"
        rows.append(WorkingRow(SCHOOL_WORDS[school.school], f"{figure(school.expected, 1)} parts", band))
    return WorkingSection(
        "Other schools",
        "A fixed share of the units in service and the service it really gives; then the year's demand at one rate and by age.",
        rows,
    )


def open_range(evidence: KindEvidence, records: list[PoolRecord]) -> tuple[float, float, float]:
    """Wear-out failures of the pools if no open finding, the settled share of them, or all of them are confirmed."""
    confirmed = sum(record.count(Stream.CONFIRMED) for record in records)
    still_open = sum(record.count(Stream.OPEN) for record in records)
    return float(confirmed), confirmed + evidence.record.share.share * still_open, float(confirmed + still_open)
