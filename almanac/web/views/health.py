"""What a monitor or a balancer asks: is the process alive, and can it answer."""

from __future__ import annotations

from flask import Blueprint, Response, jsonify
from sqlalchemy import text
from sqlalchemy.exc import SQLAlchemyError

from almanac.web.access import ANYONE, requires
from almanac.web.database import session

blueprint = Blueprint("health", __name__, url_prefix="/health")


@blueprint.get("/live")
@requires(ANYONE)
def live() -> Response:
    """The process answers."""
    return jsonify(alive=True)


@blueprint.get("/ready")
@requires(ANYONE)
def ready() -> tuple[Response, int]:
    """The database answers, too; 503 while it does not."""
    try:
        session().execute(text("SELECT 1 FROM alembic_version"))
    except SQLAlchemyError:
        return jsonify(ready=False), 503
    return jsonify(ready=True), 200
