"""One database session a request, committed once at the edge and only when the view succeeded."""

from __future__ import annotations

from flask import Flask, current_app, g
from sqlalchemy import Connection, Engine
from sqlalchemy.orm import Session


def session() -> Session:
    """The session of this request."""
    if "session" not in g:
        g.session = Session(current_app.extensions["engine"], expire_on_commit=False)
    found: Session = g.session
    return found


def commit() -> None:
    """Make what this request wrote permanent."""
    session().commit()


def register(app: Flask, engine: Engine | Connection) -> None:
    """Give an application its engine; whatever was not committed is rolled back when the request ends."""
    app.extensions["engine"] = engine

    @app.teardown_appcontext
    def _close(_: BaseException | None) -> None:
        opened: Session | None = g.pop("session", None)
        if opened is not None:
            opened.close()
