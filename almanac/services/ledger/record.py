"""Recording an incident: machine, shelf and log change together or not at all."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import date
from typing import Protocol

from sqlalchemy.orm import Session

from almanac.core.life.outcomes import Bucket, Finding
from almanac.core.parts.fits.battery import counts_as_stock
from almanac.core.parts.kinds import Kind, Verdict
from almanac.core.triage.confirm import Evidence, pair_question
from almanac.services.clock import Clock
from almanac.services.errors import Fault, NeedsConfirmation, Refused
from almanac.services.ledger.effects import FoundLine, carry_out
from almanac.services.ledger.evidence import check_findings
from almanac.services.stores.fill import served
from almanac.services.words import day
from almanac.store import assets, catalog, incidents, shelves, units
from almanac.store.models import Asset, EventRevision, Incident, Part, Position, Site, Tenure


@dataclass(frozen=True)
class LineRequest:
    """What was done at one position: `replaced` with a part from a shelf, `removed` without one, or `kept`.

    source : bucket the new part came from, on hand or harvested · removed_to : bucket the old one goes to, None as the finding says
    removed_serial : read on the old part · tested : what the test of a recovered part said, good or worn
    """

    position_id: int
    action: str
    part_number: str | None = None
    shelf_site: str | None = None
    serial: str | None = None
    finding: str | None = None
    source: str = "on_hand"
    removed_to: str | None = None
    removed_serial: str | None = None
    tested: str | None = None


@dataclass(frozen=True)
class IncidentRequest:
    """An incident as a person reports it. `confirmed` names the questions already answered with yes.

    last_good_on : of a failure that a check found, the last day on which the part was seen in order
    """

    tag: str
    occurred_on: date
    reason: str
    finding: str
    lines: list[LineRequest]
    minutes: int | None = None
    note: str = ""
    last_good_on: date | None = None
    confirmed: frozenset[str] = frozenset()
    evidence: Evidence = field(default_factory=Evidence)


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
    check_findings([(line.finding, line.age_days(request.occurred_on)) for line in lines], request, session, clock)
    _check_stock(session, lines)
    _ask(session, asset, request, lines)
    incident = Incident(
        asset_id=asset.id, site_id=site.id, latest_number=1, occurred_on=request.occurred_on, is_open=request.finding == Finding.OPEN
    )
    session.add(incident)
    session.flush()
    revision = add_revision(session, incident.id, 1, request, clock=clock, author_id=author_id)
    for line in lines:
        fitted = carry_out(session, asset, site, line, revision, clock)
        if fitted is not None and line.site is not None and line.request.source == Bucket.ON_HAND:
            planned = line.finding in (Finding.PREVENTIVE, Finding.UPGRADE)
            served(session, shelves.shelf_for_update(session, fitted.part_id, line.site.id), asset.id, clock, planned=planned)
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
    @property
    def last_good_on(self) -> date | None: ...


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
        last_good_on=account.last_good_on,
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
    if account.last_good_on is not None and account.last_good_on >= account.occurred_on:
        message = f"it was found on {day(account.occurred_on)}: name an earlier day, or leave it empty where somebody saw it fail"
        faults.append(Fault("last_good_on", message))
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


def _find(session: Session, asset: Asset, request: IncidentRequest) -> list[FoundLine]:
    """Resolve every line; all faults are reported, not only the first."""
    positions = {position.id: position for position in assets.positions_of_model(session, asset.model_id)}
    tenures = assets.open_tenures(session, asset.id)
    sites = {site.code: site for site in catalog.sites(session)}
    faults: list[Fault] = []
    found: list[FoundLine] = []
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
        old = tenures[position.id][2] if position.id in tenures else None
        found.append(FoundLine(place, line, position, Finding(line.finding or request.finding), tenure, part, site, old))
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
    faults += _bucket_faults(place, line, position)
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


def _bucket_faults(place: int, line: LineRequest, position: Position) -> list[Fault]:
    """Where the new part comes from and the old one goes (rules B4, B7, N7)."""
    faults = []
    if position.kind == Kind.BATTERY and line.source is not None:
        stock = counts_as_stock(harvested=line.source == Bucket.HARVESTED, damaged=line.source == Bucket.QUARANTINE)
        if stock.verdict == Verdict.NO:
            faults.append(Fault(f"lines.{place}.source", f"{stock.reason}: take a new one"))
    if line.removed_to == Bucket.ON_HAND:
        faults.append(Fault(f"lines.{place}.removed_to", "what came out of a machine is not new stock: harvested, after its test"))
    if line.tested and line.removed_to != Bucket.HARVESTED:
        faults.append(Fault(f"lines.{place}.tested", "a test is recorded of parts that go to harvested stock"))
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


def _check_stock(session: Session, lines: list[FoundLine]) -> None:
    """No shelf gives more than it holds; the shelves are locked so that two people cannot take the same last part."""
    wanted: dict[tuple[int, int, str], list[FoundLine]] = {}
    for line in sorted((line for line in lines if line.part and line.site), key=lambda line: (line.part.id, line.site.id)):  # type: ignore[union-attr]
        wanted.setdefault((line.part.id, line.site.id, line.request.source), []).append(line)  # type: ignore[union-attr]
    faults = []
    for (part_id, site_id, source), takers in wanted.items():
        shelf = shelves.shelf_for_update(session, part_id, site_id)
        held = shelves.balance(session, shelf.id, Bucket(source))
        if source == Bucket.HARVESTED:
            held = min(held, len(units.harvested(session, part_id, site_id)))
        for line in takers[max(held, 0) :]:
            assert line.part is not None and line.site is not None
            what = "tested recovered " if source == Bucket.HARVESTED else ""
            held_and_asked = f"{line.site.name} holds {held} {what}of {line.part.number}, {len(takers)} asked for"
            message = f"{held_and_asked}: choose another shelf, or count the shelf first"
            faults.append(Fault(f"lines.{line.place}.shelf_site", message))
    if faults:
        raise Refused(*faults)


def _ask(session: Session, asset: Asset, request: IncidentRequest, lines: list[FoundLine]) -> None:
    for line in lines:
        read, known = line.request.removed_serial, line.unit.serial if line.unit else None
        if read and known and read.strip().upper() != known.upper() and "serial" not in request.confirmed:
            message = (
                f"{line.position.label} should hold serial {known}, read was {read}: was it changed without a record? Record it as read?"
            )
            raise NeedsConfirmation("serial", message)
    modules = [line.finding for line in lines if line.position.kind == Kind.MEMORY and line.request.action == "replaced"]
    pair = pair_question(modules)
    if pair is not None and "both_failed" not in request.confirmed:
        raise NeedsConfirmation("both_failed", pair)
    if "duplicate" in request.confirmed:
        return
    earlier = incidents.same_day_incident(session, asset.id, [line.position.id for line in lines], request.occurred_on)
    if earlier is not None:
        message = f"Incident {earlier} already covers this position of {asset.tag} on {day(request.occurred_on)}. Record a second one?"
        raise NeedsConfirmation("duplicate", message, {"incident_id": str(earlier)})
