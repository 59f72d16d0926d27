"""Every request has an id, which its answer, its log line and the page of an error carry; the log holds no secret.

Of an address only the rule is logged, never what was asked for: no query, no header, no body.
"""

from __future__ import annotations

import secrets
import time

import structlog
from flask import Flask, Response, g, request
from flask_login import current_user

LOG = structlog.stdlib.get_logger("almanac.access")
QUIET = ("/health/live", "/health/ready")


def request_id() -> str:
    """The id of the request being answered."""
    return str(g.get("request_id", ""))


def register(app: Flask) -> None:
    """Give each request its id, and write a line for each answer."""

    @app.before_request
    def _begin() -> None:
        g.request_id = secrets.token_hex(8)
        g.began = time.perf_counter()
        structlog.contextvars.clear_contextvars()
        structlog.contextvars.bind_contextvars(request_id=g.request_id)

    @app.after_request
    def _end(reply: Response) -> Response:
        reply.headers["X-Request-Id"] = request_id()
        if request.path.startswith("/api/"):
            # What is not kept on purpose is kept by nobody on the way.
            reply.headers.setdefault("Cache-Control", "no-store")
        if request.path not in QUIET:
            LOG.info(
                "request",
                method=request.method,
                rule=str(request.url_rule or "(none)"),
                status=reply.status_code,
                milliseconds=round((time.perf_counter() - g.get("began", time.perf_counter())) * 1000, 1),
                user=current_user.id if current_user and current_user.is_authenticated else None,
                bytes=reply.calculate_content_length(),
            )
        return reply
