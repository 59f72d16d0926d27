"""Outlook and log pages on a database, in a process of its own so that its memory can be told."""

from __future__ import annotations

import sys
from itertools import count

import click
from sqlalchemy import Engine, text
from sqlalchemy.orm import Session

from almanac.bench.measure import best_of, peak_megabytes, show
from almanac.services.answers.ask import keep_pending
from almanac.services.answers.cache import FRONT
from almanac.services.ledger.read import read_page
from almanac.services.outlook.summary import read_outlook, read_plate
from almanac.services.rates.kind import read_kind
from almanac.store.engine import connect
from almanac.store.incidents import LogFilter, PageKey, log_page

PLAIN = "SELECT part_id, count(*), sum(COALESCE(removed_on, :day) - fitted_on) FROM tenure GROUP BY part_id"
PART = "OB-P14-60"
TARGET = """
INSERT INTO setting (scope, scope_key, key, number, value, from_on, recorded_at)
VALUES ('company', '', 'target', :number, to_jsonb(CAST(:target AS float8)), '2026-01-01', now())
"""
TOUCH = """
UPDATE tenure SET age_at_fitting_days = age_at_fitting_days + 1
WHERE id = (SELECT max(t.id) FROM tenure t JOIN part p ON p.id = t.part_id WHERE p.kind = 'fan')
"""


class Outlooks:
    """Outlooks of one database as workers compute them."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine
        self._numbers = count(1)

    def same(self) -> None:
        """The state that was asked for last."""
        with Session(self._engine) as session:
            read_outlook(session)
            with Session(self._engine) as own:
                keep_pending(session, own)
                own.commit()

    def target(self) -> None:
        """A target that nobody asked for before; nothing stays in the database."""
        number = next(self._numbers)
        with Session(self._engine) as session:
            session.execute(text(TARGET), {"number": 1000 + number, "target": 0.9 + 0.007 * number})
            read_outlook(session)

    def touched(self) -> None:
        """A write that touches one pool; nothing stays in the database."""
        with Session(self._engine) as session:
            for _ in range(next(self._numbers)):
                session.execute(text(TOUCH))
            read_outlook(session)

    def another_process(self) -> None:
        """What a process finds that has computed nothing yet."""
        FRONT.clear()
        self.same()

    def cold(self) -> None:
        """Nothing is kept."""
        FRONT.clear()
        with self._engine.begin() as connection:
            connection.execute(text("TRUNCATE answer CASCADE"))
            connection.execute(text("TRUNCATE reply"))
        self.same()


def main(url: str) -> None:
    """Measure one database."""
    engine = connect(url)
    with Session(engine) as session:
        counted = {table: session.scalar(text(f"SELECT count(*) FROM {table}")) for table in ("asset", "tenure", "incident")}
        click.echo(", ".join(f"{rows:,} {table}s" for table, rows in counted.items()))
    outlooks = Outlooks(engine)
    show("Outlook, nothing kept, one worker", best_of(outlooks.cold, 1), "s")
    show("Outlook after a write that touches one pool", best_of(outlooks.touched, 2), "s", "(aim 3 s)")
    show("Outlook under a company-wide target never seen before", best_of(outlooks.target, 2), "s")
    show("Outlook from answers another process kept", best_of(outlooks.another_process, 2), "s", "(aim 2 s)")
    show("Outlook from answers this process has", best_of(outlooks.same, 5) * 1000, "ms")
    _pages(engine)
    show("Peak memory of the process", peak_megabytes(), "MB", "(aim 500 MB)")
    engine.dispose()


def _pages(engine: Engine) -> None:
    """What is read beside the outlook."""
    with Session(engine) as session:
        day = {"day": "2026-11-01"}
        show("One plain SQL aggregate over the same tenures", best_of(lambda: session.execute(text(PLAIN), day).all(), 3) * 1000, "ms")
        show("Plate of a part, nothing of it kept", best_of(lambda: read_plate(session, PART), 1), "s")
        show("Plate of a part, its answers kept", best_of(lambda: read_plate(session, PART), 3) * 1000, "ms")
        show("Rates of a kind, nothing of it kept", best_of(lambda: read_kind(session, "battery"), 1), "s")
        page = read_page(session, LogFilter(), after=None, limit=80).entries[-1]
        key = PageKey(page.finding == "open", page.occurred_on, page.incident_id)
        show("A page of the log", best_of(lambda: log_page(session, LogFilter(), after=key, limit=80), 3) * 1000, "ms", "(aim 100 ms)")
        fans = LogFilter(kind="fan", site_code="TER")
        show("A filtered page of the log", best_of(lambda: log_page(session, fans, after=None, limit=80), 3) * 1000, "ms", "(aim 100 ms)")


if __name__ == "__main__":
    main(sys.argv[1])
