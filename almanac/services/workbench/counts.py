"""Counts that differ from the page become a draft of it, which a person who knows makes hold."""

from __future__ import annotations

from sqlalchemy.orm import Session

from almanac.core.workbench.counted import Counted, counted_otherwise, with_counts
from almanac.core.workbench.journal import Standing
from almanac.services.clock import Clock
from almanac.services.errors import NotFound, Refused
from almanac.services.pages.library import read_library
from almanac.services.pages.save import PageChange, save_page
from almanac.services.workbench.lease import write_entry
from almanac.services.workbench.planning import restored
from almanac.store import pages
from almanac.store.models import Job


def propose_counts(session: Session, job: Job, standing: Standing, *, clock: Clock, author_id: int) -> int | None:
    """Propose what was counted to the page, as a draft; returns the revision's number, None where nothing could be proposed.

    What became of each count stands in the journal.
    """
    plan = restored(job.plan)
    counted = [] if plan.plain else counted_otherwise(plan, standing)
    if not counted:
        return None
    try:
        page = read_library(session).page(job.model_id)
    except NotFound:
        return None
    source = f"job {job.id} on {clock.today}"
    document, proposed, left = with_counts(page.own, page.whole, counted, source)
    notes = [f"{item.words}; it stands in several places of the step, correct the page by hand" for item in left]
    number = None
    if proposed:
        number, words = _draft(session, job, document, proposed, clock, author_id)
        notes.append(words)
    for words in notes:
        write_entry(session, job, "note", {"words": words}, clock=clock, author_id=author_id)
    return number


def _draft(
    session: Session, job: Job, document: dict[str, object], proposed: list[Counted], clock: Clock, author_id: int
) -> tuple[int | None, str]:
    said = "; ".join(item.words for item in proposed)
    change = PageChange(document, f"Counted at job {job.id}: {said}", pages.last_number(session, job.model_id), draft=True)
    try:
        with session.begin_nested():
            number = save_page(session, change, clock=clock, author_id=author_id).number
    except Refused as refused:
        return None, f"{said}; not proposed to the page: {'; '.join(fault.message for fault in refused.faults)}"
    return number, f"{said}: proposed to the page as its draft {number}"
