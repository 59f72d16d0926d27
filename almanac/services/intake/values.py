"""Days as people write them, and which order a list writes them in."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, timedelta

from almanac.core.days import beyond_reason
from almanac.exchange.workbook import Cell

NUMBERS = re.compile(r"^(\d{1,2})([./-])(\d{1,2})\2(\d{2}|\d{4})(?:[ T].*)?$")
ISO = re.compile(r"^(\d{4})[-./](\d{1,2})[-./](\d{1,2})(?:[ T].*)?$")
SERIAL_START = date(1899, 12, 30)
SERIALS = range(20_000, 80_000)
"""Days of a spreadsheet counted from the end of 1899: years 1954 to 2119."""
LANGUAGES = ["de", "en", "fr"]


@dataclass(frozen=True)
class Order:
    """What a list shows of the order of day and month. day_first, month_first : rows that prove one, by line and text
    open : rows that could be either
    """

    day_first: tuple[tuple[int, str], ...]
    month_first: tuple[tuple[int, str], ...]
    open: tuple[tuple[int, str], ...]

    @property
    def settled(self) -> bool | None:
        """True where the day stands first, False where the month does; None where nothing proves it or rows contradict each other."""
        if self.day_first and not self.month_first:
            return True
        if self.month_first and not self.day_first:
            return False
        return True if not self.open and not self.month_first else None


SHOWN = 3


def order_of(cells: Iterable[tuple[int, Cell]]) -> Order:
    """Look at the days of a list. cells : (line, cell)

    A point between the numbers is written with the day first everywhere; slashes and dashes may be either.
    """
    first, second, either = [], [], []
    for line, cell in cells:
        match = NUMBERS.match(cell) if isinstance(cell, str) else None
        if match is None:
            continue
        one, sign, other = int(match[1]), match[2], int(match[3])
        if one > 12 >= other:
            first.append((line, str(cell)))
        elif sign == ".":
            continue
        elif other > 12 >= one:
            second.append((line, str(cell)))
        elif one != other:
            either.append((line, str(cell)))
    return Order(tuple(first[:SHOWN]), tuple(second[:SHOWN]), tuple(either[:SHOWN]))


def day_of(cell: Cell, *, day_first: bool) -> date | None:
    """A day, or None where the cell says none or one that no record can mean."""
    found = _day(cell, day_first=day_first)
    return None if found is None or beyond_reason(found) else found


def _day(cell: Cell, *, day_first: bool) -> date | None:
    if isinstance(cell, date):
        return cell
    if isinstance(cell, float):
        return SERIAL_START + timedelta(days=int(cell)) if int(cell) in SERIALS else None
    try:
        if iso := ISO.match(cell):
            return date(int(iso[1]), int(iso[2]), int(iso[3]))
        if parts := NUMBERS.match(cell):
            one, other, year = int(parts[1]), int(parts[3]), int(parts[4])
            day, month = (one, other) if day_first or parts[2] == "." else (other, one)
            return date(_whole_year(year), month, day)
    except ValueError:
        return None
    return _in_words(cell, day_first=day_first)


def _whole_year(year: int) -> int:
    return year if year >= 100 else year + (2000 if year < 70 else 1900)


def _in_words(cell: str, *, day_first: bool) -> date | None:
    if not re.search(r"[a-zA-Z]{3}", cell) or not re.search(r"\d", cell):
        return None
    import dateparser  # most lists need none of it, and it takes a while to load

    settings = {"DATE_ORDER": "DMY" if day_first else "MDY", "REQUIRE_PARTS": ["day", "month", "year"]}
    found = dateparser.parse(cell, languages=LANGUAGES, settings=settings)
    return found.date() if found else None
