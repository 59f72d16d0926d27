"""Lists as companies have them: workbooks and text files of any delimiter and encoding, as rows of plain cells."""

from __future__ import annotations

import csv
import io
from collections import Counter
from dataclasses import dataclass
from pathlib import PurePath

from charset_normalizer import from_bytes

from almanac.exchange.workbook import Cell, NoWorkbook, read_workbook

MOST_ROWS = 200_000
LARGEST = 64 * 1024 * 1024
WORKBOOKS = (".xlsx", ".xlsm", ".xlsb", ".xls", ".ods")
DELIMITERS = ";,\t|"
SAMPLE, ASCII = 64 * 1024, 127
SINGLE_BYTE = {"cp1252": "Western European", "cp1250": "cp1250", "mac_roman": "mac_roman"}
USUAL = frozenset("äöüÄÖÜßéèêëàâáãåæçîïíìñôóòõøœûúùýÿÉÈÊÀÂÁÅÆÇÎÍÑÔÓÕØŒÛÚÝąćęłńóśźżčďěňřšťůžőűĄĆĘŁŃŚŹŻČĎĚŇŘŠŤŮŽŐŰ€£°²–—’‘“”„…§·«»×½±")


class NoList(Exception):
    """A file that cannot be read as a list; the message names the place and the cure."""


@dataclass(frozen=True)
class Sheet:
    """One sheet. rows : of equal length, empty rows among them, as they stand in the file, the first one line 1"""

    name: str
    rows: list[list[Cell]]


@dataclass(frozen=True)
class ListFile:
    """A file as it was read. how : in words, such as "semicolons, Western European (cp1252)" """

    name: str
    sheets: list[Sheet]
    how: str


def read_list(name: str, content: bytes) -> ListFile:
    """Read a list.

    Raises
    ------
    NoList : nothing in it, too much, a workbook that is none, or one whose cells hold no values
    """
    if not content:
        raise NoList(f"{name} is empty: save the list anew and give that file")
    if len(content) > LARGEST:
        raise NoList(f"{name} has {len(content) // 2**20} MB: files up to {LARGEST // 2**20} MB are taken, so split it")
    found = _workbook(name, content) if PurePath(name).suffix.lower() in WORKBOOKS else _text(name, content)
    for sheet in found.sheets:
        if len(sheet.rows) > MOST_ROWS:
            raise NoList(f"{name}, {sheet.name}: {len(sheet.rows):,} rows; up to {MOST_ROWS:,} are taken, so split it by site or model")
    if not any(cell != "" for sheet in found.sheets for row in sheet.rows for cell in row):
        why = "its cells hold no values; open it in a spreadsheet program, let it work its formulas out, and save it"
        raise NoList(f"{name} has nothing in it: {why}")
    return found


def _workbook(name: str, content: bytes) -> ListFile:
    try:
        sheets = [Sheet(sheet, _even(rows)) for sheet, rows in read_workbook(content)]
    except NoWorkbook as fault:
        raise NoList(f"{name} is no workbook that can be read ({fault}): save it as XLSX or ODS, or as CSV") from fault
    return ListFile(name, [sheet for sheet in sheets if sheet.rows], "workbook")


def _text(name: str, content: bytes) -> ListFile:
    text, encoding = _decoded(name, content)
    delimiter = _delimiter(text)
    try:
        rows: list[list[Cell]] = [
            [" ".join(cell.split()) for cell in row] for row in csv.reader(io.StringIO(text, newline=""), delimiter=delimiter)
        ]
    except csv.Error as error:
        raise NoList(f"{name} cannot be read as a list ({error}): save it as CSV anew") from error
    words = {";": "semicolons", ",": "commas", "\t": "tabs", "|": "bars"}[delimiter]
    return ListFile(name, [Sheet("", _even(rows))], f"text with {words}, {encoding}")


def _decoded(name: str, content: bytes) -> tuple[str, str]:
    if content.startswith((b"\xff\xfe", b"\xfe\xff")):
        return _as("utf_16", name, content), "UTF-16"
    if content.startswith(b"\xef\xbb\xbf"):
        return _as("utf_8_sig", name, content), "UTF-8"
    if b"\x00" in content[:SAMPLE]:
        guess = from_bytes(content[:SAMPLE]).best()
        if guess is None or not guess.encoding.startswith("utf_16"):
            raise NoList(f"{name} is no text and no workbook by its name: give it the ending it has, such as .xlsx")
        return _as(guess.encoding, name, content), "UTF-16"
    try:
        return content.decode("utf-8"), "UTF-8"
    except UnicodeDecodeError:
        pass
    readings = {encoding: content.decode(encoding, errors="replace") for encoding in SINGLE_BYTE}
    best = max(readings, key=lambda encoding: _usual(readings[encoding][:SAMPLE]))
    # Where another reading is letter for letter the same, the first is named.
    return readings[best], SINGLE_BYTE[best]


def _usual(text: str) -> int:
    """How many letters beyond ASCII are such as names and words are written with, less signs no list has, and capitals within a word."""
    pairs = zip(f" {text}", text, strict=False)
    return sum(1 if sign in USUAL and not (sign.isupper() and before.islower()) else -1 for before, sign in pairs if ord(sign) > ASCII)


def _as(encoding: str, name: str, content: bytes) -> str:
    try:
        return content.decode(encoding)
    except UnicodeDecodeError as error:
        raise NoList(f"{name} breaks off within a character: save the list anew and give that file") from error


def _delimiter(text: str) -> str:
    """The one that splits most lines into equally many cells; of equal ones the semicolon, which no number holds."""
    lines = [line for line in text[:SAMPLE].splitlines() if line.strip()][:200]

    def score(delimiter: str) -> tuple[int, int]:
        counts = Counter(len(row) for row in csv.reader(lines, delimiter=delimiter) if len(row) > 1)
        if not counts:
            return 0, 0
        cells, times = max(counts.items(), key=lambda item: (item[1], item[0]))
        return times, cells

    return max(DELIMITERS, key=score)


def _even(rows: list[list[Cell]]) -> list[list[Cell]]:
    """Rows of equal length, without what is empty at the end of all."""
    width = max((max((place + 1 for place, cell in enumerate(row) if cell != ""), default=0) for row in rows), default=0)
    empty: Cell = ""
    even = [[*row[:width], *[empty] * (width - len(row))] for row in rows]
    while even and all(cell == "" for cell in even[-1]):
        even.pop()
    return even
