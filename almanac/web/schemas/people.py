"""The people of a company and what they did, for leads; the link by which one chooses a password, for anybody who has it."""

from __future__ import annotations

from datetime import date, datetime
from typing import Annotated, Literal

from pydantic import Field

from almanac.store.models import Role
from almanac.web.schemas.base import Schema

Through = Literal["password", "awaited", "provider"]
LoginName = Annotated[str, Field(min_length=1, max_length=80, pattern=r"^\S+$")]
PersonName = Annotated[str, Field(min_length=1, max_length=80)]


class PersonView(Schema):
    """seen_at : about when they were here last, None where never · link_until : an unused link opens until then · sites : none is all

    through : whether they sign in through the identity provider, or will
    """

    id: int
    login: str
    name: str
    role: Role
    active: bool
    own: bool
    sites: list[str]
    seen_at: datetime | None
    link_until: datetime | None
    through: Through


class PeopleList(Schema):
    """provider : what people may sign in through, as it is called"""

    people: list[PersonView]
    provider: str | None


class PersonIn(Schema):
    name: PersonName
    role: Role
    sites: list[Annotated[str, Field(max_length=20)]] = Field(default=[], max_length=500)


class NewPersonIn(PersonIn):
    login: LoginName


class PersonLink(Schema):
    """token : shown once, behind /welcome# · until : it opens nothing after that"""

    person_id: int
    token: str
    until: datetime


class PersonEnded(Schema):
    """What ended with a person. drafts : of orders, which any lead goes on with"""

    sign_ins: int
    keys: int
    jobs: int
    drafts: int


class LinkIn(Schema):
    token: str = Field(min_length=1, max_length=200)


class LinkOwner(Schema):
    login: str
    name: str


class LinkPasswordIn(LinkIn):
    password: str = Field(min_length=1, max_length=500)


class AuditQueryIn(Schema):
    """group : of events, see the reply's groups · before, before_key : of the last row of the page before"""

    group: str = Field(default="", max_length=30)
    login: str = Field(default="", max_length=80)
    words: str = Field(default="", max_length=100)
    since: date | None = None
    until: date | None = None
    before: datetime | None = None
    before_key: str = Field(default="", max_length=30)


class AuditRowView(Schema):
    at: datetime
    event: str
    did: str
    login: str | None
    name: str | None
    subject: str
    words: str
    address: str
    key: str


class AuditGroup(Schema):
    key: str
    name: str


class AuditPage(Schema):
    rows: list[AuditRowView]
    more: bool
    groups: list[AuditGroup]
