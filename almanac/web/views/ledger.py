"""The failure log, the card of a machine, recording and correcting."""

from __future__ import annotations

from flask import Blueprint

from almanac.core.triage.confirm import Evidence
from almanac.services.clock import read_clock
from almanac.services.ledger.correct import CorrectionRequest, correct_incident
from almanac.services.ledger.read import read_card, read_history, read_page
from almanac.services.ledger.record import IncidentRequest, LineRequest, record_incident
from almanac.store.incidents import LogFilter
from almanac.store.models import Role
from almanac.web.access import author_id
from almanac.web.api import endpoint
from almanac.web.database import session
from almanac.web.schemas import ledger as schemas

blueprint = Blueprint("ledger", __name__, url_prefix="/api/v1")


@endpoint(blueprint, "/incidents", access=Role.READER, replies=schemas.LogPage)
def log_page(query: schemas.LogQuery) -> schemas.LogPage:
    """A page of the failure log: open findings first, then the latest."""
    wanted = LogFilter(
        finding=query.finding,
        kind=query.kind,
        site_code=query.site,
        part_number=query.part,
        words=query.q.strip() if query.q else None,
        since=query.since,
        until=query.until,
    )
    page = read_page(session(), wanted, after=query.after, limit=query.limit)
    return schemas.LogPage(
        entries=[schemas.LogEntryView.model_validate(entry) for entry in page.entries], next_key=page.next_key, total=page.total
    )


@endpoint(blueprint, "/incidents/<int:incident_id>", access=Role.READER, replies=schemas.IncidentHistory)
def incident_history(incident_id: int) -> schemas.IncidentHistory:
    """One incident with every revision."""
    revisions = read_history(session(), incident_id)
    return schemas.IncidentHistory(incident_id=incident_id, revisions=[schemas.LogEntryView.model_validate(entry) for entry in revisions])


@endpoint(blueprint, "/incidents", method="POST", access=Role.TECHNICIAN, replies=schemas.IncidentRecorded, status=201)
def record(json: schemas.IncidentIn) -> schemas.IncidentRecorded:
    """Record an incident: log, machine and shelf change together."""
    request = IncidentRequest(
        tag=json.tag,
        occurred_on=json.occurred_on,
        reason=json.reason,
        finding=json.finding,
        lines=[LineRequest(**line.model_dump()) for line in json.lines],
        minutes=json.minutes,
        note=json.note,
        last_good_on=json.last_good_on,
        confirmed=frozenset(json.confirmed),
        evidence=Evidence(**json.evidence.model_dump()),
    )
    incident_id = record_incident(session(), request, clock=read_clock(session()), author_id=author_id())
    return schemas.IncidentRecorded(incident_id=incident_id, number=1)


@endpoint(
    blueprint, "/incidents/<int:incident_id>/revisions", method="POST", access=Role.TECHNICIAN, replies=schemas.IncidentRecorded, status=201
)
def correct(incident_id: int, json: schemas.CorrectionIn) -> schemas.IncidentRecorded:
    """Correct an incident: a new revision, nothing is erased."""
    values = json.model_dump(exclude={"evidence"})
    request = CorrectionRequest(**values, evidence=Evidence(**json.evidence.model_dump()))
    number = correct_incident(session(), incident_id, request, clock=read_clock(session()), author_id=author_id())
    return schemas.IncidentRecorded(incident_id=incident_id, number=number)


@endpoint(blueprint, "/assets/<tag>", access=Role.READER, replies=schemas.AssetCard)
def asset_card(tag: str) -> schemas.AssetCard:
    """A machine by its tag: what is in each position, and what fits there."""
    card = read_card(session(), tag, today=read_clock(session()).today)
    return schemas.AssetCard(
        tag=card.asset.tag,
        serial=card.asset.serial,
        model=f"{card.model.maker} {card.model.name}",
        form=card.model.form,
        site_code=card.site.code if card.site else None,
        site=card.site.name if card.site else None,
        duty=card.asset.duty,
        in_service_on=card.asset.in_service_on,
        retired_on=card.asset.retired_on,
        positions=[
            schemas.PositionView(
                position_id=position.id,
                key=position.key,
                label=position.label,
                kind=position.kind,
                serviceability=position.serviceability,
                ordered_unit=position.ordered_unit,
                part_number=held[1].number if held else None,
                part_name=held[1].name if held else None,
                serial=held[2].serial if held else None,
                fitted_on=held[0].fitted_on if held else None,
                fits=[
                    schemas.FitView(part_number=part.number, part_name=part.name, verdict=fit.verdict, reason=fit.reason, on_hand=stock)
                    for fit, part, stock in fits
                ],
            )
            for position, held, fits in card.positions
        ],
    )
