"""Checks between files and against the database: names that exist, days that follow one another, nothing twice."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from datetime import date, timedelta
from itertools import pairwise
from statistics import median

from almanac.core.parts.declared.facts import Subject
from almanac.core.parts.declared.understand import read_facts
from almanac.core.parts.fact_checks import faults_of_part
from almanac.core.parts.facts import fact
from almanac.core.parts.kinds import Grade, Kind
from almanac.services.importing.known import Known, KnownAsset, upper
from almanac.services.importing.parse import EMPTY, Parsed, Record

HALF = 0.5 - 1e-9


def check_all(parsed: Parsed, known: Known, *, today: date) -> dict[str, KnownAsset]:
    """Add every fault between rows to `parsed`; returns the machines known after the import, by upper-case tag."""
    sites = {*known.sites, *(upper(record["code"]) for record in parsed.of("sites"))}
    parts = {*known.parts, *(upper(record["number"]) for record in parsed.of("parts"))}
    models = {*known.models, *((upper(r["maker"]), upper(r["model"])) for r in parsed.of("models"))}
    positions = {*known.positions, *(((upper(r["maker"]), upper(r["model"])), upper(r["position"])) for r in parsed.of("models"))}
    _new_only(parsed, known)
    _facts(parsed, today)
    _unknown_lead_times(parsed, known)
    _lead_times(parsed, known)
    _depot(parsed, known)
    for record in parsed.of("models"):
        for number in record["fits"] or ():
            _exists(parsed, "models", record, "fits", number, parts, "part")
    assets = dict(known.assets)
    for record in parsed.of("assets"):
        _asset(parsed, record, models, sites, today)
        model = (upper(record["maker"]), upper(record["model"]))
        if record["in_service_on"]:
            assets[upper(record["tag"])] = KnownAsset(0, model, upper(record["site"]), record["in_service_on"], record["retired_on"])
    _tenures(parsed, assets, positions, parts, today)
    _incidents(parsed, assets, positions, today)
    for record in parsed.of("stock"):
        _exists(parsed, "stock", record, "site", record["site"], sites, "site")
        _exists(parsed, "stock", record, "part", record["part"], parts, "part")
        _not_future(parsed, "stock", record, "made_on", today)
    return assets


def _facts(parsed: Parsed, today: date) -> None:
    """What parts are said to be, as rules read it; the record holds statements afterwards."""
    for record in parsed.of("parts"):
        if not record["facts"] or not record["kind"]:
            continue
        kind = Kind(record["kind"])
        read = read_facts(
            {name: fact(value, Grade.DOCUMENT, "imported list", today.isoformat()) for name, value in record["facts"].items()},
            ("facts",),
            kind,
            Subject.PART,
        )
        record.values["facts"] = read.facts
        for fault in read.faults or faults_of_part(kind, read.facts):
            parsed.fault("parts.csv", record.line, "facts", f"{fault.where[-1]}: {fault.message}; {fault.cure}")


def _exists(parsed: Parsed, file: str, record: Record, column: str, name: object, among: set[str], what: str) -> None:
    if name and upper(name) not in among:
        parsed.fault(f"{file}.csv", record.line, column, f"no {what} is called {name}: add it to {what}s.csv or correct the name")


def _not_future(parsed: Parsed, file: str, record: Record, column: str, today: date) -> None:
    if record[column] and record[column] > today:
        parsed.fault(f"{file}.csv", record.line, column, f"{record[column]} is in the future: today is {today}")


def _new_only(parsed: Parsed, known: Known) -> None:
    """An import adds; what is already there is not overwritten."""
    checks = (("sites", "code", known.sites), ("parts", "number", known.parts), ("assets", "tag", known.assets))
    for file, column, there in checks:
        for record in parsed.of(file):
            if upper(record[column]) in there:
                parsed.fault(f"{file}.csv", record.line, column, f"{record[column]} is already there: leave the row out")
    for record in parsed.of("models"):
        if (upper(record["maker"]), upper(record["model"])) in known.models:
            parsed.fault("models.csv", record.line, "model", f"{record['maker']} {record['model']} is already there: leave its rows out")


def _unknown_lead_times(parsed: Parsed, known: Known) -> None:
    """A lead time that a row leaves out is its supplier's, where that is known; else it is asked for, with the company's median beside."""
    said = {name: supplier.lead_time for name, supplier in known.suppliers.items()}
    for record in parsed.of("parts"):
        if record["lead_time"]:
            said.setdefault(upper(record["supplier"]), record["lead_time"])
    for record in parsed.of("parts"):
        empty = [
            one for one in parsed.faults if (one.file, one.line, one.column, one.message) == ("parts.csv", record.line, "lead_time", EMPTY)
        ]
        if not empty:
            continue
        parsed.faults.remove(empty[0])
        own = said.get(upper(record["supplier"]))
        if own:
            record.values["lead_time"] = own
            continue
        usual = f"; the median of the company's suppliers is {_median(list(said.values()))} days" if said else ""
        message = f"without it nobody can say when to order: ask {record['supplier'] or 'the supplier'}{usual}"
        parsed.fault("parts.csv", record.line, "lead_time", message)


def _median(leads: Sequence[Sequence[Mapping[str, float]]]) -> int:
    """The median over suppliers of each one's median days."""
    middles = []
    for lead in leads:
        reached = 0.0
        for entry in sorted(lead, key=lambda one: one["days"]):
            reached += entry["weight"]
            if reached >= HALF:
                middles.append(entry["days"])
                break
    return round(median(middles))


def _lead_times(parsed: Parsed, known: Known) -> None:
    """A supplier has one lead-time distribution."""
    seen = {name: (0, supplier.lead_time) for name, supplier in known.suppliers.items()}
    for record in parsed.of("parts"):
        line, lead = seen.setdefault(upper(record["supplier"]), (record.line, record["lead_time"]))
        if record["lead_time"] and lead != record["lead_time"]:
            where = f"line {line}" if line else "the database"
            parsed.fault(
                "parts.csv", record.line, "lead_time", f"{record['supplier']} has another lead time in {where}: give all its rows the same"
            )


def _depot(parsed: Parsed, known: Known) -> None:
    there = sum(site.is_depot for site in known.sites.values())
    named = [record for record in parsed.of("sites") if record["depot"]]
    if parsed.of("sites") and there + len(named) != 1:
        line = named[-1].line if named else 0
        parsed.fault("sites.csv", line, "depot", f"exactly one depot was wanted, got {there + len(named)}: say yes in one row only")


def _asset(parsed: Parsed, record: Record, models: set[tuple[str, str]], sites: set[str], today: date) -> None:
    model = (upper(record["maker"]), upper(record["model"]))
    if record["maker"] and record["model"] and model not in models:
        message = f"no model is called {record['maker']} {record['model']}: add it to models.csv or correct the name"
        parsed.fault("assets.csv", record.line, "model", message)
    _exists(parsed, "assets", record, "site", record["site"], sites, "site")
    _not_future(parsed, "assets", record, "in_service_on", today)
    _not_future(parsed, "assets", record, "retired_on", today)
    for column in ("retire_planned_on", "retired_on"):
        if record[column] and record["in_service_on"] and record[column] < record["in_service_on"]:
            parsed.fault("assets.csv", record.line, column, f"{record[column]} is before it went into service on {record['in_service_on']}")


def _placed(
    parsed: Parsed, file: str, record: Record, assets: dict[str, KnownAsset], positions: set[tuple[tuple[str, str], str]]
) -> KnownAsset | None:
    """The machine of a row, when machine and position exist."""
    asset = assets.get(upper(record["tag"]))
    if asset is None:
        if record["tag"]:
            parsed.fault(
                f"{file}.csv", record.line, "tag", f"no asset has the tag {record['tag']}: add it to assets.csv or correct the tag"
            )
        return None
    if record["position"] and (asset.model, upper(record["position"])) not in positions:
        message = f"{record['tag']} is a {' '.join(asset.model).title()}, which has no position {record['position']}"
        parsed.fault(f"{file}.csv", record.line, "position", message)
        return None
    return asset


def _tenures(
    parsed: Parsed, assets: dict[str, KnownAsset], positions: set[tuple[tuple[str, str], str]], parts: set[str], today: date
) -> None:
    by_place: dict[tuple[str, str], list[Record]] = defaultdict(list)
    for record in parsed.of("tenures"):
        asset = _placed(parsed, "tenures", record, assets, positions)
        _exists(parsed, "tenures", record, "part", record["part"], parts, "part")
        _not_future(parsed, "tenures", record, "fitted_on", today)
        _not_future(parsed, "tenures", record, "removed_on", today)
        _not_future(parsed, "tenures", record, "fitted_until", today)
        if record["fitted_on"] and record["removed_on"] and record["removed_on"] < record["fitted_on"]:
            parsed.fault(
                "tenures.csv", record.line, "removed_on", f"{record['removed_on']} is before it was fitted on {record['fitted_on']}"
            )
        elif record["fitted_on"] and record["fitted_until"] and record["fitted_until"] < record["fitted_on"]:
            parsed.fault(
                "tenures.csv", record.line, "fitted_until", f"{record['fitted_until']} is before {record['fitted_on']}, the first day"
            )
        elif record["fitted_until"] and record["removed_on"] and record["removed_on"] < record["fitted_until"]:
            parsed.fault("tenures.csv", record.line, "fitted_until", f"it came out on {record['removed_on']}: a day no later was wanted")
        elif asset and asset.retired_on and record["removed_on"] is None:
            parsed.fault(
                "tenures.csv", record.line, "removed_on", f"{record['tag']} was retired on {asset.retired_on}: a removal was wanted"
            )
        if record["fitted_on"]:
            by_place[upper(record["tag"]), upper(record["position"])].append(record)
    for records in by_place.values():
        _overlaps(parsed, sorted(records, key=lambda record: (record["fitted_on"], record["removed_on"] or date.max)))


def _overlaps(parsed: Parsed, records: list[Record]) -> None:
    for before, after in pairwise(records):
        if before["removed_on"] is None or before["removed_on"] > after["fitted_on"]:
            until = before["removed_on"] or "today"
            parsed.fault("tenures.csv", after.line, "fitted_on", f"overlaps line {before.line}, which is in this position until {until}")


def _incidents(parsed: Parsed, assets: dict[str, KnownAsset], positions: set[tuple[tuple[str, str], str]], today: date) -> None:
    removals = {(upper(r["tag"]), upper(r["position"]), r["removed_on"]) for r in parsed.of("tenures") if r["removed_on"]}
    for record in parsed.of("incidents"):
        asset = _placed(parsed, "incidents", record, assets, positions)
        _not_future(parsed, "incidents", record, "occurred_on", today)
        day = record["occurred_on"]
        if asset is None or day is None:
            continue
        if record["last_good_on"] and record["last_good_on"] >= day:
            message = f"{record['last_good_on']} is not before it was found on {day}: name an earlier day, or leave the cell empty"
            parsed.fault("incidents.csv", record.line, "last_good_on", message)
        if day < asset.in_service_on - timedelta(days=1) or (asset.retired_on and day > asset.retired_on):
            parsed.fault("incidents.csv", record.line, "occurred_on", f"{record['tag']} was not in service on {day}")
        elif (upper(record["tag"]), upper(record["position"]), day) not in removals:
            message = f"tenures.csv has nothing of {record['tag']} {record['position']} removed on {day}: add the tenure that ended"
            parsed.fault("incidents.csv", record.line, "occurred_on", message)
