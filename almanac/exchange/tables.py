"""CSV and XLSX as spreadsheets read and write them: a header row, any order of columns."""

from __future__ import annotations

import csv
import io
import zlib
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Final
from warnings import catch_warnings, simplefilter
from zipfile import BadZipFile, ZipFile

from almanac.core.text import control_character, printable

LARGEST_WORKBOOK: Final = 300_000_000
BROKEN: Final = (
    *(BadZipFile, zlib.error, EOFError, SyntaxError),
    *(KeyError, IndexError, AttributeError, TypeError, ValueError),
    *(OSError, OverflowError, RuntimeError),
)
"""What the workbook library raises over sheets, styles and archives that are not what they say."""
FORMULA_START = ("=", "+", "-", "@", "\t", "\r")


class TableFault(Exception):
    """A file that cannot be read as a table; the message names the place and the cure."""


@dataclass(frozen=True)
class Row:
    """One row by column name; `line` counts from 1 with the header as line 1."""

    line: int
    cells: dict[str, str]


def write_csv(columns: Sequence[str], rows: Iterable[Sequence[object]]) -> bytes:
    """A CSV file with a byte-order mark; cells a spreadsheet would run as a formula are made plain text."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(columns)
    writer.writerows([[_plain(cell) for cell in row] for row in rows])
    return out.getvalue().encode("utf-8-sig")


def csv_row(cells: Sequence[object]) -> bytes:
    """One row of a CSV file, cells made plain as in `write_csv`."""
    out = io.StringIO()
    csv.writer(out, lineterminator="\r\n").writerow([_plain(cell) for cell in cells])
    return out.getvalue().encode()


def write_xlsx(title: str, columns: Sequence[str], rows: Iterable[Sequence[object]]) -> bytes:
    """A workbook of one sheet, its header frozen; text that looks like a formula stays text."""
    from openpyxl import Workbook
    from openpyxl.cell import WriteOnlyCell

    book = Workbook(write_only=True)
    sheet = book.create_sheet(title)
    sheet.freeze_panes = "A2"
    sheet.append(list(columns))
    for row in rows:
        cells = []
        for value in row:
            kept = value if isinstance(value, int | float | None) else printable(str(value))
            cell = WriteOnlyCell(sheet, value=kept)
            if isinstance(kept, str):
                cell.data_type = "s"
            cells.append(cell)
        sheet.append(cells)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def read_xlsx(data: bytes, *, most_rows: int | None = None) -> list[Row]:
    """Rows of a workbook's first sheet as text, days in ISO form; formulas by the value last computed.

    Raises
    ------
    TableFault : no workbook, no header, or too many rows
    """
    try:
        with ZipFile(io.BytesIO(data)) as packed:
            unpacked = sum(item.file_size for item in packed.infolist())
        if unpacked > LARGEST_WORKBOOK:
            raise TableFault(f"the workbook unpacks to {unpacked / 1e6:,.0f} MB, {LARGEST_WORKBOOK / 1e6:,.0f} at most: split it")
        header, cells = _sheet(data)
    except BROKEN as error:
        raise TableFault("this is no XLSX workbook that can be read: save it as XLSX or as CSV UTF-8") from error
    _check_header(header, ())
    return list(_rows((row[: len(header)] for row in cells), header, most_rows))


def _sheet(data: bytes) -> tuple[list[str], list[list[str]]]:
    """Header and rows of the first sheet, read whole, so that whatever is broken shows here."""
    from openpyxl import load_workbook

    with catch_warnings():
        simplefilter("ignore")  # of parts of the workbook that are not read here
        book = load_workbook(io.BytesIO(data), read_only=True, data_only=True)
        rows = book.worksheets[0].iter_rows(values_only=True) if book.worksheets else iter(())
        header = [_text(cell).lower() for cell in next(rows, ())]
        return header, [[_text(cell) for cell in row] for row in rows]


def _text(cell: object) -> str:
    if cell is None:
        return ""
    if isinstance(cell, datetime):
        return cell.date().isoformat() if not (cell.hour or cell.minute or cell.second) else cell.isoformat(sep=" ")
    if isinstance(cell, date):
        return cell.isoformat()
    if isinstance(cell, float) and cell.is_integer():
        return str(int(cell))
    return str(cell).strip()


def _plain(cell: object) -> object:
    if isinstance(cell, str) and (cell.startswith(FORMULA_START) or cell.lstrip().startswith(FORMULA_START)):
        return "'" + cell
    return "" if cell is None else cell


def read_csv(data: bytes, *, required: Sequence[str], most_rows: int | None = None) -> list[Row]:
    """Rows of a CSV file. Extra columns are kept, empty lines skipped, cells trimmed.

    Raises
    ------
    TableFault : not UTF-8, no header, a required column missing or named twice, a row too long, or too many rows
    """
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        line = data[: error.start].count(b"\n") + 1
        raise TableFault(f"line {line}: not UTF-8 text; save the file as CSV UTF-8") from error
    if fault := control_character(text):
        raise TableFault(f"the file is no CSV text: {fault}")
    reader = csv.reader(io.StringIO(text, newline=""), strict=True)
    try:
        header = [name.strip().lower() for name in next(reader, [])]
        _check_header(header, required)
        return list(_rows(reader, header, most_rows))
    except csv.Error as error:
        raise TableFault(f"line {reader.line_num}: {error}; check the quotes") from error


def _check_header(header: list[str], required: Sequence[str]) -> None:
    if not any(header):
        raise TableFault("line 1: a header row was wanted, the file is empty")
    missing = [name for name in required if name not in header]
    if missing:
        raise TableFault(f"line 1: missing column {', '.join(missing)}; the header has {', '.join(header)}")
    twice = sorted({name for name in header if name and header.count(name) > 1})
    if twice:
        raise TableFault(f"line 1: column {', '.join(twice)} is named twice")


def _rows(reader: Iterable[list[str]], header: list[str], most_rows: int | None) -> Iterable[Row]:
    count = 0
    for line, cells in enumerate(reader, start=2):
        if not any(cell.strip() for cell in cells):
            continue
        if len(cells) > len(header):
            raise TableFault(f"line {line}: {len(cells)} cells, the header has {len(header)}; check for a comma inside a cell")
        count += 1
        if most_rows is not None and count > most_rows:
            raise TableFault(f"more than {most_rows:,} rows: split the file, or use bin/almanac import, which takes any size")
        yield Row(line, dict(zip(header, [cell.strip() for cell in cells] + [""] * (len(header) - len(cells)), strict=True)))
