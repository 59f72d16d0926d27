"""Acting on a kept reply pins it: a decision can be reopened as it was seen."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from almanac.services.answers.values import decoded
from almanac.services.clock import Clock
from almanac.store import pins
from almanac.store.models import Pin
from almanac.store.pins import Pinned
from almanac.web.access import author_id
from almanac.web.database import session

ORDER, EXPORT = "order", "export"


def pin_reply(
    key: str | None,
    view: str,
    arguments: dict[str, Any],
    *,
    act: str,
    subject: str,
    clock: Clock,
    fits: Callable[[bytes], bool] = lambda _: True,
) -> bool:
    """Pin the reply that was seen, by its key where the page told it, else the latest to the same question; False where none is kept.

    fits : whether the body that a page named is one that the act can rest on
    """
    seen = pins.value_of(session(), key, view) if key else None
    chosen = key if seen is not None and fits(decoded(bytes, seen)) else pins.latest_key(session(), view, arguments)
    if chosen is None:
        return False
    made = Pin(
        key=chosen,
        view=view,
        arguments=arguments,
        act=act,
        subject=subject,
        as_of=clock.today,
        pinned_at=clock.now,
        author_id=author_id(),
    )
    pins.pin(session(), made)
    return True


def body_of(found: Pinned) -> bytes:
    """The reply as it was sent then."""
    body: bytes = decoded(bytes, found.value)
    return body
