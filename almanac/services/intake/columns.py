"""Which column of a list means what: by its header in three languages, and by what stands in it."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from rapidfuzz import fuzz

from almanac.exchange.workbook import Cell

LIKE_A_DAY = re.compile(r"^\d{1,4}[./-]\d{1,2}[./-]\d{2,4}")
HEADER_SEARCH, LIKE = 30, 88
"""Rows among which the header is looked for, and how alike a word has to be, of 100."""


@dataclass(frozen=True)
class Field:
    """Something a list may say, with the words it stands under. needed : without it nothing can be done · day, amount : what its cells
    are · alone : the one column of days that no word names is taken for it
    """

    name: str
    about: str
    words: tuple[str, ...]
    needed: bool = False
    day: bool = False
    amount: bool = False
    alone: bool = False


def said_as(text: str) -> tuple[str, ...]:
    """Words a field stands under, separated by commas."""
    return tuple(" ".join(word.split()) for word in text.split(","))


def plain(text: str) -> str:
    """Text in small letters without accents, signs and doubled spaces: what people mean is the same."""
    folded = text.lower().replace("ß", "ss").replace("ä", "ae").replace("ö", "oe").replace("ü", "ue")
    bare = "".join(sign for sign in unicodedata.normalize("NFKD", folded) if not unicodedata.combining(sign))
    return " ".join(re.split(r"[^a-z0-9/]+", bare)).strip()


def header_of(rows: Sequence[Sequence[Cell]], fields: Sequence[Field]) -> tuple[int, frozenset[str]] | None:
    """The row whose cells are most of all names of fields, and which; None where none names two of them.

    Title rows above are passed over; of equal rows the first.
    """
    best: tuple[int, frozenset[str]] | None = None
    for place, row in enumerate(rows[:HEADER_SEARCH]):
        names = (field_of(cell, fields) for cell in row if isinstance(cell, str) and cell)
        named = frozenset(name for name in names if name is not None)
        if len(named) > max(len(best[1]) if best else 1, 1):
            best = place, named
    return best


def _field_of(said: str, fields: Sequence[Field]) -> str | None:
    exact = next((field.name for field in fields if said in field.words), None)
    if exact is not None:
        return exact
    scored = [(max(fuzz.ratio(said, word) for word in field.words), field.name) for field in fields]
    best, name = max(scored)
    if best >= LIKE:
        return name
    words = set(said.split())
    return next((field.name for field in fields if any(word in words for word in field.words if len(word) > 3 and " " not in word)), None)


def field_of(header: str, fields: Sequence[Field]) -> str | None:
    """The field a header means, where it is one of its words or nearly."""
    said = plain(header)
    return _field_of(said, fields) if said else None


def proposed(
    header: Sequence[Cell], body: Sequence[Sequence[Cell]], known: Mapping[str, set[str]], fields: Sequence[Field]
) -> dict[str, int]:
    """A column for each field: by the header, and where that says nothing by what stands there.

    Parameters
    ----------
    header : the row of names · body : rows below · known : plain names on record by field · fields : of this kind of list
    """
    found: dict[str, int] = {}
    for place, cell in enumerate(header):
        name = field_of(str(cell), fields) if cell != "" else None
        if name is not None and name not in found:
            found[name] = place
    left = [place for place in range(len(header)) if place not in found.values()]
    for name in (field.name for field in fields):
        if name in found or not known.get(name):
            continue
        share, place = max(((_share(body, place, known[name]), place) for place in left), default=(0.0, -1))
        if share > 0.5:
            found[name] = place
            left.remove(place)
    for field in fields:
        dated = [place for place in left if _dated(body, place) > 0.6] if field.alone and field.name not in found else []
        if len(dated) == 1:
            found[field.name] = dated[0]
    return found


def _share(body: Sequence[Sequence[Cell]], place: int, names: set[str]) -> float:
    said = [plain(str(row[place])) for row in body[:500] if row[place] != ""]
    return sum(one in names for one in said) / len(said) if said else 0.0


def _dated(body: Sequence[Sequence[Cell]], place: int) -> float:
    cells = [row[place] for row in body[:500] if row[place] != ""]
    days = sum(isinstance(cell, date) or bool(isinstance(cell, str) and LIKE_A_DAY.match(cell)) for cell in cells)
    return days / len(cells) if cells else 0.0
