"""Answers in PostgreSQL: kept by what they are computed from, found by every process, computed again where they cannot be read."""

from __future__ import annotations

import zlib
from collections.abc import Iterator
from dataclasses import dataclass, fields, replace
from datetime import UTC, datetime, timedelta
from typing import Any, ClassVar

import msgspec
import pytest
from sqlalchemy import event, text
from sqlalchemy.orm import Session

from almanac.core.answers.question import Named, Question
from almanac.services.answers.ask import ask, ask_all, keep_pending
from almanac.services.answers.cache import FRONT
from almanac.services.answers.values import answer_type, decoded, encoded
from almanac.services.pages.index import read_index
from almanac.services.pages.library import read_library
from almanac.services.pages.profile import PageProfile
from almanac.services.pages.summary import Summary, summaries
from almanac.store import answers as store
from almanac.store import pages

COMPUTED: list[tuple[int, ...]] = []


@dataclass(frozen=True)
class Total:
    count: int
    mean: float | None


@dataclass(frozen=True)
class Adding(Question[Total]):
    NAME: ClassVar[str] = "adding"
    VERSION: ClassVar[int] = 1
    numbers: tuple[int, ...]

    def compute(self) -> Total:
        COMPUTED.append(self.numbers)
        return Total(len(self.numbers), sum(self.numbers) / len(self.numbers) if self.numbers else None)


@pytest.fixture(autouse=True)
def _forgetful() -> Iterator[None]:
    FRONT.clear()
    COMPUTED.clear()
    yield
    FRONT.clear()


def another_process() -> None:
    """A process that has computed nothing yet."""
    FRONT.clear()
    COMPUTED.clear()


def test_an_answer_is_computed_once_and_found_by_another_process(session: Session) -> None:
    first = ask(session, Adding((1, 2, 6)))
    keep_pending(session, session)
    assert ask(session, Adding((1, 2, 6))) == first == Total(3, 3.0)
    another_process()
    assert ask(session, Adding((1, 2, 6))) == first
    assert COMPUTED == []
    row = session.execute(text("SELECT name, version, size_bytes, took_seconds FROM answer")).one()
    assert (row.name, row.version) == ("adding", 1)
    assert row.size_bytes > 0
    assert row.took_seconds >= 0


def test_several_are_looked_up_together_and_answered_in_order(session: Session) -> None:
    ask(session, Adding((2,)))
    keep_pending(session, session)
    another_process()
    found = ask_all(session, [Adding((1,)), Adding((2,)), Adding(()), Adding((1,))])
    assert found == [Total(1, 1.0), Total(1, 2.0), Total(0, None), Total(1, 1.0)]
    assert sorted(COMPUTED) == [(), (1,)]


def test_what_was_computed_in_a_request_that_was_rolled_back_is_kept_all_the_same(session: Session) -> None:
    ask(session, Adding((7,)))
    session.rollback()
    keep_pending(session, session)
    assert session.scalar(text("SELECT count(*) FROM answer")) == 1


@pytest.mark.parametrize("value", [b"", b"no zlib", zlib.compress(b"no answer"), zlib.compress(msgspec.msgpack.encode({"count": "many"}))])
def test_an_answer_that_cannot_be_read_is_computed_again(session: Session, value: bytes) -> None:
    question = Adding((4, 4))
    ask(session, question)
    keep_pending(session, session)
    session.execute(text("UPDATE answer SET value = :value"), {"value": value})
    another_process()
    assert ask(session, question) == Total(2, 4.0)
    keep_pending(session, session)
    another_process()
    assert ask(session, question) == Total(2, 4.0)
    assert COMPUTED == []


def test_an_older_version_answers_nothing(session: Session, monkeypatch: pytest.MonkeyPatch) -> None:
    ask(session, Adding((3,)))
    keep_pending(session, session)
    another_process()
    monkeypatch.setattr(Adding, "VERSION", 2)
    ask(session, Adding((3,)))
    assert COMPUTED == [(3,)]


def test_the_longest_unused_goes_first(session: Session) -> None:
    now = datetime(2026, 11, 1, tzinfo=UTC)
    for number in range(4):
        ask(session, Adding((number,)))
    keep_pending(session, session)
    keys = [Adding((number,)).key for number in range(4)]
    for number, key in enumerate(keys):
        store.mark_used(session, [key], now=now + timedelta(days=number))
    each = session.scalar(text("SELECT max(size_bytes) FROM answer")) or 0
    assert store.drop_longest_unused(session, most_bytes=2 * each) >= 2
    left = set(session.scalars(text("SELECT key FROM answer")))
    assert keys[0] not in left
    assert keys[3] in left
    assert store.drop_longest_unused(session, most_bytes=10**9) == 0


CHANGED: dict[type[Question[Any]], dict[str, Any]] = {
    PageProfile: {"own": Named("other"), "siblings": (Named("above"),)},
    Summary: {"own": Named("other"), "siblings": (Named("above"),)},
}


@pytest.mark.parametrize("kind", CHANGED)
def test_every_field_of_an_input_is_part_of_its_key(kind: type[Any]) -> None:
    first = kind(Named("page"))
    assert set(CHANGED[kind]) == {one.name for one in fields(kind)}
    keys = {first.key, *(replace(first, **{name: value}).key for name, value in CHANGED[kind].items())}
    assert len(keys) == 1 + len(CHANGED[kind])
    assert len({PageProfile(Named("page")).key, Summary(Named("page")).key}) == 2


def test_answers_of_real_pages_are_the_same_after_they_were_kept(session: Session) -> None:
    library = read_library(session)
    for page in library.pages.values():
        question = PageProfile(Named(page.head.page_key, page.own), page.siblings)
        made = question.compute()
        assert decoded(answer_type(PageProfile), encoded(made)) == made
    computed = summaries(session, library)
    keep_pending(session, session)
    another_process()
    assert summaries(session, read_library(session)) == computed


@pytest.fixture
def read_whole(monkeypatch: pytest.MonkeyPatch) -> list[int]:
    """Revisions whose pages were read whole, in order."""
    read: list[int] = []
    plain = pages.documents

    def counting(session: Session, revision_ids: Any) -> Any:
        read.extend(revision_ids)
        return plain(session, revision_ids)

    monkeypatch.setattr(pages, "documents", counting)
    return read


def test_a_page_and_its_siblings_are_read_never_all(session: Session, read_whole: list[int]) -> None:
    library = read_library(session)
    lone = next(head for head in library.heads() if not head.inherits)
    heir = next(head for head in library.heads() if head.inherits)
    assert read_library(session).page(lone.model_id).depths
    assert read_whole == [lone.revision_id]
    assert read_library(session).page(heir.model_id).depths
    assert len(read_whole) == 3
    read_index(session, read_library(session))
    keep_pending(session, session)
    another_process()
    read_whole.clear()
    assert len(read_index(session, read_library(session))) == 15
    assert read_whole == []


def test_many_models_cost_no_more_queries(session: Session) -> None:
    seen: list[str] = []
    read_index(session, read_library(session))
    event.listen(session.get_bind(), "before_cursor_execute", lambda *told: seen.append(told[2]))
    read_index(session, read_library(session))
    assert len(seen) <= 6


def test_a_sibling_that_changes_changes_the_heir(session: Session) -> None:
    library = read_library(session)
    heir = next(head for head in library.heads() if head.inherits)
    own, above = library.chain(heir)[:2]
    before = library.page(own.model_id)
    question = PageProfile(Named(own.page_key), before.siblings)
    session.execute(text("ALTER TABLE model_revision DISABLE TRIGGER append_only"))
    changed = "UPDATE model_revision SET page = jsonb_set(page, '{unverified}', '\"nobody looked\"') WHERE id = :r"
    session.execute(text(changed), {"r": above.revision_id})
    after = read_library(session).page(own.model_id)
    assert after.head.page_key == own.page_key
    assert PageProfile(Named(own.page_key), after.siblings).key != question.key
