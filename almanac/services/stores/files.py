"""The stores as files: moves, balances, orders and counts out; counts, acts and orders in, all of a file or nothing of it."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from sqlalchemy.orm import Session

from almanac.exchange.tables import Row, TableFault, csv_row, read_csv, read_xlsx, write_xlsx
from almanac.services.errors import Fault, Refused
from almanac.services.importing import cells
from almanac.services.importing.cells import CellFault
from almanac.services.orders.drafts import LineWanted, draft_orders
from almanac.services.stores.acts import MoveRequest, Recorded, do
from almanac.services.stores.counts import CountRequest, count_shelf
from almanac.store import store_files

ZIP = b"PK"
MOST_ROWS = 10_000
NAMES = tuple(store_files.TABLES)


def table_csv(session: Session, name: str) -> Iterator[bytes]:
    """One of the tables as CSV with a byte-order mark, row by row."""
    yield b"\xef\xbb\xbf" + csv_row(store_files.columns_of(session, name))
    for row in store_files.rows_of(session, name):
        yield csv_row([_plain(cell) for cell in row])


def table_xlsx(session: Session, name: str) -> bytes:
    """One of the tables as a workbook of one sheet."""
    rows = ([_plain(cell) for cell in row] for row in store_files.rows_of(session, name))
    return write_xlsx(name, store_files.columns_of(session, name), rows)


def _plain(cell: object) -> object:
    if isinstance(cell, date):
        return cell.isoformat()
    return str(cell) if isinstance(cell, Decimal) else cell


@dataclass(frozen=True)
class Taken:
    """What came of a file. rows : taken · waits : counts that wait for a lead · drafts : numbers of the drafts made"""

    rows: int
    waits: int = 0
    drafts: tuple[int, ...] = ()


def take_file(session: Session, name: str, data: bytes, by: Recorded) -> Taken:
    """Carry out a file of counts, acts or order lines; a fault anywhere undoes all of it.

    Raises
    ------
    Refused : no such file, no table, a column missing, and every row that cannot be carried out, by its line
    """
    reader = READERS.get(name)
    if reader is None:
        raise Refused(Fault("file", f"one of {', '.join(READERS)} was wanted, got {name}"))
    try:
        rows = read_xlsx(data, most_rows=MOST_ROWS) if data.startswith(ZIP) else read_csv(data, required=(), most_rows=MOST_ROWS)
    except TableFault as fault:
        raise Refused(Fault("file", str(fault))) from fault
    if not rows:
        raise Refused(Fault("file", "no row below the header"))
    missing = [column for column in reader.required if column not in rows[0].cells]
    if missing:
        raise Refused(Fault("file", f"missing column {', '.join(missing)}; the header has {', '.join(rows[0].cells)}"))
    with session.begin_nested():
        return reader.take(session, rows, by)


def _each(rows: list[Row], one: Callable[[Row], None]) -> None:
    """Carry out row by row; what is refused is told by line, the first faults of all of them together."""
    faults: list[Fault] = []
    for row in rows:
        try:
            one(row)
        except CellFault as fault:
            faults.append(Fault(f"line {row.line}", f"line {row.line}: {fault}"))
        except Refused as refused:
            faults += [Fault(f"line {row.line}", f"line {row.line}, {fault.field}: {fault.message}") for fault in refused.faults]
    if faults:
        raise Refused(*faults)


def _take_counts(session: Session, rows: list[Row], by: Recorded) -> Taken:
    waits = 0

    def one(row: Row) -> None:
        nonlocal waits
        given = row.cells
        place = given.get("place") or None
        request = CountRequest(given["part_number"], given["site"], _whole(given, "counted", least=0), given.get("reason", ""), place)
        waits += count_shelf(session, request, by).state == "waits"

    counted = [row for row in rows if row.cells["counted"]]
    _each(counted, one)
    return Taken(len(counted), waits)


def _take_acts(session: Session, rows: list[Row], by: Recorded) -> Taken:
    def one(row: Row) -> None:
        given = row.cells
        made_on = cells.day(given["made_on"]) if given.get("made_on") else None
        quantity = _whole(given, "quantity", least=1)
        do(session, MoveRequest(given["part_number"], given["site"], given["act"], quantity, given.get("reason", ""), made_on), by)

    _each(rows, one)
    return Taken(len(rows))


def _take_orders(session: Session, rows: list[Row], by: Recorded) -> Taken:
    lines: list[LineWanted] = []
    _each(rows, lambda row: lines.append(LineWanted(row.cells["part_number"], _whole(row.cells, "quantity", least=1))))
    try:
        made = draft_orders(session, lines, "", clock=by.clock, author_id=by.author_id)
    except Refused as refused:
        raise Refused(*[_by_line(fault, rows) for fault in refused.faults]) from refused
    return Taken(len(rows), drafts=tuple(made))


def _by_line(fault: Fault, rows: list[Row]) -> Fault:
    """A fault of a line of a draft, by the line of the file it came from."""
    place = fault.field.split(".")[1] if fault.field.startswith("lines.") else ""
    line = rows[int(place)].line if place.isdigit() else None
    return Fault(f"line {line}", f"line {line}: {fault.message}") if line is not None else fault


def _whole(given: Mapping[str, str], column: str, *, least: int) -> int:
    try:
        found = cells.whole(least, 100_000)(given[column])
    except CellFault as fault:
        raise CellFault(f"{column}: {fault}") from fault
    return int(found)


@dataclass(frozen=True)
class Reader:
    """A file that is read. required : columns it has to have"""

    required: tuple[str, ...]
    take: Callable[[Session, list[Row], Recorded], Taken]


READERS: Mapping[str, Reader] = {
    "counts": Reader(("site", "part_number", "counted"), _take_counts),
    "acts": Reader(("site", "part_number", "act", "quantity"), _take_acts),
    "orders": Reader(("part_number", "quantity"), _take_orders),
}
