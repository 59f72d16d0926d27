"""Beside the log: exports, no-fault shares, repeat offenders, and the import of an old log."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import asdict

from flask import Blueprint, Response, current_app, request
from pydantic import ValidationError
from sqlalchemy.orm import Session

from almanac.services.clock import read_clock
from almanac.services.errors import Fault, Refused
from almanac.services.ledger.export import log_csv, log_json, log_xlsx
from almanac.services.ledger.patterns import no_fault_shares, repeat_offenders
from almanac.services.oldlog.columns import FIELDS
from almanac.services.oldlog.run import OldLog, OldLogRequest, read_old_log
from almanac.store.incidents import LogFilter
from almanac.store.models import Role
from almanac.web.access import author_id
from almanac.web.api import endpoint
from almanac.web.database import session
from almanac.web.schemas import ledger as schemas
from almanac.web.uploads import sent_file

blueprint = Blueprint("log_tools", __name__, url_prefix="/api/v1")
MOST_FAULTS, SAMPLE, MOST_ROWS = 300, 6, 100_000
XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"


def _wanted(query: schemas.ExportQuery) -> LogFilter:
    return LogFilter(finding=query.finding, kind=query.kind, site_code=query.site, words=query.q.strip() if query.q else None)


def _file(data: bytes | Iterator[bytes], kind: str, name: str) -> Response:
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(data, mimetype=kind, headers=headers)


def _streamed(rows: Callable[[Session, LogFilter], Iterator[bytes]], wanted: LogFilter) -> Iterator[bytes]:
    """Rows as they are read, on a session of their own: the request's is closed before the last one is sent."""
    engine = current_app.extensions["engine"]

    def stream() -> Iterator[bytes]:
        with Session(engine) as found:
            yield from rows(found, wanted)

    return stream()


@endpoint(blueprint, "/log/export.csv", access=Role.READER, replies=None)
def export_log_csv(query: schemas.ExportQuery) -> Response:
    """The log as CSV."""
    return _file(_streamed(log_csv, _wanted(query)), "text/csv", "failure-log.csv")


@endpoint(blueprint, "/log/export.json", access=Role.READER, replies=None)
def export_log_json(query: schemas.ExportQuery) -> Response:
    """The log as JSON."""
    return _file(_streamed(log_json, _wanted(query)), "application/json", "failure-log.json")


@endpoint(blueprint, "/log/export.xlsx", access=Role.READER, replies=None)
def export_log_xlsx(query: schemas.ExportQuery) -> Response:
    """The log as a workbook."""
    return _file(log_xlsx(session(), _wanted(query)), XLSX, "failure-log.xlsx")


@endpoint(blueprint, "/log/shares", access=Role.READER, replies=schemas.PartSharesList, kept="cheap")
def part_shares() -> schemas.PartSharesList:
    """What the complaints about each part turned out to be."""
    return schemas.PartSharesList(parts=[schemas.PartSharesView.model_validate(item) for item in no_fault_shares(session())])


@endpoint(blueprint, "/log/repeats", access=Role.READER, replies=schemas.RepeatList, kept="dear")
def repeats() -> schemas.RepeatList:
    """Positions that failed again sooner than their part's rate says."""
    found = [
        schemas.RepeatView(**item.again._asdict(), rate=item.rate, probability=item.probability) for item in repeat_offenders(session())
    ]
    return schemas.RepeatList(repeats=found)


@endpoint(blueprint, "/log/old", method="POST", access=Role.LEAD, replies=schemas.OldLogView)
def old_log() -> schemas.OldLogView:
    """Preview an old log from a spreadsheet; with `write` and no fault, record all of it."""
    data = sent_file("file", "a CSV or XLSX file")
    try:
        meaning = schemas.OldLogMeaning.model_validate_json(request.form.get("meaning") or "{}")
    except ValidationError as error:
        raise Refused(Fault("meaning", f"{error.errors()[0]['msg']}")) from error
    wanted = OldLogRequest(data, meaning.columns, meaning.findings, meaning.day_first, meaning.write)
    found = read_old_log(session(), wanted, clock=read_clock(session()), author_id=author_id(), most_rows=MOST_ROWS)
    return _old_log(found)


def _old_log(found: OldLog) -> schemas.OldLogView:
    checked = found.checked
    return schemas.OldLogView(
        header=found.header,
        fields=[schemas.OldLogField(name=item.name, about=item.about, required=item.required) for item in FIELDS],
        columns=dict(found.reading.columns),
        rows=len(found.rows),
        understood=len(checked.incidents),
        sample=[row.cells for row in found.rows[:SAMPLE]],
        faults=[schemas.OldLogFault(**asdict(fault)) for fault in checked.faults[:MOST_FAULTS]],
        faults_total=len(checked.faults),
        unexplained=dict(checked.unexplained),
        written=found.written,
    )
