"""A user's own account: the password, and where they are signed in."""

from __future__ import annotations

from datetime import UTC, datetime

from flask import Blueprint, request
from flask_login import current_user

from almanac.services.accounts import change_password
from almanac.services.clock import read_clock
from almanac.services.errors import Fault, Refused
from almanac.services.sessions import end_other_sign_ins, end_sign_in, read_limits, read_sign_ins
from almanac.store.models import Role, User
from almanac.web.access import author_id
from almanac.web.api import endpoint
from almanac.web.database import commit, session
from almanac.web.schemas import account as schemas
from almanac.web.schemas.base import Done

blueprint = Blueprint("account", __name__, url_prefix="/api/v1/account")


@endpoint(blueprint, "/sign-ins", access=Role.READER, replies=schemas.SignInList)
def sign_ins() -> schemas.SignInList:
    """Where the user is signed in."""
    rows = read_sign_ins(session(), author_id(), current_user.token, now=datetime.now(UTC))
    limits = {item.key: item.value or 0 for item in read_limits(session(), read_clock(session()))}
    return schemas.SignInList(sign_ins=[schemas.SignInView.model_validate(row) for row in rows], **limits)


@endpoint(blueprint, "/sign-ins/<int:sign_in_id>", method="DELETE", access=Role.READER, replies=Done)
def end_one(sign_in_id: int) -> Done:
    """Sign out on one browser."""
    end_sign_in(session(), author_id(), sign_in_id, now=datetime.now(UTC))
    return Done()


@endpoint(blueprint, "/sign-ins", method="DELETE", access=Role.READER, replies=schemas.SignInsEnded)
def end_others() -> schemas.SignInsEnded:
    """Sign out everywhere else."""
    return schemas.SignInsEnded(ended=end_other_sign_ins(session(), author_id(), current_user.token, now=datetime.now(UTC)))


@endpoint(blueprint, "/password", method="POST", access=Role.READER, replies=schemas.SignInsEnded)
def another_password(json: schemas.PasswordIn) -> schemas.SignInsEnded:
    """Another password; every other sign-in ends."""
    now, user = datetime.now(UTC), session().get_one(User, author_id())
    if not change_password(session(), user, json.current, json.new, address=request.remote_addr or "", now=now):
        commit()  # the failed attempt has to be counted although the request is refused
        raise Refused(Fault("current", "that is not your present password"))
    return schemas.SignInsEnded(ended=end_other_sign_ins(session(), author_id(), current_user.token, now=now))
