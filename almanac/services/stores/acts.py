"""One act at one shelf, and the undoing of any act: counter-moves with a reason, never a change of what is on record."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from datetime import date, timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from almanac.core.life.outcomes import Bucket
from almanac.core.parts.declared.kinds import BenchRole, kinds_of_role
from almanac.core.stock.acts import ACTS, Act
from almanac.services.clock import Clock
from almanac.services.errors import Fault, NotFound, Refused
from almanac.services.stores.ages import Ages, ages_leaving
from almanac.services.stores.fill import fill_waiting
from almanac.services.words import day
from almanac.store import assets, catalog, shelves, stores
from almanac.store.models import Part, Shelf, Site, StockAct, StockMove

PACKS = kinds_of_role(BenchRole.PACK)
MOST = 100_000


@dataclass(frozen=True)
class MoveRequest:
    """An act on some parts of a shelf. made_on : of parts that come from outside the stores, or the lot that is taken from by its day"""

    part_number: str
    site_code: str
    act: str
    quantity: int
    reason: str
    made_on: date | None = None


@dataclass(frozen=True)
class Recorded:
    """Who does something with stock, and when."""

    clock: Clock
    author_id: int
    is_lead: bool


def shelf_of(session: Session, part_number: str, site_code: str) -> tuple[Part, Site, Shelf]:
    """A part, a site, and the shelf of one at the other, locked until the transaction ends.

    Raises
    ------
    Refused : no such part or site
    """
    part = assets.part_by_number(session, part_number)
    site = next((one for one in catalog.sites(session) if one.code == site_code.upper()), None)
    faults = []
    if part is None:
        faults.append(Fault("part_number", f"no part has the number {part_number or '(empty)'}"))
    if site is None:
        faults.append(Fault("site", f"no site has the code {site_code or '(empty)'}"))
    if part is None or site is None:
        raise Refused(*faults)
    return part, site, shelves.shelf_for_update(session, part.id, site.id)


def do(session: Session, request: MoveRequest, by: Recorded) -> int:
    """Carry an act out; returns its number.

    Raises
    ------
    Refused : an act that does not exist or that only a lead does, no reason, or more than there is
    """
    act = ACTS.get(request.act)
    if act is None:
        raise Refused(Fault("act", f"one of {', '.join(ACTS)} was wanted, got {request.act!r}"))
    part, _, shelf = shelf_of(session, request.part_number, request.site_code)
    faults = [*_faults(session, act, shelf, request, by), *_what_it_is(session, act, (part, shelf), request, by)]
    if faults:
        raise Refused(*faults)
    record = record_act(session, act.name, request.reason, by)
    ages: Ages = [(request.made_on, request.quantity)]
    if act.source is not None and request.made_on is not None:
        add_moves(session, (shelf, act.source, -1), ages, act.cause, record, by)
    elif act.source is not None:
        expired_first = act.name == "expire"
        ages = ages_leaving(session, (part, shelf, act.source), request.quantity, by.clock.today, expired_first=expired_first)
        add_moves(session, (shelf, act.source, -1), ages, act.cause, record, by)
    if act.goal is not None:
        add_moves(session, (shelf, act.goal, 1), ages, act.cause, record, by)
    if act.goal is Bucket.ON_HAND:
        fill_waiting(session, shelf, by.clock)
    return record.id


def _faults(session: Session, act: Act, shelf: Shelf, request: MoveRequest, by: Recorded) -> list[Fault]:
    faults = []
    if act.lead and not by.is_lead:
        faults.append(Fault("act", f"{act.words}: a lead does that"))
    if not request.reason.strip():
        faults.append(Fault("reason", "say why in a few words: who reads the record later has only this"))
    if not 1 <= request.quantity <= MOST:
        return [*faults, Fault("quantity", f"1 to {MOST:,} parts were wanted, got {request.quantity}")]
    if act.source is not None:
        faults.extend(_too_many(session, act.source, shelf, request.quantity))
        faults.extend(_of_lot(session, act.source, shelf, request))
    return faults


def _of_lot(session: Session, source: Bucket, shelf: Shelf, request: MoveRequest) -> list[Fault]:
    """What a lot that is taken from by name does not hold."""
    if request.made_on is None:
        return []
    lots = [lot for own in shelves.lots(session, shelf_id=shelf.id, bucket=source).values() for lot in own]
    life = session.scalar(select(Part.shelf_life_days).where(Part.id == shelf.part_id))
    last_day = request.made_on + timedelta(days=life) if life is not None else None
    held = sum(count for lot, count in lots if lot == last_day and lot is not None)
    if held >= request.quantity:
        return []
    return [Fault("made_on", f"{held} of those made on {day(request.made_on)} are there: name another lot, or fewer")]


def _too_many(session: Session, source: Bucket, shelf: Shelf, quantity: int) -> list[Fault]:
    held = shelves.balance(session, shelf.id, source)
    if held < quantity:
        return [Fault("quantity", f"{held} there: name 1 to {held}" if held else "nothing is there")]
    kept = shelves.reserved(session, shelf.id) if source is Bucket.ON_HAND else 0
    if held - kept < quantity:
        return [Fault("quantity", f"{kept} of {held} are kept for somebody: release one of them first, so that nobody counts on it")]
    return []


def _what_it_is(session: Session, act: Act, of: tuple[Part, Shelf], request: MoveRequest, by: Recorded) -> list[Fault]:
    """What nobody may do with a part of its kind (rules B4, B7, N11)."""
    part, shelf = of
    faults = []
    if request.made_on and request.made_on > by.clock.today:
        faults.append(Fault("made_on", f"{day(request.made_on)} is in the future: read the label again"))
    if act.name == "found" and part.kind in PACKS:
        faults.append(Fault("act", "a pack of unknown origin is never stock: set it aside, and have it looked at"))
    elif act.name == "found" and part.shelf_life_days is not None and request.made_on is None:
        faults.append(Fault("made_on", "it keeps for a time only: say when it was made, its label tells"))
    if act.name == "release" and part.kind in PACKS and request.quantity > stores.set_aside_from_shelf(session, shelf.id):
        faults.append(Fault("act", "a pack that came out of a machine is never stock again: dispose of it, or send it back"))
    if act.name == "expire" and request.quantity > (expired := shelves.expired(session, shelf.id, by.clock.today)):
        faults.append(Fault("quantity", f"{expired} of those there have expired" if expired else "none of those there has expired"))
    return faults


def record_act(
    session: Session,
    name: str,
    reason: str,
    by: Recorded,
    *,
    undoes_id: int | None = None,
    transfer_id: int | None = None,
    count_id: int | None = None,
    job_id: int | None = None,
) -> StockAct:
    """Put an act on record."""
    act = StockAct(
        act=name,
        reason=reason.strip(),
        done_on=by.clock.today,
        recorded_at=by.clock.now,
        author_id=by.author_id,
        undoes_id=undoes_id,
        transfer_id=transfer_id,
        count_id=count_id,
        job_id=job_id,
    )
    session.add(act)
    session.flush()
    return act


def add_moves(session: Session, to: tuple[Shelf, Bucket, int], ages: Ages, cause: str, act: StockAct, by: Recorded) -> None:
    """One side of an act, a move an age; the last of `to` is 1 for what comes and -1 for what goes."""
    shelf, bucket, sign = to
    session.add_all(move(shelf, bucket, sign * quantity, cause, act, by, made_on=made_on) for made_on, quantity in ages)
    session.flush()


def move(
    shelf: Shelf,
    bucket: Bucket,
    quantity: int,
    cause: str,
    act: StockAct,
    by: Recorded,
    *,
    lot: str | None = None,
    made_on: date | None = None,
) -> StockMove:
    """One side of an act."""
    return StockMove(
        shelf_id=shelf.id,
        bucket=bucket.value,
        quantity=quantity,
        cause=cause,
        lot=lot,
        made_on=made_on,
        moved_on=by.clock.today,
        recorded_at=by.clock.now,
        author_id=by.author_id,
        act_id=act.id,
    )


def undo(session: Session, act_id: int, reason: str, by: Recorded) -> int:
    """Undo an act by its counter-moves; returns the number of the undoing.

    Raises
    ------
    NotFound : no such act · Refused : undone already, an undoing, one that its own page undoes, no reason, or parts that are gone
    """
    act = session.get(StockAct, act_id)
    if act is None:
        raise NotFound(f"there is no act {act_id}")
    moves = list(session.scalars(select(StockMove).where(StockMove.act_id == act.id)))
    held = {
        one: session.scalars(select(Shelf).where(Shelf.id == one).with_for_update()).one() for one in sorted({m.shelf_id for m in moves})
    }
    faults = _undo_faults(session, act, reason, by)
    brought: Counter[tuple[int, str]] = Counter()
    for one in moves:
        brought[one.shelf_id, one.bucket] += one.quantity
    if any(count > 0 and _too_many(session, Bucket(bucket), held[shelf_id], count) for (shelf_id, bucket), count in brought.items()):
        faults.append(Fault("act", "what it brought has gone on or was promised since: undo what came after first"))
    if faults:
        raise Refused(*faults)
    record = record_act(session, "undone", reason, by, undoes_id=act.id)
    for one in moves:
        bucket = Bucket(one.bucket)
        session.add(move(held[one.shelf_id], bucket, -one.quantity, "undone", record, by, lot=one.lot, made_on=one.made_on))
    session.flush()
    for shelf in held.values():
        fill_waiting(session, shelf, by.clock)
    return record.id


def _undo_faults(session: Session, act: StockAct, reason: str, by: Recorded) -> list[Fault]:
    faults = []
    if not reason.strip():
        faults.append(Fault("reason", "say why in a few words: who reads the record later has only this"))
    if act.transfer_id is not None:
        faults.append(Fault("act", "a transfer is undone by one the other way, or cancelled while it is packed"))
    if act.job_id is not None:
        faults.append(Fault("act", "parts of a job are given back, or handed out again, at the job"))
    if act.act.startswith("tested_"):
        faults.append(Fault("act", "what a test showed is not undone: count the shelf, or book the part as found"))
    if act.undoes_id is not None:
        faults.append(Fault("act", "this is an undoing: do the act again instead"))
    if session.scalar(select(StockAct.id).where(StockAct.undoes_id == act.id)) is not None:
        faults.append(Fault("act", "it was undone already"))
    if act.act in ACTS and ACTS[act.act].lead and not by.is_lead:
        faults.append(Fault("act", "a lead did that, and a lead undoes it"))
    return faults
