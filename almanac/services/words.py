"""Figures and days in words, as they are shown to people: with their unit, never more digits than they carry."""

from __future__ import annotations

from datetime import date
from decimal import Decimal


def day(value: date) -> str:
    """4 Dec 2026."""
    return f"{value.day} {value:%b %Y}"


def figure(value: float, digits: int = 1) -> str:
    """A number with thousands separated: 1,188 or 2,604.5."""
    return f"{value:,.{digits}f}"


def percent(share: float) -> str:
    """A share as a percentage; what is not nothing and not all never reads as 0 or 100."""
    if share in (0.0, 1.0):
        return f"{share * 100:.0f}%"
    if 0 < share < 0.001:
        return "under 0.1%"
    if 0.999 < share < 1:
        return "over 99.9%"
    return f"{share * 100:.1f}%" if share < 0.1 or share > 0.9 else f"{share * 100:.0f}%"


def per_hundred(rate: float) -> str:
    """A yearly rate per 100 units."""
    return f"{rate * 100:.1f}"


def money(value: Decimal | float, currency: str) -> str:
    """An amount in the company's currency."""
    return f"{currency} {value:,.2f}"


def count(number: float, one: str, many: str | None = None) -> str:
    """1 part, 2 parts."""
    return f"{number:,g} {one if number == 1 else many or one + 's'}"
