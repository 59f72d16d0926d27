"""The way to the company's identity provider and back."""

from __future__ import annotations

from datetime import UTC, datetime
from urllib.parse import urlencode

from flask import Blueprint, Response, current_app, redirect, request
from flask_login import login_user

from almanac.exchange.provider import NotTold, Why, told_by, where_to_sign_in
from almanac.services import provided
from almanac.services.errors import NotFound
from almanac.services.sessions import open_web_session
from almanac.store.models import Role
from almanac.web.access import ANYONE, SignedIn, author_id
from almanac.web.api import endpoint
from almanac.web.database import commit, session
from almanac.web.outside import Through
from almanac.web.schemas.base import Done
from almanac.web.schemas.provider import BackQuery, ProviderView, WayQuery

blueprint = Blueprint("provider", __name__, url_prefix="/api/v1")
COOKIE = "almanac_way"
PATH = "/api/v1/session/provider"


def _through() -> Through:
    through = current_app.config["PROVIDER"]
    if not isinstance(through, Through):
        raise NotFound("no identity provider is set up here: sign in with a password")
    return through


@endpoint(blueprint, "/session/provider", access=ANYONE, replies=None)
def leave(query: WayQuery) -> Response:
    """Send a person to the provider; the page they wanted is kept until they come back."""
    through = _through()
    made, browser = provided.begin(session(), query.to, now=datetime.now(UTC))
    commit()
    try:
        reply = _redirect(where_to_sign_in(through.provider, made))
    except NotTold as refusal:
        return _refused(through, refusal)
    # Lax, for the provider is another site: it is what sends the browser back here.
    reply.set_cookie(
        COOKIE, browser, max_age=int(provided.COMES_BACK_WITHIN.total_seconds()), httponly=True, samesite="Lax",
        secure=through.provider.back_to.startswith("https:"), path=PATH,
    )  # fmt: skip
    return reply


@endpoint(blueprint, "/session/provider/back", access=ANYONE, replies=None)
def come_back(query: BackQuery) -> Response:
    """Sign in whom the provider signed for, or say on the sign-in page why not."""
    through, now = _through(), datetime.now(UTC)
    try:
        made, to = provided.take(session(), query.state, request.cookies.get(COOKIE, ""), now=now)
        commit()  # it came back once, whatever follows
        if not query.code:
            raise NotTold(Why.DENIED, f"it sent no code: {query.error[:60]}")
        told = told_by(through.provider, made, query.code)
        user = provided.sign_in_told(session(), through.provider, told, through.may, address=request.remote_addr or "", now=now)
    except NotTold as refusal:
        return _refused(through, refusal)
    login_user(SignedIn(user, open_web_session(session(), user, now=now, device=request.headers.get("User-Agent", ""))))
    commit()
    return _redirect(to)


def _refused(through: Through, refusal: NotTold) -> Response:
    if refusal.why is not Why.LATE:  # what never began here is anybody's guess, and would fill the record
        provided.note_refusal(session(), through.provider, refusal, address=request.remote_addr or "", now=datetime.now(UTC))
        commit()
    return _redirect(f"/?{urlencode({'refused': refusal.why.value})}")


def _redirect(to: str) -> Response:
    reply = redirect(to, 303)
    reply.headers["Cache-Control"] = "no-store"
    reply.headers["Referrer-Policy"] = "no-referrer"  # the address holds a code
    return reply  # type: ignore[return-value]


def provider_view() -> ProviderView | None:
    """What the sign-in page needs to know; None where there is no provider."""
    through = current_app.config["PROVIDER"]
    if not isinstance(through, Through):
        return None
    name = through.provider.name
    return ProviderView(name=name, refused={why.value: words.format(name=name) for why, words in provided.REFUSED.items()})


@endpoint(blueprint, "/people/<int:person_id>/provider", method="POST", access=Role.LEAD, replies=Done)
def let_in(person_id: int) -> Done:
    """Let whoever has this login at the provider be this person."""
    _through()
    provided.let_in(session(), person_id, by=author_id(), now=datetime.now(UTC))
    return Done()


@endpoint(blueprint, "/people/<int:person_id>/provider", method="DELETE", access=Role.LEAD, replies=Done)
def let_out(person_id: int) -> Done:
    """A person signs in with a password alone from now on."""
    provided.let_out(session(), person_id, by=author_id(), now=datetime.now(UTC))
    return Done()
