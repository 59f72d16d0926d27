"""Which lots are left on a shelf: what came in and went out, first expired, first out."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date

from almanac.core.errors import ContractError


@dataclass(frozen=True)
class LotMove:
    """Parts that came (positive, with the last day they can be used, None where nobody knows) or went (negative) on a day.

    Of what went the last day names the lot it was taken from, where that is on record
    for_expiry : they went because they had expired
    """

    moved_on: date
    quantity: int
    expires_on: date | None = None
    for_expiry: bool = False


def lots_left(moves: Iterable[LotMove]) -> list[tuple[date | None, int]]:
    """What is left of each lot of one shelf.

    Who takes a part from a lot by name takes it from that. Who names none takes the one that expires soonest and can still be used that
    day; one of unknown age before those; an expired one only where nothing else is left, for it is no stock (rule N11). What comes later
    cannot have been taken before.

    Parameters
    ----------
    moves : in order of day; more taken than there was is taken from what comes next

    Returns
    -------
    list of (last day or None, parts) : lots of at least one part, the soonest to expire first, unknown ones before all

    Raises
    ------
    ContractError : a day before the one before it
    """
    held: dict[date | None, int] = {}
    before, owed = date.min, 0
    for move in moves:
        if move.moved_on < before:
            raise ContractError(f"moves: days in order were wanted, got {move.moved_on} after {before}")
        before = move.moved_on
        if move.quantity > 0:
            paid = min(owed, move.quantity)
            owed -= paid
            if move.quantity > paid:
                held[move.expires_on] = held.get(move.expires_on, 0) + move.quantity - paid
        else:
            named = _take_named(held, -move.quantity, move.expires_on)
            owed += _take(held, -move.quantity - named, move.moved_on, expired_first=move.for_expiry)
    return sorted(held.items(), key=lambda lot: lot[0] or date.min)


def expired_in(lots: Iterable[tuple[date | None, int]], today: date) -> int:
    """Parts whose last day is over; of unknown age none is known to be."""
    return sum(quantity for last_day, quantity in lots if last_day is not None and last_day < today)


def taken(lots: Iterable[tuple[date | None, int]], wanted: int, day: date, *, expired_first: bool = False) -> list[tuple[date | None, int]]:
    """What somebody takes of lots on a day: (last day or None, parts), in the order of `lots_left`; fewer where fewer are there."""
    order = sorted(lots, key=lambda lot: ((lot[0] is not None and lot[0] < day) != expired_first, lot[0] or date.min))
    found = []
    for last_day, quantity in order:
        now = min(quantity, wanted)
        wanted -= now
        if now > 0:
            found.append((last_day, now))
    return found


def _take_named(held: dict[date | None, int], wanted: int, lot: date | None) -> int:
    """Take parts out of the lot they were taken from by the record; returns how many."""
    if lot is None or lot not in held:
        return 0
    now = min(held[lot], wanted)
    held[lot] -= now
    if held[lot] == 0:
        del held[lot]
    return now


def _take(held: dict[date | None, int], wanted: int, day: date, *, expired_first: bool) -> int:
    """Take parts out of the lots; returns how many were not there."""
    for expires, quantity in taken(held.items(), wanted, day, expired_first=expired_first):
        held[expires] -= quantity
        if held[expires] == 0:
            del held[expires]
        wanted -= quantity
    return wanted
