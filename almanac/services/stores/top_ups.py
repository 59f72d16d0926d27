"""Packs on shelves lose charge: when each shelf is due for a top-up, and that it had one (rule B7)."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta

from sqlalchemy.orm import Session

from almanac.core.life.outcomes import Bucket
from almanac.core.parts.fits.battery import next_top_up
from almanac.services.clock import Clock
from almanac.services.errors import Fault, Refused
from almanac.services.stores.acts import PACKS, Recorded, record_act, shelf_of
from almanac.store import catalog, shelves, stores
from almanac.store.settings import settings_on

EVERY_DAYS = 180
SOON = timedelta(days=30)


@dataclass(frozen=True)
class TopUp:
    """A shelf of packs. due_on : of the one charged the longest ago; None where nobody knows when one of them was charged last"""

    part_number: str
    part_name: str
    site: str
    quantity: int
    due_on: date | None


def top_ups(session: Session, clock: Clock, *, within: timedelta = SOON) -> list[TopUp]:
    """Shelves of packs that are due soon, those first of which nobody knows; a pack leaves its maker charged."""
    every = int(settings_on(session, clock.today).value("top_up_days", default=EVERY_DAYS))
    parts = {part.id: part for part in catalog.all_parts(session) if part.kind in PACKS}
    sites = {site.id: site.code for site in catalog.sites(session)}
    charged = stores.topped_up(session, list(parts))
    lots = {shelf: own for kind in sorted(PACKS) for shelf, own in shelves.lots(session, kind=kind).items()}
    found = []
    for shelf, held in shelves.balances(session, Bucket.ON_HAND).items():
        quantity = held.get(Bucket.ON_HAND, 0)
        if shelf[0] not in parts or quantity < 1:
            continue
        part = parts[shelf[0]]
        made = _made(lots.get(shelf, []), part.shelf_life_days, quantity)
        due = _due(made, charged.get(shelf), every, clock.today)
        if due is None or due <= clock.today + within:
            found.append(TopUp(part.number, part.name, sites[shelf[1]], quantity, due))
    return sorted(found, key=lambda one: (one.due_on or date.min, one.part_number, one.site))


def _made(lots: list[tuple[date | None, int]], life_days: int | None, quantity: int) -> list[date | None]:
    """Days the lots of a shelf were made on; None for what nobody knows of."""
    known = [(last - timedelta(days=life_days), count) for last, count in lots if last is not None and life_days is not None]
    unknown: list[date | None] = [None] if sum(count for _, count in known) < quantity else []
    return [day for day, _ in known] + unknown


def _due(made: list[date | None], charged: date | None, every: int, today: date) -> date | None:
    """The day the pack charged the longest ago is due; None where nobody knows when that was."""
    since = [max(day, charged) if charged is not None and day is not None else day or charged for day in made]
    if any(day is None for day in since):
        return None
    return min(today + timedelta(days=next_top_up((today - day).days, every_days=every)) for day in since if day is not None)


def top_up(session: Session, number: str, site_code: str, by: Recorded) -> None:
    """All packs of a shelf were charged today.

    Raises
    ------
    Refused : no such part or site, no pack, or none lies there
    """
    part, site, shelf = shelf_of(session, number, site_code)
    faults = [] if part.kind in PACKS else [Fault("part_number", f"{part.number} is no pack: only packs are charged")]
    if not faults and shelves.balance(session, shelf.id) < 1:
        faults.append(Fault("part_number", f"none lies at {site.name}"))
    if faults:
        raise Refused(*faults)
    shelf.topped_up_on = by.clock.today
    record_act(session, "topped_up", f"{part.number} at {site.code}", by)
