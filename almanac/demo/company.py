"""The fixed part of the demo company: harbours, suppliers, parts, models, users and settings."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date, timedelta
from decimal import Decimal
from typing import Any

from almanac.core.parts.facts import Fact, fact
from almanac.core.parts.fits.judge import judge
from almanac.core.parts.kinds import Grade
from almanac.core.parts.page import positions_of
from almanac.demo import catalog, truth
from almanac.demo.page_files import read_pages
from almanac.demo.rows import Rows, at

FOUNDED = date(2021, 10, 1)
SETTINGS: dict[str, Any] = {
    "company_name": "Skerry Line",
    "currency": "EUR",
    "time_zone": "UTC",
    "as_of_day": truth.AS_OF.isoformat(),
    "target": 0.95,
    "waiting_cost": 12.0,
    "review_days": 14,
    "floor": 0,
    "school": "auto",
    "order_limit": 1000,
}


@dataclass
class Company:
    """Ids of what was written, by the names the catalogue uses."""

    rows: Rows = field(default_factory=Rows)
    sites: dict[str, int] = field(default_factory=dict)
    parts: dict[str, int] = field(default_factory=dict)
    models: dict[str, int] = field(default_factory=dict)
    positions: dict[tuple[str, str], int] = field(default_factory=dict)
    shelves: dict[tuple[int, int], int] = field(default_factory=dict)
    lead_user: int = 1
    bench_user: int = 2


def build_company(*, with_users: bool = True, password_hashes: dict[str, str] | None = None) -> Company:
    """Everything of the demo that does not depend on chance."""
    company = Company()
    rows = company.rows
    for login, name, role, _ in catalog.USERS if with_users else ():
        rows.add("user", login=login, name=name, role=role, password_hash=(password_hashes or {})[login], active=True)
    for key, value in SETTINGS.items():
        rows.add(
            "setting",
            scope="company",
            scope_key="",
            key=key,
            number=1,
            value=value,
            from_on=FOUNDED,
            author_id=None,
            recorded_at=at(FOUNDED),
        )
    _places(company)
    _parts(company)
    _models(company)
    for part in company.parts.values():
        for site in company.sites.values():
            company.shelves[part, site] = rows.add("shelf", part_id=part, site_id=site)
    return company


def _places(company: Company) -> None:
    for site in catalog.SITES:
        company.sites[site.code] = company.rows.add(
            "site",
            code=site.code,
            name=site.name,
            time_zone=site.time_zone,
            environment=site.environment.value,
            log_began_on=site.log_began_on,
            is_depot=site.lane_days == 0,
        )
    depot = company.sites[catalog.SITES[0].code]
    for site in catalog.SITES[1:]:
        there, leaves = company.sites[site.code], {"days": site.lane_days, "weekdays": list(site.leaves), "carrier": site.carrier}
        company.rows.link("lane", from_site_id=depot, to_site_id=there, **leaves)
        company.rows.link("lane", from_site_id=there, to_site_id=depot, **leaves)


def _parts(company: Company) -> None:
    suppliers = {
        name: company.rows.add("supplier", name=name, lead_time=[{"days": days, "weight": weight} for days, weight in lead])
        for name, lead in catalog.SUPPLIERS.items()
    }
    for part in catalog.PARTS:
        company.parts[part.number] = company.rows.add(
            "part",
            number=part.number,
            name=part.name,
            kind=part.kind.value,
            facts=part_facts(part),
            supplier_id=suppliers[part.supplier],
            price=Decimal(part.price),
            pack=part.pack,
            minimum_order=part.minimum_order,
            shelf_life_days=part.shelf_life_days,
            end_of_supply_on=part.end_of_supply_on,
            warranty_days=catalog.WARRANTY_DAYS.get(part.kind),
        )
    for part_number, from_quantity, price in catalog.PRICE_BREAKS:
        company.rows.link("price_break", part_id=company.parts[part_number], from_quantity=from_quantity, price=Decimal(price))
    for part_number, serves_as, reason in catalog.INTERCHANGE:
        company.rows.link("interchange", part_id=company.parts[part_number], serves_as_id=company.parts[serves_as], reason=reason)


def _models(company: Company) -> None:
    """Models with their pages; a position of the catalogue is the one of the page with the same key."""
    written = read_pages()
    for model in catalog.MODELS:
        identifier = company.rows.add("device_model", maker=model.maker, name=model.name, family=model.family, form=model.form)
        company.models[model.name] = identifier
        own, whole = written[f"{model.maker} {model.name}"]
        revision = company.rows.add(
            "model_revision",
            model_id=identifier,
            number=1,
            page=own,
            author_id=company.bench_user if company.rows.tables.get("user") else None,
            reason="First survey",
            draft=False,
            recorded_at=at(FOUNDED + timedelta(days=identifier)),
        )
        _positions(company, model, identifier, revision, whole)


def _positions(company: Company, model: catalog.DemoModel, identifier: int, revision: int, page: Mapping[str, Any]) -> None:
    listed = {position.key: position.fits for position in model.positions}
    entries = {entry["key"]: entry for entry in page["positions"]}
    for spec in positions_of(page):
        company.positions[model.name, spec.key] = company.rows.add(
            "position",
            model_id=identifier,
            revision_id=revision,
            key=spec.key,
            label=spec.label,
            kind=spec.kind.value,
            serviceability=spec.serviceability.value,
            ordered_unit=spec.ordered_unit,
            option_condition=spec.option_condition,
        )
        _fits(company, company.positions[model.name, spec.key], entries[spec.key], listed.get(spec.key, ()))


def _fits(company: Company, position_id: int, entry: dict[str, Any], listed: tuple[str, ...]) -> None:
    """What the survey saw fitted is listed; for every other part of the kind the rules are asked."""
    stands_in = {number for number, serves_as, _ in catalog.INTERCHANGE if serves_as in listed}
    for part in catalog.PARTS:
        if part.kind.value != entry["kind"]:
            continue
        seen = "seen in this position" if part.number in listed else None
        judged = judge(entry, part.kind, part_facts(part), listed=seen, stands_in=part.number in stands_in)
        company.rows.link(
            "fits",
            part_id=company.parts[part.number],
            position_id=position_id,
            verdict=judged.answer.verdict.value,
            reason=judged.answer.reason,
            origin=judged.origin,
        )


def part_facts(part: catalog.DemoPart) -> dict[str, list[Fact]]:
    """Facts of a part as they are stored; what nobody knows is left out."""
    return {name: [fact(value, Grade.LABEL, "label of the part", "2024-02-05")] for name, value in part.facts.items() if value is not None}
