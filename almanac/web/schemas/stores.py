"""Orders, receipts and settings."""

from __future__ import annotations

from datetime import date
from typing import Literal

from pydantic import Field

from almanac.web.schemas.base import Schema


class OrderIn(Schema):
    part_number: str = Field(max_length=60)
    quantity: int = Field(ge=1, le=100000)
    expected_on: date | None = None
    confirmed: list[Literal["again", "far"]] = Field(default_factory=list)
    rests_on: str | None = Field(default=None, max_length=64)


class OrderPlaced(Schema):
    order_number: str
    line_id: int
    expected_on: date


class ReceiptIn(Schema):
    quantity: int
    received_on: date
    expected_version: int
    made_on: date | None = None
    expires_on: date | None = None
    lot: str = Field(default="", max_length=60)
    serials: list[str] = Field(default_factory=list, max_length=1000)


class CancelIn(Schema):
    quantity: int
    reason: str = Field(max_length=300)
    expected_version: int


class SettingIn(Schema):
    scope: Literal["company", "kind", "part"]
    scope_key: str = Field(default="", max_length=60)
    key: str = Field(max_length=40)
    value: float | str | None
    expected_number: int
    reason: str = Field(default="", max_length=500)


class SettingChanged(Schema):
    number: int
