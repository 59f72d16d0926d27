"""Writing a checked import: parents before children, in bulk, inside the caller's transaction."""

from __future__ import annotations

from collections import defaultdict
from datetime import date, timedelta
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from almanac.core.life.outcomes import REMOVED_TO, Bucket, Finding
from almanac.core.parts.page import positions_of
from almanac.services.clock import Clock
from almanac.services.importing.known import Known, KnownAsset, read_known, upper
from almanac.services.importing.parse import Parsed, Record
from almanac.services.importing.readings import write_readings
from almanac.store.bulk import add_rows, new_ids
from almanac.store.models import (
    Asset,
    AssetStay,
    DeviceModel,
    EventLine,
    EventRevision,
    Fits,
    Incident,
    Lane,
    ModelRevision,
    Part,
    Position,
    PriceBreak,
    Shelf,
    Site,
    StockMove,
    Supplier,
    Tenure,
    Unit,
)


def write_import(session: Session, parsed: Parsed, *, clock: Clock, author_id: int | None) -> None:
    """Write all records; anything the database refuses undoes the whole import."""
    _places(session, parsed)
    _parts(session, parsed)
    _models(session, parsed, clock, author_id)
    known = read_known(session)
    _assets(session, parsed, known)
    known = read_known(session)
    tenures = _tenures(session, parsed, known, clock)
    shelves = _Shelves(session)
    _incidents(session, parsed, known, tenures, shelves, clock, author_id)
    write_readings(session, parsed, clock=clock, author_id=author_id)
    _stock(session, parsed, known, shelves, clock, author_id)
    session.flush()


def _places(session: Session, parsed: Parsed) -> None:
    records = parsed.of("sites")
    columns = ("code", "name", "time_zone", "environment", "log_began_on")
    add_rows(session, Site, [{**{name: r[name] for name in columns}, "is_depot": bool(r["depot"])} for r in records])
    sites = {site.code.upper(): site for site in session.scalars(select(Site))}
    depot = next((site.id for site in sites.values() if site.is_depot), None)
    if depot is not None:
        fed = [(sites[upper(r["code"])].id, r) for r in records if not r["depot"] and r["lane_days"] is not None]
        add_rows(session, Lane, [_lane(a, b, r) for site, r in fed for a, b in ((depot, site), (site, depot))])


def _lane(from_site: int, to_site: int, record: Record) -> dict[str, Any]:
    """A lane, the same both ways."""
    leaves = {"days": record["lane_days"], "weekdays": list(record["departs"] or ()), "carrier": record["carrier"] or "boat"}
    return {"from_site_id": from_site, "to_site_id": to_site, **leaves}


def _parts(session: Session, parsed: Parsed) -> None:
    known = {supplier.name.upper() for supplier in session.scalars(select(Supplier))}
    new = {upper(r["supplier"]): r for r in parsed.of("parts") if upper(r["supplier"]) not in known}
    add_rows(session, Supplier, [{"name": record["supplier"], "lead_time": record["lead_time"]} for record in new.values()])
    ids = {supplier.name.upper(): supplier.id for supplier in session.scalars(select(Supplier))}
    columns = ("number", "name", "kind", "price", "pack", "minimum_order", "shelf_life_days", "end_of_supply_on", "warranty_days", "facts")
    rows = [{**{name: r[name] for name in columns}, "supplier_id": ids[upper(r["supplier"])]} for r in parsed.of("parts")]
    add_rows(session, Part, rows)
    parts = {part.number.upper(): part.id for part in session.scalars(select(Part))}
    priced = [(parts[upper(r["number"])], least, price) for r in parsed.of("parts") for least, price in r["price_breaks"] or ()]
    add_rows(session, PriceBreak, [{"part_id": part, "from_quantity": least, "price": price} for part, least, price in priced])


def _models(session: Session, parsed: Parsed, clock: Clock, author_id: int | None) -> None:
    by_model: dict[tuple[str, str], list[Record]] = defaultdict(list)
    for record in parsed.of("models"):
        by_model[upper(record["maker"]), upper(record["model"])].append(record)
    parts = {part.number.upper(): part.id for part in session.scalars(select(Part))}
    for records in by_model.values():
        first = records[0]
        model = DeviceModel(maker=first["maker"], name=first["model"], family=first["family"] or first["model"], form=first["form"])
        session.add(model)
        session.flush()
        named = {"maker": model.maker, "name": model.name, "family": model.family, "form": model.form}
        page = {"page_format": 1, **named, "positions": [_page_position(record) for record in records]}
        revision = ModelRevision(model_id=model.id, number=1, page=page, author_id=author_id, reason="Imported", recorded_at=clock.now)
        session.add(revision)
        session.flush()
        for record, spec in zip(records, positions_of(page), strict=True):
            position = Position(
                model_id=model.id,
                revision_id=revision.id,
                key=spec.key,
                label=spec.label,
                kind=spec.kind.value,
                serviceability=spec.serviceability.value,
                ordered_unit=spec.ordered_unit,
            )
            session.add(position)
            session.flush()
            fits = [{"part_id": parts[upper(number)], "position_id": position.id} for number in dict.fromkeys(record["fits"] or ())]
            add_rows(session, Fits, [{**fit, "verdict": "yes", "reason": "listed in the import", "origin": "listed"} for fit in fits])


def _page_position(record: Record) -> dict[str, Any]:
    names = ("label", "kind", "serviceability", "ordered_unit")
    return {"key": record["position"], **{name: record[name] for name in names if record[name]}}


def _assets(session: Session, parsed: Parsed, known: Known) -> None:
    records = parsed.of("assets")
    rows, stays = [], []
    for identifier, r in zip(new_ids(session, Asset, len(records)), records, strict=True):
        columns = ("tag", "serial", "duty", "in_service_on", "retire_planned_on", "retired_on")
        model = known.models[upper(r["maker"]), upper(r["model"])]
        rows.append({"id": identifier, **{name: r[name] for name in columns}, "model_id": model.id, "options": {}})
        until = r["retired_on"] if r["retired_on"] != r["in_service_on"] else r["retired_on"] and r["retired_on"] + timedelta(days=1)
        stays.append(
            {"asset_id": identifier, "site_id": known.sites[upper(r["site"])].id, "from_on": r["in_service_on"], "until_on": until}
        )
    add_rows(session, Asset, rows)
    add_rows(session, AssetStay, stays)


def _site_of(session: Session) -> dict[int, tuple[int, date]]:
    """Latest site of each asset and the day its log began."""
    query = select(AssetStay.asset_id, Site.id, Site.log_began_on).join(Site, Site.id == AssetStay.site_id).order_by(AssetStay.from_on)
    return {asset: (site, began) for asset, site, began in session.execute(query)}


TenureKey = tuple[str, str, date | None]


def _tenures(session: Session, parsed: Parsed, known: Known, clock: Clock) -> dict[TenureKey, dict[str, Any]]:
    """Units and tenures; returns the ended ones by (tag, position, day removed)."""
    records = parsed.of("tenures")
    site_of = _site_of(session)
    units, rows, ended = [], [], {}
    identifiers = zip(new_ids(session, Unit, len(records)), new_ids(session, Tenure, len(records)), records, strict=True)
    for unit_id, tenure_id, r in identifiers:
        asset: KnownAsset = known.assets[upper(r["tag"])]
        part = known.parts[upper(r["part"])]
        site_id, began = site_of[asset.id]
        latest = r["fitted_until"] or r["fitted_on"]
        observed = max(latest, began)
        if r["removed_on"] is not None and observed > r["removed_on"]:
            observed = r["removed_on"]
        units.append({"id": unit_id, "part_id": part.id, "serial": r["serial"], "condition": "unknown", "received_on": r["fitted_on"]})
        row = {
            "id": tenure_id,
            "unit_id": unit_id,
            "part_id": part.id,
            "asset_id": asset.id,
            "model_id": known.models[asset.model].id,
            "position_id": known.positions[asset.model, upper(r["position"])].id,
            "fitted_on": r["fitted_on"],
            "removed_on": r["removed_on"],
            "age_at_fitting_days": r["age_at_fitting_days"] or 0,
            "as_delivered": False,
            "age_span_days": (min(latest, observed) - r["fitted_on"]).days,
            "observed_from": observed,
            "recorded_at": clock.now,
            "removal_recorded_at": clock.now if r["removed_on"] else None,
        }
        rows.append(row)
        if r["removed_on"]:
            ended[upper(r["tag"]), upper(r["position"]), r["removed_on"]] = {**row, "site_id": site_id}
    add_rows(session, Unit, units)
    add_rows(session, Tenure, rows)
    return ended


class _Shelves:
    """Ids of shelves, made as they are asked for."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._ids = {(shelf.part_id, shelf.site_id): shelf.id for shelf in session.scalars(select(Shelf))}

    def id_of(self, part_id: int, site_id: int) -> int:
        if (part_id, site_id) not in self._ids:
            shelf = Shelf(part_id=part_id, site_id=site_id)
            self._session.add(shelf)
            self._session.flush()
            self._ids[part_id, site_id] = shelf.id
        return self._ids[part_id, site_id]


def _incidents(
    session: Session,
    parsed: Parsed,
    known: Known,
    ended: dict[TenureKey, dict[str, Any]],
    shelves: _Shelves,
    clock: Clock,
    author_id: int | None,
) -> None:
    """Each row is an incident that took a part out; where another was fitted that day, it replaced it."""
    records = parsed.of("incidents")
    fitted = {(upper(r["tag"]), upper(r["position"]), r["fitted_on"]): upper(r["part"]) for r in parsed.of("tenures")}
    incidents, revisions, lines, moves = [], [], [], []
    identifiers = zip(new_ids(session, Incident, len(records)), new_ids(session, EventRevision, len(records)), records, strict=True)
    for incident_id, revision_id, r in identifiers:
        key = (upper(r["tag"]), upper(r["position"]), r["occurred_on"])
        tenure, finding = ended[key], Finding(r["finding"])
        new_part = known.parts[fitted[key]].id if key in fitted else None
        incidents.append(
            {
                "id": incident_id,
                "asset_id": tenure["asset_id"],
                "site_id": tenure["site_id"],
                "latest_number": 1,
                "occurred_on": r["occurred_on"],
                "is_open": finding is Finding.OPEN,
            }
        )
        revisions.append(
            {
                "id": revision_id,
                "incident_id": incident_id,
                "number": 1,
                "occurred_on": r["occurred_on"],
                "recorded_at": clock.now,
                "author_id": author_id,
                "reason": r["reason"],
                "finding": finding.value,
                "minutes": r["minutes"],
                "note": r["note"] or "",
                "last_good_on": r["last_good_on"],
            }
        )
        lines.append(
            {
                "revision_id": revision_id,
                "number": 1,
                "position_id": tenure["position_id"],
                "action": "replaced" if new_part else "removed",
                "finding": finding.value,
                "removed_tenure_id": tenure["id"],
                "removed_part_id": tenure["part_id"],
                "fitted_part_id": new_part,
            }
        )
        moves.append(
            {
                "shelf_id": shelves.id_of(tenure["part_id"], tenure["site_id"]),
                "bucket": REMOVED_TO[finding].value,
                "quantity": 1,
                "cause": "removed",
                "moved_on": r["occurred_on"],
                "recorded_at": clock.now,
                "author_id": author_id,
                "incident_id": incident_id,
            }
        )
    for table, rows in ((Incident, incidents), (EventRevision, revisions), (EventLine, lines), (StockMove, moves)):
        add_rows(session, table, rows)


def _stock(session: Session, parsed: Parsed, known: Known, shelves: _Shelves, clock: Clock, author_id: int | None) -> None:
    rows = [
        {
            "shelf_id": shelves.id_of(known.parts[upper(r["part"])].id, known.sites[upper(r["site"])].id),
            "bucket": Bucket.ON_HAND.value,
            "quantity": r["on_hand"],
            "cause": "opening",
            "made_on": r["made_on"],
            "moved_on": clock.today,
            "recorded_at": clock.now,
            "author_id": author_id,
        }
        for r in parsed.of("stock")
        if r["on_hand"] > 0
    ]
    add_rows(session, StockMove, rows)
