"""The index of models: every model in a row, from what is known of its page in brief."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy.orm import Session

from almanac.services.clock import read_clock
from almanac.services.pages.library import Library
from almanac.services.pages.summary import PageSummary, summaries
from almanac.store import pages
from almanac.store.pages import PageHead


@dataclass(frozen=True)
class IndexRow:
    """One model: its page's head and summary, and machines in service."""

    head: PageHead
    summary: PageSummary
    fleet: int


def read_index(session: Session, library: Library) -> list[IndexRow]:
    """All models by maker, family and name."""
    fleet = pages.fleet_counts(session, as_of=read_clock(session).today)
    known = summaries(session, library)
    rows = [IndexRow(head, known[head.model_id], fleet.get(head.model_id, 0)) for head in library.heads()]
    return sorted(rows, key=lambda row: (row.head.maker, row.head.family, row.head.name))
