"""What is on record of machines, as lists are held against it."""

from __future__ import annotations

from collections import defaultdict

from sqlalchemy.orm import Session

from almanac.core.parts.declared.kinds import FORECAST_KINDS
from almanac.services.intake.machines.difference import Delivered, OnRecord
from almanac.services.intake.machines.rows import Names
from almanac.store import catalog
from almanac.store import intake as store


def names_on_record(session: Session) -> Names:
    """Sites, models and tags."""
    return Names(sites_by_code(session), store.models_by_id(session), store.tags(session))


def sites_by_code(session: Session) -> dict[str, str]:
    """Names of sites by code."""
    return {site.code: site.name for site in catalog.sites(session)}


def machines_on_record(session: Session) -> list[OnRecord]:
    """All machines, retired ones among them."""
    return [OnRecord(*row) for row in store.machines(session)]


def delivered_with(session: Session) -> Delivered:
    """What models are delivered with beyond doubt: positions that take one part alone."""
    parts: dict[int, list[tuple[int, int]]] = defaultdict(list)
    for model, position, part in store.sole_parts(session, [kind.value for kind in FORECAST_KINDS]):
        parts[model].append((position, part))
    began = {site.code: site.log_began_on for site in catalog.sites(session)}
    return Delivered({model: tuple(own) for model, own in parts.items()}, began, store.places_told(session))
