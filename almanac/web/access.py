"""Who may call what: every view carries a rule, checked on the server before anything else."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime
from functools import wraps
from typing import Any, TypeVar

from flask import Response
from flask_login import LoginManager, UserMixin, current_user

from almanac.services.sessions import user_of_token
from almanac.store.models import Role, User
from almanac.web.database import session
from almanac.web.problems import problem

ANYONE = "anyone"
RANK = {Role.READER: 0, Role.TECHNICIAN: 1, Role.LEAD: 2}
View = TypeVar("View", bound=Callable[..., Any])


class SignedIn(UserMixin):  # type: ignore[misc]
    """The user of this request, as Flask-Login keeps it."""

    def __init__(self, user: User, token: str) -> None:
        self.id, self.login, self.name, self.role, self.token = user.id, user.login, user.name, Role(user.role), token

    def get_id(self) -> str:
        """What the cookie carries: the token of this session, never the id of the user."""
        return self.token


def login_manager() -> LoginManager:
    """Loads the signed-in user from the database on each request, so that a session that ended, or a deactivated user, is out at once."""
    manager = LoginManager()

    @manager.user_loader  # type: ignore[untyped-decorator]
    def _load(token: str) -> SignedIn | None:
        user = user_of_token(session(), token, now=datetime.now(UTC))
        return SignedIn(user, token) if user else None

    return manager


def requires(rule: Role | str) -> Callable[[View], View]:
    """Let a view run only for users of a role or above; `ANYONE` needs no sign-in."""

    def wrap(view: View) -> View:
        @wraps(view)
        def checked(*args: Any, **kwargs: Any) -> Any:
            refused = _refusal(rule)
            return refused if refused is not None else view(*args, **kwargs)

        checked.access_rule = rule  # type: ignore[attr-defined]
        return checked  # type: ignore[return-value]

    return wrap


def _refusal(rule: Role | str) -> Response | None:
    if rule == ANYONE:
        return None
    if not current_user.is_authenticated:
        return problem(401, "Sign in first", "Your session has ended or never began: sign in, then try again.")
    if RANK[current_user.role] < RANK[Role(rule)]:
        return problem(403, "Not allowed", f"This needs the role {Role(rule).value}; you are signed in as {current_user.role.value}.")
    return None


def author_id() -> int:
    """Id of the user who makes this request."""
    return int(current_user.id)
