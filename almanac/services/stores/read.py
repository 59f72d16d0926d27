"""The stores as they stand: the tally of parts by sites, the week, and the plate of a shelf."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta

from sqlalchemy.orm import Session

from almanac.core.life.outcomes import Bucket
from almanac.core.parts.declared.kinds import BenchRole, kinds_of_role
from almanac.core.stock.acts import ACTS
from almanac.core.stock.lots import expired_in
from almanac.core.stock.timetable import Timetable
from almanac.services.clock import Clock, read_clock
from almanac.services.errors import NotFound
from almanac.services.outlook.order_plans import Row
from almanac.services.outlook.summary import read_builder
from almanac.services.stores.substitutes import Substitute, substitutes_of
from almanac.services.stores.top_ups import TopUp, top_ups
from almanac.services.stores.week import Happening, week_of
from almanac.services.stores.wh_class import energy_class
from almanac.store import assets, catalog, shelves, stores, units
from almanac.store.models import Part, Site

WORDS = {
    "opening": "opening stock",
    "receipt": "received",
    "fitted": "fitted",
    "removed": "came out of",
    "reclassified": "finding corrected",
    "sent": "packed for a transfer",
    "arrived": "arrived",
    "counted": "counted",
    "tested": "tested",
    "returned": "sent back",
    "scrapped": "scrapped",
    "lost": "did not arrive",
    "issued": "issued",
    "undone": "undone",
}


@dataclass(frozen=True)
class Cell:
    """One shelf of the tally. on_hand : recovered parts that passed their test among them · level : kept there, None where nothing is
    wanted

    expired : of what lies there, no stock · load : parts its next boat takes from the depot
    """

    site: str
    on_hand: int
    expired: int
    coming: int
    level: int | None
    load: int
    waits: int
    set_aside: int
    back: int


@dataclass(frozen=True)
class TallyRow:
    """A part over all sites, the depot first."""

    number: str
    name: str
    kind: str
    to_order: int
    cells: list[Cell]


@dataclass(frozen=True)
class TallyPlace:
    """A site of the tally, and how the depot supplies it; None for the depot, and where there is no lane."""

    code: str
    name: str
    is_depot: bool
    lane: Timetable | None


@dataclass(frozen=True)
class Tally:
    """All shelves, and what the week brings. sites : in the order of the cells

    unsaid : stock parts of which nobody can say what should be kept
    """

    as_of: date
    sites: list[TallyPlace]
    rows: list[TallyRow]
    week: list[Happening]
    unsaid: int
    below: int
    waiting: int
    transfers: list[stores.Under]
    counts: list[stores.WaitingCount]
    set_aside: int
    back: int
    top_ups: list[TopUp]


def read_tally(session: Session) -> Tally:
    """Every shelf of every stock part; levels are those of the outlook."""
    builder = read_builder(session)
    clock = builder.inputs.clock
    plans = {row.part.number: row for row in builder.rows()}
    places = sorted(catalog.sites(session), key=lambda site: (not site.is_depot, site.name))
    depot = next((site for site in places if site.is_depot), None)
    lanes = catalog.timetables_from(session, depot.id) if depot is not None else {}
    held, waits = shelves.balances(session), stores.waits(session, clock.today)
    ordered, again = _ordered(session), units.tested_good(session, sorted(kinds_of_role(BenchRole.PACK)))
    expired = {shelf: expired_in(own, clock.today) for shelf, own in shelves.lots(session).items()}
    parts = catalog.all_parts(session)
    rows = [_row(part, places, (held, waits, ordered, expired, again), plans.get(part.number)) for part in parts]
    shown = [row for row in rows if row.number in plans or any(cell.on_hand or cell.coming or cell.waits for cell in row.cells)]
    transfers, due = stores.under_way(session), top_ups(session, clock)
    return Tally(
        as_of=clock.today,
        sites=[TallyPlace(site.code, site.name, site.is_depot, lanes.get(site.id)) for site in places],
        rows=shown,
        week=week_of(builder, shelves.open_lines(session), transfers, lanes, due),
        unsaid=sum(row.plan is None for row in plans.values()),
        below=sum(cell.level is not None and cell.on_hand - cell.expired + cell.coming < cell.level for row in shown for cell in row.cells),
        waiting=sum(cell.waits for row in shown for cell in row.cells),
        transfers=transfers,
        counts=stores.counts_that_wait(session),
        set_aside=sum(cell.set_aside for row in rows for cell in row.cells),
        back=sum(cell.back for row in rows for cell in row.cells),
        top_ups=due,
    )


def _ordered(session: Session) -> dict[tuple[int, int], int]:
    found: dict[tuple[int, int], int] = {}
    for line in shelves.open_lines(session):
        key = line.part_id, line.site_id
        found[key] = found.get(key, 0) + line.remaining
    return found


ByShelf = dict[tuple[int, int], int]
Held = tuple[dict[tuple[int, int], dict[Bucket, int]], ByShelf, ByShelf, ByShelf, ByShelf]


def _row(part: Part, places: list[Site], held: Held, planned: Row | None) -> TallyRow:
    balances, waits, ordered, expired, again = held
    cells = []
    for site in places:
        own = balances.get((part.id, site.id), {})
        cells.append(
            Cell(
                site=site.code,
                on_hand=own.get(Bucket.ON_HAND, 0) + min(again.get((part.id, site.id), 0), own.get(Bucket.HARVESTED, 0)),
                expired=expired.get((part.id, site.id), 0),
                coming=own.get(Bucket.UNDER_WAY, 0) + ordered.get((part.id, site.id), 0),
                level=_level(site, planned),
                load=_load(site, planned),
                waits=waits.get((part.id, site.id), 0),
                set_aside=own.get(Bucket.QUARANTINE, 0),
                back=own.get(Bucket.RETURNED, 0),
            )
        )
    return TallyRow(part.number, part.name, part.kind, planned.quantity if planned else 0, cells)


def _level(site: Site, planned: Row | None) -> int | None:
    """What is kept at a place: a site's level, and at the depot one more than its reorder point."""
    if planned is None or planned.plan is None:
        return None
    plan = planned.plan
    if site.is_depot:
        return plan.depot_s + 1
    found = next((one for one in plan.sites if one.site_id == site.id), None)
    return found.level if found is not None else None


def _load(site: Site, planned: Row | None) -> int:
    if planned is None or planned.plan is None:
        return 0
    return sum(one.load for one in planned.plan.sites if one.site_id == site.id)


@dataclass(frozen=True)
class LotLine:
    """Parts of one age on a shelf. keeps_until : their last day, None without a shelf life or where nobody knows their age"""

    keeps_until: date | None
    made_on: date | None
    quantity: int
    expired: bool


@dataclass(frozen=True)
class MoveLine:
    """What was done with a shelf: in words, by whom, and how many came or went in a bucket."""

    id: int
    on: date
    words: str
    who: str | None
    bucket: str
    quantity: int
    act_id: int | None
    can_undo: bool
    incident_id: int | None


@dataclass(frozen=True)
class ShelfPlate:
    """One shelf: what lies there by lot, who it is promised to, what was done with it. energy_class : of a pack, for carriers"""

    part: Part
    site: Site
    place: str | None
    energy_class: str | None
    buckets: dict[Bucket, int]
    lots: list[LotLine]
    promised: list[stores.PromisedRow]
    coming: list[shelves.OpenLine]
    moves: list[MoveLine]
    last_counted: date | None
    acts: list[str]
    instead: list[Substitute]
    swaps: list[stores.SwapRow]
    recovered: list[units.RecoveredRow]


def read_shelf(session: Session, part_number: str, site_code: str, *, is_lead: bool) -> ShelfPlate:
    """The plate of a shelf.

    Raises
    ------
    NotFound : no such part or site
    """
    part = assets.part_by_number(session, part_number)
    site = next((one for one in catalog.sites(session) if one.code == site_code.upper()), None)
    if part is None or site is None:
        raise NotFound(f"there is no shelf of {part_number} at {site_code}")
    clock = read_clock(session)
    shelf = shelves.shelf_at(session, part.id, site.id)
    held = shelves.buckets_of(session, shelf.id) if shelf is not None else {}
    return ShelfPlate(
        part=part,
        site=site,
        place=shelf.place if shelf else None,
        energy_class=_class(part),
        buckets=held,
        lots=_lots(session, part, site, shelf.id if shelf else None, held.get(Bucket.ON_HAND, 0), clock),
        promised=stores.promised_of(session, part.id, site.id),
        coming=[line for line in shelves.open_lines(session, part_id=part.id) if line.site_id == site.id],
        moves=[_move(row) for row in stores.moves_of(session, part.id, site.id)],
        last_counted=stores.last_counted(session, part.id, site.id),
        acts=[act.name for act in ACTS.values() if _can(act.source, held) and (is_lead or not act.lead)],
        instead=substitutes_of(session, part, site),
        recovered=units.recovered(session, part.id, site.id)[: held.get(Bucket.HARVESTED, 0)],
        swaps=stores.swaps_planned(session, part.id, site.id, clock.today),
    )


def _can(source: Bucket | None, held: dict[Bucket, int]) -> bool:
    return source is None or held.get(source, 0) > 0


def _class(part: Part) -> str | None:
    return energy_class(part) if part.kind in kinds_of_role(BenchRole.PACK) else None


def _lots(session: Session, part: Part, site: Site, shelf_id: int | None, on_hand: int, clock: Clock) -> list[LotLine]:
    if part.shelf_life_days is None:
        return [LotLine(None, None, on_hand, False)] if on_hand else []
    life = timedelta(days=part.shelf_life_days)
    found = shelves.lots(session, shelf_id=shelf_id).get((part.id, site.id), []) if shelf_id is not None else []
    return [
        LotLine(until, until - life if until else None, quantity, until is not None and until < clock.today)
        for until, quantity in found
        if quantity
    ]


def _move(row: stores.MoveRow) -> MoveLine:
    return MoveLine(row.id, row.moved_on, _words(row), row.author, row.bucket, row.quantity, row.act_id, row.can_undo, row.incident_id)


def _words(row: stores.MoveRow) -> str:
    named = ACTS[row.act].words if row.act is not None and row.act in ACTS else WORDS.get(row.cause, row.cause)
    of = f" {row.order_number}" if row.order_number else f" {row.tag}" if row.tag else ""
    why = f": {row.reason}" if row.reason else ""
    return f"{named}{of}{why}"
