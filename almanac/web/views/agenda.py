"""What is due: today, as one list, and as a calendar that other programs read."""

from __future__ import annotations

from datetime import UTC, datetime

from flask import Blueprint, Response, request
from werkzeug.exceptions import NotFound

from almanac.services.agenda import due_today, read_agenda
from almanac.services.calendar import calendar_of
from almanac.services.clock import FAR_FUTURE, read_clock
from almanac.services.tokens import user_of_key
from almanac.store.models import Role, Scope
from almanac.store.settings import settings_on
from almanac.web.access import ANYONE
from almanac.web.api import endpoint
from almanac.web.database import session
from almanac.web.schemas import agenda as schemas

blueprint = Blueprint("agenda", __name__, url_prefix="/api/v1")
WEEK_DAYS = 7


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


@endpoint(blueprint, "/today", access=Role.READER, replies=schemas.TodayView, kept="dear")
def today(query: schemas.TodayQuery) -> schemas.TodayView:
    """What is due today across the whole almanac, and what comes within a week."""
    clock = read_clock(session())
    agenda = read_agenda(session(), clock)
    due = due_today(agenda, query.role, clock.today)
    coming = [one for one in agenda if one.on is not None and 0 < (one.on - clock.today).days <= WEEK_DAYS and query.role in one.whose]
    return schemas.TodayView(
        as_of=clock.today,
        due=[schemas.DueView.model_validate(one) for one in due],
        coming=[schemas.DueView.model_validate(one) for one in sorted(coming, key=lambda one: one.on or clock.today)],
    )
