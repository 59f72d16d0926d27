"""Keeping a machine up: its serial, use and day of retirement, where it stands, that it left, that it did not."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from sqlalchemy.orm import Session

from almanac.core.days import beyond_reason
from almanac.core.parts.kinds import Duty
from almanac.services.change_log import Field, in_words, note_changes
from almanac.services.clock import Clock
from almanac.services.errors import Fault, NotFound, Refused, Stale
from almanac.services.fleet.acts import bring_back, move_machine, retire_machine
from almanac.services.words import day
from almanac.store import catalog, changes, machines
from almanac.store.models import Asset, AssetStay

WORDS = {"serial": "serial", "duty": "use", "retire_planned_on": "to be retired on"}
LONGEST_SERIAL = 60


@dataclass(frozen=True)
class MachineEdit:
    """A machine as it should be."""

    serial: str | None
    duty: str
    retire_planned_on: date | None


@dataclass(frozen=True)
class By:
    """Who changes it, when, and how many changes of it they had seen."""

    clock: Clock
    author_id: int
    expected_changes: int


def subject_of(asset: Asset) -> str:
    """Under which its changes are on record."""
    return f"machine {asset.tag}"


def _locked(session: Session, tag: str, by: By) -> tuple[Asset, AssetStay | None]:
    found = machines.locked(session, tag)
    if found is None:
        raise NotFound(f"no machine has the tag {tag}")
    if changes.count_of(session, subject_of(found[0])) != by.expected_changes:
        raise Stale("this machine was changed meanwhile: read it again, then decide")
    return found


def _note(session: Session, asset: Asset, fields: list[Field], by: By) -> int:
    return note_changes(session, subject_of(asset), fields, clock=by.clock, author_id=by.author_id)


def edit_machine(session: Session, tag: str, wanted: MachineEdit, by: By) -> int:
    """Make a machine what it should be; returns how many fields were changed.

    Raises
    ------
    NotFound : no such machine · Stale : it was changed meanwhile · Refused : what cannot be, each with its place
    """
    asset, _ = _locked(session, tag, by)
    serial = (wanted.serial or "").strip() or None
    faults = []
    if serial is not None and len(serial) > LONGEST_SERIAL:
        faults.append(Fault("serial", f"up to {LONGEST_SERIAL} letters were wanted"))
    if serial is not None and (other := machines.with_serial(session, serial, asset.id)) is not None:
        faults.append(Fault("serial", f"{other} has this serial: read the label again"))
    if wanted.duty not in set(Duty):
        faults.append(Fault("duty", f"one of {', '.join(Duty)} was wanted"))
    planned = wanted.retire_planned_on
    if planned is not None and planned < asset.in_service_on:
        faults.append(Fault("retire_planned_on", f"it went into service on {day(asset.in_service_on)}, after {day(planned)}"))
    elif planned is not None and (wrong := beyond_reason(planned)):
        faults.append(Fault("retire_planned_on", wrong))
    if faults:
        raise Refused(*faults)
    before = {name: in_words(getattr(asset, name)).replace("_", " ") for name in WORDS}
    asset.serial, asset.duty, asset.retire_planned_on = serial, wanted.duty, planned
    fields = [(words, before[name], in_words(getattr(asset, name)).replace("_", " ")) for name, words in WORDS.items()]
    return _note(session, asset, fields, by)


def send_machine(session: Session, tag: str, site_code: str, on: date, by: By) -> None:
    """It stands at another site from a day on.

    Raises
    ------
    NotFound : no such machine · Stale : it was changed meanwhile · Refused : no such site, where it stands already, or a day that cannot be
    """
    asset, stay = _locked(session, tag, by)
    sites = {site.code: site for site in catalog.sites(session)}
    site = sites.get(site_code.upper())
    faults = _day_faults(asset, stay, on, by.clock)
    if site is None:
        faults.append(Fault("site", f"no site has the code {site_code or '(empty)'}"))
    elif stay is not None and stay.site_id == site.id:
        faults.append(Fault("site", f"it stands at {site.name} already"))
    if asset.retired_on is not None:
        faults.append(Fault("on", f"it was retired on {day(asset.retired_on)}: bring it back first"))
    if faults or site is None:
        raise Refused(*faults)
    was = next((one.name for one in sites.values() if stay is not None and one.id == stay.site_id), "nowhere on record")
    move_machine(session, asset, stay, site.id, on)
    _note(session, asset, [(f"stands since {day(on)} at", was, site.name)], by)


def _day_faults(asset: Asset, stay: AssetStay | None, on: date, clock: Clock) -> list[Fault]:
    since = max(asset.in_service_on, stay.from_on if stay is not None else asset.in_service_on)
    if on > clock.today:
        return [Fault("on", f"{day(on)} is in the future: today is {day(clock.today)}")]
    return [Fault("on", f"it stands where it stands since {day(since)}: a later day was wanted")] if on <= since else []


def retire(session: Session, tag: str, on: date, by: By) -> None:
    """It leaves with what it holds.

    Raises
    ------
    NotFound : no such machine · Stale : it was changed meanwhile · Refused : retired already, a job is open on it, or a day that cannot be
    """
    asset, stay = _locked(session, tag, by)
    faults = _day_faults(asset, stay, on, by.clock)
    if asset.retired_on is not None:
        faults = [Fault("on", f"it was retired on {day(asset.retired_on)}")]
    elif machines.is_busy(session, asset.id):
        faults.append(Fault("on", "a job is open on it: close that first"))
    if faults:
        raise Refused(*faults)
    retire_machine(session, asset, stay, on, by.clock)
    _note(session, asset, [("retired", "in use", day(on))], by)


def reinstate(session: Session, tag: str, by: By) -> None:
    """It never left: its retirement was a mistake, and what it held is in it again.

    Raises
    ------
    NotFound : no such machine · Stale : it was changed meanwhile · Refused : it is in use
    """
    asset, _ = _locked(session, tag, by)
    if asset.retired_on is None:
        raise Refused(Fault("tag", "it is in use"))
    was = asset.retired_on
    gone = [("disposed", in_words(asset.disposal), "in use")] if asset.disposal is not None else []
    asset.disposed_on = asset.disposal = None
    bring_back(session, asset, machines.last_stay(session, asset.id), machines.ended_with(session, asset.id, was))
    _note(session, asset, [*gone, ("retired", day(was), "in use")], by)
