"""Reading the files: every cell parsed, every fault kept with its place."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from almanac.exchange.tables import Row, TableFault, read_csv
from almanac.services.importing.cells import CellFault
from almanac.services.importing.specs import FILES, FileSpec


@dataclass(frozen=True)
class ImportFault:
    """What is wrong and where. `line` 0 concerns the file as a whole."""

    file: str
    line: int
    column: str
    message: str


@dataclass(frozen=True)
class Record:
    """A parsed row: values by column name."""

    line: int
    values: dict[str, Any]

    def __getitem__(self, name: str) -> Any:
        return self.values[name]


EMPTY = "this cell may not be empty"


@dataclass
class Parsed:
    """Records by file, and everything that is wrong so far."""

    records: dict[str, list[Record]] = field(default_factory=dict)
    faults: list[ImportFault] = field(default_factory=list)

    def of(self, file: str) -> list[Record]:
        return self.records.get(file, [])

    def fault(self, file: str, line: int, column: str, message: str) -> None:
        self.faults.append(ImportFault(file, line, column, message))


def parse_files(files: Mapping[str, bytes], *, most_rows: int | None = None) -> Parsed:
    """Parse files by name (with or without .csv). Unknown names are faults, so that a misspelt file is not lost."""
    parsed = Parsed()
    for given, data in files.items():
        name = given.rsplit("/", 1)[-1].lower().removesuffix(".csv")
        spec = FILES.get(name)
        if spec is None:
            parsed.fault(given, 0, "", f"this file is not one of {', '.join(f'{known}.csv' for known in FILES)}")
            continue
        try:
            rows = read_csv(data, required=spec.required, most_rows=most_rows)
        except TableFault as fault:
            parsed.fault(f"{name}.csv", 0, "", str(fault))
            continue
        parsed.records[name] = [_record(spec, row, parsed) for row in rows]
        _check_twice(spec, parsed)
    return parsed


def _record(spec: FileSpec, row: Row, parsed: Parsed) -> Record:
    values: dict[str, Any] = {}
    for column in spec.columns:
        cell = row.cells.get(column.name, "")
        values[column.name] = column.default
        if not cell:
            if column.required:
                parsed.fault(f"{spec.name}.csv", row.line, column.name, EMPTY)
            continue
        try:
            values[column.name] = column.parse(cell)
        except CellFault as fault:
            parsed.fault(f"{spec.name}.csv", row.line, column.name, str(fault))
    return Record(row.line, values)


def _check_twice(spec: FileSpec, parsed: Parsed) -> None:
    seen: dict[tuple[Any, ...], int] = {}
    for record in parsed.of(spec.name):
        key = tuple(str(record[name] or "").upper() for name in spec.key)
        if key in seen:
            parsed.fault(f"{spec.name}.csv", record.line, spec.key[0], f"the same {', '.join(spec.key)} as in line {seen[key]}")
        seen.setdefault(key, record.line)
