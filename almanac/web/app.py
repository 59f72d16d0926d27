"""The application factory."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from flask import Flask, Response, request, send_from_directory
from flask_talisman import Talisman
from flask_wtf.csrf import CSRFProtect
from sqlalchemy import Connection, Engine
from werkzeug.exceptions import BadRequest, NotFound

from almanac.web import access, database, problems
from almanac.web.api import SPEC
from almanac.web.views import (
    calibration,
    diagnosis,
    fleet_plans,
    imports,
    jobs,
    ledger,
    log_tools,
    models,
    outlook,
    pages,
    rates,
    scenarios,
    session,
    stores,
)

FRONTEND = Path(__file__).resolve().parents[2] / "frontend" / "dist"
LARGEST_REQUEST = 64 * 1024 * 1024
POLICY = {
    "default-src": "'self'",
    "img-src": "'self' data:",
    "style-src": ["'self'", "'unsafe-inline'"],
    "object-src": "'none'",
    "base-uri": "'none'",
    "frame-ancestors": "'none'",
    "form-action": "'self'",
}


def create_app(engine: Engine | Connection, *, secret_key: str, committed: Callable[[], None] = lambda: None) -> Flask:
    """A web application on a database; it keeps no state of its own, so any number of them can share one.

    committed : called after each commit
    """
    app = Flask(__name__, static_folder=None)
    app.config.update(
        SECRET_KEY=secret_key,
        SESSION_COOKIE_HTTPONLY=True,
        SESSION_COOKIE_SAMESITE="Strict",
        MAX_CONTENT_LENGTH=LARGEST_REQUEST,
        WTF_CSRF_TIME_LIMIT=None,
        WTF_CSRF_HEADERS=["X-CSRF-Token"],
    )
    database.register(app, engine, committed)
    problems.register(app)
    app.before_request(_refuse_malformed_json)
    CSRFProtect(app)
    access.login_manager().init_app(app)
    # Sessions over plain http on loopback need a cookie without `Secure`; behind https set it at the proxy.
    Talisman(
        app,
        force_https=False,
        session_cookie_secure=False,
        session_cookie_samesite="Strict",
        strict_transport_security=False,
        content_security_policy=POLICY,
    )
    for module in (
        session,
        outlook,
        models,
        pages,
        ledger,
        log_tools,
        jobs,
        diagnosis,
        rates,
        calibration,
        scenarios,
        fleet_plans,
        stores,
        imports,
    ):
        app.register_blueprint(module.blueprint)
    SPEC.register(app)
    app.add_url_rule("/", view_func=_page, defaults={"path": ""})
    app.add_url_rule("/<path:path>", view_func=_page)
    return app


def _refuse_malformed_json() -> None:
    if request.mimetype == "application/json" and request.get_data() and not isinstance(request.get_json(silent=True), dict):
        raise BadRequest("the body is no JSON object: check quotes, commas and brackets")


@access.requires(access.ANYONE)
def _page(path: str) -> Response:
    """The front end: a built file by its name, the page itself for every address it routes."""
    if path.startswith("api/"):
        raise NotFound(f"there is no {request.method} /{path}")
    if path and (FRONTEND / path).is_file():
        return send_from_directory(FRONTEND, path, max_age=31536000 if path.startswith("assets/") else 0)
    if not (FRONTEND / "index.html").is_file():
        raise BadRequest("the front end is not built: run bin/start")
    return send_from_directory(FRONTEND, "index.html", max_age=0)
