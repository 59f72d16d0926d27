"""From the text of a cell to its value; a fault says what was wanted and what was found."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from datetime import date
from decimal import Decimal, InvalidOperation
from typing import Any

from almanac.core.days import beyond_reason
from almanac.core.errors import ContractError
from almanac.core.stock.timetable import read_weekdays

Parser = Callable[[str], Any]


class CellFault(Exception):
    """What is wrong with a cell."""


def words(cell: str) -> str:
    """Any text up to 300 characters."""
    if len(cell) > 300:
        raise CellFault(f"at most 300 characters were wanted, got {len(cell)}")
    return cell


def day(cell: str) -> date:
    """An ISO date that a record can mean."""
    try:
        found = date.fromisoformat(cell)
    except ValueError as error:
        raise CellFault(f"a date such as 2026-12-04 was wanted, got {cell!r}") from error
    if fault := beyond_reason(found):
        raise CellFault(fault)
    return found


def whole(low: int, high: int) -> Parser:
    """A whole number within [low, high]."""

    def parse(cell: str) -> int:
        if not re.fullmatch(r"[+-]?\d{1,12}", cell) or not low <= int(cell) <= high:
            raise CellFault(f"a whole number from {low:,} to {high:,} was wanted, got {cell!r}")
        return int(cell)

    return parse


def price(cell: str) -> Decimal:
    """An amount with at most two decimals and a point."""
    try:
        value = Decimal(cell)
    except InvalidOperation as error:
        raise CellFault(f"an amount such as 61.00 was wanted, got {cell!r}") from error
    if not value.is_finite() or value < 0 or value >= Decimal(10) ** 10 or value != round(value, 2):
        raise CellFault(f"an amount of at least 0 with two decimals was wanted, got {cell!r}")
    return value


def choice(allowed: Iterable[str]) -> Parser:
    """One of a few words."""
    values = [str(value) for value in allowed]

    def parse(cell: str) -> str:
        key = cell.lower().replace(" ", "_").replace("-", "_")
        if key not in values:
            raise CellFault(f"one of {', '.join(values)} was wanted, got {cell!r}")
        return key

    return parse


def yes_no(cell: str) -> bool:
    """yes or no."""
    if cell.lower() not in ("yes", "no"):
        raise CellFault(f"yes or no was wanted, got {cell!r}")
    return cell.lower() == "yes"


def names(cell: str) -> list[str]:
    """Several names separated by semicolons."""
    return [name.strip() for name in cell.split(";") if name.strip()]


def facts(cell: str) -> dict[str, str]:
    """Facts as name=value, separated by semicolons: capacity_gb=16; form=SO-DIMM."""
    found = {}
    for piece in names(cell):
        name, equals, value = piece.partition("=")
        if not equals or not name.strip() or not value.strip():
            raise CellFault(f"facts such as capacity_gb=16; form=SO-DIMM were wanted, got {piece!r}")
        found[name.strip()] = value.strip()
    return found


def lead_time(cell: str) -> list[dict[str, float]]:
    """Days, or days with weights: 21, or 18:0.25;21:0.75."""
    entries = []
    for piece in names(cell):
        found = re.fullmatch(r"(\d{1,3})(?::(\d*\.?\d+))?", piece)
        if not found:
            raise CellFault(f"days such as 21, or 18:0.25;21:0.75, were wanted, got {cell!r}")
        entries.append({"days": int(found[1]), "weight": float(found[2] or 1.0)})
    total = sum(entry["weight"] for entry in entries)
    if not entries or abs(total - 1.0) > 1e-6:
        raise CellFault(f"weights that add up to 1 were wanted, got {total:g}")
    return entries


def weekdays(cell: str) -> tuple[int, ...]:
    """Mon Thu, as 0 (Monday) to 6."""
    try:
        return read_weekdays(cell)
    except ContractError as error:
        raise CellFault(str(error)) from error


def price_breaks(cell: str) -> list[tuple[int, Decimal]]:
    """What one costs from so many up: 10:17.50; 50:16."""
    found: dict[int, Decimal] = {}
    for piece in names(cell):
        least, colon, amount = piece.partition(":")
        if not colon or not least.strip().isdigit() or not 2 <= int(least) <= 100_000 or int(least) in found:
            raise CellFault(f"quantities from 2 up with the price of one, such as 10:17.50; 50:16, were wanted, got {piece!r}")
        found[int(least)] = price(amount.strip())
    return sorted(found.items())
