"""How many to order: the shortfall against S in packs, then what the shelf life allows (rules N5 and B7)."""

from __future__ import annotations

from dataclasses import dataclass

from almanac.core import checks
from almanac.core.errors import ContractError


@dataclass(frozen=True)
class OrderSize:
    """Quantity to order and how it came about.

    needed : S less the position, at least 0 · in_packs : that rounded up to pack and minimum order · quantity : after the
    shelf-life cap · cap : most that may stand on hand and on order, None without a shelf life · scrap : parts over the cap
    """

    needed: int
    in_packs: int
    quantity: int
    cap: int | None
    scrap: int


def in_packs(needed: int, *, pack: int, minimum_order: int) -> int:
    """`needed` rounded up to whole packs of at least the minimum order; 0 stays 0.

    Parameters
    ----------
    needed : parts; 0 or less asks for nothing · pack, minimum_order : parts, >= 1

    Returns
    -------
    int : parts

    Raises
    ------
    ContractError : a pack or minimum below 1
    """
    if pack < 1 or minimum_order < 1:
        raise ContractError(f"pack, minimum_order: whole numbers of at least 1 were wanted, got {pack} and {minimum_order}")
    if needed <= 0:
        return 0
    return -(-max(needed, minimum_order) // pack) * pack


def order_size(needed: int, *, pack: int, minimum_order: int, held: int, life_demand: int | None) -> OrderSize:
    """Order for a shortfall, cut to what will be used before it expires.

    After the order, on hand + on order may not pass max(1, median demand over the remaining shelf life). Where even the
    smallest order passes it, that one is kept and the parts over the cap are named as scrap.

    Parameters
    ----------
    needed : S less the inventory position, parts
    pack, minimum_order : parts, >= 1
    held : on hand and on order, parts, >= 0
    life_demand : median demand until a part ordered now expires; None without a shelf life

    Returns
    -------
    OrderSize

    Raises
    ------
    ContractError : an argument is outside the ranges above
    """
    rounded = in_packs(needed, pack=pack, minimum_order=minimum_order)
    checks.number("held", held, low=0.0)
    if life_demand is None or rounded == 0:
        return OrderSize(max(needed, 0), rounded, rounded, None, 0)
    cap = max(1, life_demand)
    smallest = in_packs(1, pack=pack, minimum_order=minimum_order)
    room = max(cap - held, 0) // pack * pack
    quantity = min(rounded, max(room, smallest))
    return OrderSize(max(needed, 0), rounded, quantity, cap, max(0, held + quantity - cap))


@dataclass(frozen=True)
class Lot:
    """Parts of one age on the shelf; `expires_day` counts from the as-of day, None without a shelf life."""

    quantity: int
    expires_day: int | None

    @property
    def is_expired(self) -> bool:
        """Its last day is over."""
        return self.expires_day is not None and self.expires_day < 0


def expected_scrap(lots: list[Lot], median_demand_by_expiry: list[int]) -> int:
    """Parts on hand that will expire unused, first in first out, under median demand.

    Parameters
    ----------
    lots : oldest expiry first · median_demand_by_expiry : (n,) median demand until each lot's expiry

    Returns
    -------
    int : parts; a lot without expiry never adds any

    Raises
    ------
    ContractError : the two lists differ in length
    """
    if len(lots) != len(median_demand_by_expiry):
        raise ContractError(f"median_demand_by_expiry: {len(lots)} values were wanted, got {len(median_demand_by_expiry)}")
    stood, lost = 0, 0
    for lot, used in zip(lots, median_demand_by_expiry, strict=True):
        stood += lot.quantity
        if lot.expires_day is not None:
            lost = max(lost, stood - used)
    return max(lost, 0)
