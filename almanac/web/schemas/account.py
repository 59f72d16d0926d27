"""A user's own account."""

from __future__ import annotations

from datetime import datetime

from pydantic import Field

from almanac.web.schemas.base import Schema


class SignInView(Schema):
    """A sign-in that has not ended. device : what its browser calls itself · own : this very one"""

    id: int
    device: str
    began_at: datetime
    seen_at: datetime
    own: bool


class SignInList(Schema):
    """idle_hours, sign_in_days : when a sign-in ends unused, and however it is used"""

    sign_ins: list[SignInView]
    idle_hours: float
    sign_in_days: float


class SignInsEnded(Schema):
    """How many sign-ins were ended."""

    ended: int


class PasswordIn(Schema):
    current: str = Field(min_length=1, max_length=500)
    new: str = Field(min_length=1, max_length=500)
