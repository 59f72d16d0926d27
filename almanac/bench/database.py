"""Outlook and log pages on a database, in a process of its own so that its memory can be told."""

from __future__ import annotations

import sys
from itertools import count

import click
from sqlalchemy import Engine, text
from sqlalchemy.orm import Session

from almanac.bench.measure import best_of, peak_megabytes, show
from almanac.services.ledger.read import read_page
from almanac.services.outlook import aged, inputs, laws, lives
from almanac.services.outlook.lines import REMEMBERED
from almanac.services.outlook.summary import read_outlook, read_plate
from almanac.store.engine import connect
from almanac.store.incidents import LogFilter, PageKey, log_page

PLAIN = "SELECT part_id, count(*), sum(COALESCE(removed_on, :day) - fitted_on) FROM tenure GROUP BY part_id"


TARGET = """
INSERT INTO setting (scope, scope_key, key, number, value, from_on, recorded_at)
VALUES ('company', '', 'target', :number, to_jsonb(CAST(:target AS float8)), '2026-01-01', now())
"""


def main(url: str, wanted_seconds: float) -> None:
    """Measure one database."""
    engine = connect(url)
    with Session(engine) as session:
        counted = {table: session.scalar(text(f"SELECT count(*) FROM {table}")) for table in ("asset", "tenure", "incident")}
        click.echo(", ".join(f"{rows:,} {table}s" for table, rows in counted.items()))
    aim = f"(aim {wanted_seconds:g} s)"

    def outlook() -> None:
        with Session(engine) as session:
            read_outlook(session)

    targets = count(1)

    def changed() -> None:
        """A target that nobody asked for before; nothing stays in the database."""
        with Session(engine) as session:
            number = next(targets)
            session.execute(text(TARGET), {"number": 1000 + number, "target": 0.9 + 0.007 * number})
            read_outlook(session)
            session.rollback()

    def cold() -> None:
        for remembered in (REMEMBERED, aged.REMEMBERED, laws.KEPT, lives.REMEMBERED, inputs.REMEMBERED_AGES):
            remembered.clear()
        outlook()

    show("Outlook, nothing remembered", best_of(cold, 2) * 1000, "ms", aim)
    show("Outlook, a company-wide target never seen before", best_of(changed, 5) * 1000, "ms", "(aim 0.2 s)")
    show("Outlook, the same state again", best_of(outlook, 5) * 1000, "ms", aim)
    show("Peak memory of the process", peak_megabytes(), "MB", "(aim 400 MB)")
    _pages(engine)
    engine.dispose()


def _pages(engine: Engine) -> None:
    """What is read beside the outlook."""
    with Session(engine) as session:
        day = {"day": "2026-11-01"}
        show("One plain SQL aggregate over the same tenures", best_of(lambda: session.execute(text(PLAIN), day).all(), 3) * 1000, "ms")
        show("Plate of a part", best_of(lambda: read_plate(session, "OB-P14-60"), 3) * 1000, "ms")
        page = read_page(session, LogFilter(), after=None, limit=80).entries[-1]
        key = PageKey(page.finding == "open", page.occurred_on, page.incident_id)
        show("A page of the log", best_of(lambda: log_page(session, LogFilter(), after=key, limit=80), 3) * 1000, "ms", "(aim 100 ms)")
        fans = LogFilter(kind="fan", site_code="TER")
        show("A filtered page of the log", best_of(lambda: log_page(session, fans, after=None, limit=80), 3) * 1000, "ms", "(aim 100 ms)")


if __name__ == "__main__":
    main(sys.argv[1], float(sys.argv[2]))
