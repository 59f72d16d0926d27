"""A machine reports by itself: what it says becomes serials, readings and parts on record; what is on record otherwise is a question."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import asdict, dataclass, field
from datetime import date, datetime, timedelta
from typing import Any

from sqlalchemy.orm import Session

from almanac.core.workbench.heard import SIZES, Held, Kept, kept, size_of
from almanac.core.workbench.met import Empty, met, missing
from almanac.core.workbench.reported import Reported
from almanac.exchange.reports.read import Found, ReportFault, read_report
from almanac.services.clock import Clock
from almanac.services.errors import Fault, NotFound, Refused
from almanac.services.readings import ReadingRequest, add_reading
from almanac.services.words import day
from almanac.store import reports as store
from almanac.store.models import Asset, MachineReport, ReportQuestion, Tenure, Unit
from almanac.store.units import by_serial

READ_EVERY = timedelta(days=7)
"""A part is read so often at most, however often its machine reports: wear is a matter of months."""
LONGEST_NAME = 60
AHEAD = timedelta(days=1)


@dataclass(frozen=True)
class Sender:
    """What a machine calls itself, and when it wrote its report; None is now."""

    tag: str
    serial: str
    at: datetime | None


@dataclass(frozen=True)
class Taken:
    """What became of a report. tag : of the machine it was known as, None of one that is not on record · written : in words

    asked : questions that are open of it now · missed : what of it was not understood · again : it had come before, nothing was done
    """

    tag: str | None
    written: list[str] = field(default_factory=list)
    asked: list[str] = field(default_factory=list)
    missed: list[str] = field(default_factory=list)
    again: bool = False


@dataclass(frozen=True)
class By:
    """When a report came, by whose key. clock : of the company, whose day may be fixed · moment : of the real clock"""

    clock: Clock
    moment: datetime
    author_id: int


def take_machine_report(session: Session, sender: Sender, text: str, by: By) -> Taken:
    """Take a machine's report; the same one again changes nothing, one of before the last adds only what it read then.

    Raises
    ------
    Refused : it says nothing that is understood, names no machine or two, or comes from the future
    """
    found = _understood(text)
    at = _moment(sender, by)
    asset = _machine(session, sender)
    if asset is not None and at.date() < asset.in_service_on:
        words = f"{day(at.date())} is before {asset.tag} went into service on {day(asset.in_service_on)}: set the machine's clock"
        raise Refused(Fault("at", words))
    digest = hashlib.sha256(text.encode()).hexdigest()
    name = None if asset else (sender.tag or sender.serial)
    before = store.report_of(session, asset.id if asset else None, name)
    if before is not None and (before.reported_at, before.digest) == (at, digest):
        return _as_it_was(session, asset, before)
    newest = before is None or at >= before.reported_at
    if asset is None:
        _keep(session, before, newest, MachineReport(calls_itself=name, **_row(found, at, digest, by)))
        return Taken(None, missed=list(found.missed))
    written, asked = _written(session, asset, found.report, min(at.date(), by.clock.today), newest=newest, by=by)
    if newest:
        _ask(session, asset, asked, same=before is not None and before.said == _said(found), by=by)
    _keep(session, before, newest, MachineReport(asset_id=asset.id, **_row(found, at, digest, by)))
    session.flush()
    return Taken(asset.tag, written, _open(session, asset.id), list(found.missed))


def settle(session: Session, question_id: int, reason: str, by: By) -> None:
    """It is as on record, whatever the machine says: the same words are not asked again.

    Raises
    ------
    NotFound : no such question is open · Refused : no reason
    """
    row = session.get(ReportQuestion, question_id, with_for_update=True)
    if row is None or row.settled_at is not None:
        raise NotFound(f"no question with the number {question_id} is open")
    if not reason.strip():
        raise Refused(Fault("reason", "why it is as on record was wanted: somebody will ask"))
    row.settled_at, row.settled_by_id, row.answer, row.reason = by.clock.now, by.author_id, "as_on_record", reason.strip()


def _understood(text: str) -> Found:
    try:
        return read_report(text)
    except ReportFault as error:
        raise Refused(Fault("body", str(error))) from error


def _moment(sender: Sender, by: By) -> datetime:
    if sender.at is None:
        return by.clock.now
    if sender.at.tzinfo is None:
        raise Refused(Fault("at", "a moment with its time zone was wanted, such as 2026-11-02T03:00:00Z"))
    if sender.at > by.moment + AHEAD:
        raise Refused(Fault("at", f"{day(sender.at.date())} is to come: set the machine's clock"))
    return sender.at


def _machine(session: Session, sender: Sender) -> Asset | None:
    faults = [
        Fault(name, f"up to {LONGEST_NAME} letters were wanted") for name in ("tag", "serial") if len(getattr(sender, name)) > LONGEST_NAME
    ]
    if not sender.tag and not sender.serial:
        faults.append(Fault("tag", "the machine's tag or its serial was wanted"))
    if faults:
        raise Refused(*faults)
    by_tag, of_serial = store.machine_locked(session, tag=sender.tag, serial=sender.serial)
    if by_tag is not None and of_serial is not None and by_tag.id != of_serial.id:
        raise Refused(Fault("serial", f"it calls itself {by_tag.tag}, and its serial is on record of {of_serial.tag}: nothing was written"))
    return by_tag or of_serial


def _written(session: Session, asset: Asset, report: Reported, on: date, *, newest: bool, by: By) -> tuple[list[str], list[str]]:
    """Write what a report says of the parts that were in the machine then; returns that in words, and what it contradicts."""
    if asset.retired_on is not None and on >= asset.retired_on:
        return [], [f"it was retired on {day(asset.retired_on)} and reports: is it in use again?"]
    written = _meet(session, asset, report, by) if newest else []
    rows = {position.key: (tenure, unit) for tenure, position, _, unit in store.held_on(session, asset.id, on)}
    held = _held(session, asset.id, on)
    found = kept(held, report)
    labels = {part.position: part.label for part in held}
    doubts = []
    for key, serial in found.serials.items():
        if by_serial(session, serial) is None:
            rows[key][1].serial = serial
            written.append(f"{labels[key]}: serial {serial}")
        else:
            doubts.append(f"{labels[key]} says serial {serial}, which is on record of another part: was it changed without a record?")
    written += _read(session, asset, found, {key: tenure for key, (tenure, _) in rows.items()}, labels, on, by)
    unrecorded = {place.kind for place in store.empty_places(session, asset, [kind.value for kind in SIZES])}
    return written, [*found.otherwise, *missing(held, report, unrecorded=unrecorded), *doubts]


def _read(session: Session, asset: Asset, found: Kept, tenures: dict[str, Tenure], labels: dict[str, str], on: date, by: By) -> list[str]:
    written = []
    for key, (full, design) in found.readings.items():
        if store.read_near(session, tenures[key].id, on, READ_EVERY):
            continue
        request = ReadingRequest(asset.tag, key, on, full, design, found.cycles.get(key))
        add_reading(session, request, clock=by.clock, author_id=by.author_id)
        written.append(f"{labels[key]}: {full / design:.0%} of what it was made for")
    return written


def _held(session: Session, asset_id: int, on: date) -> list[Held]:
    return [
        Held(position.key, position.label, part.kind, size_of(part.kind, part.facts), unit.serial or "")
        for _, position, part, unit in store.held_on(session, asset_id, on)
        if part.kind in SIZES
    ]


def _meet(session: Session, asset: Asset, report: Reported, by: By) -> list[str]:
    """Put on record what the machine says is in places of which nothing ever was: in it since its first day, as far as the log tells."""
    places = store.empty_places(session, asset, [kind.value for kind in SIZES])
    if not places:
        return []
    fitting = store.parts_for(session, [place.position_id for place in places])
    empty = [
        Empty(
            place.key,
            place.label,
            place.kind,
            place.never,
            {part.number: size_of(part.kind, part.facts) for part in fitting.get(place.position_id, []) if part.kind == place.kind},
        )
        for place in places
    ]
    found = met(_held(session, asset.id, by.clock.today), empty, report)
    for place in places:
        if place.key in found:
            part = next(part for part in fitting[place.position_id] if part.number == found[place.key])
            _fit(session, asset, place, part.id, by)
    session.flush()
    return [f"{place.label}: {found[place.key]}, of which nothing was on record" for place in places if place.key in found]


def _fit(session: Session, asset: Asset, place: store.PlaceRow, part_id: int, by: By) -> None:
    since = asset.in_service_on
    watched = max(since, store.log_began(session, asset.id) or since)
    unit = Unit(part_id=part_id, condition="unknown", received_on=since)
    session.add(unit)
    session.flush()
    session.add(
        Tenure(
            unit_id=unit.id,
            part_id=part_id,
            asset_id=asset.id,
            model_id=asset.model_id,
            position_id=place.position_id,
            fitted_on=since,
            age_span_days=(watched - since).days,
            as_delivered=True,
            observed_from=watched,
            recorded_at=by.clock.now,
        )
    )


def _ask(session: Session, asset: Asset, asked: Sequence[str], *, same: bool, by: By) -> None:
    """Ask what the record contradicts; what is not said any more is settled. same : the machine says what it said before"""
    today = by.clock.today
    earlier = store.questions_of(session, asset.id)
    for row in earlier:
        if row.settled_at is None and row.words not in asked:
            row.settled_at, row.answer = by.clock.now, "recorded" if same else "no_longer"
        elif row.settled_at is None:
            row.said_last_on = today
    settled = {row.words for row in earlier if row.settled_at is None or row.answer == "as_on_record"}
    session.add_all(
        ReportQuestion(asset_id=asset.id, words=words, raised_on=today, said_last_on=today)
        for words in dict.fromkeys(asked)
        if words not in settled
    )


def _open(session: Session, asset_id: int) -> list[str]:
    return [row.words for row in store.questions_of(session, asset_id) if row.settled_at is None]


def _as_it_was(session: Session, asset: Asset | None, before: MachineReport) -> Taken:
    open_now = _open(session, asset.id) if asset else []
    return Taken(asset.tag if asset else None, asked=open_now, missed=[str(words) for words in before.missed], again=True)


def _said(found: Found) -> dict[str, Any]:
    return {key: _plain(value) for key, value in asdict(found.report).items()}


def _plain(value: Any) -> Any:
    return [_plain(item) for item in value] if isinstance(value, tuple | list) else value


def _row(found: Found, at: datetime, digest: str, by: By) -> dict[str, Any]:
    return {"reported_at": at, "received_at": by.clock.now, "digest": digest, "said": _said(found), "missed": list(found.missed)}


def _keep(session: Session, before: MachineReport | None, newest: bool, row: MachineReport) -> None:
    """The latest report takes the place of the one before."""
    if before is None:
        session.add(row)
    elif newest:
        before.reported_at, before.received_at, before.digest = row.reported_at, row.received_at, row.digest
        before.said, before.missed = row.said, row.missed
