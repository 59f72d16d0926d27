"""Keys for programs, the description of what they open, and the calendar."""

from __future__ import annotations

import json as plain
from datetime import UTC, datetime

from flask import Blueprint, Response, request
from flask_login import current_user
from werkzeug.exceptions import NotFound

from almanac.services.agenda import due_today, read_agenda
from almanac.services.calendar import calendar_of
from almanac.services.clock import FAR_FUTURE, read_clock
from almanac.services.tokens import end_token, make_token, read_tokens, user_of_key
from almanac.store.models import Role, Scope
from almanac.store.settings import settings_on
from almanac.web.access import ANYONE, author_id
from almanac.web.api import SPEC, endpoint
from almanac.web.database import session
from almanac.web.schemas import agenda as agenda_schemas
from almanac.web.schemas import inbox as schemas
from almanac.web.schemas.base import Done

blueprint = Blueprint("tokens", __name__, url_prefix="/api/v1")
WEEK_DAYS = 7


@endpoint(blueprint, "/tokens", access=Role.READER, replies=schemas.TokenList)
def tokens() -> schemas.TokenList:
    """The user's keys; a lead sees everybody's."""
    rows = read_tokens(session(), author_id(), everybody=current_user.role is Role.LEAD)
    return schemas.TokenList(tokens=[schemas.TokenView.model_validate(row) for row in rows])


@endpoint(blueprint, "/tokens", method="POST", access=Role.READER, replies=schemas.TokenMade, status=201)
def make_key(json: schemas.TokenIn) -> Response:
    """A new key, which the reply shows once."""
    token = make_token(session(), author_id(), name=json.name, scope=json.scope, days=json.days, now=datetime.now(UTC))
    address = f"{request.host_url}api/v1/calendar/{token}.ics" if json.scope is Scope.CALENDAR else None
    made = schemas.TokenMade(token=token, address=address)
    return Response(made.model_dump_json(), status=201, mimetype="application/json", headers={"Cache-Control": "no-store"})


@endpoint(blueprint, "/tokens/<int:token_id>", method="DELETE", access=Role.READER, replies=Done)
def end_key(token_id: int) -> Done:
    """A key opens nothing any more."""
    end_token(session(), token_id, user_id=author_id(), is_lead=current_user.role is Role.LEAD, now=datetime.now(UTC))
    return Done()


@endpoint(blueprint, "/openapi.json", access=Role.READER, replies=None)
def openapi() -> Response:
    """What can be asked of the almanac."""
    return Response(plain.dumps(SPEC.spec), mimetype="application/json")


@endpoint(blueprint, "/calendar/<token>.ics", access=ANYONE, replies=None)
def calendar(token: str) -> Response:
    """What is due for the owner of a key, for calendars, which can send no header."""
    found = user_of_key(session(), token, now=datetime.now(UTC))
    if found is None or found[1].scope != Scope.CALENDAR:
        raise NotFound("no calendar is kept under this address: its key has ended, or was never made")
    clock = read_clock(session())
    company = str(settings_on(session(), FAR_FUTURE).value("company_name", default="Your company"))
    body = calendar_of(
        read_agenda(session(), clock),
        Role(found[0].role),
        company=company,
        today=clock.today,
        now=clock.now,
        address=request.host_url.rstrip("/"),
    )
    return Response(body, mimetype="text/calendar", headers={"Cache-Control": "private, no-store"})


@endpoint(blueprint, "/today", access=Role.READER, replies=agenda_schemas.TodayView, kept="dear")
def today(query: agenda_schemas.TodayQuery) -> agenda_schemas.TodayView:
    """What is due today across the whole almanac, and what comes within a week."""
    clock = read_clock(session())
    agenda = read_agenda(session(), clock)
    due = due_today(agenda, query.role, clock.today)
    coming = [one for one in agenda if one.on is not None and 0 < (one.on - clock.today).days <= WEEK_DAYS and query.role in one.whose]
    return agenda_schemas.TodayView(
        as_of=clock.today,
        due=[agenda_schemas.DueView.model_validate(one) for one in due],
        coming=[agenda_schemas.DueView.model_validate(one) for one in sorted(coming, key=lambda one: one.on or clock.today)],
    )
