"""Workbooks read in a process of their own, with bounded memory and time.

A workbook says itself how large its sheets are, and what reads it makes room for that: one cell in the last corner of a sheet, or an
archive that unpacks without end, would take the whole application with it. Run as a program, this module reads a workbook from standard
input and writes its sheets to standard output.
"""

from __future__ import annotations

import io
import json
import resource
import subprocess
import sys
from datetime import date, datetime, time, timedelta
from pathlib import Path
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from python_calamine import CalamineSheet

ROOT = Path(__file__).resolve().parents[2]
MEMORY = 2 * 1024**3
SECONDS = 120
MOST_CELLS = 20_000_000
Cell = str | float | date
"""What stands in a cell: text without spaces around it, a number or a day. Empty cells are empty text."""


class NoWorkbook(Exception):
    """What cannot be read; the message says why."""


def read_workbook(content: bytes) -> list[tuple[str, list[list[Cell]]]]:
    """The sheets of a workbook (XLSX, XLSM, XLSB, XLS, ODS), each with its name and its rows.

    Raises
    ------
    NoWorkbook : it is none, or larger than there is room or time for
    """
    command = [sys.executable, "-m", __name__]
    try:
        done = subprocess.run(command, input=content, capture_output=True, timeout=SECONDS, check=False, cwd=ROOT)
    except subprocess.TimeoutExpired as error:
        raise NoWorkbook(f"it takes longer than {SECONDS} seconds to read") from error
    if done.returncode != 0:
        raise NoWorkbook("its sheets are larger than there is room for, or it is damaged")
    said: dict[str, Any] = json.loads(done.stdout)
    if "fault" in said:
        raise NoWorkbook(said["fault"])
    return [(name, [[_back(cell) for cell in row] for row in rows]) for name, rows in said["sheets"]]


def _back(cell: str | float | list[str]) -> Cell:
    return date.fromisoformat(cell[0]) if isinstance(cell, list) else cell


def _read(content: bytes) -> dict[str, Any]:
    from python_calamine import CalamineError, CalamineWorkbook

    try:
        book = CalamineWorkbook.from_filelike(io.BytesIO(content))
        sheets, cells = [], 0
        for name in book.sheet_names:
            sheet = book.get_sheet_by_name(name)
            cells += sheet.height * sheet.width
            if cells > MOST_CELLS:
                return {"fault": f"its sheets reach over {cells:,} cells, {MOST_CELLS:,} at most"}
            sheets.append((name, _rows(sheet)))
    except (CalamineError, ValueError, OSError) as error:
        return {"fault": str(error)}
    return {"sheets": sheets}


def _rows(sheet: CalamineSheet) -> list[list[Any]]:
    """Cells of a sheet; one merged over several rows says the same in each of them."""
    rows = [[_cell(value) for value in row] for row in sheet.to_python(skip_empty_area=False)]
    for (top, left), (bottom, _) in sheet.merged_cell_ranges or ():
        for place in range(top + 1, min(bottom + 1, len(rows))):
            if left < len(rows[place]) and left < len(rows[top]):
                rows[place][left] = rows[top][left]
    return rows


def _cell(value: object) -> str | float | list[str]:
    if isinstance(value, datetime):
        return [value.date().isoformat()]
    if isinstance(value, date):
        return [value.isoformat()]
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, int | float):
        return float(value)
    if isinstance(value, time | timedelta):
        return str(value)
    return " ".join(str(value).split()) if value is not None else ""


def main() -> None:
    """Read a workbook from standard input."""
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    json.dump(_read(sys.stdin.buffer.read()), sys.stdout)


if __name__ == "__main__":
    main()
