"""What is decided about a part beside its orders."""

from __future__ import annotations

from datetime import date

from almanac.web.schemas.base import Schema


class KeptLaterView(Schema):
    """What will be kept so many months from now."""

    months: int
    order_at: int
    most: int


class StockingView(Schema):
    """A year without keeping any beside keeping one, in money; requests that would wait, and days each of them."""

    without: float
    with_one: float
    waits: float
    days: float
    worth_it: bool


class LastBuyView(Schema):
    """Parts wanted until the last retirement on record, the count that suffices with a chance, what there is, and what to buy.

    unknown : units without a day of retirement, counted until the last · why : where nobody can say
    """

    expected: float | None
    enough: int | None
    there: int | None
    quantity: int | None
    cost: float | None
    until: date | None
    unknown: float
    chance: float
    why: str


class PartSettingView(Schema):
    """What holds of a part: its own value, null where it is the company's; the number of its entry, and why it was decided."""

    own: float | str | None
    holds: float | str
    number: int
    reason: str
