"""Who may call what: every view carries a rule, checked on the server before anything else."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime
from functools import wraps
from typing import Any, TypeVar

from flask import Request, Response, current_app, request
from flask_login import LoginManager, UserMixin, current_user
from sqlalchemy.orm import Session

from almanac.services.sessions import note_seen, user_and_seen
from almanac.services.tokens import note_use, user_of_key
from almanac.services.workplaces import bind_to
from almanac.store.models import Role, Scope, User
from almanac.store.people import bound_to
from almanac.web.database import session
from almanac.web.problems import problem

ANYONE = "anyone"
BEARER = "Bearer "
UNATTENDED = "X-Unattended"
"""Sent by a page on which nobody did anything for a while."""
SAFE = ("GET", "HEAD", "OPTIONS")
RANK = {Role.READER: 0, Role.TECHNICIAN: 1, Role.LEAD: 2}
View = TypeVar("View", bound=Callable[..., Any])


class SignedIn(UserMixin):  # type: ignore[misc]
    """The user of this request, as Flask-Login keeps it. scope : all that is open, where a key was shown in place of a sign-in"""

    def __init__(self, user: User, token: str, scope: Scope | None = None) -> None:
        self.id, self.login, self.name, self.role, self.token = user.id, user.login, user.name, Role(user.role), token
        self.scope = scope

    def get_id(self) -> str:
        """What the cookie carries: the token of this session, never the id of the user."""
        return self.token


def login_manager() -> LoginManager:
    """Loads the signed-in user from the database on each request, so that a session that ended, or a deactivated user, is out at once."""
    manager = LoginManager()

    @manager.user_loader  # type: ignore[untyped-decorator]
    def _load(token: str) -> SignedIn | None:
        now = datetime.now(UTC)
        found = user_and_seen(session(), token, now=now)
        if found is None:
            return None
        user, due = found
        # A page left open asks by itself: that is not somebody who uses it.
        if due and UNATTENDED not in request.headers:
            with Session(current_app.extensions["engine"]) as own:
                note_seen(own, token, now=now)
                own.commit()
        return SignedIn(user, token)

    @manager.request_loader  # type: ignore[untyped-decorator]
    def _key(asked: Request) -> SignedIn | None:
        shown = asked.headers.get("Authorization", "")
        return _of_key(shown.removeprefix(BEARER).strip()) if shown.startswith(BEARER) else None

    return manager


def _of_key(shown: str) -> SignedIn | None:
    """The user of a key, with what alone it opens."""
    now = datetime.now(UTC)
    found = user_of_key(session(), shown, now=now)
    if found is None:
        return None
    user, key = found
    with Session(current_app.extensions["engine"]) as own:
        if note_use(own, key, now=now):
            own.commit()
    return SignedIn(user, "", Scope(key.scope))


def requires(rule: Role | str, scope: Scope | None = None, *, by_key_alone: bool = False) -> Callable[[View], View]:
    """Let a view run only for users of a role or above; `ANYONE` needs no sign-in.

    scope : what a key has to open; without one no key opens the view · by_key_alone : a sign-in does not
    """

    def wrap(view: View) -> View:
        @wraps(view)
        def checked(*args: Any, **kwargs: Any) -> Any:
            refused = _refusal(rule, scope, by_key_alone=by_key_alone)
            if refused is not None:
                return refused
            if not by_key_alone:
                _keep_to_sites()
            return view(*args, **kwargs)

        checked.access_rule = rule  # type: ignore[attr-defined]
        return checked  # type: ignore[return-value]

    return wrap


def _refusal(rule: Role | str, scope: Scope | None, *, by_key_alone: bool) -> Response | None:
    if rule == ANYONE:
        return None
    if not current_user.is_authenticated:
        return problem(401, "Sign in first", "Your session has ended or never began: sign in, then try again.")
    if RANK[current_user.role] < RANK[Role(rule)]:
        return problem(403, "Not allowed", f"This needs the role {Role(rule).value}; you are signed in as {current_user.role.value}.")
    if (current_user.scope is not None or by_key_alone) and current_user.scope != scope:
        has = f"your key is for {current_user.scope}" if current_user.scope else "you are signed in without one"
        wanted = f"a key for {scope}" if scope else "a person who signs in"
        return problem(403, "Not allowed", f"This needs {wanted}; {has}.")
    return None


def _keep_to_sites() -> None:
    """A technician who is bound to sites writes what happens there; programs that report for the fleet report for all of it."""
    if request.method in SAFE or not current_user.is_authenticated or current_user.role != Role.TECHNICIAN:
        return
    bind_to(session(), bound_to(session(), current_user.id))


def author_id() -> int:
    """Id of the user who makes this request."""
    return int(current_user.id)
