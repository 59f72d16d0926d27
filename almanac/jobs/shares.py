"""One outlook computed by all workers that are there: kind by kind, each kind by whoever takes it first.

A kind is held by an advisory lock of the database for as long as a worker's connection lives: a worker that is killed lets go, and
whoever wanted the whole computes what is still missing itself.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from flask import Flask
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.core.parts.declared.kinds import FORECAST_KINDS
from almanac.services.outlook.summary import read_builder
from almanac.store import planning, queue
from almanac.web.database import closing

TRY = "SELECT pg_try_advisory_xact_lock(hashtextextended(:name, 0))"
WAIT = "SELECT pg_advisory_xact_lock(hashtextextended(:name, 0))"


def share_out(app: Flask, asked: str, site: str | None, *, priority: int) -> None:
    """Have the kinds of an outlook computed by this worker and those that are free or come meanwhile; afterwards all of them are kept."""
    with Session(app.extensions["engine"]) as own:
        kinds = _longest_first(own)
        for kind in kinds:
            told = {"asked": asked, "site": site, "kind": kind}
            queue.enqueue(own, queue.SHARE, told, lock=_name(asked, kind), priority=priority)
        own.commit()
    try:
        left = [kind for kind in kinds if not share(app, asked, site, kind)]
        for taken in left:
            _await(app, asked, taken)
    finally:  # done, cancelled or put off: nobody is to go on with parts of it
        with Session(app.extensions["engine"]) as own:
            queue.withdraw(own, [_name(asked, kind) for kind in kinds])
            own.commit()


def _longest_first(session: Session) -> list[str]:
    """Kinds by how many stock parts they have: what takes long must not be begun last."""
    parts = Counter(part.kind for part in planning.stock_part_rows(session, tuple(kind.value for kind in FORECAST_KINDS)))
    return sorted((kind.value for kind in FORECAST_KINDS), key=lambda kind: -parts[kind])


def share(app: Flask, asked: str, site: str | None, kind: str) -> bool:
    """Compute one kind, unless another worker does; returns whether it was done here."""
    with _held(app, _name(asked, kind)) as mine:
        if mine:
            with closing(app) as session:
                read_builder(session, site_code=site, kind=kind).rows_of(kind)
    return mine


@contextmanager
def _held(app: Flask, name: str) -> Iterator[bool]:
    """Whether a lock was free; held, if so, on a connection of its own until the work is kept."""
    with Session(app.extensions["engine"]) as own:
        yield bool(own.scalar(text(TRY), {"name": name}))


def _await(app: Flask, asked: str, kind: str) -> None:
    with Session(app.extensions["engine"]) as own:
        own.execute(text(WAIT), {"name": _name(asked, kind)})


def _name(asked: str, kind: str) -> str:
    return f"{asked} {kind}"


def site_of(arguments: dict[str, Any]) -> str | None:
    """The site an outlook is asked of."""
    site: str | None = (arguments.get("given") or {}).get("site")
    return site
