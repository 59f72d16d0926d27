"""Keys for programs, and the description of what they open."""

from __future__ import annotations

import json as plain
from datetime import UTC, datetime

from flask import Blueprint, Response, request
from flask_login import current_user

from almanac.services.tokens import end_token, make_token, read_tokens
from almanac.store.models import Role, Scope
from almanac.web.access import author_id
from almanac.web.api import SPEC, endpoint
from almanac.web.database import session
from almanac.web.schemas import inbox as schemas
from almanac.web.schemas.base import Done

blueprint = Blueprint("tokens", __name__, url_prefix="/api/v1")


@endpoint(blueprint, "/tokens", access=Role.READER, replies=schemas.TokenList)
def tokens() -> schemas.TokenList:
    """The user's keys; a lead sees everybody's."""
    rows = read_tokens(session(), author_id(), everybody=current_user.role is Role.LEAD)
    return schemas.TokenList(tokens=[schemas.TokenView.model_validate(row) for row in rows])


@endpoint(blueprint, "/tokens", method="POST", access=Role.READER, replies=schemas.TokenMade, status=201)
def make_key(json: schemas.TokenIn) -> Response:
    """A new key, which the reply shows once."""
    token = make_token(session(), author_id(), name=json.name, scope=json.scope, days=json.days, now=datetime.now(UTC))
    address = f"{request.host_url}api/v1/calendar/{token}.ics" if json.scope is Scope.CALENDAR else None
    made = schemas.TokenMade(token=token, address=address)
    return Response(made.model_dump_json(), status=201, mimetype="application/json", headers={"Cache-Control": "no-store"})


@endpoint(blueprint, "/tokens/<int:token_id>", method="DELETE", access=Role.READER, replies=Done)
def end_key(token_id: int) -> Done:
    """A key opens nothing any more."""
    end_token(session(), token_id, user_id=author_id(), is_lead=current_user.role is Role.LEAD, now=datetime.now(UTC))
    return Done()


@endpoint(blueprint, "/openapi.json", access=Role.READER, replies=None)
def openapi() -> Response:
    """What can be asked of the almanac."""
    return Response(plain.dumps(SPEC.spec), mimetype="application/json")
