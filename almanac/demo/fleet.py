"""The demo's machines: bought in batches over the years, placed at harbours, some moved, some retired."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta
from random import Random

from almanac.core.parts.kinds import Duty
from almanac.demo import catalog, truth
from almanac.demo.company import Company
from almanac.demo.rows import at


@dataclass(frozen=True)
class Machine:
    """One asset as the history needs it; `site_on` gives the harbour of a day."""

    asset_id: int
    model: catalog.DemoModel
    duty: Duty
    in_service_on: date
    retired_on: date | None
    options: dict[str, str]
    stays: tuple[tuple[date, catalog.DemoSite], ...]

    def site_on(self, day: date) -> catalog.DemoSite:
        return [site for since, site in self.stays if since <= day][-1]


def build_fleet(company: Company, chance: Random, *, scale: float = 1.0) -> list[Machine]:
    """All machines, present and retired. `scale` multiplies every model's count."""
    machines: list[Machine] = []
    for model in catalog.MODELS:
        batches = [date(year, month, 1) for year in range(model.bought[0], model.bought[1] + 1) for month in (2, 6, 10)]
        batches = [day for day in batches if day < truth.AS_OF - timedelta(days=40)]
        for _ in range(round(model.fleet * scale)):
            delivered = chance.choice(batches) + timedelta(days=chance.randrange(0, 28))
            machines.append(_machine(company, chance, model, delivered, len(machines)))
    _plans(company)
    return machines


def _pick(chance: Random, shares: dict[str, float]) -> str:
    return chance.choices(list(shares), list(shares.values()))[0]


def _machine(company: Company, chance: Random, model: catalog.DemoModel, delivered: date, number: int) -> Machine:
    duty = Duty(_pick(chance, {duty.value: share for duty, share in model.duties.items()}))
    planned = _quarter_end(delivered + timedelta(days=round(365.25 * model.years)))
    retired = None
    if planned <= truth.AS_OF:
        kept_longer = chance.random() < 0.55
        planned = _quarter_end(truth.AS_OF + timedelta(days=chance.randrange(60, 500))) if kept_longer else planned
        retired = None if kept_longer else planned
    options = {name: _pick(chance, shares) for name, shares in model.options.items()}
    stays = _stays(chance, delivered, retired)
    asset = company.rows.add(
        "asset",
        tag=f"SK-{number + 1:04d}",
        serial=f"{model.maker[0]}{model.name[0]}{chance.randrange(16**7):07X}",
        model_id=company.models[model.name],
        options=options,
        duty=duty.value,
        in_service_on=delivered,
        retire_planned_on=None if retired else planned,
        retired_on=retired,
    )
    for place, (since, site) in enumerate(stays):
        until = stays[place + 1][0] if place + 1 < len(stays) else retired
        company.rows.add("asset_stay", asset_id=asset, site_id=company.sites[site.code], from_on=since, until_on=until)
    return Machine(asset, model, duty, delivered, retired, options, stays)


def _quarter_end(day: date) -> date:
    """Last day of the calendar quarter: fleets are retired by budget, not by birthday."""
    month = (day.month - 1) // 3 * 3 + 3
    return date(day.year + month // 12, month % 12 + 1, 1) - timedelta(days=1)


def _stays(chance: Random, delivered: date, retired: date | None) -> tuple[tuple[date, catalog.DemoSite], ...]:
    weights = [site.share for site in catalog.SITES]
    stays = [(delivered, chance.choices(catalog.SITES, weights)[0])]
    end = retired or truth.AS_OF
    if chance.random() < truth.MOVES_A_YEAR * (end - delivered).days / 365.25:
        moved = delivered + timedelta(days=chance.randrange(30, max((end - delivered).days - 10, 31)))
        elsewhere = [site for site in catalog.SITES if site is not stays[0][1]]
        if delivered < moved < end:
            stays.append((moved, chance.choice(elsewhere)))
    return tuple(stays)


def _plans(company: Company) -> None:
    """What is decided for the coming year: two purchases, an early retirement, a planned swap."""
    autumn, recently = date(2026, 9, 14), date(2026, 10, 12)
    around_the_clock, counters = Duty.ROUND_THE_CLOCK, Duty.TWO_SHIFTS
    plan = (
        ("purchase", "Packet 14 b", "ELD", Duty.OFFICE_HOURS, date(2027, 2, 1), 60, None, None, "spring notebooks", autumn),
        ("purchase", "Bollard Twin", "GUL", around_the_clock, date(2027, 4, 12), 24, None, None, "new departure boards", autumn),
        ("retire", "Packet 15", "ELD", Duty.OFFICE_HOURS, date(2027, 3, 31), 20, None, None, "ticket office closes", recently),
        ("swap", "Counter 24", "BRA", counters, date(2027, 3, 15), 10, "memory_b", "LM-16320", "till software needs more memory", autumn),
    )
    for action, model, site, duty, day, quantity, position, part, note, decided in plan:
        company.rows.add(
            "fleet_plan",
            action=action,
            model_id=company.models[model],
            site_id=company.sites[site],
            duty=duty.value,
            planned_on=day,
            quantity=quantity,
            position_id=company.positions[model, position] if position else None,
            part_id=company.parts[part] if part else None,
            note=note,
            recorded_at=at(decided),
            author_id=company.lead_user if company.rows.tables.get("user") else None,
        )
