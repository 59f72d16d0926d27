"""A file as the table of one kind of list: its sheet, header, columns, order of days and sign before decimals."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from almanac.exchange.lists import ListFile, Sheet
from almanac.exchange.workbook import Cell
from almanac.services.errors import Fault, Refused
from almanac.services.intake.amounts import Marks, amount_of, currency_of, marks_of
from almanac.services.intake.columns import Field, field_of, header_of, proposed
from almanac.services.intake.settled import Settled
from almanac.services.intake.values import Order, day_of, order_of


@dataclass(frozen=True)
class Line:
    """A row below the header, read by field."""

    number: int
    cells: Sequence[Cell]
    table: Table

    def cell(self, name: str) -> Cell:
        """What stands in a field's column; empty text without one."""
        return self.cells[self.table.columns[name]] if name in self.table.columns else ""

    def text(self, name: str) -> str:
        """The same as text; a whole number of a workbook without its point."""
        cell = self.cell(name)
        return f"{cell:.0f}" if isinstance(cell, float) and cell == int(cell) else str(cell)

    def day(self, name: str) -> date | None:
        """The day it says; None where it says none that a record can mean."""
        return day_of(self.cell(name), day_first=self.table.day_first)

    def amount(self, name: str) -> Decimal | None:
        """The number it says; None where it says none."""
        return amount_of(self.cell(name), decimal=self.table.decimal)

    def currency(self, name: str) -> str | None:
        """The currency it names."""
        return currency_of(self.cell(name))

    def unread(self, fields: Sequence[Field]) -> str:
        """What is wrong with the days and amounts of a row, "" where nothing is."""
        for field in fields:
            said = self.text(field.name)
            if said and field.day and self.day(field.name) is None:
                return f"{said} is no day that a record can mean"
            if said and field.amount and self.amount(field.name) is None:
                return f"{said} is no number: {field.about} was wanted"
        return ""


@dataclass(frozen=True)
class Table:
    """A list as a table.

    columns : place of a field's column · order, marks : what its days and amounts show · day_first, decimal : how they are read
    asks_order, asks_decimal : whether a person has to say
    """

    how: str
    sheets: list[str]
    sheet: str
    header: list[str]
    header_line: int
    columns: Mapping[str, int]
    body: list[tuple[int, list[Cell]]]
    order: Order
    day_first: bool
    asks_order: bool
    marks: Marks
    decimal: str
    asks_decimal: bool

    def lines(self) -> list[Line]:
        """The rows."""
        return [Line(number, cells, self) for number, cells in self.body]


def header_score(file: ListFile, fields: Sequence[Field]) -> tuple[bool, int, int]:
    """How well a file fits a kind of list: whether all that is needed is named, how many fields are, and rows below them."""
    found = [(header, sheet) for sheet in file.sheets if (header := header_of(sheet.rows, fields)) is not None]
    needed = {field.name for field in fields if field.needed}
    return max(((needed <= named, len(named), len(sheet.rows) - place) for (place, named), sheet in found), default=(False, 0, 0))


def read_table(file: ListFile, fields: Sequence[Field], known: Mapping[str, set[str]], settled: Settled, what: str) -> Table:
    """Read a file as a kind of list.

    Parameters
    ----------
    fields : of the kind · known : plain names on record by field, to tell columns by · what : the kind, in words

    Raises
    ------
    Refused : no sheet has a header that names columns of such a list, or no column for what is needed
    """
    sheet, place = _sheet(file, fields, settled, what)
    header = [str(cell) for cell in sheet.rows[place]]
    below = [(line, row) for line, row in enumerate(sheet.rows[place + 1 :], place + 2) if any(cell != "" for cell in row)]
    # A header said again, as where pages were put one behind the other, or a second row of it in another language, is no row.
    body = [(line, row) for line, row in below if not _is_header(row, fields)]
    columns = _columns(header, [row for _, row in body], fields, known, settled)
    lacking = [field.about for field in fields if field.needed and field.name not in columns]
    if lacking:
        raise Refused(Fault("columns", f"{what}: no column was found for {' and '.join(lacking)}: say which one it is"))
    days = [columns[field.name] for field in fields if field.day and field.name in columns]
    amounts = [columns[field.name] for field in fields if field.amount and field.name in columns]
    order = order_of((line, row[at]) for line, row in body for at in days)
    marks = marks_of((line, row[at]) for line, row in body for at in amounts)
    day_first = settled.day_first if settled.day_first is not None else order.settled
    decimal = settled.decimal or marks.settled
    return Table(
        how=file.how,
        sheets=[one.name for one in file.sheets],
        sheet=sheet.name,
        header=header,
        header_line=place + 1,
        columns=columns,
        body=body,
        order=order,
        day_first=day_first is not False,
        asks_order=day_first is None,
        marks=marks,
        decimal=decimal or marks.likely,
        asks_decimal=decimal is None,
    )


def _is_header(row: Sequence[Cell], fields: Sequence[Field]) -> bool:
    named = [cell for cell in row if isinstance(cell, str) and cell and not any(sign.isdigit() for sign in cell)]
    if len(named) < sum(cell != "" for cell in row):
        return False
    return len(named) > 1 and all(field_of(cell, fields) is not None for cell in named)


def _sheet(file: ListFile, fields: Sequence[Field], settled: Settled, what: str) -> tuple[Sheet, int]:
    """The sheet with the header: the one that was chosen, else the one of most rows below one."""
    found = [(sheet, header[0]) for sheet in file.sheets if (header := header_of(sheet.rows, fields)) is not None]
    chosen = [pair for pair in found if pair[0].name == settled.sheet]
    if not found:
        words = ", ".join(field.words[0] for field in fields)
        raise Refused(Fault("file", f"no row of {file.name} names columns of a {what}: a header such as {words} was wanted"))
    return max(chosen or found, key=lambda pair: len(pair[0].rows) - pair[1])


def _columns(
    header: Sequence[str], body: Sequence[Sequence[Cell]], fields: Sequence[Field], known: Mapping[str, set[str]], settled: Settled
) -> dict[str, int]:
    """Columns as a person said, and the others as they are proposed."""
    found = {name: place for name, place in proposed(header, body, known, fields).items() if name not in settled.columns}
    for name, said in settled.columns.items():
        if said and said in header:
            place = header.index(said)
            found = {other: at for other, at in found.items() if at != place}
            found[name] = place
    return found
