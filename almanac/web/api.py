"""How a view joins the API: its route, its access rule, its schemas, and the commit at the end."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import Any, get_type_hints

from flask import Blueprint, Response, jsonify
from pydantic import BaseModel, ValidationError
from spectree import Response as Replies
from spectree import SpecTree

from almanac.store.models import Role
from almanac.web.access import requires
from almanac.web.border import check_arguments
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


def endpoint(
    blueprint: Blueprint, rule: str, *, method: str = "GET", access: Role | str, replies: type[BaseModel] | None, status: int = 200
) -> Callable[[View], View]:
    """Register a view: parse, authorise, call a service, answer. A view that writes is committed here, once."""

    def wrap(view: View) -> View:
        @wraps(view)
        def finished(*args: Any, **kwargs: Any) -> Any:
            check_arguments(kwargs)
            if method == "GET":
                return _reply(view(*args, **kwargs), status)
            return once(lambda: _reply(view(*args, **kwargs), status))

        finished.__annotations__ = get_type_hints(view)  # resolved where the view was written, not here
        documented = Replies(**{f"HTTP_{status}": replies}) if replies else Replies(f"HTTP_{status}")
        checked = SPEC.validate(resp=documented, operation_id=view.__name__, tags=[blueprint.name], skip_validation=False)(finished)
        guarded = requires(access)(checked)
        blueprint.add_url_rule(rule, endpoint=view.__name__, view_func=guarded, methods=[method])
        return view

    return wrap


def _reply(answer: Any, status: int) -> Response:
    if isinstance(answer, Response):
        return answer
    if isinstance(answer, BaseModel):
        return Response(answer.model_dump_json(), status=status, mimetype="application/json")
    reply = jsonify(answer)
    reply.status_code = status
    return reply
