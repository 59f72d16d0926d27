"""One outlook computed by all workers that are there: kind by kind, and the parts of a kind a few at a time.

A kind is taken by one worker, which fits its model; others take kinds nobody has, and afterwards join in on the parts that are left.
What is held is an advisory lock of the database for as long as a worker's connection lives: a worker that is killed lets go, and
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
from almanac.services.outlook.builder import OutlookBuilder
from almanac.services.outlook.summary import read_builder
from almanac.services.outlook.unrecorded import read_unrecorded
from almanac.store import planning, queue
from almanac.web.database import closing, keep_answers

TRY = "SELECT pg_try_advisory_xact_lock(hashtextextended(:name, 0))"
WAIT = "SELECT pg_advisory_xact_lock(hashtextextended(:name, 0))"
UNRECORDED = "unrecorded"
"""Machines without a record: no kind, and looked for beside them all."""
PARTS = 4
"""Stock parts of a portion: fewer cost more each, more leave workers without work at the end."""


def share_out(app: Flask, asked: str, site: str | None, *, priority: int) -> None:
    """Have the kinds of an outlook computed by this worker and those that are free or come meanwhile; afterwards all of them are kept."""
    with Session(app.extensions["engine"]) as own:
        kinds = [*_longest_first(own), UNRECORDED]
        for join in (False, True):
            for kind in kinds[: -1 if join else None]:
                told = {"asked": asked, "site": site, "kind": kind, "join": join}
                queue.enqueue(own, queue.SHARE, told, lock=_job(asked, kind, join=join), priority=priority)
        own.commit()
    try:
        left = [kind for kind in kinds if not (_claim(app, asked, kind) and take(app, asked, site, kind))]
        for taken in left:
            if not _is_done(app, asked, taken):
                join_in(app, asked, site, taken)
                _await(app, _name(asked, taken))
    finally:  # done, cancelled or put off: nobody is to go on with parts of it
        _withdraw(app, [_job(asked, kind, join=join) for kind in kinds for join in (False, True)])


def _claim(app: Flask, asked: str, kind: str) -> bool:
    """Whether no other worker took up a kind before."""
    return _withdraw(app, [_job(asked, kind, join=False)]) > 0


def _is_done(app: Flask, asked: str, kind: str) -> bool:
    """Whether nobody computes a kind any more that another worker took up."""
    with _held(app, _name(asked, kind)) as free:
        return free


def _longest_first(session: Session) -> list[str]:
    """Kinds by how many stock parts they have: what takes long must not be begun last."""
    parts = Counter(part.kind for part in planning.stock_part_rows(session, tuple(kind.value for kind in FORECAST_KINDS)))
    return sorted((kind.value for kind in FORECAST_KINDS), key=lambda kind: -parts[kind])


def take(app: Flask, asked: str, site: str | None, kind: str) -> bool:
    """Compute one kind, unless another worker has it; returns whether it was done here. Others may join in."""
    with _held(app, _name(asked, kind)) as mine:
        if mine and kind == UNRECORDED:
            _read_unrecorded(app)
        elif mine:
            _compute_kind(app, asked, site, kind)
    return mine


def _read_unrecorded(app: Flask) -> None:
    with closing(app) as session:
        read_unrecorded(session, read_builder(session, kind=UNRECORDED).inputs)


def _compute_kind(app: Flask, asked: str, site: str | None, kind: str) -> None:
    """The kind's model, what all its parts rest on, and then the parts, those that nobody else does."""
    with closing(app) as session:
        with _held(app, _fit(asked, kind)):
            builder = read_builder(session, site_code=site, kind=kind)
            builder.fit(kind)
            keep_answers(app, session)
        left = _portions(app, asked, kind, builder)
    _withdraw(app, [_job(asked, kind, join=True)])
    for portion in left:
        _await(app, portion)


def join_in(app: Flask, asked: str, site: str | None, kind: str) -> None:
    """Compute what is left of a kind that another worker has."""
    _await(app, _fit(asked, kind))
    if kind != UNRECORDED:
        with closing(app) as session:
            _portions(app, asked, kind, read_builder(session, site_code=site, kind=kind))


def _portions(app: Flask, asked: str, kind: str, builder: OutlookBuilder) -> list[str]:
    """Compute the parts of a kind a few at a time, those that nobody else does; returns what others have under way."""
    left = []
    parts = [part for part in builder.inputs.parts if part.kind == kind]
    count = max(1, round(len(parts) / PARTS))
    for number in range(count):
        with _held(app, _portion(asked, kind, number)) as mine:
            if mine:
                builder.rows_for(parts[number::count])
                keep_answers(app, builder.session)
            else:
                left.append(_portion(asked, kind, number))
    return left


@contextmanager
def _held(app: Flask, name: str) -> Iterator[bool]:
    """Whether a lock was free; held, if so, on a connection of its own until the work is kept."""
    with Session(app.extensions["engine"]) as own:
        yield bool(own.scalar(text(TRY), {"name": name}))


def _await(app: Flask, name: str) -> None:
    with Session(app.extensions["engine"]) as own:
        own.execute(text(WAIT), {"name": name})


def _withdraw(app: Flask, jobs: list[str]) -> int:
    with Session(app.extensions["engine"]) as own:
        withdrawn = queue.withdraw(own, jobs)
        own.commit()
    return withdrawn


def _name(asked: str, kind: str) -> str:
    return f"{asked} {kind}"


def _fit(asked: str, kind: str) -> str:
    return f"{asked} {kind} fit"


def _portion(asked: str, kind: str, number: int) -> str:
    return f"{asked} {kind} {number}"


def _job(asked: str, kind: str, *, join: bool) -> str:
    return f"{asked} {kind} join" if join else _name(asked, kind)


def site_of(arguments: dict[str, Any]) -> str | None:
    """The site an outlook is asked of."""
    site: str | None = (arguments.get("given") or {}).get("site")
    return site
