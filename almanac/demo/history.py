"""The demo's log: every position lived through from delivery to retirement, drawn from the true parameters."""

from __future__ import annotations

import math
from collections import Counter
from dataclasses import dataclass, field
from datetime import date, timedelta
from random import Random

from almanac.core.life.outcomes import DEAD_ON_ARRIVAL_DAYS, REMOVED_TO, Bucket, Finding
from almanac.core.parts.declared.kinds import FORECAST_KINDS
from almanac.core.parts.kinds import Kind
from almanac.demo import catalog, truth
from almanac.demo.company import Company
from almanac.demo.fleet import Machine
from almanac.demo.rows import at

REASONS = {
    Kind.MEMORY: ("stops with a memory error", "will not start, beeps", "crashes under load"),
    Kind.SSD: ("drive not detected", "very slow, read errors", "file system damaged"),
    Kind.BATTERY: ("runs twenty minutes", "does not charge", "pack swollen, touchpad lifted"),
    Kind.FAN: ("loud, grinding", "fan does not turn", "switches off when warm"),
}
DAMAGE_REASONS = ("coffee over the keyboard", "dropped on the quay", "salt water in the case")


@dataclass
class Usage:
    """Parts taken from each shelf and put into its buckets, by day, for the stock moves."""

    moves: list[tuple[int, Bucket, int, str, date, int]] = field(default_factory=list)
    issued: Counter[tuple[int, int, date]] = field(default_factory=Counter)


@dataclass(frozen=True)
class Happening:
    """What ended one tenure early: the day, the finding it settles to, and whether a new part stays in."""

    day: date
    finding: Finding
    replaced: bool = True
    wears_out: date = date.max


def model_factors(chance: Random) -> dict[tuple[str, Kind], float]:
    """Each model's own factor on the ageing of each kind."""
    return {(model.name, kind): math.exp(chance.gauss(0.0, truth.MODEL_SPREAD)) for model in catalog.MODELS for kind in FORECAST_KINDS}


class HistoryWriter:
    """Walks the machines and appends units, tenures, incidents and usage to the company's rows."""

    def __init__(self, company: Company, chance: Random, *, ageing: float = 1.0) -> None:
        self.company, self.chance = company, chance
        self.factors = {pool: factor * ageing for pool, factor in model_factors(chance).items()}
        self.usage = Usage()
        self.on_record: set[int] = set()
        self.lasting: dict[int, date] = {}
        """The day each tenure's part would wear out, whatever else ends it before."""

    def write(self, machines: list[Machine]) -> Usage:
        for machine in machines:
            for position in machine.model.positions:
                if position.fits and position.kind in FORECAST_KINDS and _present(position, machine):
                    self._live_through(machine, position)
        return self.usage

    def _live_through(self, machine: Machine, position: catalog.DemoPosition) -> None:
        end = machine.retired_on or truth.AS_OF
        fitted, part = machine.in_service_on, position.fits[0]
        tenure = self.fit(machine, position, part, fitted, recorded=fitted)
        while True:
            event = self._next(machine, position, fitted)
            self.lasting[tenure] = event.wears_out
            if event.day >= end or event.day > truth.AS_OF - timedelta(days=1):
                break
            logged = event.day >= machine.site_on(event.day).log_began_on
            if not event.replaced and not logged:
                fitted = event.day
                continue
            incident_site = self.company.sites[machine.site_on(event.day).code]
            removed, new_part = tenure, part if event.finding is not Finding.UPGRADE else position.fits[-1]
            if event.replaced:
                self.end(removed, event.day)
                tenure = self.fit(machine, position, new_part, event.day, recorded=event.day)
            if logged:
                self.record(machine, position, event, incident_site, removed, tenure, part, new_part)
            elif event.replaced:
                self._forget(removed)
            fitted, part = event.day, new_part if event.replaced else part
        if machine.retired_on:
            self.end(tenure, machine.retired_on)

    def _next(self, machine: Machine, position: catalog.DemoPosition, since: date) -> Happening:
        """First of: dead on arrival, wear-out, damage, suspicion, upgrade."""
        kind = truth.KINDS[position.kind]
        factor = (
            self.factors[machine.model.name, position.kind] * kind.duty[machine.duty] * kind.environment[machine.site_on(since).environment]
        )
        if self.chance.random() < kind.dead_on_arrival:
            return Happening(since + timedelta(days=self.chance.randrange(1, DEAD_ON_ARRIVAL_DAYS)), Finding.DEAD_ON_ARRIVAL)
        years = {
            Finding.CONFIRMED: kind.scale_years / factor * self.chance.weibullvariate(1.0, kind.shape),
            Finding.DAMAGE: self._exponential(kind.damage_rate),
            Finding.NO_FAULT_FOUND: self._exponential(kind.no_fault_rate),
            Finding.UPGRADE: self._exponential(kind.upgrade_rate if len(position.fits) > 1 else 0.0),
        }
        finding = min(years, key=lambda name: years[name])
        day = since + timedelta(days=max(DEAD_ON_ARRIVAL_DAYS + 1, min(round(years[finding] * 365.25), 40000)))
        stays = finding is not Finding.NO_FAULT_FOUND or self.chance.random() < truth.NEW_PART_STAYS
        wears_out = since + timedelta(days=min(round(years[Finding.CONFIRMED] * 365.25), 40000))
        return Happening(day, finding, stays, wears_out)

    def _exponential(self, rate: float) -> float:
        return self.chance.expovariate(rate) if rate > 0 else math.inf

    def fit(self, machine: Machine, position: catalog.DemoPosition, part: str, day: date, *, recorded: date) -> int:
        rows, log_began = self.company.rows, machine.site_on(day).log_began_on
        serial = f"{part.replace('-', '')}{self.chance.randrange(10**6):06d}" if position.kind in (Kind.SSD, Kind.BATTERY) else None
        unit = rows.add("unit", part_id=self.company.parts[part], serial=serial, condition="new", received_on=day, made_on=made_on(day))
        return rows.add(
            "tenure",
            unit_id=unit,
            part_id=self.company.parts[part],
            asset_id=machine.asset_id,
            model_id=self.company.models[machine.model.name],
            position_id=self.company.positions[machine.model.name, position.key],
            fitted_on=day,
            removed_on=None,
            age_at_fitting_days=0,
            age_span_days=0,
            as_delivered=False,
            observed_from=max(day, log_began),
            recorded_at=at(max(recorded, log_began)),
            removal_recorded_at=None,
        )

    def end(self, tenure: int, day: date) -> None:
        row = self.company.rows.tables["tenure"][tenure - 1]
        row["removed_on"], row["removal_recorded_at"] = day, at(day)

    def _forget(self, tenure: int) -> None:
        """What came out before the log began was never written down, unless a log elsewhere had seen it go in."""
        self.company.rows.tables["tenure"][tenure - 1]["forgotten"] = tenure not in self.on_record

    def record(
        self, machine: Machine, position: catalog.DemoPosition, event: Happening, site: int, removed: int, fitted: int, old: str, new: str
    ) -> None:
        rows, parts = self.company.rows, self.company.parts
        self.on_record.update((removed, fitted))
        incident = rows.add("incident", asset_id=machine.asset_id, site_id=site, latest_number=1, occurred_on=event.day, is_open=False)
        settled_on = self._settled_on(event)
        stages = [(event.day, event.finding)] if settled_on == event.day else [(event.day, Finding.OPEN), (settled_on, event.finding)]
        reason = self.chance.choice(DAMAGE_REASONS if event.finding is Finding.DAMAGE else REASONS[position.kind])
        if event.finding is Finding.UPGRADE:
            reason = "more room asked for"
        minutes = self.chance.randrange(12, 55)
        last: Finding | None = None
        for number, (known_on, finding) in enumerate(stages, start=1):
            if known_on > truth.AS_OF:
                break
            revision = rows.add(
                "event_revision",
                incident_id=incident,
                number=number,
                occurred_on=event.day,
                recorded_at=at(known_on, 8 + number),
                author_id=self.company.bench_user if rows.tables.get("user") else None,
                reason=reason,
                finding=finding.value,
                minutes=minutes,
                note="" if number == 1 else "settled after the watch period",
            )
            rows.add(
                "event_line",
                revision_id=revision,
                number=1,
                position_id=self.company.positions[machine.model.name, position.key],
                action="replaced" if event.replaced else "kept",
                finding=finding.value,
                removed_tenure_id=removed,
                removed_part_id=parts[old],
                fitted_tenure_id=fitted if event.replaced else None,
                fitted_part_id=parts[new] if event.replaced else None,
                shelf_site_id=site if event.replaced else None,
            )
            if event.replaced:
                self._move(incident, site, known_on, (parts[old], parts[new]), (last, finding))
            last = finding
            rows.tables["incident"][incident - 1].update(latest_number=number, is_open=finding is Finding.OPEN)

    def _settled_on(self, event: Happening) -> date:
        if event.finding not in (Finding.CONFIRMED, Finding.NO_FAULT_FOUND) or self.chance.random() < truth.SETTLED_AT_ONCE:
            return event.day
        return event.day + timedelta(days=1 + round(self.chance.expovariate(1.0 / truth.SETTLING_DAYS)))

    def _move(self, incident: int, site: int, day: date, swap: tuple[int, int], findings: tuple[Finding | None, Finding]) -> None:
        """Stock moves of one revision: the new part off the shelf, the old one into the bucket its finding names."""
        old_part, new_part = swap
        before, finding = findings
        old_shelf = self.company.shelves[old_part, site]
        bucket = REMOVED_TO[finding]
        if before is None:
            self.usage.moves.append((self.company.shelves[new_part, site], Bucket.ON_HAND, -1, "fitted", day, incident))
            self.usage.moves.append((old_shelf, bucket, 1, "removed", day, incident))
            self.usage.issued[new_part, site, day] += 1
        elif REMOVED_TO[before] is not bucket:
            self.usage.moves.append((old_shelf, REMOVED_TO[before], -1, "reclassified", day, incident))
            self.usage.moves.append((old_shelf, bucket, 1, "reclassified", day, incident))


def made_on(fitted_on: date) -> date:
    """The day a part was made that was fitted on a day: makers make a lot each quarter."""
    made = fitted_on - timedelta(days=60)
    return date(made.year, (made.month - 1) // 3 * 3 + 1, 1)


def _present(position: catalog.DemoPosition, machine: Machine) -> bool:
    return all(machine.options.get(name) == value for name, value in (position.when or {}).items())
