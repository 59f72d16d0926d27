"""Outlook and log pages on a database, in a process of its own so that its memory can be told."""

from __future__ import annotations

import sys
from itertools import count

import click
from sqlalchemy import Engine, text
from sqlalchemy.orm import Session

from almanac.bench.measure import best_of, peak_megabytes, show
from almanac.services.ledger.read import read_page
from almanac.services.outlook import aged, laws, lived, lives
from almanac.services.outlook.inputs import read_inputs
from almanac.services.outlook.lines import REMEMBERED, STANDING
from almanac.services.outlook.near_settings import draw_near_settings
from almanac.services.outlook.summary import read_outlook, read_plate
from almanac.store.engine import connect
from almanac.store.incidents import LogFilter, PageKey, log_page

PLAIN = "SELECT part_id, count(*), sum(COALESCE(removed_on, :day) - fitted_on) FROM tenure GROUP BY part_id"


TARGET = """
INSERT INTO setting (scope, scope_key, key, number, value, from_on, recorded_at)
VALUES ('company', '', 'target', :number, to_jsonb(CAST(:target AS float8)), '2026-01-01', now())
"""


class Outlooks:
    """Outlooks of one database as its users ask for them."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine
        self._targets = count(1)

    def same(self) -> None:
        """The state that was asked for last."""
        with Session(self._engine) as session:
            read_outlook(session)

    def changed(self) -> None:
        """A target that nobody asked for before; nothing stays in the database."""
        with Session(self._engine) as session:
            number = next(self._targets)
            session.execute(text(TARGET), {"number": 1000 + number, "target": 0.9 + 0.007 * number})
            read_outlook(session)
            session.rollback()

    def ahead(self) -> None:
        """What the server works out behind the pages."""
        with Session(self._engine) as session:
            draw_near_settings(read_inputs(session))

    def cold(self) -> None:
        """Nothing is known."""
        for remembered in (REMEMBERED, STANDING, aged.REMEMBERED, laws.KEPT, lives.REMEMBERED, lived.REMEMBERED):
            remembered.clear()
        self.same()


def main(url: str, wanted_seconds: float) -> None:
    """Measure one database."""
    engine = connect(url)
    with Session(engine) as session:
        counted = {table: session.scalar(text(f"SELECT count(*) FROM {table}")) for table in ("asset", "tenure", "incident")}
        click.echo(", ".join(f"{rows:,} {table}s" for table, rows in counted.items()))
    outlooks = Outlooks(engine)
    show("Outlook, nothing remembered", best_of(outlooks.cold, 2) * 1000, "ms", "(behind the pages, at the start)")
    show("Outlook, a company-wide target, nothing worked out ahead", best_of(outlooks.changed, 1) * 1000, "ms")
    show("Working out settings near those in force", best_of(outlooks.ahead, 1) * 1000, "ms", "(behind the pages, after a write)")
    show("Outlook, a company-wide target never seen before", best_of(outlooks.changed, 5) * 1000, "ms", "(aim 200 ms)")
    show("Outlook, the same state again", best_of(outlooks.same, 5) * 1000, "ms", f"(aim {wanted_seconds * 1000:g} ms)")
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
