"""Looking at a list, applying its difference in one transaction, and undoing that as one."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from datetime import date
from typing import Any

from sqlalchemy.orm import Session

from almanac.core.days import beyond_reason
from almanac.exchange.lists import ListFile, NoList, read_list
from almanac.services.answers.progress import tell
from almanac.services.clock import Clock
from almanac.services.errors import Fault, NotFound, Refused, Stale
from almanac.services.intake.changes import Difference, Gone
from almanac.services.intake.kinds import SUBJECTS
from almanac.services.intake.settled import Question, Settled, together
from almanac.services.intake.subject import By, Found, ListDay, Subject
from almanac.services.intake.table import Table, header_score, read_table
from almanac.store import intake as store
from almanac.store.models import Intake, ListSource

LONGEST_NAME = 80


@dataclass(frozen=True)
class ListRequest:
    """A list as it is given. source : its name, under which what was settled is remembered, "" for the one such lists came from last
    list_on : the day it was made
    kind : what it is a list of, None where its header is to tell
    """

    source: str
    file_name: str
    content: bytes
    list_on: date
    settled: Settled
    kind: str | None = None


@dataclass(frozen=True)
class Understood:
    """A list as it was understood."""

    table: Table
    questions: list[Question]
    taken: list[tuple[str, str, str]]
    rows: Sequence[Any]
    not_ours: int

    @property
    def columns(self) -> dict[str, str]:
        """Header by field."""
        return {name: self.table.header[at] for name, at in self.table.columns.items()}

    @property
    def open(self) -> int:
        """Questions that are left, those of days and amounts too."""
        return sum(not one.optional for one in self.questions) + self.table.asks_order + self.table.asks_decimal


@dataclass(frozen=True)
class Looked:
    """A list as it is understood, and what it says beside the record. digest : of what would be done, and of nothing else"""

    subject: Subject
    source: str
    understood: Understood
    found: Found
    settled: Settled
    before: date | None
    digest: str

    @property
    def difference(self) -> Difference:
        """What it says beside the record."""
        return self.found.difference

    @property
    def open(self) -> int:
        """Questions that are left."""
        return self.understood.open + (self.difference.open_gone > 0)


def look_at(session: Session, request: ListRequest, *, clock: Clock) -> Looked:
    """What a list says beside the record; nothing is written.

    Raises
    ------
    Refused : a file that is no list, a day that cannot be, or columns that cannot be found
    """
    _check(request, clock)
    tell("reading the file", 0, 1)
    try:
        file = read_list(request.file_name, request.content)
    except NoList as error:
        raise Refused(Fault("file", str(error))) from error
    subject = _subject(file, request.kind)
    name, source = _source(session, subject, request)
    settled = together(source.settled if source else {}, request.settled)
    tell("finding its columns", 0, 1)
    table = read_table(file, subject.fields, subject.known(session), settled, subject.title)
    gone = Gone(settled.gone) if settled.gone else None
    when = ListDay(request.list_on, source.last_list_on if source else None, gone)
    found = subject.look(session, table, settled, when)
    understood = Understood(table, found.questions, found.taken, found.rows, found.not_ours)
    return Looked(subject, name, understood, found, settled, when.before, _digest(found.difference))


def _subject(file: ListFile, kind: str | None) -> Subject:
    """The kind of list that was said, else the one whose words the header says most of."""
    if kind is not None:
        return SUBJECTS[kind]
    return max(SUBJECTS.values(), key=lambda subject: header_score(file, subject.fields))


def _source(session: Session, subject: Subject, request: ListRequest) -> tuple[str, ListSource | None]:
    """The source that was named, else the one such a list came from last."""
    if request.source.strip():
        return request.source.strip(), store.source_named(session, subject.kind, request.source)
    last = store.last_source(session, subject.kind)
    return (last.name, last) if last else (subject.usual, None)


def _check(request: ListRequest, clock: Clock) -> None:
    faults = []
    if len(request.source) > LONGEST_NAME:
        faults.append(Fault("source", f"a name of up to {LONGEST_NAME} letters was wanted"))
    if request.list_on > clock.today:
        faults.append(Fault("list_on", "a list of the future was given: say the day it was made"))
    elif wrong := beyond_reason(request.list_on):
        faults.append(Fault("list_on", wrong))
    if request.settled.gone is not None and request.settled.gone not in set(Gone):
        faults.append(Fault("gone", f"one of {', '.join(Gone)} was wanted, got {request.settled.gone}"))
    if request.kind is not None and request.kind not in SUBJECTS:
        faults.append(Fault("kind", f"one of {', '.join(SUBJECTS)} was wanted, got {request.kind}"))
    if faults:
        raise Refused(*faults)


def _digest(found: Difference) -> str:
    plain = [vars(change) for change in found.done]
    return hashlib.blake2b(json.dumps(plain, default=str, sort_keys=True).encode(), digest_size=16).hexdigest()


def apply_list(session: Session, request: ListRequest, digest: str, *, clock: Clock, author_id: int | None) -> int:
    """Write what a list says, in the caller's transaction; returns the number of the intake.

    Raises
    ------
    Refused : something is still to be settled, or nothing would be done · Stale : it would do something else than was looked at
    """
    looked = look_at(session, request, clock=clock)
    if looked.digest != digest:
        raise Stale("the record or the list changed meanwhile: look at the difference again")
    if looked.open:
        raise Refused(Fault("settled", "something is still to be settled: answer every question first"))
    subject = looked.subject
    source = store.source_named(session, subject.kind, looked.source)
    if source is None:
        source = ListSource(kind=subject.kind, name=looked.source, settled={})
        session.add(source)
    source.settled, source.last_list_on = asdict(looked.settled), request.list_on
    session.flush()
    row = Intake(
        source_id=source.id,
        file_name=request.file_name,
        list_on=request.list_on,
        counts=looked.difference.counts(),
        changes=subject.write(session, looked.difference.done, By(clock, author_id)),
        recorded_at=clock.now,
        author_id=author_id,
    )
    session.add(row)
    session.flush()
    return row.id


def undo_list(session: Session, intake_id: int, *, clock: Clock, author_id: int) -> tuple[int, list[str]]:
    """Undo a list as one; returns how many changes were taken back, and what stays nevertheless.

    Raises
    ------
    NotFound : no such intake · Refused : undone already, a later one of its source stands, or something was done with its rows since
    """
    row = session.get(Intake, intake_id)
    if row is None:
        raise NotFound(f"there is no list {intake_id}")
    if row.undone_at is not None:
        raise Refused(Fault("intake", "it was undone already"))
    if store.later_standing(session, row):
        raise Refused(Fault("intake", "a later list of this source stands: undo that first"))
    source = session.get_one(ListSource, row.source_id)
    stays = SUBJECTS[source.kind].undo(session, row, By(clock, author_id))
    row.undone_at, row.undone_by_id = clock.now, author_id
    source.last_list_on = store.last_standing_day(session, row.source_id)
    session.flush()
    return len(row.changes), stays
