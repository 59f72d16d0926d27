"""Signing in and what every page needs to know first."""

from __future__ import annotations

from datetime import date

from pydantic import Field

from almanac.web.schemas.base import Schema
from almanac.web.schemas.provider import ProviderView


class SignIn(Schema):
    login: str = Field(min_length=1, max_length=200)
    password: str = Field(min_length=1, max_length=500)


class FirstUserIn(Schema):
    """code : as the server printed it when it started"""

    code: str = Field(min_length=1, max_length=60)
    company: str = Field(max_length=80)
    currency: str = Field(max_length=3)
    time_zone: str = Field(max_length=60)
    login: str = Field(max_length=200)
    name: str = Field(max_length=200)
    password: str = Field(max_length=500)


class SignedInUser(Schema):
    login: str
    name: str
    role: str


class SiteName(Schema):
    """A site; `carrier` is the company's word for what brings parts there, null for the depot and where there is no lane."""

    code: str
    name: str
    is_depot: bool
    carrier: str | None


class SessionState(Schema):
    """Who is signed in, the token that guards writes, and the company as it stands today. first_user : nobody can sign in yet

    provider : people may sign in through it, None once they are in
    """

    user: SignedInUser | None
    first_user: bool
    provider: ProviderView | None
    csrf_token: str
    company: str
    currency: str
    as_of: date
    sites: list[SiteName]


class Found(Schema):
    kind: str
    key: str
    label: str
    detail: str


class FoundList(Schema):
    found: list[Found]


class FindQuery(Schema):
    q: str = Field(min_length=1, max_length=100)
