"""The company's identity provider: who signs in there, told by OpenID Connect (Core 1.0, code flow, with PKCE of RFC 7636)."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from enum import StrEnum
from threading import BoundedSemaphore
from typing import Any
from urllib.parse import urlsplit

import requests
from authlib.integrations.base_client import OAuthError
from authlib.integrations.requests_client import OAuth2Session
from authlib.oidc.core import CodeIDToken
from joserfc import jwt
from joserfc.errors import ExpiredTokenError, InvalidClaimError, JoseError, MissingClaimError
from joserfc.jwk import KeySet

SECONDS = 5
AT_ONCE, TURN_SECONDS = BoundedSemaphore(2), 1
"""So many people of a process are on their way at once, and others wait so long: a provider that is slow holds up nobody else."""
LEEWAY_SECONDS = 60
"""How far the clocks of the two may stand apart."""
ALGORITHMS = ["RS256", "PS256", "ES256"]
"""A signature whose key both sides know proves nothing of where it comes from: only those with a public key."""
SCOPE = "openid profile"
LOOPBACK = ("127.0.0.1", "localhost", "::1")
DISCOVERY = "/.well-known/openid-configuration"


class Why(StrEnum):
    """Why nobody was signed in."""

    AWAY = "away"
    DENIED = "denied"
    EXPIRED = "expired"
    OTHER_AUDIENCE = "other_audience"
    FORGED = "forged"
    LATE = "late"
    REPLAYED = "replayed"
    OTHER_BROWSER = "other_browser"
    NO_GROUP = "no_group"
    TAKEN = "taken"
    ENDED = "ended"
    LAST_LEAD = "last_lead"


class NotTold(Exception):
    """The provider told nothing that can be believed. why : for the person · words : for the record, without secrets"""

    def __init__(self, why: Why, words: str) -> None:
        super().__init__(words)
        self.why, self.words = why, words


@dataclass(frozen=True)
class Provider:
    """The provider and what this application is there.

    Parameters
    ----------
    issuer : its address, as it stands in what it signs · name : as people call it · client_id, secret : of this application there
    groups_claim : under which it names a person's groups · back_to : where it sends people back to
    """

    issuer: str
    name: str
    client_id: str
    secret: str
    groups_claim: str
    back_to: str

    def __post_init__(self) -> None:
        for what, address in (("ALMANAC_PROVIDER", self.issuer), ("ALMANAC_URL", self.back_to)):
            if fault := fault_of_address(address):
                raise ValueError(f"{what}: {fault}")


@dataclass(frozen=True)
class Told:
    """Who signed in there. subject : never given to anybody else there · login : as they are called there, may change"""

    subject: str
    login: str
    name: str
    groups: tuple[str, ...]


@dataclass(frozen=True)
class Secrets:
    """What one sign-in is known by: `state` in the address, `nonce` in what is signed, `verifier` where the code is handed in."""

    state: str
    nonce: str
    verifier: str


def fault_of_address(address: str) -> str | None:
    """What is wrong with an address that passwords or codes travel to; None where nothing is."""
    parts = urlsplit(address)
    if parts.scheme not in ("https", "http") or not parts.hostname:
        return f"an address such as https://id.example.org was wanted, got {address!r}"
    if parts.scheme == "http" and parts.hostname not in LOOPBACK:
        return f"{address} is not encrypted: https is wanted for anything but this machine"
    return None


@contextlib.contextmanager
def _one_of_few() -> Iterator[None]:
    """A turn at the provider.

    Raises
    ------
    NotTold : others wait for it already
    """
    if not AT_ONCE.acquire(timeout=TURN_SECONDS):
        raise NotTold(Why.AWAY, "others wait for it already")
    try:
        yield
    finally:
        AT_ONCE.release()


def where_to_sign_in(provider: Provider, secrets: Secrets) -> str:
    """The address at the provider a person is sent to.

    Raises
    ------
    NotTold : it does not answer, or does not describe itself
    """
    with _one_of_few(), _client(provider) as client:
        address, _ = client.create_authorization_url(
            _described(provider)["authorization_endpoint"], state=secrets.state, nonce=secrets.nonce, code_verifier=secrets.verifier
        )
    return str(address)


def told_by(provider: Provider, secrets: Secrets, code: str) -> Told:
    """Hand in the code a person came back with, and read who they are.

    Raises
    ------
    NotTold : the provider does not answer, refuses the code, or what it signed is not for here, not for this sign-in or too old
    """
    with _one_of_few(), _client(provider) as client:
        described = _described(provider)
        try:
            token = client.fetch_token(described["token_endpoint"], code=code, code_verifier=secrets.verifier, timeout=SECONDS)
        except (OAuthError, requests.RequestException, ValueError) as error:
            why = Why.AWAY if isinstance(error, requests.RequestException) else Why.DENIED
            raise NotTold(why, f"the code was not taken: {type(error).__name__}") from error
        claims = _checked(provider, secrets, token, _read_json(described["jwks_uri"]))
        if provider.groups_claim not in claims and described.get("userinfo_endpoint"):
            claims = {**_more(client, described["userinfo_endpoint"], claims["sub"]), **claims}
    return _told(provider, claims)


def _client(provider: Provider) -> OAuth2Session:
    return OAuth2Session(provider.client_id, provider.secret, scope=SCOPE, redirect_uri=provider.back_to, code_challenge_method="S256")


def _described(provider: Provider) -> dict[str, Any]:
    """What the provider says of itself; where it is not the one it should be, nothing else of it is believed."""
    described = _read_json(provider.issuer.rstrip("/") + DISCOVERY)
    if described.get("issuer") != provider.issuer:
        raise NotTold(Why.FORGED, f"it calls itself {described.get('issuer')!r}, which is not the issuer it was set up as")
    for key in ("authorization_endpoint", "token_endpoint", "jwks_uri"):
        if not isinstance(described.get(key), str) or fault_of_address(described[key]):
            raise NotTold(Why.FORGED, f"it names no {key} that can be used")
    return described


def _read_json(address: str) -> dict[str, Any]:
    try:
        reply = requests.get(address, timeout=SECONDS, allow_redirects=False)
        found = reply.json()
    except (requests.RequestException, ValueError) as error:
        raise NotTold(Why.AWAY, f"{urlsplit(address).path} was not answered: {type(error).__name__}") from error
    if reply.status_code != 200 or not isinstance(found, dict):
        raise NotTold(Why.AWAY, f"{urlsplit(address).path} was answered with {reply.status_code}")
    return found


def _checked(provider: Provider, secrets: Secrets, token: Mapping[str, Any], keys: dict[str, Any]) -> dict[str, Any]:
    """What the identity token says once signature, issuer, audience, times and nonce hold (OpenID Connect Core, 3.1.3.7)."""
    try:
        decoded = jwt.decode(str(token["id_token"]), KeySet.import_key_set(keys), algorithms=ALGORITHMS)  # type: ignore[arg-type]
        claims = CodeIDToken(
            decoded.claims,
            decoded.header,
            options={"iss": {"essential": True, "value": provider.issuer}, "aud": {"essential": True, "value": provider.client_id}},
            params={"nonce": secrets.nonce, "client_id": provider.client_id, "access_token": token.get("access_token")},
        )
        claims.validate(leeway=LEEWAY_SECONDS)
        if not claims["sub"]:
            raise NotTold(Why.FORGED, "it signed for nobody")
    except ExpiredTokenError as error:
        raise NotTold(Why.EXPIRED, "what it signed has expired") from error
    except (InvalidClaimError, MissingClaimError) as error:
        claim = str(error.claim)
        raise NotTold(Why.OTHER_AUDIENCE if claim in ("aud", "azp") else Why.FORGED, f"its {claim} is not as it has to be") from error
    except (JoseError, KeyError, ValueError, TypeError) as error:
        raise NotTold(Why.FORGED, f"what it signed cannot be believed: {type(error).__name__}") from error
    return dict(claims)


def _more(client: OAuth2Session, address: str, subject: str) -> dict[str, Any]:
    """What the provider says of the person beside what it signed; only of the same person."""
    try:
        found = client.get(address, timeout=SECONDS).json()
    except (OAuthError, requests.RequestException, ValueError) as error:
        raise NotTold(Why.AWAY, f"it does not say more of the person: {type(error).__name__}") from error
    if not isinstance(found, dict) or found.get("sub") != subject:
        raise NotTold(Why.FORGED, "it speaks of another person than the one it signed for")
    return found


def _told(provider: Provider, claims: Mapping[str, Any]) -> Told:
    groups = claims.get(provider.groups_claim, [])
    if isinstance(groups, str):
        groups = [groups]
    subject, login = str(claims["sub"]), str(claims.get("preferred_username") or "")
    name = str(claims.get("name") or login or subject)
    return Told(subject, login, name, tuple(str(group) for group in groups) if isinstance(groups, list) else ())
