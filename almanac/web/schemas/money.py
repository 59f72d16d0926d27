"""Money: what the sum tied up in stock buys."""

from __future__ import annotations

from pydantic import Field

from almanac.web.schemas.base import Schema


class MoneyQuery(Schema):
    """The sum chosen; as much as the plan ties up where none is."""

    budget: float | None = None


class MoneyStep(Schema):
    """Money tied up on average, and machine-days lost a year."""

    money: float
    waiting: float


class BesideView(Schema):
    """Another rule beside the curve."""

    name: str
    money: float
    waiting: float
    fill: float


class PartMoney(Schema):
    """A part at the chosen sum: aim it comes to, what is kept, and what that means for today's shelves, in parts and money.

    sold : whether it can still be bought
    """

    number: str
    name: str
    kind: str
    aim: float
    now: float
    order_at: int
    most: int
    kept: bool
    sold: bool
    buy: int
    load: int
    above: int
    buy_cost: float
    above_value: float


class MoneyView(Schema):
    """The curve and the sum chosen on it. bound : no levels lose fewer machine-days for that sum · least, most : ends of the curve"""

    currency: str
    least: float
    most: float
    curve: list[MoneyStep]
    beside: list[BesideView]
    chosen: BesideView
    bound: float
    parts: list[PartMoney]
    left_out: int
    own_aims: int


class TakeMoneyIn(Schema):
    """Take a sum over: every part's aim becomes what it comes to there; parts that none is kept of are bought when needed."""

    budget: float = Field(ge=0, le=1e12)


class GiveBackIn(Schema):
    """All parts follow the company's aim again."""

    confirm: bool


class AimsChanged(Schema):
    changed: int
