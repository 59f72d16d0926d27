"""Telling look-alikes apart: the next question to ask."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from sqlalchemy.orm import Session

from almanac.core.parts.answers import known
from almanac.core.parts.lookalikes import NextQuestion, Question, next_question
from almanac.services.clock import read_clock
from almanac.services.errors import Fault, Refused
from almanac.services.pages.library import Library, ModelPage, read_library
from almanac.store import pages


def ask_next(session: Session, models: Sequence[str], answered: Mapping[str, str]) -> tuple[Library, NextQuestion, list[Question]]:
    """The next question that tells some models apart; look-alikes of a model are added to it.

    Raises
    ------
    Refused : no model of that name
    """
    library = read_library(session)
    wanted: dict[int, ModelPage] = {}
    for name in models:
        page = library.named(name)
        if page is None:
            raise Refused(Fault("models", f"no model is called {name}"))
        wanted[page.model_id] = page
        for other in (page.whole.get("identity") or {}).get("looks_like") or []:
            twin = library.named(other["model"])
            if twin:
                wanted[twin.model_id] = twin
    fleet = pages.fleet_counts(session, as_of=read_clock(session).today)
    weights = {page.name: float(max(fleet.get(identifier, 0), 1)) for identifier, page in wanted.items()}
    questions = _questions(list(wanted.values()))
    return library, next_question(questions, weights, answered), questions


def _questions(candidates: Sequence[ModelPage]) -> list[Question]:
    found: dict[str, Question] = {}
    for page in candidates:
        for key, tell in ((page.own.get("identity") or {}).get("tells") or {}).items():
            value = known({"value": tell["value"]}, "value")
            if value is None:
                continue
            before = found.get(key)
            answers = {**(before.answers if before else {}), page.name: str(value.value)}
            found[key] = Question(key, tell["ask"], bool(tell.get("opened")), answers)
    return list(found.values())
