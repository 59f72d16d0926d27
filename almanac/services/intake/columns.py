"""Which column of a machine list means what: by its header in three languages, and by what stands in it."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from rapidfuzz import fuzz

from almanac.exchange.lists import Cell

LIKE_A_DAY = re.compile(r"^\d{1,4}[./-]\d{1,2}[./-]\d{2,4}")
HEADER_SEARCH, LIKE = 30, 88
"""Rows among which the header is looked for, and how alike a word has to be, of 100."""


@dataclass(frozen=True)
class Field:
    """Something a machine list may say, with the words it stands under. needed : without it nothing can be done"""

    name: str
    about: str
    words: tuple[str, ...]
    needed: bool = False


def _words(text: str) -> tuple[str, ...]:
    return tuple(" ".join(word.split()) for word in text.split(","))


FIELDS = (
    Field("tag", "asset tag", _words("""tag, asset tag, asset, asset no, asset number, inventory number, inventory no, computer name,
        inventar, inventarnummer, inventarnr, anlagennummer, anlage, geraetenummer,
        numero d inventaire, no inventaire, inventaire, immobilisation"""), needed=True),
    Field("serial", "serial number", _words("""serial, serial number, serial no, seriennummer, serien nr, numero de serie,
        no serie, s/n, sn""")),
    Field("maker", "maker", _words("""maker, manufacturer, make, brand, vendor, hersteller, marke, fabricant, marque, constructeur""")),
    Field("model", "model", _words("""model, model name, type, product, modell, typ, geraetetyp, bezeichnung, modele,
        designation, produit"""),
        needed=True),
    Field("site", "where it stands", _words("""site, location, place, office, branch, city, standort, ort, niederlassung, filiale, lieu,
        emplacement, agence""")),
    Field("duty", "how it is used", _words("""duty, use, usage, shift, hours, einsatz, nutzung, betrieb, utilisation, service""")),
    Field("in_service_on", "first day of use", _words("""in service, in service on, in service since, purchase date, purchased, bought,
        delivered, delivery date, start date, acquisition, kaufdatum, anschaffung, anschaffungsdatum, gekauft, lieferdatum,
        inbetriebnahme, in betrieb seit, date d achat, achat, mise en service, date de livraison, date d acquisition""")),
    Field("retire_planned_on", "day it is to be retired", _words("""retire, retirement, planned retirement, replace by, end of life,
        end of lease, lease end, ersatz, ersatzdatum, leasingende, nutzungsende, remplacement, fin de bail, fin de vie""")),
    Field("status", "whether it is in use", _words("""status, state, condition, zustand, statut, etat""")),
)  # fmt: skip
GONE_WORDS = _words("""scrapped, retired, disposed, sold, written off, lost, stolen, recycled, returned, verschrottet, ausgemustert,
    entsorgt,
    verkauft, abgeschrieben, verloren, gestohlen, ausser betrieb, reforme, rebut, mis au rebut, vendu, perdu, vole, hors service""")


def plain(text: str) -> str:
    """Text in small letters without accents, signs and doubled spaces: what people mean is the same."""
    folded = text.lower().replace("ß", "ss").replace("ä", "ae").replace("ö", "oe").replace("ü", "ue")
    bare = "".join(sign for sign in unicodedata.normalize("NFKD", folded) if not unicodedata.combining(sign))
    return " ".join(re.split(r"[^a-z0-9/]+", bare)).strip()


def header_of(rows: Sequence[Sequence[Cell]]) -> int | None:
    """The row whose cells are most of all names of fields; None where none names two of them.

    Title rows above are passed over; of equal rows the first.
    """
    best, most = None, 1
    for place, row in enumerate(rows[:HEADER_SEARCH]):
        named = {field for cell in row if isinstance(cell, str) and cell and (field := field_of(cell)) is not None}
        if len(named) > most:
            best, most = place, len(named)
    return best


def field_of(header: str) -> str | None:
    """The field a header means, where it is one of its words or nearly."""
    said = plain(header)
    if not said:
        return None
    exact = next((field.name for field in FIELDS if said in field.words), None)
    if exact is not None:
        return exact
    scored = [(max(fuzz.ratio(said, word) for word in field.words), field.name) for field in FIELDS]
    best, name = max(scored)
    if best >= LIKE:
        return name
    words = set(said.split())
    return next((field.name for field in FIELDS if any(word in words for word in field.words if len(word) > 3 and " " not in word)), None)


def proposed(header: Sequence[Cell], body: Sequence[Sequence[Cell]], known: dict[str, set[str]]) -> dict[str, int]:
    """A column for each field: by the header, and where that says nothing by what stands there.

    Parameters
    ----------
    header : the row of names · body : rows below · known : plain names on record by field (site, model, maker, tag)
    """
    found: dict[str, int] = {}
    for place, cell in enumerate(header):
        name = field_of(str(cell)) if cell != "" else None
        if name is not None and name not in found:
            found[name] = place
    left = [place for place in range(len(header)) if place not in found.values()]
    for name in ("tag", "model", "site", "maker"):
        if name in found or not known.get(name):
            continue
        shares = [(_share(body, place, known[name]), place) for place in left]
        share, place = max(shares, default=(0.0, -1))
        if share > 0.5:
            found[name] = place
            left.remove(place)
    if "in_service_on" not in found:
        dated = [place for place in left if _dated(body, place) > 0.6]
        if len(dated) == 1:
            found["in_service_on"] = dated[0]
    return found


def _share(body: Sequence[Sequence[Cell]], place: int, names: set[str]) -> float:
    said = [plain(str(row[place])) for row in body[:500] if row[place] != ""]
    return sum(one in names for one in said) / len(said) if said else 0.0


def _dated(body: Sequence[Sequence[Cell]], place: int) -> float:
    cells = [row[place] for row in body[:500] if row[place] != ""]
    pattern = re.compile(r"^\d{1,4}[./-]\d{1,2}[./-]\d{2,4}")
    return (
        sum(isinstance(cell, date) or bool(isinstance(cell, str) and pattern.match(cell)) for cell in cells) / len(cells) if cells else 0.0
    )


def means_gone(status: str) -> bool:
    """Whether a status says that a machine is used no more."""
    said = plain(status)
    return any(word in said for word in GONE_WORDS)
