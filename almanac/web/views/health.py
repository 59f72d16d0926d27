"""What a monitor or a balancer asks: is the process alive, and can it answer."""

from __future__ import annotations

from flask import Blueprint, Response, current_app, jsonify
from prometheus_client import CONTENT_TYPE_LATEST
from sqlalchemy import text
from sqlalchemy.exc import SQLAlchemyError

from almanac.store.models import Role, Scope
from almanac.store.operation import look
from almanac.web.access import ANYONE, requires
from almanac.web.database import session
from almanac.web.metrics import metrics_of

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


@blueprint.get("/metrics")
@requires(Role.READER, Scope.READ)
def metrics() -> Response:
    """How the almanac is doing, for whoever shows a key that reads, or is signed in."""
    return Response(metrics_of(look(session()), current_app.config["BUILD"]), content_type=CONTENT_TYPE_LATEST)
