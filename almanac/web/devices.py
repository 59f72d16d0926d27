"""Browsers that have signed in before: a signed cookie names the login and the browser, and signs nobody in."""

from __future__ import annotations

import hashlib
import secrets

from flask import Response, current_app, request
from itsdangerous import BadSignature, URLSafeTimedSerializer

COOKIE = "almanac_device"
KNOWN_SECONDS = 180 * 24 * 3600


def _serializer() -> URLSafeTimedSerializer:
    return URLSafeTimedSerializer(str(current_app.config["SECRET_KEY"]), salt="almanac-device")


def _mark(login: str) -> str:
    """A login as the cookie names it: who finds the cookie does not learn the login."""
    return hashlib.sha256(login.strip().lower().encode()).hexdigest()


def device_of(login: str) -> str | None:
    """The name of this browser where this login signed in on it before, else None."""
    try:
        known = _serializer().loads(request.cookies.get(COOKIE, ""), max_age=KNOWN_SECONDS)
    except BadSignature:
        return None
    return str(known["device"]) if isinstance(known, dict) and known.get("login") == _mark(login) else None


def remember_device(reply: Response, login: str) -> None:
    """Set the cookie after a sign-in, with a new name: guesses made with a stolen one do not follow the browser."""
    value = _serializer().dumps({"login": _mark(login), "device": secrets.token_urlsafe(16)})
    reply.set_cookie(COOKIE, value, max_age=KNOWN_SECONDS, httponly=True, samesite="Strict", path="/api/v1/session")
