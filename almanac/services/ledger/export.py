"""The log as CSV, XLSX or JSON: every line of every incident that a filter lets through, as its latest revision has it."""

from __future__ import annotations

import json
from collections.abc import Iterator

from sqlalchemy.orm import Session

from almanac.exchange.tables import csv_row, write_xlsx
from almanac.store import incidents
from almanac.store.incidents import LogEntry, LogFilter, PageKey

CHUNK = 2_000
COLUMNS = (
    "incident", "revision", "occurred_on", "tag", "model", "site", "position", "kind", "action", "part_removed", "age_days",
    "age_span_days", "part_fitted", "shelf", "finding", "reason", "minutes", "note", "author", "recorded_at", "last_good_on",
)  # fmt: skip


def log_entries(session: Session, wanted: LogFilter) -> Iterator[LogEntry]:
    """Every entry a filter lets through, page by page, so that a long log never stands in memory as a whole."""
    key: PageKey | None = None
    while True:
        page = incidents.log_page(session, wanted, after=key, limit=CHUNK)
        yield from page
        if len(page) < CHUNK:
            return
        last = page[-1]
        key = PageKey(last.finding == "open", last.occurred_on, last.incident_id)


def _rows(entries: Iterator[LogEntry]) -> Iterator[tuple[object, ...]]:
    for entry in entries:
        for line in entry.lines:
            yield (
                entry.incident_id, entry.number, entry.occurred_on.isoformat(), entry.tag, entry.model, entry.site_code, line.position,
                line.kind, line.action, line.removed_part, line.age_days, line.age_span_days, line.fitted_part,
                line.shelf_site, line.finding, entry.reason, entry.minutes, entry.note, entry.author, entry.recorded_at.isoformat(),
                entry.last_good_on.isoformat() if entry.last_good_on else None,
            )  # fmt: skip


def log_csv(session: Session, wanted: LogFilter) -> Iterator[bytes]:
    """The log as CSV with a byte-order mark, row by row."""
    yield b"\xef\xbb\xbf" + csv_row(COLUMNS)
    for row in _rows(log_entries(session, wanted)):
        yield csv_row(row)


def log_json(session: Session, wanted: LogFilter) -> Iterator[bytes]:
    """The log as one JSON array of lines, row by row."""
    yield b"["
    for place, row in enumerate(_rows(log_entries(session, wanted))):
        yield (b",\n" if place else b"\n") + json.dumps(dict(zip(COLUMNS, row, strict=True)), ensure_ascii=False).encode()
    yield b"\n]\n"


def log_xlsx(session: Session, wanted: LogFilter) -> bytes:
    """The log as a workbook of one sheet."""
    return write_xlsx("log", COLUMNS, _rows(log_entries(session, wanted)))
