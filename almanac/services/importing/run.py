"""An import from end to end: parse, check, and write if everything is right and it was asked for."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.services.importing.check import check_all
from almanac.services.importing.known import read_known
from almanac.services.importing.parse import ImportFault, parse_files
from almanac.services.importing.readings import check_readings, read_tenures
from almanac.services.importing.specs import FILES
from almanac.services.importing.write import write_import


@dataclass(frozen=True)
class ImportReport:
    """Rows read by file, every fault in order of file and line, and whether it was written."""

    rows: dict[str, int]
    faults: list[ImportFault]
    written: bool


def run_import(
    session: Session, files: Mapping[str, bytes], *, clock: Clock, author_id: int | None, write: bool, most_rows: int | None = None
) -> ImportReport:
    """Check files and, when asked and nothing is wrong, write them in the caller's transaction.

    Parameters
    ----------
    files : content by file name · write : False only looks · most_rows : largest file taken, None for any
    """
    parsed = parse_files(files, most_rows=most_rows)
    if not parsed.records and not parsed.faults:
        parsed.fault("", 0, "", f"no file was given: choose some of {', '.join(f'{name}.csv' for name in FILES)}")
    check_all(parsed, read_known(session), today=clock.today)
    check_readings(parsed, read_tenures(session, parsed), today=clock.today)
    order = {f"{name}.csv": place for place, name in enumerate(FILES)}
    faults = sorted(parsed.faults, key=lambda fault: (order.get(fault.file, len(order)), fault.line, fault.column))
    if write and not faults:
        write_import(session, parsed, clock=clock, author_id=author_id)
    return ImportReport({name: len(parsed.of(name)) for name in FILES if name in parsed.records}, faults, write and not faults)
