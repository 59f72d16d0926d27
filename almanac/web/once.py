"""A request that writes is committed here, once; one that names itself by an Idempotency-Key is carried out once, too."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from datetime import UTC, datetime

from flask import Response, request
from flask_login import current_user

from almanac.services.request_keys import Answered, answer, claim
from almanac.web.database import commit, session

HEADER = "Idempotency-Key"


def once(carry_out: Callable[[], Response]) -> Response:
    """Carry a request out and commit it, or answer as it was answered before."""
    key = request.headers.get(HEADER)
    if key is None or not current_user.is_authenticated:
        reply = carry_out()
        commit()
        return reply
    now, user_id = datetime.now(UTC), int(current_user.id)
    known = claim(session(), user_id, key, _fingerprint(), now=now)
    if known is not None:
        return Response(known.body, status=known.status, mimetype="application/json", headers={"Idempotent-Replay": "true"})
    reply = carry_out()
    if reply.mimetype == "application/json":
        answer(session(), user_id, key, Answered(reply.status_code, reply.get_data(as_text=True)), now=now)
    commit()
    return reply


def _fingerprint() -> str:
    """What makes a request the same: its method, address and body."""
    body = hashlib.sha256(f"{request.method} {request.full_path}\n".encode())
    body.update(request.get_data(cache=True))
    return body.hexdigest()
