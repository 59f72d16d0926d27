"""Writing what a machine list says, and taking it back to the row."""

from __future__ import annotations

import json
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import date
from typing import Any, NamedTuple

from sqlalchemy.orm import Session

from almanac.services.answers.progress import each, tell
from almanac.services.clock import Clock
from almanac.services.errors import Fault, Refused
from almanac.services.fleet.acts import bring_back, move_back, move_machine, retire_machine
from almanac.services.intake.changes import Change, Group
from almanac.services.intake.machines.places import add_model, add_site, take_back
from almanac.services.intake.subject import WRITING, By, Kept
from almanac.store import catalog
from almanac.store import intake as store
from almanac.store.bulk import add_rows, new_ids
from almanac.store.models import Asset, AssetStay, Base, Intake, Tenure, Unit

AT_A_TIME = 5000


def write_machines(session: Session, changes: Sequence[Change], by: By) -> list[Kept]:
    """Write changes, new sites and models first; returns of each what it was, so that it can be undone."""
    clock = by.clock
    added = [add_site(session, one.values["site"], by) for one in changes if "code" in _of(one, "site")]
    models = {str(_of(one, "model")["key"]): add_model(session, _of(one, "model"), by) for one in changes if _of(one, "model")}
    added += [{"group": "new", "what": "model", "id": number} for number in models.values()]
    places = catalog.sites(session)
    sites, began = {site.code: site.id for site in places}, {site.id: site.log_began_on for site in places}
    new = [change for change in changes if change.group is Group.NEW and "tag" in change.values]
    kept = added + _add(session, [_numbered(change, models) for change in new], sites, began, clock)
    by_id = store.assets_locked(session, [change.record_id for change in changes if change.record_id is not None])
    stays = store.open_stays(session, list(by_id))
    holding = [(by_id[change.record_id], change.holds) for change in changes if change.record_id is not None and change.holds]
    at = {asset_id: stay.site_id for asset_id, stay in stays.items()}
    held = _deliver(
        session,
        [_Holding(asset.id, asset.model_id, asset.in_service_on, began[at[asset.id]], holds) for asset, holds in holding if asset.id in at],
        clock,
    )
    for change in each(changes, WRITING):
        if change.record_id is None:
            continue
        asset, stay = by_id[change.record_id], stays.get(change.record_id)
        if change.group is Group.MOVED:
            to = move_machine(session, asset, stay, sites[str(change.values["site"])], change.on or clock.today)
            kept.append(_kept(change, asset.id, left=stay.id if stay else None, stay=to.id))
        elif change.group is Group.GONE:
            left = retire_machine(session, asset, stay, change.on or clock.today, clock)
            kept.append(_kept(change, asset.id, stay=left.stay_id, tenures=left.tenures))
        else:
            before = {name: getattr(asset, name) for name in change.values}
            for name, value in change.values.items():
                setattr(asset, name, value)
            kept.append(_kept(change, asset.id, before=before, after=change.values, units=held.get(asset.id, [])))
    session.flush()
    return kept


def _of(change: Change, what: str) -> Mapping[str, Any]:
    found = change.values.get(what)
    return found if isinstance(found, Mapping) else {}


def _numbered(change: Change, models: Mapping[str, int]) -> Change:
    """A machine of a new model with the number that got."""
    model = change.values["model_id"]
    return change if isinstance(model, int) else replace(change, values={**change.values, "model_id": models[str(model)]})


def _kept(change: Change, asset_id: int, **more: Any) -> Kept:
    plain: Kept = json.loads(json.dumps({"group": change.group.value, "tag": change.subject, "asset_id": asset_id, **more}, default=str))
    return plain


def _add(session: Session, new: list[Change], sites: Mapping[str, int], began: Mapping[int, date], clock: Clock) -> list[Kept]:
    ids = new_ids(session, Asset, len(new))
    rows = [{"id": number, "options": {}, "retired_on": None, **change.values} for number, change in zip(ids, new, strict=True)]
    stays = [
        {"asset_id": number, "site_id": sites[str(change.site)], "from_on": change.on, "until_on": None}
        for number, change in zip(ids, new, strict=True)
    ]
    _add_rows(session, Asset, rows, "writing machines")
    _add_rows(session, AssetStay, stays, "writing where they stand")
    holding = [
        _Holding(number, change.values["model_id"], change.on, began[sites[str(change.site)]], change.holds)
        for number, change in zip(ids, new, strict=True)
        if change.on is not None
    ]
    held = _deliver(session, holding, clock)
    return [_kept(change, number, units=held.get(number, [])) for number, change in zip(ids, new, strict=True)]


class _Holding(NamedTuple):
    """A machine with what it was delivered with on its first day, (position, part), and the day its site's log began."""

    asset_id: int
    model_id: object
    since: date
    log_began: date
    holds: tuple[tuple[int, int], ...]


def _deliver(session: Session, machines: Sequence[_Holding], clock: Clock) -> dict[int, list[int]]:
    """Parts that machines were delivered with, in them since their first day; returns the units by machine.

    Where the log began later, what was delivered may have been replaced before it: the ages may be less by up to that.
    """
    pairs = [(one, position, part) for one in machines for position, part in one.holds]
    units, tenures = new_ids(session, Unit, len(pairs)), new_ids(session, Tenure, len(pairs))
    unit_rows, rows, found = [], [], defaultdict(list)
    for unit, tenure, (one, position, part) in zip(units, tenures, pairs, strict=True):
        found[one.asset_id].append(unit)
        watched = max(one.since, one.log_began)
        unit_rows.append({"id": unit, "part_id": part, "serial": None, "condition": "unknown", "received_on": one.since})
        rows.append(
            {
                "id": tenure, "unit_id": unit, "part_id": part, "asset_id": one.asset_id, "model_id": one.model_id,
                "position_id": position, "fitted_on": one.since, "removed_on": None, "age_at_fitting_days": 0,
                "age_span_days": (watched - one.since).days, "as_delivered": True, "observed_from": watched,
                "recorded_at": clock.now, "removal_recorded_at": None,
            }
        )  # fmt: skip
    _add_rows(session, Unit, unit_rows, "writing their parts")
    _add_rows(session, Tenure, rows, "writing since when their parts are in")
    return found


def _add_rows(session: Session, table: type[Base], rows: Sequence[dict[str, Any]], words: str) -> None:
    for start in range(0, len(rows), AT_A_TIME):
        tell(words, start, len(rows))
        add_rows(session, table, rows[start : start + AT_A_TIME])


def undo_machines(session: Session, row: Intake) -> list[str]:
    """Machines and sites as they were before a list; returns the models that stay.

    Raises
    ------
    Refused : something was done with its machines since
    """
    machines = [change for change in row.changes if "asset_id" in change]
    assets = store.assets_locked(session, [int(change["asset_id"]) for change in machines])
    used = store.used_since(session, [int(change["asset_id"]) for change in machines], row.recorded_at)
    if used:
        raise Refused(Fault("intake", f"of {', '.join(used[:5])} something was recorded since: correct these machines one by one"))
    for change in each(machines[::-1], "taking back"):
        _undo_one(session, assets[int(change["asset_id"])], change)
    new = [int(change["asset_id"]) for change in machines if change["group"] == Group.NEW.value]
    tell("taking machines and their parts off the record", 0, 1)
    store.forget_assets(session, new, [unit for change in machines for unit in change.get("units", [])])
    return take_back(session, [change for change in row.changes if "what" in change])


def _undo_one(session: Session, asset: Asset, change: Mapping[str, Any]) -> None:
    group = Group(change["group"])
    if group is Group.MOVED:
        move_back(session, change["stay"], change["left"])
    elif group is Group.GONE:
        bring_back(session, asset, change["stay"], change["tenures"])
    elif group is Group.CHANGED:
        for name, value in change["before"].items():
            setattr(asset, name, date.fromisoformat(value) if name.endswith("_on") and value else value)
    session.flush()
