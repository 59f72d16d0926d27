"""Signing in through the company's identity provider."""

from __future__ import annotations

from pydantic import ConfigDict, Field

from almanac.web.schemas.base import Schema


class ProviderView(Schema):
    """name : as people call it · refused : what to say to somebody who came back with a word in the address"""

    name: str
    refused: dict[str, str]


class WayQuery(Schema):
    """to : the page that was wanted"""

    to: str = Field(default="/", max_length=1000)


class BackQuery(Schema):
    """What the provider sends people back with; it may add what nobody here reads (RFC 6749, 4.1.2)."""

    model_config = ConfigDict(extra="ignore")
    state: str = Field(default="", max_length=200)
    code: str = Field(default="", max_length=4000)
    error: str = Field(default="", max_length=200)
