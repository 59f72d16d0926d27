"""What a job leaves behind: counts proposed to the page, notes with the machine, drives in custody, parts from no shelf."""

from __future__ import annotations

from dataclasses import replace
from datetime import timedelta

import pytest
from sqlalchemy.orm import Session

from almanac.core.workbench.plan import Phase
from almanac.services.clock import Clock
from almanac.services.fleet.machine import read_machine
from almanac.services.pages.library import read_library
from almanac.services.workbench.after import add_custody
from almanac.services.workbench.exceptions import Exceptional, read_exceptions
from almanac.services.workbench.heard import what_it_said
from almanac.store import pages
from almanac.store.job_exceptions import drives_in_custody
from tests.services.jobs import Worker, machine, opened, replaced


def exceptions(session: Session, clock: Clock, what: str) -> list[Exceptional]:
    return [one for one in read_exceptions(session, clock=clock) if one.what == what]


def _counted(worker: Worker, change: int, part: str | None = None) -> tuple[str, str, int]:
    """One step done with another count than the page's, the rest as it should be; its operation, group and the page's count."""
    said: tuple[str, str, int] | None = None
    while (step := worker.job.next_step) is not None:
        group = next((group for group in step.screws if group.loose), None)
        if step.phase == Phase.OPENING and group is not None and said is None:
            said = (str(step.operation), group.group, group.loose)
            worker.does(part, screws={group.group: group.loose + change})
        elif said is not None and step.phase == Phase.CLOSING and step.operation == said[0]:
            loose = {item.group: item.loose for item in worker.job.plan.step(f"open:{said[0]}").screws if item.loose}  # type: ignore[union-attr]
            worker.does(part, screws={**loose, said[1]: said[2] + change})
        else:
            worker.does(part)
    assert said is not None
    return said


def test_a_count_that_differs_is_proposed_to_the_page_and_holds_nothing_yet(session: Session, clock: Clock) -> None:
    where, key = machine(session, "fan", "Packet 15")
    worker = opened(session, clock, where.tag, key)
    held = read_library(session).page(worker.job.row.job.model_id)
    operation, group, count = _counted(worker, -1, where.part)
    worker.finishes(where.part)
    worker.closes(replaced(key, where))
    words = [item.entry.data.get("words", "") for item in worker.job.journal if item.entry.kind == "note"]
    latest = pages.last_number(session, held.model_id)
    assert words == [f"{operation}: {count - 1} × {group} came out, the page says {count}: proposed to the page as its draft {latest}"]
    revision = pages.revision(session, held.model_id, latest)
    assert revision is not None
    assert revision.draft
    entry = next(
        item for step in revision.page["operations"] if step["id"] == operation for item in step["fasteners"] if item["group"] == group
    )
    assert entry["count"] == count - 1
    assert f"job {worker.job_id}" in entry["note"]
    steps = {step["id"]: step for step in read_library(session).page(held.model_id).whole["operations"]}
    assert steps[operation] == next(step for step in held.whole["operations"] if step["id"] == operation), "what holds is as it was"


def test_an_honest_count_proposes_nothing(session: Session, clock: Clock) -> None:
    where, key = machine(session, "fan", "Packet 15")
    worker = opened(session, clock, where.tag, key)
    _counted(worker, 0, where.part)
    worker.finishes(where.part)
    worker.closes(replaced(key, where))
    model = worker.job.row.job.model_id
    revision = pages.revision(session, model, pages.last_number(session, model))
    assert revision is not None
    assert not revision.draft


def test_a_note_stays_with_the_machine_until_a_job_mends_it(session: Session, clock: Clock) -> None:
    where, key = machine(session, "fan")
    worker = opened(session, clock, where.tag, key)
    worker.says("note", words="its user is kind")
    worker.says("note", words="a post at the hinge is cracked", stays=True)
    (note,) = read_machine(session, where.tag, clock).notes
    assert (note.words, note.job_id, note.photo) == ("a post at the hinge is cracked", worker.job_id, None)
    worker.finishes(where.part)
    worker.closes(replaced(key, where))
    later = opened(session, clock, where.tag, key)
    assert [one.words for one in what_it_said(session, later.job.row.job, later.job.standing).notes] == [note.words]
    later.says("note", words="mended: glued", mends=note.key)
    assert read_machine(session, where.tag, clock).notes == []


def test_a_drive_is_an_exception_until_it_serves_again_and_is_asked_for_when_nothing_was_heard(session: Session, clock: Clock) -> None:
    where, key = machine(session, "ssd")
    worker = opened(session, clock, where.tag, key)
    worker.finishes(where.part)
    worker.closes(replaced(key, where, custody="cabinet 2, R. Pell"))
    (one,) = exceptions(session, clock, "drive out")
    assert one.words.endswith("cabinet 2, R. Pell")
    assert (one.cure, one.job_id) == (None, worker.job_id)
    later = Clock(clock.today + timedelta(days=40), clock.now + timedelta(days=40))
    ((unit, *_),) = drives_in_custody(session)
    (asked,) = exceptions(session, later, "drive out")
    assert asked.cure is not None
    assert asked.unit_id == unit
    add_custody(session, unit, "erased by company policy", clock=clock, author_id=1)
    (told,) = exceptions(session, clock, "drive out")
    assert told.words.endswith("erased by company policy")


@pytest.mark.parametrize("source", ["on_hand", "harvested"])
def test_a_part_that_was_not_new_is_an_exception(session: Session, clock: Clock, source: str) -> None:
    where, key = machine(session, "fan")
    first = opened(session, clock, where.tag, key)
    first.finishes(where.part)
    first.closes(replaced(key, where, removed_to="harvested", tested="good"), finding="preventive")
    tag, place = machine(session, "fan")[0].tag, key
    second = opened(session, clock, tag, place)
    second.finishes(where.part)
    second.closes(
        replaced(place, replace(where, site=first.job.row.site_code if source == "harvested" else where.site), source=source),
        confirmed=frozenset({"duplicate", "recovered", "stock"}),
    )
    found = exceptions(session, clock, "not from a shelf")
    assert [one.words for one in found] == ([] if source == "on_hand" else [f"{where.part} was fitted from harvested"])
