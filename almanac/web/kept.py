"""Views whose replies are answers: known by what they were read from, shared by all processes, computed behind the page where dear.

A reply that is kept is served as it stands, with its moment. Where something was written since, the reply that is known goes out with
a word that a newer one is on its way; a worker computes it, and the page asks again.
"""

from __future__ import annotations

import hashlib
import os
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Any

from flask import Flask, Response, current_app, request
from pydantic import BaseModel
from sqlalchemy.orm import Session

from almanac.services.answers.readings import Reading, State, kept, read, state_of
from almanac.services.clock import VARIABLE, day_ends
from almanac.store import queue
from almanac.web.database import close, closing, session

SOURCE = Path(__file__).resolve().parents[1]
NEWER, MADE_AT = "Almanac-Newer", "Almanac-Made-At"
URGENT, FIRST, AHEAD = 10, 5, 0
"""What somebody waits for, what most of the rest finds its answers in, and what was looked at lately."""
SLOW = 8
"""A view that takes long comes so much later, and gives way to what is more urgent."""


@dataclass(frozen=True)
class KeptView:
    """A view whose replies are kept: made from path arguments and one model of query or body, and from nothing else of the request.

    how : "cheap" ones are computed where they are asked for, "dear" ones by a worker, "slow" ones by a worker after all else
    """

    name: str
    view: Callable[..., BaseModel]
    model: tuple[str, type[BaseModel]] | None
    how: str

    @property
    def dear(self) -> bool:
        return self.how != "cheap"

    def priority(self, wanted: int) -> int:
        """How urgent its reply is, beside others that are wanted as much."""
        return wanted - (SLOW if self.how == "slow" else 0)

    def arguments(self, path: Mapping[str, Any]) -> dict[str, Any]:
        """What a request asks for, as plain JSON."""
        given = path.get(self.model[0]) if self.model else None
        plain = {name: value for name, value in path.items() if not isinstance(value, BaseModel)}
        return {"path": plain, "given": given.model_dump(mode="json") if isinstance(given, BaseModel) else None}

    def make(self, arguments: Mapping[str, Any]) -> bytes:
        """The reply, as its body."""
        told = dict(arguments["path"])
        if self.model is not None:
            told[self.model[0]] = self.model[1].model_validate(arguments["given"])
        return self.view(**told).model_dump_json().encode()


def build_of(source: Path = SOURCE) -> str:
    """A digest of the program: another program's replies are not this one's."""
    digest = hashlib.blake2b(digest_size=12)
    for file in sorted(source.rglob("*")):
        if file.is_file() and file.suffix in (".py", ".yaml", ".json", ".html", ".css"):
            digest.update(file.read_bytes())
    return digest.hexdigest()


def reading_of(view: KeptView, arguments: Mapping[str, Any]) -> Reading[bytes]:
    """What is asked of a view."""
    return Reading[bytes](view.name, current_app.config["BUILD"], arguments, bytes, (os.environ.get(VARIABLE, ""),))


def kept_reply(view: KeptView, path: Mapping[str, Any]) -> Response:
    """The reply of a view: the one that holds, the latest with a newer one on its way, or word that the first is being computed."""
    arguments = view.arguments(path)
    reading = reading_of(view, arguments)
    state = state_of(session(), reading)
    if state.value is None and view.dear and current_app.config["WORKERS"] and not _failed(state):
        return _behind_the_page(view, arguments, state)
    if state.value is None:
        body = make(current_app, view, arguments, state=state)
        state = state_of(session(), reading)
        return _reply(body, state.key, state.latest.made_at if state.latest else None)
    assert state.latest is not None
    return _reply(state.value, state.key, state.latest.made_at)


def _failed(state: State[bytes]) -> bool:
    """Whether a worker tried and failed: it is tried here then, so that whoever asks is told why."""
    with Session(current_app.extensions["engine"]) as own:
        failed = queue.take_failed(own, state.asked)
        own.commit()
    return failed


def known_reply(view: KeptView, path: Mapping[str, Any]) -> bytes | None:
    """The latest reply of a view, where one is kept; nobody is asked to compute it."""
    reading = reading_of(view, view.arguments(path))
    found = state_of(session(), reading, asking=False)
    if found.value is not None or found.latest is None:
        return found.value
    return kept(session(), reading, found.latest.key)


def make(app: Flask, view: KeptView, arguments: Mapping[str, Any], *, state: State[bytes] | None = None) -> bytes:
    """Make a reply that is missing and keep it. It is read in a session of its own, so that all it reads is seen."""
    close(app)  # what was read before belongs to another moment
    with closing(app) as own:
        return read(own, reading_of(view, arguments), lambda: view.make(arguments), good_until=day_ends(own), state=state)


def _behind_the_page(view: KeptView, arguments: Mapping[str, Any], state: State[bytes]) -> Response:
    with Session(current_app.extensions["engine"]) as own:
        ask_for(own, view, arguments, state.asked, wanted=URGENT)
        own.commit()
    latest = state.latest
    older = kept(session(), reading_of(view, arguments), latest.key) if latest else None
    if latest is not None and older is not None:
        reply = _reply(older, latest.key, latest.made_at)
        reply.headers[NEWER] = "computing"
        reply.headers.pop("ETag")
        return reply
    words, done, of = queue.progress(session(), state.asked) or ("waiting for a worker", 0, 0)
    return Response(
        Computing(words=words, done=done, of=of, waiting=queue.waiting(session())).model_dump_json(),
        status=202,
        mimetype="application/json",
        headers={"Retry-After": "1", "Cache-Control": "no-store"},
    )


class Computing(BaseModel):
    """Word that a first answer is being computed: what of it, how much is done, and how much work waits or runs."""

    words: str
    done: int
    of: int
    waiting: int


def ask_for(own: Session, view: KeptView, arguments: Mapping[str, Any], asked: str, *, wanted: int) -> bool:
    """Ask for a reply to be computed, once however many ask."""
    return queue.enqueue(own, queue.COMPUTE, told(view, arguments), lock=asked, priority=view.priority(wanted))


def told(view: KeptView, arguments: Mapping[str, Any]) -> dict[str, Any]:
    """What a worker is told."""
    return {"view": view.name, "arguments": dict(arguments)}


def _reply(body: bytes, key: str | None, made_at: datetime | None) -> Response:
    reply = Response(body, mimetype="application/json")
    reply.headers["Cache-Control"] = "private, no-cache"
    if made_at is not None:
        reply.headers[MADE_AT] = made_at.isoformat()
    if key is not None:
        reply.set_etag(key)
        if request.method == "GET":
            reply.make_conditional(request)
    return reply
