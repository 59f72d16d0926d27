"""What is due, across the whole almanac: by day, with the page on which it is done, and whose it is."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, timedelta
from enum import StrEnum
from urllib.parse import quote

from sqlalchemy.orm import Session

from almanac.services.alarms.names import name_of, title_of
from almanac.services.alarms.watch import read_watch
from almanac.services.clock import Clock
from almanac.services.orders.read import read_orders
from almanac.services.outlook.summary import Outlook, read_outlook
from almanac.services.stores.count_sheet import count_lines
from almanac.services.stores.top_ups import top_ups
from almanac.services.words import count, day, figure
from almanac.services.workbench.day import WAITS, Day, read_day
from almanac.services.workbench.exceptions import read_exceptions
from almanac.store import catalog, jobs, queue, reports, shelves, stores
from almanac.store.models import Role

AHEAD = timedelta(days=60)
SWAPS_SOON = timedelta(days=14)
MOST_NAMED = 8
"""Lines of one sort that are named; the rest are counted."""


class DueGroup(StrEnum):
    """Sorts of what is due, in the order they are shown."""

    WAITING = "waiting"
    ORDER = "order"
    SEND = "send"
    RECEIVE = "receive"
    BENCH = "bench"
    SHELVES = "shelves"
    SETTLE = "settle"
    RUNS = "runs"


LEADS, ALL = (Role.LEAD,), (Role.LEAD, Role.TECHNICIAN, Role.READER)
HANDS = (Role.LEAD, Role.TECHNICIAN)


@dataclass(frozen=True)
class Due:
    """Something that is due. on : its day, None where it has none and is due until it is done · path : of the page where it is done

    late : its day is over · site : code, None where it is of all · whose : roles that it is for
    """

    group: DueGroup
    words: str
    path: str
    whose: tuple[Role, ...]
    more: str = ""
    on: date | None = None
    late: bool = False
    site: str | None = None


def read_agenda(session: Session, clock: Clock) -> list[Due]:
    """All that is due within sixty days, and what is due until it is done; what is late stands first in its group."""
    today, last = clock.today, clock.today + AHEAD
    outlook, day = read_outlook(session), read_day(session, clock=clock)
    found = [
        *_waiting(outlook),
        *_unsaid(outlook),
        *_alarms(session),
        *_orders(outlook, today, last),
        *_buying(session),
        *_boats(session, outlook, today),
        *_under_way(session, today),
        *_deliveries(session, today),
        *_bench(day),
        *_swaps(day, today),
        *_shelves(session, clock),
        *_to_settle(session, day, clock),
        *_failed(session),
    ]
    groups = list(DueGroup)
    some = [one for one in found if one.on is None or one.on <= last]
    return sorted(some, key=lambda one: (groups.index(one.group), not one.late, one.on or today))


def due_today(agenda: list[Due], role: Role, today: date) -> list[Due]:
    """What whoever looks has to do today."""
    return [one for one in agenda if role in one.whose and (one.on is None or one.on <= today)]


def _waiting(outlook: Outlook) -> Iterator[Due]:
    for row in outlook.rows:
        machines = row.plan.waiting.machines if row.plan else 0
        if machines:
            comes = row.help_on(outlook.inputs.clock.today)
            more = f"parts come on {comes.day} {comes:%b}" if comes else "nothing is on its way"
            yield Due(
                DueGroup.WAITING,
                f"{count(machines, 'machine waits', 'machines wait')} for {row.part.number}",
                f"/outlook/{row.part.number}",
                ALL,
                more,
            )
    for other in outlook.others:
        if other.waiting:
            yield Due(
                DueGroup.WAITING,
                f"{count(other.waiting, 'machine waits', 'machines wait')} for {other.row.number}",
                "/outlook",
                ALL,
                other.row.name,
            )


def _unsaid(outlook: Outlook) -> Iterator[Due]:
    """What nobody can say is due as well: silence would read as nothing to order."""
    for one in outlook.unsaid:
        words = f"of {count(one.parts, 'stock part')} nobody can say {one.what}"
        yield Due(DueGroup.SETTLE, words, "/outlook", LEADS, f"{one.why}: {one.cure}")


def _alarms(session: Session) -> Iterator[Due]:
    """Failures that run ahead of what was expected, until somebody decides."""
    watch = read_watch(session)
    for one in watch.open[:MOST_NAMED]:
        assert one.alarm is not None
        since = one.months[one.alarm.since]
        failed = figure(one.alarm.observed, 0 if one.alarm.observed == round(one.alarm.observed) else 1)
        words = f"{title_of(watch.inputs, one.kind, one.key)}: {failed} failed, {figure(one.alarm.expected)} expected"
        path = f"/rates/alarms?chart={quote(name_of(watch.inputs, one.kind, one.key))}"
        yield Due(DueGroup.SETTLE, words, path, LEADS, f"since {day(since)}")


def _orders(outlook: Outlook, today: date, last: date) -> Iterator[Due]:
    for row in outlook.rows:
        on = row.next_order(today)[1]
        if on is None or on > last:
            continue
        due = row.quantity > 0
        words = f"order {row.quantity} {row.part.number}" if due else f"likely to order {row.part.number}"
        yield Due(DueGroup.ORDER, words, f"/outlook/{row.part.number}", LEADS, row.part.name, on)
    for other in outlook.others:
        yield Due(DueGroup.ORDER, f"order {other.quantity} {other.row.number}", "/outlook", LEADS, other.row.name, today)


def _buying(session: Session) -> Iterator[Due]:
    """Drafts that wait for somebody, and answers of suppliers."""
    listed = read_orders(session)
    for draft in listed.drafts:
        does = "approve or refuse" if draft.state == "waits" else "send or drop"
        more = f"{count(draft.lines, 'line')}, {draft.author or 'nobody'} on {draft.asked_on.day} {draft.asked_on:%b}"
        yield Due(DueGroup.ORDER, f"{does} the draft to {draft.supplier}", f"/stores/drafts/{draft.id}", LEADS, more)
    for order in listed.orders:
        if order.to_settle:
            words = f"settle {count(order.to_settle, 'answer')} of {order.supplier}"
            yield Due(DueGroup.ORDER, words, f"/stores/orders/{order.number}", LEADS, order.number)


def _boats(session: Session, outlook: Outlook, today: date) -> Iterator[Due]:
    sites = outlook.inputs.sites
    depot = next((site for site in catalog.sites(session) if site.is_depot), None)
    lanes = catalog.timetables_from(session, depot.id) if depot is not None else {}
    for site in sites:
        loads = [
            (row.part.number, one.load) for row in outlook.rows if row.plan for one in row.plan.sites if one.site_id == site.id and one.load
        ]
        if loads:
            leaves = lanes[site.id].next_on(today) if site.id in lanes else None
            parts = sum(load for _, load in loads)
            more = ", ".join(f"{load} {number}" for number, load in loads[:MOST_NAMED])
            yield Due(DueGroup.SEND, f"pack {count(parts, 'part')} for {site.name}", "/stores", HANDS, more, leaves, site=site.code)


def _under_way(session: Session, today: date) -> Iterator[Due]:
    for one in stores.under_way(session):
        parts = f"{one.quantity} {one.part_number}"
        if one.left_on is None:
            yield Due(DueGroup.SEND, f"{parts} packed for {one.to_site}: send", "/stores", HANDS, one.part_name, site=one.from_site)
        elif one.due_on is not None:
            late = one.due_on < today
            yield Due(
                DueGroup.RECEIVE,
                f"{parts} {'arrives' if one.quantity == 1 else 'arrive'} at {one.to_site}",
                "/stores",
                HANDS,
                one.part_name,
                one.due_on,
                late,
                one.to_site,
            )


def _deliveries(session: Session, today: date) -> Iterator[Due]:
    names = {part.id: part.number for part in catalog.all_parts(session)}
    for line in shelves.open_lines(session):
        late = line.expected_on < today
        words = f"{line.remaining} {names.get(line.part_id, 'parts')} of {line.order_number} {_verb(line.remaining, late=late)}"
        path = f"/stores/orders/{line.order_number}"
        yield Due(DueGroup.RECEIVE, words, path, HANDS, "", line.expected_on, late)


def _verb(parts: int, *, late: bool) -> str:
    if late:
        return "is overdue" if parts == 1 else "are overdue"
    return "comes in" if parts == 1 else "come in"


def _bench(day: Day) -> Iterator[Due]:
    for job in day.jobs:
        holder = job.row.lease_user or job.row.opened_by or "nobody"
        more = f"{job.stands}{f': {job.note}' if job.note else ''}; {holder}"
        words = f"{job.row.tag}, {', '.join(job.targets) or job.row.job.symptom or 'no complaint yet'}"
        since = f", waits since {job.row.job.opened_on.day} {job.row.job.opened_on:%b}" if job.tone == WAITS else ""
        yield Due(DueGroup.BENCH, words, f"/bench/{job.row.job.id}", HANDS, more + since, site=job.row.site_code)


def _swaps(day: Day, today: date) -> Iterator[Due]:
    for swap in day.swaps:
        words = f"swap {swap.quantity} {swap.part_number} in {swap.model} at {swap.site}"
        kept = "all are kept" if swap.kept >= swap.quantity else f"{swap.kept} are kept"
        yield Due(DueGroup.BENCH, words, "/bench", HANDS, kept, swap.planned_on, swap.planned_on < today, swap.site_code)


def _shelves(session: Session, clock: Clock) -> Iterator[Due]:
    for charge in top_ups(session, clock, within=AHEAD):
        late = charge.due_on is not None and charge.due_on < clock.today
        more = "" if charge.due_on else "nobody knows when they were charged last"
        words = f"charge {charge.quantity} {charge.part_number} at {charge.site}"
        yield Due(DueGroup.SHELVES, words, f"/stores/{charge.part_number}/{charge.site}", HANDS, more, charge.due_on, late, charge.site)
    for site in catalog.sites(session):
        due = sum(line.due for line in count_lines(session, site.code, blind=True)[1])
        if due:
            words = f"count {count(due, 'shelf', 'shelves')} at {site.name}"
            yield Due(DueGroup.SHELVES, words, "/stores", HANDS, site=site.code)


def _to_settle(session: Session, day: Day, clock: Clock) -> Iterator[Due]:
    for asked in jobs.open_approvals(session):
        words = f"{asked.tag}: {asked.asked_by} asks for an approval"
        yield Due(DueGroup.SETTLE, words, "/bench?open=approvals", LEADS, asked.row.subject.replace("_", " "))
    for waits in stores.counts_that_wait(session):
        words = f"{waits.part_number} at {waits.site}: booked {waits.booked}, counted {waits.counted}"
        yield Due(DueGroup.SETTLE, words, f"/stores/{waits.part_number}/{waits.site}", LEADS, waits.reason, site=waits.site)
    unsettled = [one for one in read_exceptions(session, clock=clock) if one.cure is not None]
    if unsettled:
        more = "; ".join(f"{one.tag}: {one.what}" for one in unsettled[:3])
        yield Due(DueGroup.SETTLE, f"{count(len(unsettled), 'exception')} at the bench", "/bench?open=exceptions", LEADS, more)
    if day.open_findings:
        yield Due(DueGroup.SETTLE, f"{count(day.open_findings, 'finding')} not settled: was it that part?", "/ledger", HANDS)
    asked_of, _ = reports.open_questions(session, most=1)
    if asked_of:
        words = f"{count(asked_of, 'machine report')} {'says' if asked_of == 1 else 'say'} otherwise than the record"
        yield Due(DueGroup.SETTLE, words, "/fleet/reports", HANDS)


def _failed(session: Session) -> Iterator[Due]:
    failed = sum(one.status == "failed" for one in queue.listed(session))
    if failed:
        yield Due(DueGroup.RUNS, f"{count(failed, 'answer')} could not be computed", "/company/work", LEADS)
    last = queue.last_backup(session)
    if last is not None and not last.good:
        yield Due(DueGroup.RUNS, "the last backup failed", "/company/audit", LEADS, last.words)
