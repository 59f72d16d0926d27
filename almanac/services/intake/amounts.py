"""Amounts as people write them, and which sign a list writes before the decimals."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass
from decimal import Decimal

from almanac.exchange.lists import Cell

AMOUNT = re.compile(r"^(?P<before>\D*?)(?<![.,])(?P<number>[+-]?\d(?:[\d.,'’\s]*\d)?)(?P<after>[^\d]*)$")
SIGNS = {"€": "EUR", "$": "USD", "£": "GBP", "¥": "JPY", "fr": "CHF", "sfr": "CHF", "zł": "PLN"}
CODES = frozenset(re.findall(r"\w+", "aud bgn brl cad chf cny czk dkk eur gbp huf inr jpy krw mxn nok nzd pln ron sek sgd try usd zar"))
SHOWN, LARGEST = 3, 1e12


@dataclass(frozen=True)
class Marks:
    """What a list shows of the sign before decimals. comma, point : rows that prove one, by line and text · open : that could be either
    likely : what most rows prove, to read it by until somebody says
    """

    comma: tuple[tuple[int, str], ...]
    point: tuple[tuple[int, str], ...]
    open: tuple[tuple[int, str], ...]
    likely: str = "."

    @property
    def settled(self) -> str | None:
        """The sign; None where rows are open and nothing proves one, or contradict each other."""
        if self.comma and not self.point:
            return ","
        if self.point and not self.comma:
            return "."
        return "." if not self.comma and not self.open else None


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
    return Marks(tuple(comma[:SHOWN]), tuple(point[:SHOWN]), tuple(either[:SHOWN]), "," if len(comma) > len(point) else ".")


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
    bare = re.sub(r"['’\s]", "", match["number"]).replace("," if decimal == "." else ".", "")
    bare = bare.replace(",", ".")
    return Decimal(bare) if bare.count(".") <= 1 else None


def currency_of(cell: Cell) -> str | None:
    """The currency a cell names, None where it names none."""
    match = AMOUNT.match(cell) if isinstance(cell, str) else None
    said = (match["before"] + match["after"]).strip(" \u00a0.-").lower() if match else ""
    found = next((word for word in re.split(r"[^a-z]+", said) if word in CODES), None)
    return found.upper() if found else SIGNS.get(said)
