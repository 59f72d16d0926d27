"""Importing a company's own data."""

from __future__ import annotations

from pydantic import Field

from almanac.web.schemas.base import Schema


class ImportQuery(Schema):
    write: bool = Field(default=False)


class ImportFaultView(Schema):
    file: str
    line: int
    column: str
    message: str


class FileRows(Schema):
    file: str
    rows: int


class ImportReportView(Schema):
    """What the files hold and what is wrong with them; only the first faults are listed, all are counted."""

    files: list[FileRows]
    faults: list[ImportFaultView]
    faults_total: int
    written: bool


class ColumnView(Schema):
    name: str
    required: bool
    help: str
    example: str


class FileSpecView(Schema):
    name: str
    about: str
    columns: list[ColumnView]


class ImportFormats(Schema):
    files: list[FileSpecView]
    most_rows: int
