"""Buying: what a part costs at a quantity, how an order stands, when one is far above any need, who may approve one."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum

FAR_PARTS = 10
"""Up to so many parts nobody is asked whether they are far above any need."""
FAR_YEARS = 3
"""Parts for more years than this, at the pace of the busiest year on record, are far above any need."""

Breaks = Sequence[tuple[int, Decimal]]


def unit_price(price: Decimal, breaks: Breaks, quantity: int) -> Decimal:
    """What one part costs where so many are bought.

    Parameters
    ----------
    price : of one part · breaks : (from how many, price of one), in any order · quantity : parts

    Returns
    -------
    Decimal : the price of the highest break reached; the plain price where none is
    """
    reached = [(least, price_there) for least, price_there in breaks if quantity >= least]
    return max(reached, key=lambda one: one[0])[1] if reached else price


def cheaper_from(price: Decimal, breaks: Breaks, quantity: int, pack: int) -> tuple[int, Decimal] | None:
    """A larger quantity that costs less in all than `quantity` does: how many, and what they cost together; None where there is none."""
    own = unit_price(price, breaks, quantity) * quantity
    reach = [-(-least // pack) * pack for least, _ in breaks if least > quantity]
    found = [(more, unit_price(price, breaks, more) * more) for more in sorted(reach)]
    return min((one for one in found if one[1] < own), key=lambda one: one[1], default=None)


class Standing(StrEnum):
    """How an order stands, seen from what was said and what arrived."""

    SENT = "sent"
    CONFIRMED = "confirmed"
    PARTLY = "partly received"
    CLOSED = "closed"
    CANCELLED = "cancelled"


@dataclass(frozen=True)
class LineStanding:
    """Parts of one line: ordered, arrived, cancelled; whether the supplier confirmed it."""

    quantity: int
    arrived: int
    cancelled: int
    confirmed: bool

    @property
    def to_come(self) -> int:
        return self.quantity - self.arrived - self.cancelled


def standing_of(lines: Sequence[LineStanding]) -> Standing:
    """How an order of these lines stands; closed once nothing is to come and something arrived."""
    arrived = sum(line.arrived for line in lines)
    if all(line.to_come <= 0 for line in lines):
        return Standing.CLOSED if arrived else Standing.CANCELLED
    if arrived:
        return Standing.PARTLY
    waiting = [line for line in lines if line.to_come > 0]
    return Standing.CONFIRMED if all(line.confirmed for line in waiting) else Standing.SENT


@dataclass(frozen=True)
class Need:
    """What a part is needed for. places : that take it in machines in service · held : on shelves and on order

    busiest_year : parts used in the busiest twelve months on record; None where no log says so
    """

    places: int
    held: int
    busiest_year: int | None


def far_above(quantity: int, need: Need) -> str | None:
    """Why an order is far above any need, in words; None where it is not, or where it is a handful of parts."""
    if quantity <= FAR_PARTS:
        return None
    if quantity + need.held > need.places:
        return f"{quantity} for {need.places} places in machines in service, with {need.held} there or on order already"
    if need.busiest_year is not None and 0 < need.busiest_year * FAR_YEARS < quantity:
        return f"{quantity}, while the busiest year on record used {need.busiest_year}"
    return None


def approval_refusal(*, asker: int | None, approver: int, leads: Sequence[int], own_allowed: bool) -> str | None:
    """Why a lead may not approve an order; None where nothing speaks against it.

    An order above the company's limit wants a second lead; where the company has one lead alone, that one approves own orders if the
    company allows it, and the record says so.
    """
    if asker != approver:
        return None
    if [one for one in leads if one != approver]:
        return "who asked for an order does not approve it: another lead does"
    if not own_allowed:
        return "there is no other lead: let one in, raise the limit, or allow own approval in the company's settings"
    return None
