"""Other parts than the four kinds."""

from __future__ import annotations

from almanac.web.schemas.base import Schema


class OtherPartView(Schema):
    """A part of another kind; null where no machine in service takes it, or none has served a day: nothing can be said.

    direct : drawn as such · moved : wanted in place of what is soldered or staked · rate, low, high : of a place a year, 90% exact
    """

    number: str
    name: str
    kind: str
    places: float
    served_years: float
    direct: float
    moved: float
    rate: float | None
    low: float | None
    high: float | None
    a_year: float | None
    on_hand: int
    coming: int
    promised: int
    position: int
    order_at: int | None
    most: int | None
    fill: float | None
    quantity: int
    cost: float


class OthersView(Schema):
    """`depot` is null where no site is one."""

    depot: str | None
    parts: list[OtherPartView]
