"""What the labels of the stores say to a scanner, and what a scanned text may be."""

from __future__ import annotations

from dataclasses import dataclass

SHELF, LOT, ORDER = "SHELF", "LOT", "ORDER"


@dataclass(frozen=True)
class Scanned:
    """A text that was scanned. kind : shelf, lot, order, or empty for any other text, which stands in `number`"""

    kind: str
    number: str
    site: str = ""
    lot: str = ""


def shelf_label(number: str, site: str) -> str:
    """What a shelf's label says."""
    return f"{SHELF} {number} {site}"


def lot_label(number: str, site: str, lot: str) -> str:
    """What the label of a lot on a shelf says; the lot stands last and may hold spaces."""
    return f"{LOT} {number} {site} {lot}"


def order_label(number: str) -> str:
    """What an order's document says."""
    return f"{ORDER} {number}"


def read_label(text: str) -> Scanned:
    """What a scanned or typed text is; one that is no label of the stores is taken as a number.

    Raises
    ------
    nothing : whatever is scanned is something
    """
    words = text.strip().split()
    kind = words[0].upper() if words else ""
    if kind == SHELF and len(words) == 3:
        return Scanned("shelf", words[1], words[2])
    if kind == LOT and len(words) >= 4:
        return Scanned("lot", words[1], words[2], " ".join(words[3:]))
    if kind == ORDER and len(words) == 2:
        return Scanned("order", words[1])
    return Scanned("", text.strip())
