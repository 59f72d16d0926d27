"""One database session a request, committed once at the edge and only when the view succeeded."""

from __future__ import annotations

import logging
from collections.abc import Callable

from flask import Flask, current_app, g
from sqlalchemy import Connection, Engine
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from almanac.services.answers import has_pending, keep_pending

LOG = logging.getLogger(__name__)


def session() -> Session:
    """The session of this request."""
    if "session" not in g:
        g.session = Session(current_app.extensions["engine"], expire_on_commit=False)
    found: Session = g.session
    return found


def commit() -> None:
    """Make what this request wrote permanent."""
    session().commit()
    current_app.extensions["committed"]()


def register(app: Flask, engine: Engine | Connection, committed: Callable[[], None]) -> None:
    """Give an application its engine; whatever was not committed is rolled back when the request ends.

    committed : called after each commit
    """
    app.extensions["engine"] = engine
    app.extensions["committed"] = committed

    @app.teardown_appcontext
    def _close(_: BaseException | None) -> None:
        opened: Session | None = g.pop("session", None)
        if opened is None:
            return
        opened.close()
        if not has_pending(opened):
            return
        try:
            with Session(app.extensions["engine"]) as own:
                keep_pending(opened, own)
                own.commit()
        except SQLAlchemyError:  # an answer is computed again where it was not kept
            LOG.warning("answers were not kept", exc_info=True)
