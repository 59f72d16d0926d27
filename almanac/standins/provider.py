"""An identity provider that is none: it signs for whoever is picked, so that the way there and back can be tried and tested.

It speaks what the application reads of OpenID Connect: its description, its keys, the code flow with PKCE, more of a person on asking.
It checks nobody's password, so it may only run for a demo or a test, on loopback.
"""

from __future__ import annotations

import hashlib
import json
import secrets
import time
from base64 import urlsafe_b64encode
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import partial
from html import escape
from urllib.parse import urlencode

from flask import Flask, Response, redirect, request
from joserfc import jwt
from joserfc.jwk import RSAKey

KEY_BITS = 2048
HOLDS_SECONDS = 300
FAULTS = (
    *("other audience", "borrowed", "expired", "other issuer", "other nonce", "other key", "unsigned", "nobody"),
    *("no code", "away", "other person", "not yet", "other party"),
)
"""What it may get wrong, so that a test can see it refused."""


@dataclass
class Known:
    """A person it knows. groups : None where it says nothing of groups in what it signs, and more on asking"""

    subject: str
    login: str
    name: str
    groups: list[str] | None = field(default_factory=list)


PEOPLE = (
    Known("p-1001", "fenn", "T. Fenn", ["it-leads"]),
    Known("p-1002", "sorrel", "B. Sorrel", ["bench-gul"]),
    Known("p-1003", "wick", "A. Wick", ["office"]),
    Known("p-1004", "holm", "J. Holm", ["kitchen"]),
)
"""Invented people for a demo."""


@dataclass
class Simulated:
    """A provider with its people and keys. issuer : its address · fault : one of `FAULTS`, what it gets wrong from now on"""

    issuer: str
    client_id: str
    secret: str
    people: Sequence[Known] = PEOPLE
    fault: str = ""
    key: RSAKey = field(default_factory=lambda: RSAKey.generate_key(KEY_BITS, {"kid": "one", "use": "sig", "alg": "RS256"}))
    codes: dict[str, dict[str, str]] = field(default_factory=dict)
    tokens: dict[str, str] = field(default_factory=dict)

    def code_for(self, subject: str, asked: dict[str, str]) -> str:
        """A code that can be handed in once."""
        code = secrets.token_urlsafe(24)
        self.codes[code] = {**asked, "subject": subject}
        return code

    def signed(self, known: Known, nonce: str) -> str:
        """What it signs of a person, with what it gets wrong."""
        now, wrong = int(time.time()), self.fault
        claims = {
            "iss": "http://127.0.0.1:1/" if wrong == "other issuer" else self.issuer,
            "sub": "" if wrong == "nobody" else known.subject,
            "aud": "another-application" if wrong == "other audience" else self.client_id,
            "exp": now - 3600 if wrong == "expired" else now + HOLDS_SECONDS,
            "iat": now + 3600 if wrong == "not yet" else now - 1,
            "nonce": "another" if wrong == "other nonce" else nonce,
            "preferred_username": known.login,
            "name": known.name,
        }
        if wrong == "borrowed":  # asked for by this application, meant for another one
            claims |= {"aud": "another-application", "azp": self.client_id}
        if wrong == "other party":
            claims |= {"aud": [self.client_id, "another-application"], "azp": "another-application"}
        if known.groups is not None:
            claims["groups"] = known.groups
        if wrong == "unsigned":
            return _unsigned(claims)
        key = RSAKey.generate_key(KEY_BITS, {"kid": "one"}) if wrong == "other key" else self.key
        return jwt.encode({"alg": "RS256", "kid": "one"}, claims, key)

    def known(self, subject: str) -> Known:
        """The person of a subject."""
        return next(one for one in self.people if one.subject == subject)


def _unsigned(claims: dict[str, object]) -> str:
    parts = ({"alg": "none", "typ": "JWT"}, claims)
    return ".".join(urlsafe_b64encode(json.dumps(part).encode()).rstrip(b"=").decode() for part in parts) + "."


def simulated_app(provider: Simulated) -> Flask:
    """Its pages."""
    app = Flask("simulated_provider", static_folder=None)
    for path, method, view in (
        ("/.well-known/openid-configuration", "GET", _describe),
        ("/keys", "GET", _keys),
        ("/authorize", "GET", _authorize),
        ("/token", "POST", _token),
        ("/userinfo", "GET", _more),
    ):
        app.add_url_rule(path, path, partial(view, provider), methods=[method])
    return app


def _describe(provider: Simulated) -> Response | dict[str, object]:
    if provider.fault == "away":
        return Response("not now", status=503)
    return {
        "issuer": provider.issuer,
        "authorization_endpoint": f"{provider.issuer}/authorize",
        "token_endpoint": f"{provider.issuer}/token",
        "userinfo_endpoint": f"{provider.issuer}/userinfo",
        "jwks_uri": f"{provider.issuer}/keys",
        "response_types_supported": ["code"],
        "id_token_signing_alg_values_supported": ["RS256"],
    }


def _keys(provider: Simulated) -> dict[str, object]:
    return {"keys": [provider.key.as_dict(private=False)]}


def _authorize(provider: Simulated) -> Response | str:
    asked = request.args.to_dict()
    subject = asked.pop("subject", "")
    if not subject:
        return _page(provider, request.query_string.decode())
    told = {"state": asked["state"]}
    told |= {"error": "access_denied"} if provider.fault == "no code" else {"code": provider.code_for(subject, asked)}
    return redirect(f"{asked['redirect_uri']}?{urlencode(told)}", 303)  # type: ignore[return-value]


def _token(provider: Simulated) -> tuple[dict[str, object], int]:
    asked = provider.codes.pop(request.form["code"], None)
    challenge = urlsafe_b64encode(hashlib.sha256(request.form["code_verifier"].encode()).digest()).rstrip(b"=").decode()
    own = (request.authorization.username, request.authorization.password) if request.authorization else None
    if asked is None or asked["code_challenge"] != challenge or own != (provider.client_id, provider.secret):
        return {"error": "invalid_grant"}, 400
    known, bearer = provider.known(asked["subject"]), secrets.token_urlsafe(24)
    provider.tokens[bearer] = known.subject
    return {"access_token": bearer, "token_type": "Bearer", "id_token": provider.signed(known, asked.get("nonce", ""))}, 200


def _more(provider: Simulated) -> dict[str, object]:
    known = provider.known(provider.tokens[request.headers["Authorization"].removeprefix("Bearer ")])
    subject = "somebody-else" if provider.fault == "other person" else known.subject
    return {"sub": subject, "groups": ["office"]}


def _page(provider: Simulated, asked: str) -> str:
    links = "".join(
        f'<li><a href="/authorize?{escape(asked)}&amp;subject={escape(one.subject)}">{escape(one.name)}</a> '
        f"({escape(', '.join(one.groups or ['no groups']))})</li>"
        for one in provider.people
    )
    return f'<!doctype html><html lang="en"><title>Simulated sign-in</title><h1>Simulated sign-in</h1><p>Who are you?</p><ul>{links}</ul>'
