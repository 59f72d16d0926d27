"""How fast the catalog is when it is large: the index, a search and one page of thousands of models, as the application reads them."""

from __future__ import annotations

import time
from collections.abc import Callable

import click
from sqlalchemy import Engine, text
from sqlalchemy.orm import Session

from almanac.bench.measure import show
from almanac.services.answers.ask import keep_pending
from almanac.services.answers.cache import FRONT
from almanac.services.pages.find import find_models
from almanac.services.pages.index import read_index
from almanac.services.pages.library import read_library
from almanac.services.pages.read import read_page_view

COPIES = """
WITH made AS (
  INSERT INTO device_model (maker, name, family, form)
  SELECT m.maker, m.name || ' ' || n, m.family, m.form FROM device_model m, generate_series(1, :copies) n RETURNING id, maker, name
)
INSERT INTO model_revision (model_id, number, page, reason, draft, recorded_at)
SELECT made.id, 1, jsonb_set(r.page, '{name}', to_jsonb(made.name)), 'a copy', false, now()
FROM made JOIN device_model m ON m.maker = made.maker AND made.name LIKE m.name || ' %' AND made.name ~ ('^' || m.name || ' [0-9]+$')
JOIN LATERAL (SELECT page FROM model_revision WHERE model_id = m.id AND NOT draft ORDER BY number DESC LIMIT 1) r ON true
"""


def measure_library(engine: Engine, *, models: int = 5000) -> None:
    """Print the catalog's times with the demo's models, and with copies of them."""
    _measured(engine)
    with Session(engine) as session:
        first = session.scalar(text("SELECT count(*) FROM device_model")) or 1
        session.execute(text(COPIES), {"copies": max(models // first - 1, 1)})
        session.commit()
    _measured(engine)


def _measured(engine: Engine) -> None:
    with Session(engine) as session:
        count = session.scalar(text("SELECT count(DISTINCT model_id) FROM model_revision")) or 0
        model = session.scalar(text("SELECT min(model_id) FROM model_revision")) or 0
    click.echo(f"The catalog of {count:,} models")
    FRONT.clear()

    def index(session: Session) -> object:
        return read_index(session, read_library(session))

    show("Index, nothing kept", _timed(engine, index), "s")
    FRONT.clear()
    show("Index, kept by another process", _timed(engine, index), "s")
    show("Index", _timed(engine, index) * 1000, "ms")
    show("Search for words", _timed(engine, lambda session: find_models(session, "drive under the mainboard")) * 1000, "ms")
    show("One model's page", _timed(engine, lambda session: read_page_view(session, model)) * 1000, "ms", "aim 40 ms")


def _timed(engine: Engine, work: Callable[[Session], object]) -> float:
    with Session(engine, expire_on_commit=False) as session:
        begun = time.perf_counter()
        work(session)
        taken = time.perf_counter() - begun
    with Session(engine) as own:
        keep_pending(session, own)
        own.commit()
    return taken
