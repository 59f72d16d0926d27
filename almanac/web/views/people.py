"""The people of the company, for leads; and the link by which somebody chooses a password."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime

from flask import Blueprint, Response, request

from almanac.services import people as service
from almanac.services.audit import GROUPS, WORDS, AuditWish, audit_csv, read_audit
from almanac.services.clock import read_clock
from almanac.services.sessions import read_limits
from almanac.store.models import Role
from almanac.web.access import ANYONE, author_id
from almanac.web.api import endpoint
from almanac.web.database import session
from almanac.web.schemas import people as schemas
from almanac.web.schemas.account import SignInsEnded
from almanac.web.schemas.base import Done
from almanac.web.schemas.decisions import Decisions, DecisionView
from almanac.web.schemas.session import SessionState
from almanac.web.views.provider import provider_view
from almanac.web.views.session import signed_in_reply

blueprint = Blueprint("people", __name__, url_prefix="/api/v1")


@endpoint(blueprint, "/people", access=Role.LEAD, replies=schemas.PeopleList)
def people() -> schemas.PeopleList:
    """Everybody who may sign in, or might again."""
    rows = service.read_people(session(), now=datetime.now(UTC))
    return schemas.PeopleList(
        people=[
            schemas.PersonView(
                id=row.id,
                login=row.login,
                name=row.name,
                role=row.role,
                active=row.active,
                own=row.id == author_id(),
                sites=list(row.sites),
                seen_at=row.seen_at,
                link_until=row.link_until,
                through=row.through,
            )
            for row in rows
        ],
        provider=provider.name if (provider := provider_view()) else None,
    )


@endpoint(blueprint, "/people/limits", access=Role.LEAD, replies=Decisions)
def sign_in_limits() -> Decisions:
    """When sign-ins end by themselves, as the company decided."""
    return Decisions(settings=[DecisionView.model_validate(item) for item in read_limits(session(), read_clock(session()))])


@endpoint(blueprint, "/people", method="POST", access=Role.LEAD, replies=schemas.PersonLink, status=201)
def add_person(json: schemas.NewPersonIn) -> schemas.PersonLink:
    """A new person, with the link by which they choose their password."""
    now = datetime.now(UTC)
    user, token = service.add_person(session(), json.login, _change(json), by=author_id(), now=now)
    return _link(user.id, token, now)


@endpoint(blueprint, "/people/<int:person_id>", method="POST", access=Role.LEAD, replies=Done)
def change_person(person_id: int, json: schemas.PersonIn) -> Done:
    """Another name, role or sites."""
    service.change_person(session(), person_id, _change(json), by=author_id(), now=datetime.now(UTC))
    return Done()


@endpoint(blueprint, "/people/<int:person_id>/end", method="POST", access=Role.LEAD, replies=schemas.PersonEnded)
def end_person(person_id: int) -> schemas.PersonEnded:
    """A person signs in no more; what they had in hand passes on."""
    ended = service.end_person(session(), person_id, by=author_id(), now=datetime.now(UTC))
    return schemas.PersonEnded.model_validate(ended)


@endpoint(blueprint, "/people/<int:person_id>/back", method="POST", access=Role.LEAD, replies=schemas.PersonLink)
def take_back(person_id: int) -> schemas.PersonLink:
    """A person who was ended may sign in again, once they chose a new password."""
    now = datetime.now(UTC)
    return _link(person_id, service.take_back(session(), person_id, by=author_id(), now=now), now)


@endpoint(blueprint, "/people/<int:person_id>/link", method="POST", access=Role.LEAD, replies=schemas.PersonLink)
def make_link(person_id: int) -> schemas.PersonLink:
    """A link by which a person chooses another password, once."""
    now = datetime.now(UTC)
    return _link(person_id, service.make_link(session(), person_id, by=author_id(), now=now), now)


@endpoint(blueprint, "/people/<int:person_id>/sign-ins", method="DELETE", access=Role.LEAD, replies=SignInsEnded)
def end_sign_ins_of(person_id: int) -> SignInsEnded:
    """Sign a person out on every browser."""
    return SignInsEnded(ended=service.end_sign_ins_of(session(), person_id, by=author_id(), now=datetime.now(UTC)))


@endpoint(blueprint, "/password-link", method="POST", access=ANYONE, replies=schemas.LinkOwner)
def read_link(json: schemas.LinkIn) -> schemas.LinkOwner:
    """Whose password a link chooses. The link comes in the body, so that no log and no history of a proxy has it."""
    user = service.owner_of_link(session(), json.token, now=datetime.now(UTC))
    return schemas.LinkOwner(login=user.login, name=user.name)


@endpoint(blueprint, "/password-link/use", method="POST", access=ANYONE, replies=SessionState)
def use_link(json: schemas.LinkPasswordIn) -> Response:
    """Choose a password by a link, and be signed in."""
    now = datetime.now(UTC)
    user = service.use_link(session(), json.token, json.password, address=request.remote_addr or "", now=now)
    return signed_in_reply(user, now)


@endpoint(blueprint, "/audit", access=Role.LEAD, replies=schemas.AuditPage)
def audit(query: schemas.AuditQueryIn) -> schemas.AuditPage:
    """What people did, the latest first."""
    rows, more = read_audit(session(), _wish(query))
    return schemas.AuditPage(
        rows=[schemas.AuditRowView(did=WORDS.get(row.event, row.event), **row._asdict()) for row in rows],
        more=more,
        groups=[schemas.AuditGroup(key=key, name=name) for key, (name, _) in GROUPS.items()],
    )


@endpoint(blueprint, "/audit.csv", access=Role.LEAD, replies=None)
def audit_file(query: schemas.AuditQueryIn) -> Response:
    """The same as a file."""
    body = audit_csv(session(), replace(_wish(query), before=None))
    return Response(body, mimetype="text/csv", headers={"Content-Disposition": 'attachment; filename="audit.csv"'})


def _wish(query: schemas.AuditQueryIn) -> AuditWish:
    return AuditWish(**query.model_dump())


def _change(json: schemas.PersonIn) -> service.PersonChange:
    return service.PersonChange(json.name, json.role, tuple(json.sites))


def _link(person_id: int, token: str, now: datetime) -> schemas.PersonLink:
    return schemas.PersonLink(person_id=person_id, token=token, until=now + service.LINK_HOLDS)
