"""Recording an incident: machine, shelf and log change together or not at all."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from typing import Protocol

from sqlalchemy.orm import Session

from almanac.core.life.outcomes import REMOVED_TO, Bucket, Finding
from almanac.services.clock import Clock
from almanac.services.errors import Fault, NeedsConfirmation, Refused
from almanac.services.words import day
from almanac.store import assets, catalog, incidents, shelves
from almanac.store.models import Asset, EventLine, EventRevision, Incident, Part, Position, Site, StockMove, Tenure, Unit


@dataclass(frozen=True)
class LineRequest:
    """What was done at one position: `replaced` with a part from a shelf, `removed` without one, or `kept`."""

    position_id: int
    action: str
    part_number: str | None = None
    shelf_site: str | None = None
    serial: str | None = None
    finding: str | None = None


@dataclass(frozen=True)
class IncidentRequest:
    """An incident as a person reports it. `confirmed` names the questions already answered with yes."""

    tag: str
    occurred_on: date
    reason: str
    finding: str
    lines: list[LineRequest]
    minutes: int | None = None
    note: str = ""
    confirmed: frozenset[str] = frozenset()


@dataclass(frozen=True)
class _Line:
    """A line whose names were found."""

    place: int
    request: LineRequest
    position: Position
    finding: Finding
    tenure: Tenure | None
    part: Part | None
    site: Site | None


def record_incident(session: Session, request: IncidentRequest, *, clock: Clock, author_id: int) -> int:
    """Write an incident with its first revision and carry out what it did; returns the incident's id.

    Raises
    ------
    Refused : with a fault for each thing that is wrong · NeedsConfirmation : unusual, to be asked first
    """
    asset = _asset(session, request, clock)
    site = assets.site_on(session, asset.id, request.occurred_on)
    if site is None:
        raise Refused(Fault("occurred_on", f"{asset.tag} stood at no site on {day(request.occurred_on)}: correct its stays first"))
    lines = _find(session, asset, request)
    _check_stock(session, lines)
    _ask(session, asset, request, lines)
    incident = Incident(
        asset_id=asset.id, site_id=site.id, latest_number=1, occurred_on=request.occurred_on, is_open=request.finding == Finding.OPEN
    )
    session.add(incident)
    session.flush()
    revision = add_revision(session, incident.id, 1, request, clock=clock, author_id=author_id)
    for line in lines:
        _carry_out(session, asset, site, line, revision, clock)
    session.flush()
    return incident.id


class Account(Protocol):
    """What somebody says of an incident, the first time or later."""

    @property
    def occurred_on(self) -> date: ...
    @property
    def reason(self) -> str: ...
    @property
    def finding(self) -> str: ...
    @property
    def minutes(self) -> int | None: ...
    @property
    def note(self) -> str: ...


def add_revision(session: Session, incident_id: int, number: int, account: Account, *, clock: Clock, author_id: int) -> EventRevision:
    """Append what is said of an incident now; nothing said before is touched."""
    revision = EventRevision(
        incident_id=incident_id,
        number=number,
        occurred_on=account.occurred_on,
        recorded_at=clock.now,
        author_id=author_id,
        reason=account.reason.strip(),
        finding=account.finding,
        minutes=account.minutes,
        note=account.note.strip(),
    )
    session.add(revision)
    session.flush()
    return revision


def account_faults(account: Account, clock: Clock) -> list[Fault]:
    """What is wrong with an account whatever it is of."""
    faults = []
    if account.occurred_on > clock.today:
        faults.append(Fault("occurred_on", f"{day(account.occurred_on)} is in the future: today is {day(clock.today)}"))
    if not account.reason.strip():
        faults.append(Fault("reason", "say what was noticed, in a few words"))
    return faults


def _asset(session: Session, request: IncidentRequest, clock: Clock) -> Asset:
    asset = assets.asset_by_tag(session, request.tag, lock=True)
    if asset is None:
        raise Refused(Fault("tag", f"no asset has the tag {request.tag.strip() or '(empty)'}: check the label, or import the asset first"))
    faults = account_faults(request, clock)
    if request.occurred_on < asset.in_service_on:
        faults.append(Fault("occurred_on", f"{asset.tag} went into service on {day(asset.in_service_on)}: the incident cannot be earlier"))
    if asset.retired_on and request.occurred_on > asset.retired_on:
        faults.append(Fault("occurred_on", f"{asset.tag} was retired on {day(asset.retired_on)}: the incident cannot be later"))
    if not request.lines:
        faults.append(Fault("lines", "name at least one position"))
    if faults:
        raise Refused(*faults)
    return asset


def _find(session: Session, asset: Asset, request: IncidentRequest) -> list[_Line]:
    """Resolve every line; all faults are reported, not only the first."""
    positions = {position.id: position for position in assets.positions_of_model(session, asset.model_id)}
    tenures = assets.open_tenures(session, asset.id)
    sites = {site.code: site for site in catalog.sites(session)}
    faults: list[Fault] = []
    found: list[_Line] = []
    seen: set[int] = set()
    for place, line in enumerate(request.lines):
        position = positions.get(line.position_id)
        if position is None or position.id in seen:
            reason = "is named twice" if position else f"is not a position of {asset.tag}'s model"
            faults.append(Fault(f"lines.{place}.position_id", f"this position {reason}: choose another"))
            continue
        seen.add(position.id)
        tenure = tenures[position.id][0] if position.id in tenures else None
        part = assets.part_by_number(session, line.part_number) if line.part_number else None
        site = sites.get(line.shelf_site or "")
        faults += _line_faults(session, asset, request, place, line, (position, tenure, part, site))
        found.append(_Line(place, line, position, Finding(line.finding or request.finding), tenure, part, site))
    if faults:
        raise Refused(*faults)
    return found


def _line_faults(
    session: Session,
    asset: Asset,
    request: IncidentRequest,
    place: int,
    line: LineRequest,
    named: tuple[Position, Tenure | None, Part | None, Site | None],
) -> list[Fault]:
    position, tenure, part, site = named
    faults = []
    if line.action == "replaced":
        if part is None:
            faults.append(Fault(f"lines.{place}.part_number", f"no part has the number {line.part_number or '(empty)'}"))
        if site is None:
            faults.append(Fault(f"lines.{place}.shelf_site", "choose the shelf the part came from"))
        if part is not None:
            faults += _fit_faults(session, request, place, position, part)
    if tenure is not None and line.action != "kept" and request.occurred_on < tenure.fitted_on:
        faults.append(
            Fault(
                "occurred_on",
                f"{position.label} was fitted on {day(tenure.fitted_on)}: it cannot come out before, on that day or later",
            )
        )
    later = assets.tenure_ending_after(session, asset.id, position.id, request.occurred_on)
    if later is not None and later.removed_on is not None and line.action != "kept":
        faults.append(
            Fault("occurred_on", f"{position.label} was already changed on {day(later.removed_on)}: record incidents in order of day")
        )
    return faults


def _fit_faults(session: Session, request: IncidentRequest, place: int, position: Position, part: Part) -> list[Fault]:
    verdicts = {fitting.id: fits for fits, fitting in assets.fits_of(session, [position.id]).get(position.id, [])}
    fits = verdicts.get(part.id)
    field = f"lines.{place}.part_number"
    if fits is not None and fits.verdict == "no":
        return [Fault(field, f"{part.number} does not fit {position.label}: {fits.reason}")]
    if part.kind != position.kind and fits is None:
        return [Fault(field, f"{part.number} is a part of kind {part.kind}; {position.label} takes {position.kind}")]
    if (fits is None or fits.verdict == "unknown") and "fit" not in request.confirmed:
        reason = fits.reason if fits else "nobody has listed it for this position"
        raise NeedsConfirmation("fit", f"Whether {part.number} fits {position.label} is not known: {reason}. Was it fitted all the same?")
    return []


def _check_stock(session: Session, lines: list[_Line]) -> None:
    """No shelf gives more than it holds; the shelves are locked so that two people cannot take the same last part."""
    wanted: dict[tuple[int, int], list[_Line]] = {}
    for line in sorted((line for line in lines if line.part and line.site), key=lambda line: (line.part.id, line.site.id)):  # type: ignore[union-attr]
        wanted.setdefault((line.part.id, line.site.id), []).append(line)  # type: ignore[union-attr]
    faults = []
    for (part_id, site_id), takers in wanted.items():
        held = shelves.balance(session, shelves.shelf_for_update(session, part_id, site_id).id)
        for line in takers[max(held, 0) :]:
            assert line.part is not None and line.site is not None
            held_and_asked = f"{line.site.name} holds {held} of {line.part.number}, {len(takers)} asked for"
            message = f"{held_and_asked}: choose another shelf, or count the shelf first"
            faults.append(Fault(f"lines.{line.place}.shelf_site", message))
    if faults:
        raise Refused(*faults)


def _ask(session: Session, asset: Asset, request: IncidentRequest, lines: list[_Line]) -> None:
    if "duplicate" in request.confirmed:
        return
    known = incidents.same_day_incident(session, asset.id, [line.position.id for line in lines], request.occurred_on)
    if known is not None:
        message = f"Incident {known} already covers this position of {asset.tag} on {day(request.occurred_on)}. Record a second one?"
        raise NeedsConfirmation("duplicate", message, {"incident_id": str(known)})


def _carry_out(session: Session, asset: Asset, site: Site, line: _Line, revision: EventRevision, clock: Clock) -> None:
    """End the old tenure, begin the new one, write the stock moves and the line."""
    removed = line.tenure if line.request.action != "kept" else None
    if removed is not None:
        removed.removed_on, removed.removal_recorded_at = revision.occurred_on, clock.now
        session.flush()
    fitted = _fit(session, asset, site, line, revision, clock) if line.request.action == "replaced" else None
    moves = []
    if fitted is not None and line.site is not None:
        moves.append((fitted.part_id, line.site.id, Bucket.ON_HAND, -1, "fitted"))
    if removed is not None:
        moves.append((removed.part_id, site.id, REMOVED_TO[line.finding], 1, "removed"))
    for part_id, site_id, bucket, quantity, cause in moves:
        add_move(session, part_id, site_id, bucket, quantity, cause, moved_on=revision.occurred_on, clock=clock, revision=revision)
    session.add(
        EventLine(
            revision_id=revision.id,
            number=line.place + 1,
            position_id=line.position.id,
            action=line.request.action,
            finding=line.finding.value,
            removed_tenure_id=line.tenure.id if line.tenure else None,
            removed_part_id=line.tenure.part_id if line.tenure else None,
            fitted_tenure_id=fitted.id if fitted else None,
            fitted_part_id=fitted.part_id if fitted else None,
            shelf_site_id=line.site.id if fitted and line.site else None,
        )
    )


def _fit(session: Session, asset: Asset, site: Site, line: _Line, revision: EventRevision, clock: Clock) -> Tenure:
    assert line.part is not None
    unit = Unit(part_id=line.part.id, serial=line.request.serial, condition="new", received_on=revision.occurred_on)
    session.add(unit)
    session.flush()
    tenure = Tenure(
        unit_id=unit.id,
        part_id=line.part.id,
        asset_id=asset.id,
        model_id=asset.model_id,
        position_id=line.position.id,
        fitted_on=revision.occurred_on,
        observed_from=max(revision.occurred_on, site.log_began_on),
        recorded_at=clock.now,
    )
    session.add(tenure)
    session.flush()
    return tenure


def add_move(
    session: Session,
    part_id: int,
    site_id: int,
    bucket: Bucket,
    quantity: int,
    cause: str,
    *,
    moved_on: date,
    clock: Clock,
    revision: EventRevision,
) -> None:
    """One stock move caused by an incident's revision."""
    session.add(
        StockMove(
            shelf_id=shelves.shelf_for_update(session, part_id, site_id).id,
            bucket=bucket.value,
            quantity=quantity,
            cause=cause,
            moved_on=moved_on,
            recorded_at=clock.now,
            author_id=revision.author_id,
            incident_id=revision.incident_id,
        )
    )
