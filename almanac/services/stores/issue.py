"""Parts in a job's hands: issued from a shelf, fitted by the job, or given back unused; and a job that waits for one."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy.orm import Session

from almanac.core.life.outcomes import Bucket
from almanac.core.workbench.journal import ENDED
from almanac.services.clock import Clock
from almanac.services.errors import Fault, NotFound, Refused
from almanac.services.stores.acts import Recorded, add_moves, record_act, shelf_of
from almanac.services.stores.ages import ages_leaving
from almanac.services.stores.fill import fill_waiting, served, take_back
from almanac.services.stores.waits import PromiseRequest, promise
from almanac.services.words import count
from almanac.store import assets, shelves, stores
from almanac.store.models import Asset, Job, Shelf, Site
from almanac.store.stores import IssuedRow


@dataclass(frozen=True)
class IssueRequest:
    """Parts of a shelf for a job, or back from it."""

    part_number: str
    site_code: str
    quantity: int = 1


def issue(session: Session, job_id: int, request: IssueRequest, by: Recorded) -> int:
    """Hand parts out to a job, what is kept for its machine first; returns the number of the act.

    Raises
    ------
    NotFound : no such job · Refused : it ended, no such part or site, or fewer lie free
    """
    job = _job(session, job_id)
    part, site, shelf = shelf_of(session, request.part_number, request.site_code)
    own = sum(one.quantity for one in stores.kept_at(session, shelf.id) if one.asset_id == job.asset_id)
    free = max(shelves.free(session, shelf.id, by.clock.today) + own, 0)
    if not 1 <= request.quantity <= free:
        words = f"{free} lie free for it at {site.name}: name 1 to {free}" if free else f"none lies free at {site.name}"
        raise Refused(Fault("quantity", words))
    record = record_act(session, "issued", f"to job {job.id}", by, job_id=job.id)
    ages = ages_leaving(session, (part, shelf, Bucket.ON_HAND), request.quantity, by.clock.today)
    add_moves(session, (shelf, Bucket.ON_HAND, -1), ages, "issued", record, by)
    add_moves(session, (shelf, Bucket.ISSUED, 1), ages, "issued", record, by)
    for _ in range(request.quantity):
        served(session, shelf, job.asset_id, by.clock)
    return record.id


def give_back(session: Session, job_id: int, request: IssueRequest, by: Recorded) -> int:
    """Put parts back that a job did not use; returns the number of the act.

    Raises
    ------
    NotFound : no such job · Refused : no such part or site, or more than it has
    """
    job = _job(session, job_id, ended=True)
    part, site, shelf = shelf_of(session, request.part_number, request.site_code)
    held = sum(row.quantity for row in stores.issued_to(session, job.id) if (row.part_number, row.site) == (part.number, site.code))
    if not 1 <= request.quantity <= held:
        words = f"the job has {held} of {site.name}: name 1 to {held}" if held else f"the job has none of {part.number} from {site.name}"
        raise Refused(Fault("quantity", words))
    record = record_act(session, "given_back", f"from job {job.id}", by, job_id=job.id)
    ages = ages_leaving(session, (part, shelf, Bucket.ISSUED), request.quantity, by.clock.today)
    add_moves(session, (shelf, Bucket.ISSUED, -1), ages, "issued", record, by)
    add_moves(session, (shelf, Bucket.ON_HAND, 1), ages, "issued", record, by)
    fill_waiting(session, shelf, by.clock)
    return record.id


def _job(session: Session, job_id: int, *, ended: bool = False) -> Job:
    job = session.get(Job, job_id)
    if job is None:
        raise NotFound(f"there is no job {job_id}")
    if not ended and job.state in {state.value for state in ENDED}:
        raise Refused(Fault("job", f"job {job_id} is {job.state}: parts go to jobs in hand"))
    return job


def source_of(issued: Sequence[IssuedRow], part_number: str | None, site_code: str | None, source: str) -> str:
    """Where a part that is fitted comes from: the job's hands where it has one of that shelf, else as asked."""
    if source != Bucket.ON_HAND:
        return source
    asked = (part_number or "").upper(), (site_code or "").upper()
    in_hand = any((row.part_number.upper(), row.site.upper()) == asked for row in issued)
    return Bucket.ISSUED.value if in_hand else source


def left_over(session: Session, job_id: int) -> list[Fault]:
    """What a job that ends has in its hands: it is given back first, by name."""
    return [Fault("issued", unused_words(row.quantity, row)) for row in stores.issued_to(session, job_id)]


def unused_words(quantity: int, row: IssuedRow) -> str:
    """That a job has parts in its hands that it does not use."""
    return f"{count(quantity, 'part')} {row.part_number} of {row.site} in the job's hands: fit or give back"


@dataclass(frozen=True)
class Waited:
    """A part that a job waits for. kept : it lies there for this machine · due_on, due_with : what comes next, None where nothing does"""

    part_number: str
    part_name: str
    kept: bool
    due_on: date | None
    due_with: str | None


def wait_for_part(session: Session, job: Job, part_number: str, site_code: str, by: Recorded) -> None:
    """A job waits for a part: it is kept where one lies free, and waited for in turn where none does; said again, nothing changes."""
    part, _, shelf = shelf_of(session, part_number, site_code)
    asset = session.get_one(Asset, job.asset_id)
    known = {one.asset_id for one in stores.kept_at(session, shelf.id)} | {one.asset_id for one in stores.waiting_at(session, shelf.id)}
    if asset.id not in known:
        promise(session, PromiseRequest(part.number, site_code, 1, asset.tag), by)


def waited(session: Session, job: Job, part_number: str, site: Site) -> Waited | None:
    """How it stands with the part a job waits for; None where no part has that number."""
    part = assets.part_by_number(session, part_number)
    if part is None:
        return None
    shelf = shelves.shelf_at(session, part.id, site.id)
    promised = stores.promised_at(session, shelf.id, job.asset_id) if shelf is not None else False
    coming = [
        (line.expected_on, line.order_number if line.site_id == site.id else f"{line.order_number}, which goes to the depot first")
        for line in shelves.open_lines(session, part_id=part.id)
    ]
    for one in stores.under_way(session):
        if (one.part_number, one.to_site) == (part.number, site.code) and one.due_on is not None:
            coming.append((one.due_on, f"a transfer from {one.from_site}"))
    coming.sort()
    first = coming[0] if coming else (None, None)
    return Waited(part.number, part.name, promised, *first)


def let_go(session: Session, job: Job, clock: Clock) -> None:
    """A job that ends without its effects waits for nothing and keeps nothing."""
    for shelf_id in stores.promising(session, job.asset_id):
        shelf = session.get_one(Shelf, shelf_id)
        for kept in [one for one in stores.kept_at(session, shelf_id) if one.asset_id == job.asset_id]:
            kept.released_on = clock.today
        for waiting in [one for one in stores.waiting_at(session, shelf_id) if one.asset_id == job.asset_id]:
            waiting.filled_on = clock.today
        session.flush()
        take_back(session, shelf, clock)
        fill_waiting(session, shelf, clock)
