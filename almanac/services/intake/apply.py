"""Looking at a list, applying its difference in one transaction, and undoing that as one."""

from __future__ import annotations

import hashlib
import json
from collections import defaultdict
from collections.abc import Mapping
from dataclasses import asdict, dataclass
from datetime import date
from typing import Any

from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session

from almanac.core.days import beyond_reason
from almanac.exchange.lists import NoList, read_list
from almanac.services.clock import Clock
from almanac.services.errors import Fault, NotFound, Refused, Stale
from almanac.services.intake.difference import Change, Difference, Gone, Group, ListDay, difference
from almanac.services.intake.record import delivered_with, machines_on_record, names_on_record
from almanac.services.intake.understand import Settled, Understood, understand
from almanac.store import catalog
from almanac.store import intake as store
from almanac.store.bulk import add_rows, new_ids
from almanac.store.models import Asset, AssetStay, Intake, ListSource, Tenure, Unit

LONGEST_NAME = 80


@dataclass(frozen=True)
class ListRequest:
    """A list as it is given. source : its name, under which what was settled is remembered · list_on : the day it was made"""

    source: str
    file_name: str
    content: bytes
    list_on: date
    settled: Settled


@dataclass(frozen=True)
class Looked:
    """A list as it is understood, and what it says beside the record. digest : of what would be done, and of nothing else"""

    understood: Understood
    difference: Difference
    settled: Settled
    before: date | None
    digest: str


def look_at(session: Session, request: ListRequest, *, clock: Clock) -> Looked:
    """What a list says beside the record; nothing is written.

    Raises
    ------
    Refused : a file that is no list, a day that cannot be, or columns that cannot be found
    """
    _check(request, clock)
    try:
        file = read_list(request.file_name, request.content)
    except NoList as error:
        raise Refused(Fault("file", str(error))) from error
    source = store.source_named(session, request.source)
    settled = _together(source.settled if source else {}, request.settled)
    understood = understand(file, names_on_record(session), settled)
    gone = Gone(settled.gone) if settled.gone else None
    delivered = delivered_with(session) if settled.delivered else None
    when = ListDay(request.list_on, source.last_list_on if source else None, gone, delivered)
    found = difference(understood.rows, machines_on_record(session), when)
    return Looked(understood, found, settled, when.before, _digest(found))


def _check(request: ListRequest, clock: Clock) -> None:
    faults = []
    if not request.source.strip() or len(request.source) > LONGEST_NAME:
        faults.append(Fault("source", f"a name for where the list comes from was wanted, of up to {LONGEST_NAME} letters"))
    if request.list_on > clock.today:
        faults.append(Fault("list_on", "a list of the future was given: say the day it was made"))
    elif wrong := beyond_reason(request.list_on):
        faults.append(Fault("list_on", wrong))
    if request.settled.gone is not None and request.settled.gone not in set(Gone):
        faults.append(Fault("gone", f"one of {', '.join(Gone)} was wanted, got {request.settled.gone}"))
    if faults:
        raise Refused(*faults)


def _together(kept: Mapping[str, Any], said: Settled) -> Settled:
    """What was remembered of a source, and what is said now: that wins."""
    names = {name: dict(own) for name, own in dict(kept.get("names", {})).items()}
    for name, own in said.names.items():
        names[name] = {**names.get(name, {}), **own}
    return Settled(
        sheet=said.sheet or kept.get("sheet"),
        columns={**dict(kept.get("columns", {})), **said.columns},
        day_first=said.day_first if said.day_first is not None else kept.get("day_first"),
        names=names,
        gone=said.gone or kept.get("gone"),
        delivered=said.delivered if said.delivered is not None else kept.get("delivered"),
    )


def _digest(found: Difference) -> str:
    plain = [asdict(change) for change in found.done]
    return hashlib.blake2b(json.dumps(plain, default=str, sort_keys=True).encode(), digest_size=16).hexdigest()


def apply_list(session: Session, request: ListRequest, digest: str, *, clock: Clock, author_id: int | None) -> int:
    """Write what a list says, in the caller's transaction; returns the number of the intake.

    Raises
    ------
    Refused : something is still to be settled, or nothing would be done · Stale : it would do something else than was looked at
    """
    looked = look_at(session, request, clock=clock)
    if looked.digest != digest:
        raise Stale("the record or the list changed meanwhile: look at the difference again")
    waits = looked.understood.questions or looked.difference.open_gone or looked.understood.asks_order
    if waits:
        raise Refused(Fault("settled", "something is still to be settled: answer every question first"))
    source = store.source_named(session, request.source)
    if source is None:
        source = ListSource(name=request.source.strip(), settled={})
        session.add(source)
    source.settled, source.last_list_on = asdict(looked.settled), request.list_on
    session.flush()
    changes = _write(session, looked.difference.done, clock)
    row = Intake(
        source_id=source.id,
        file_name=request.file_name,
        list_on=request.list_on,
        counts=looked.difference.counts(),
        changes=changes,
        recorded_at=clock.now,
        author_id=author_id,
    )
    session.add(row)
    session.flush()
    return row.id


def _write(session: Session, changes: list[Change], clock: Clock) -> list[dict[str, Any]]:
    """Write changes; returns of each what it was, so that it can be undone."""
    sites = {site.code: site.id for site in catalog.sites(session)}
    new = [change for change in changes if change.group is Group.NEW]
    kept = _add(session, new, sites, clock)
    by_id = store.assets_locked(session, [change.asset_id for change in changes if change.asset_id is not None])
    stays = store.open_stays(session, list(by_id))
    for change in changes:
        if change.asset_id is None:
            continue
        asset, stay = by_id[change.asset_id], stays.get(change.asset_id)
        if change.group is Group.MOVED:
            kept.append(_move(session, asset, stay, change, sites))
        elif change.group is Group.GONE:
            kept.append(_retire(session, asset, stay, change, clock))
        else:
            before = {name: getattr(asset, name) for name in change.values}
            for name, value in change.values.items():
                setattr(asset, name, value)
            kept.append(_kept(change, asset.id, before=before, after=change.values))
    session.flush()
    return kept


def _kept(change: Change, asset_id: int, **more: Any) -> dict[str, Any]:
    plain: dict[str, Any] = json.loads(
        json.dumps({"group": change.group.value, "tag": change.tag, "asset_id": asset_id, **more}, default=str)
    )
    return plain


def _add(session: Session, new: list[Change], sites: Mapping[str, int], clock: Clock) -> list[dict[str, Any]]:
    ids = new_ids(session, Asset, len(new))
    rows = [{"id": number, "options": {}, "retired_on": None, **change.values} for number, change in zip(ids, new, strict=True)]
    stays = [
        {"asset_id": number, "site_id": sites[str(change.site)], "from_on": change.on, "until_on": None}
        for number, change in zip(ids, new, strict=True)
    ]
    add_rows(session, Asset, rows)
    add_rows(session, AssetStay, stays)
    held = _deliver(session, list(zip(ids, new, strict=True)), clock)
    return [_kept(change, number, units=held.get(number, [])) for number, change in zip(ids, new, strict=True)]


def _deliver(session: Session, new: list[tuple[int, Change]], clock: Clock) -> dict[int, list[int]]:
    """Parts that new machines were delivered with, in them since their first day; returns the units by machine."""
    pairs = [(number, change, position, part) for number, change in new for position, part in change.holds]
    units, tenures = new_ids(session, Unit, len(pairs)), new_ids(session, Tenure, len(pairs))
    unit_rows, rows, found = [], [], defaultdict(list)
    for unit, tenure, (number, change, position, part) in zip(units, tenures, pairs, strict=True):
        found[number].append(unit)
        unit_rows.append({"id": unit, "part_id": part, "serial": None, "condition": "unknown", "received_on": change.on})
        rows.append(
            {
                "id": tenure, "unit_id": unit, "part_id": part, "asset_id": number, "model_id": change.values["model_id"],
                "position_id": position, "fitted_on": change.on, "removed_on": None, "age_at_fitting_days": 0,
                "observed_from": change.on, "recorded_at": clock.now, "removal_recorded_at": None,
            }
        )  # fmt: skip
    add_rows(session, Unit, unit_rows)
    add_rows(session, Tenure, rows)
    return found


def _move(session: Session, asset: Asset, stay: AssetStay | None, change: Change, sites: Mapping[str, int]) -> dict[str, Any]:
    if stay is not None:
        stay.until_on = change.on
        session.flush()
    assert change.on is not None
    to = AssetStay(asset_id=asset.id, site_id=sites[str(change.values["site"])], from_on=change.on, until_on=None)
    session.add(to)
    session.flush()
    return _kept(change, asset.id, left=stay.id if stay else None, stay=to.id)


def _retire(session: Session, asset: Asset, stay: AssetStay | None, change: Change, clock: Clock) -> dict[str, Any]:
    """A machine leaves with what it holds: its parts' lives end with it, and nothing failed."""
    asset.retired_on = change.on
    if stay is not None:
        stay.until_on = change.on
    held = list(session.scalars(select(Tenure).where(Tenure.asset_id == asset.id, Tenure.removed_on.is_(None))))
    ended = [tenure for tenure in held if change.on is not None and tenure.fitted_on <= change.on]
    for tenure in ended:
        tenure.removed_on, tenure.removal_recorded_at = change.on, clock.now
    return _kept(change, asset.id, stay=stay.id if stay else None, tenures=[tenure.id for tenure in ended])


def undo_list(session: Session, intake_id: int, *, clock: Clock, author_id: int) -> int:
    """Undo a list as one; returns how many machines are as they were.

    Raises
    ------
    NotFound : no such intake · Refused : undone already, a later one of its source stands, or something was done with its machines since
    """
    row = session.get(Intake, intake_id)
    if row is None:
        raise NotFound(f"there is no list {intake_id}")
    if row.undone_at is not None:
        raise Refused(Fault("intake", "it was undone already"))
    if store.later_standing(session, row):
        raise Refused(Fault("intake", "a later list of this source stands: undo that first"))
    assets = store.assets_locked(session, [int(change["asset_id"]) for change in row.changes])
    used = store.used_since(session, row)
    if used:
        raise Refused(Fault("intake", f"of {', '.join(used[:5])} something was recorded since: correct these machines one by one"))
    for change in reversed(row.changes):
        _undo_one(session, assets[int(change["asset_id"])], change)
    new = [change for change in row.changes if change["group"] == Group.NEW.value]
    store.forget_assets(session, [int(change["asset_id"]) for change in new], [unit for change in new for unit in change.get("units", [])])
    row.undone_at, row.undone_by_id = clock.now, author_id
    source = session.get(ListSource, row.source_id)
    assert source is not None
    source.last_list_on = store.last_standing_day(session, row.source_id)
    session.flush()
    return len(row.changes)


def _undo_one(session: Session, asset: Asset, change: Mapping[str, Any]) -> None:
    group = Group(change["group"])
    if group is Group.MOVED:
        session.execute(delete(AssetStay).where(AssetStay.id == change["stay"]))
        session.execute(update(AssetStay).where(AssetStay.id == change["left"]).values(until_on=None))
    elif group is Group.GONE:
        asset.retired_on = None
        session.execute(update(AssetStay).where(AssetStay.id == change["stay"]).values(until_on=None))
        session.execute(update(Tenure).where(Tenure.id.in_(change["tenures"])).values(removed_on=None, removal_recorded_at=None))
    elif group is Group.CHANGED:
        for name, value in change["before"].items():
            setattr(asset, name, date.fromisoformat(value) if name.endswith("_on") and value else value)
    session.flush()
