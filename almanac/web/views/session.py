"""Signing in and out, and the find field."""

from __future__ import annotations

from datetime import UTC, datetime

from flask import Blueprint, Response, request
from flask_login import current_user, login_user, logout_user
from flask_wtf.csrf import generate_csrf

from almanac.services.accounts import sign_in
from almanac.services.clock import FAR_FUTURE, clock_of
from almanac.services.errors import Fault, Refused
from almanac.services.find import find as find_meant
from almanac.services.first_user import FirstUser, make_first_user, waits_for_first_user
from almanac.services.sessions import end_web_session, open_web_session
from almanac.store import catalog
from almanac.store.models import Role, User
from almanac.store.settings import settings_on
from almanac.web.access import ANYONE, SignedIn
from almanac.web.api import endpoint
from almanac.web.database import commit, session
from almanac.web.devices import device_of, remember_device
from almanac.web.schemas.session import FindQuery, FirstUserIn, Found, FoundList, SessionState, SignedInUser, SignIn, SiteName
from almanac.web.views.provider import provider_view

blueprint = Blueprint("session", __name__, url_prefix="/api/v1")


def _state() -> SessionState:
    settings = settings_on(session(), FAR_FUTURE)
    signed_in = current_user.is_authenticated
    user = SignedInUser(login=current_user.login, name=current_user.name, role=current_user.role.value) if signed_in else None
    return SessionState(
        user=user,
        first_user=user is None and waits_for_first_user(session()),
        provider=None if user else provider_view(),
        csrf_token=generate_csrf(),
        company=str(settings.value("company_name", default="Your company")) if signed_in else "",
        currency=str(settings.value("currency", default="EUR")),
        as_of=clock_of(settings).today,
        sites=_sites() if signed_in else [],
    )


@endpoint(blueprint, "/session", access=ANYONE, replies=SessionState)
def read_session() -> SessionState:
    """Who is signed in, and the token that guards writes."""
    return _state()


@endpoint(blueprint, "/session", method="POST", access=ANYONE, replies=SessionState)
def open_session(json: SignIn) -> Response:
    """Sign in."""
    now = datetime.now(UTC)
    device = device_of(json.login)
    user = sign_in(session(), json.login, json.password, address=request.remote_addr or "", now=now, device=device)
    if user is None:
        commit()  # the failed attempt has to be counted although the request is refused
        raise Refused(Fault("password", "login and password do not match: check both, upper and lower case count"))
    return signed_in_reply(user, now)


def signed_in_reply(user: User, now: datetime) -> Response:
    """What a browser gets that is signed in now."""
    _end_current(now)
    login_user(SignedIn(user, open_web_session(session(), user, now=now, device=request.headers.get("User-Agent", ""))))
    reply = Response(_state().model_dump_json(), mimetype="application/json")
    remember_device(reply, user.login)
    return reply


@endpoint(blueprint, "/first-user", method="POST", access=ANYONE, replies=SessionState)
def begin(json: FirstUserIn) -> Response:
    """Describe an empty company and make its first lead, who is signed in."""
    now, clock = datetime.now(UTC), clock_of(settings_on(session(), FAR_FUTURE))
    user = make_first_user(session(), FirstUser(**json.model_dump()), address=request.remote_addr or "", now=now, clock=clock)
    if user is None:
        commit()  # the wrong code has to be counted although the request is refused
        raise Refused(Fault("code", "that is not the code: it stands where the server was started, and holds until it starts again"))
    return signed_in_reply(user, now)


def _sites() -> list[SiteName]:
    sites = catalog.sites(session())
    depot = next((site.id for site in sites if site.is_depot), None)
    lanes = catalog.timetables_from(session(), depot) if depot is not None else {}
    return [
        SiteName(code=site.code, name=site.name, is_depot=site.is_depot, carrier=lanes[site.id].carrier if site.id in lanes else None)
        for site in sites
    ]


def _end_current(now: datetime) -> None:
    if current_user.is_authenticated:
        end_web_session(session(), current_user.token, now=now)


@endpoint(blueprint, "/session", method="DELETE", access=ANYONE, replies=SessionState)
def close_session() -> SessionState:
    """Sign out: the session ends on the server, whoever still has its cookie."""
    _end_current(datetime.now(UTC))
    logout_user()
    return _state()


@endpoint(blueprint, "/find", access=Role.READER, replies=FoundList)
def find(query: FindQuery) -> FoundList:
    """What a tag, serial, part number or name could mean."""
    return FoundList(found=[Found.model_validate(one) for one in find_meant(session(), query.q.strip())])
