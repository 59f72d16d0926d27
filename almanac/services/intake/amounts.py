"""Amounts as people write them, and which sign a list writes before the decimals."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass
from decimal import Decimal

from almanac.exchange.workbook import Cell

AMOUNT = re.compile(r"^(?P<before>\D*?)(?<![.,])(?P<number>[+-]?\d(?:[\d.,'’\s]*\d)?)(?P<after>[^\d]*)$")
SIGNS = {"€": "EUR", "$": "USD", "£": "GBP", "¥": "JPY", "fr": "CHF", "sfr": "CHF", "zł": "PLN"}
CODES = frozenset(re.findall(r"\w+", "aud bgn brl cad chf cny czk dkk eur gbp huf inr jpy krw mxn nok nzd pln ron sek sgd try usd zar"))
SHOWN, LARGEST, CLEARLY = 3, 1e12, 10
"""Rows shown; the largest number taken; and so many times as many rows have to prove one sign as the other."""


@dataclass(frozen=True)
class Marks:
    """What a list shows of the sign before decimals. comma, point : rows that prove one, by line and text · open : that could be either
    proved : how many rows prove a comma, and how many a point
    """

    comma: tuple[tuple[int, str], ...]
    point: tuple[tuple[int, str], ...]
    open: tuple[tuple[int, str], ...]
    proved: tuple[int, int] = (0, 0)

    @property
    def likely(self) -> str:
        """What most rows prove, to read the list by until somebody says."""
        return "," if self.proved[0] > self.proved[1] else "."

    @property
    def settled(self) -> str | None:
        """The sign; None where rows are open and nothing proves one, or too many contradict the others. A few are told one by one."""
        comma, point = self.proved
        if comma or point:
            return self.likely if max(comma, point) >= CLEARLY * min(comma, point) else None
        return None if self.open else "."


def marks_of(cells: Iterable[tuple[int, Cell]]) -> Marks:
    """Look at the amounts of a list. cells : (line, cell); what a workbook holds as a number proves nothing"""
    comma: list[tuple[int, str]] = []
    point: list[tuple[int, str]] = []
    either: list[tuple[int, str]] = []
    for line, cell in cells:
        match = AMOUNT.match(cell) if isinstance(cell, str) else None
        if match is None:
            continue
        sign = _decimal_sign(match["number"])
        if sign == "?":
            either.append((line, str(cell)))
        elif sign:
            (comma if sign == "," else point).append((line, str(cell)))
    return Marks(tuple(comma[:SHOWN]), tuple(point[:SHOWN]), tuple(either[:SHOWN]), (len(comma), len(point)))


def _decimal_sign(number: str) -> str:
    """The sign before decimals, "?" where it could also part thousands, "" where there is none."""
    bare = re.sub(r"['’\s+-]", "", number)
    commas, points = bare.count(","), bare.count(".")
    if commas and points:
        return "," if bare.rindex(",") > bare.rindex(".") else "."
    sign = "," if commas else "." if points else ""
    if not sign:
        return ""
    if commas + points > 1:
        return "." if sign == "," else ","
    whole, _, decimals = bare.partition(sign)
    return "?" if len(decimals) == 3 and len(whole) <= 3 and whole != "0" else sign


def amount_of(cell: Cell, *, decimal: str) -> Decimal | None:
    """A number, or None where the cell is none. decimal : the list's sign before decimals"""
    if isinstance(cell, float):
        return Decimal(repr(cell)) if abs(cell) < LARGEST else None
    match = AMOUNT.match(cell) if isinstance(cell, str) else None
    if match is None:
        return None
    if _decimal_sign(match["number"]) not in ("", "?", decimal):
        return None  # it is written the other way: read by the list's sign it would be a hundred times as much
    bare = re.sub(r"['’\s]", "", match["number"]).replace("," if decimal == "." else ".", "")
    bare = bare.replace(",", ".")
    return Decimal(bare) if bare.count(".") <= 1 else None


def currency_of(cell: Cell) -> str | None:
    """The currency a cell names, None where it names none."""
    match = AMOUNT.match(cell) if isinstance(cell, str) else None
    said = (match["before"] + match["after"]).strip(" \u00a0.-").lower() if match else ""
    found = next((word for word in re.split(r"[^a-z]+", said) if word in CODES), None)
    return found.upper() if found else SIGNS.get(said)


def said_amount(text: str) -> Decimal | None:
    """An amount that a person typed, with either sign before its decimals; None where it is none, or below nothing."""
    found = next((found for sign in (".", ",") if (found := amount_of(text.strip(), decimal=sign)) is not None), None)
    return found if found is not None and found >= 0 else None
