"""What is on record of machines, as lists are held against it."""

from __future__ import annotations

from sqlalchemy.orm import Session

from almanac.services.intake.difference import OnRecord
from almanac.services.intake.understand import Names
from almanac.store import intake as store


def names_on_record(session: Session) -> Names:
    """Sites, models and tags."""
    return Names(store.sites_by_code(session), store.models_by_id(session), store.tags(session))


def machines_on_record(session: Session) -> list[OnRecord]:
    """All machines, retired ones among them."""
    return [OnRecord(*row) for row in store.machines(session)]
