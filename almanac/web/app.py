"""The application factory."""

from __future__ import annotations

from pathlib import Path

from flask import Flask, Response, request, send_from_directory
from flask_talisman import Talisman
from flask_wtf.csrf import CSRFProtect
from sqlalchemy import Connection, Engine
from werkzeug.exceptions import BadRequest, NotFound

from almanac.web import access, border, database, problems, requests
from almanac.web.api import SPEC
from almanac.web.kept import build_of
from almanac.web.outside import Outside
from almanac.web.views import (
    account,
    agenda,
    alarms,
    approvals,
    calibration,
    catalog,
    company,
    diagnosis,
    fade,
    fleet,
    fleet_plans,
    health,
    imports,
    inbox,
    intake,
    jobs,
    ledger,
    log_tools,
    machines,
    models,
    money,
    orders,
    outlook,
    pages,
    people,
    provider,
    rates,
    rehearsal,
    reports,
    scenarios,
    session,
    shelves,
    store_files,
    stores,
    tokens,
    work,
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

VIEWS = (
    session,
    provider,
    outlook,
    models,
    pages,
    ledger,
    log_tools,
    jobs,
    approvals,
    diagnosis,
    rates,
    fade,
    calibration,
    scenarios,
    rehearsal,
    money,
    fleet_plans,
    shelves,
    catalog,
    company,
    machines,
    fleet,
    inbox,
    reports,
    tokens,
    account,
    people,
    agenda,
    alarms,
    store_files,
    orders,
    stores,
    imports,
    intake,
    work,
    health,
)


def create_app(engine: Engine | Connection, *, secret_key: str, workers: bool = False, outside: Outside | None = None) -> Flask:
    """A web application on a database; it keeps no state of its own, so any number of them can share one.

    workers : dear answers are computed by workers behind the pages; otherwise where they are asked for
    """
    app, outside = Flask(__name__, static_folder=None), outside or Outside()
    app.config.update(
        SECRET_KEY=secret_key,
        WORKERS=workers,
        BUILD=build_of(),
        MAIL=outside.mail,
        PROVIDER=outside.through,
        SESSION_COOKIE_NAME="__Host-session" if outside.encrypted else "session",
        SESSION_COOKIE_HTTPONLY=True,
        SESSION_COOKIE_SAMESITE="Strict",
        MAX_CONTENT_LENGTH=LARGEST_REQUEST,
        TRUSTED_HOSTS=["127.0.0.1", "localhost", "[::1]", *outside.hosts],
        WTF_CSRF_TIME_LIMIT=None,
        WTF_CSRF_HEADERS=["X-CSRF-Token"],
    )
    requests.register(app)
    database.register(app, engine)
    problems.register(app)
    app.before_request(border.refuse_strange_requests)
    CSRFProtect(app).exempt(inbox.blueprint)
    access.login_manager().init_app(app)
    # Sessions over plain http on loopback need a cookie without `Secure`.
    Talisman(
        app,
        force_https=False,
        session_cookie_secure=outside.encrypted,
        session_cookie_samesite="Strict",
        strict_transport_security=outside.encrypted,
        content_security_policy=POLICY,
    )
    for module in VIEWS:
        app.register_blueprint(module.blueprint)
    SPEC.app = app
    app.add_url_rule("/", view_func=_page, defaults={"path": ""})
    app.add_url_rule("/<path:path>", view_func=_page)
    return app


@access.requires(access.ANYONE)
def _page(path: str) -> Response:
    """The front end: a built file by its name, the page itself for every address it routes."""
    if path.startswith("api/"):
        raise NotFound(f"there is no {request.method} /{path}")
    if path and _is_built(path):
        return send_from_directory(FRONTEND, path, max_age=31536000 if path.startswith("assets/") else 0)
    if not (FRONTEND / "index.html").is_file():
        raise BadRequest("the front end is not built: run bin/start")
    return send_from_directory(FRONTEND, "index.html", max_age=0)


def _is_built(path: str) -> bool:
    """Whether the front end has a file of that name; a name no file system takes is none."""
    try:
        return (FRONTEND / path).is_file()
    except OSError:
        return False
