"""How a view joins the API: its route, its access rule, its schemas, and the commit at the end."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import Any, get_type_hints

from flask import Blueprint, Response, jsonify
from pydantic import BaseModel, ValidationError
from spectree import Response as Replies
from spectree import SpecTree

from almanac.store.models import Role, Scope
from almanac.web.access import requires
from almanac.web.border import check_arguments
from almanac.web.kept import Computing, KeptView, kept_reply
from almanac.web.once import once
from almanac.web.problems import RequestInvalid


def _refuse(_request: object, _response: object, error: Exception | None, *_: object) -> None:
    """Hand a request that breaks its schema to the problem table instead of the library's own reply."""
    if isinstance(error, ValidationError):
        raise RequestInvalid(error)


SPEC = SpecTree(
    "flask",
    title="Parts Almanac",
    version="v1",
    path="api/v1/docs",
    mode="strict",
    annotations=True,
    page_templates={},  # the document alone: its pages would fetch their scripts from elsewhere
    before=_refuse,
    naming_strategy=lambda model: model.__name__,
    nested_naming_strategy=lambda _parent, child: child,
)

View = Callable[..., Any]
KEPT: dict[str, KeptView] = {}
"""Views whose replies are kept, by name."""


def endpoint(
    blueprint: Blueprint,
    rule: str,
    *,
    method: str = "GET",
    access: Role | str,
    replies: type[BaseModel] | None,
    status: int = 200,
    kept: str | None = None,
    by_key: Scope | None = None,
) -> Callable[[View], View]:
    """Register a view: parse, authorise, call a service, answer. A view that writes is committed here, once.

    kept : the reply is an answer, the same for whoever asks; how it is computed: "cheap", "dear" or "slow" (see KeptView)
    by_key : the view is for programs that show a key with this scope; what is read is open to keys for reading as to sign-ins
    """

    def wrap(view: View) -> View:
        @wraps(view)
        def finished(*args: Any, **kwargs: Any) -> Any:
            check_arguments(kwargs)
            if answered is not None:
                return kept_reply(answered, kwargs)
            if method == "GET":
                return _reply(view(*args, **kwargs), status)
            return once(lambda: _reply(view(*args, **kwargs), status))

        answered = _kept_view(view, kept) if kept else None
        finished.__annotations__ = get_type_hints(view)  # resolved where the view was written, not here
        if answered is not None:
            KEPT[answered.name] = answered
        waiting = {"HTTP_202": Computing} if answered is not None and answered.dear else {}
        documented = Replies(**{f"HTTP_{status}": replies}, **waiting) if replies else Replies(f"HTTP_{status}")
        checked = SPEC.validate(resp=documented, operation_id=view.__name__, tags=[blueprint.name], skip_validation=False)(finished)
        scope = by_key or (Scope.READ if method == "GET" else None)
        guarded = requires(access, scope, by_key_alone=by_key is not None)(checked)
        blueprint.add_url_rule(rule, endpoint=view.__name__, view_func=guarded, methods=[method])
        return view

    return wrap


def _kept_view(view: View, kept: str) -> KeptView:
    models = {name: kind for name, kind in get_type_hints(view).items() if name in ("query", "json")}
    return KeptView(view.__name__, view, next(iter(models.items()), None), kept)


def _reply(answer: Any, status: int) -> Response:
    if isinstance(answer, Response):
        return answer
    if isinstance(answer, BaseModel):
        return Response(answer.model_dump_json(), status=status, mimetype="application/json")
    reply = jsonify(answer)
    reply.status_code = status
    return reply
