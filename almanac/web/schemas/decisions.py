"""What the company decided, as lists of settings that can be changed."""

from __future__ import annotations

from almanac.web.schemas.base import Schema


class DecisionView(Schema):
    """A decision of the company; `value` is null where nobody decided and nothing stands in."""

    key: str
    words: str
    value: float | None
    number: int
    wanted: str


class Decisions(Schema):
    settings: list[DecisionView]
