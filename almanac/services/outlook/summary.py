"""The outlook as one answer: the sentence on top and a row for every stock part."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta

from sqlalchemy.orm import Session

from almanac.core.life.outcomes import Finding
from almanac.core.life.record import Stream, stream_of
from almanac.core.parts.alternates import equivalence_groups
from almanac.core.parts.declared.kinds import FORECAST_KINDS
from almanac.core.stock.shelf import Risk
from almanac.services.answers.ask import ask
from almanac.services.clock import read_clock
from almanac.services.errors import NotFound
from almanac.services.outlook.builder import OutlookBuilder
from almanac.services.outlook.inputs import Inputs, read_inputs
from almanac.services.outlook.order_plans import Row
from almanac.services.outlook.others import OtherPart, read_others
from almanac.services.outlook.plate import Plate, open_lines_of, plate_question
from almanac.services.outlook.projection import SOON_DAYS
from almanac.services.outlook.unrecorded import read_unrecorded
from almanac.services.outlook.unsaid import Unsaid, unsaid_of
from almanac.services.starting_points import stated_of, stated_words
from almanac.store import catalog, evidence


@dataclass(frozen=True)
class Outlook:
    """Rows in catalogue order and what the opening sentence says.

    failing_soon : parts expected, None where nothing can be said of any · to_order, to_load : rows with something to do today
    waiting : machines that wait · thin : rows where somebody is likelier to than with an order in time
    others : parts of other kinds that are to be ordered today, all of them where the company is looked at
    unsaid : what cannot be said, each with its cure · unrecorded : machines lacking a record of some kind
    stated : starting points that kinds begin from, in words
    """

    builder: OutlookBuilder
    rows: list[Row]
    failing_soon: float | None
    soon_until: date
    to_order: list[Row]
    to_load: list[Row]
    waiting: int
    thin: int
    next_order_on: date | None
    others: list[OtherPart]
    unsaid: list[Unsaid]
    unrecorded: int
    stated: list[str]

    @property
    def inputs(self) -> Inputs:
        return self.builder.inputs

    @property
    def orders(self) -> int:
        """Parts to order today, of all kinds."""
        return len(self.to_order) + len(self.others)

    @property
    def boats(self) -> int:
        """Sites for which something is to be loaded."""
        return len({site.site_id for row in self.to_load if row.plan for site in row.plan.sites if site.load})


def read_builder(session: Session, *, site_code: str | None = None, kind: str | None = None) -> OutlookBuilder:
    """The inputs of one site or all, and what asks its questions; of one kind, where a kind is given.

    Raises
    ------
    NotFound : no site has that code
    """
    return OutlookBuilder(session, read_inputs(session, site_code=site_code, kind=kind))


def read_outlook(session: Session, *, site_code: str | None = None) -> Outlook:
    """The outlook of one site or all.

    Raises
    ------
    NotFound : no site has that code
    """
    builder = read_builder(session, site_code=site_code)
    rows = builder.rows()
    today = builder.inputs.clock.today
    due = [day for row in rows if (day := row.next_order(today)[1]) is not None]
    others = read_others(session) if builder.inputs.site is None else []
    soon = [row.projection.soon.failing for row in rows if row.projection.soon]
    return Outlook(
        builder=builder,
        rows=rows,
        failing_soon=sum(soon) if soon else None,
        soon_until=today + timedelta(days=SOON_DAYS),
        to_order=[row for row in rows if row.quantity > 0],
        to_load=[row for row in rows if row.plan and row.plan.loads > 0],
        waiting=sum(row.plan.waiting.machines for row in rows if row.plan) + sum(other.waiting for other in others),
        thin=sum(row.risk == Risk.THIN for row in rows),
        next_order_on=min(due, default=None),
        others=[other for other in others if other.is_due],
        unsaid=unsaid_of(builder.inputs, rows),
        unrecorded=read_unrecorded(session, builder.inputs).machines_at(builder.inputs.site_ids),
        stated=_stated(builder.inputs),
    )


def _stated(inputs: Inputs) -> list[str]:
    found = ((kind, stated_of(inputs.settings, kind)) for kind in inputs.kinds())
    return [stated_words(stated, kind) for kind, stated in found if stated is not None]


def read_plate(session: Session, part_number: str, *, site_code: str | None = None) -> tuple[Plate, OutlookBuilder]:
    """The plate of one stock part.

    Raises
    ------
    NotFound : no site has that code, or no stock part that number
    """
    builder = read_builder(session, site_code=site_code)
    unrecorded = read_unrecorded(session, builder.inputs)
    part = builder.inputs.part(part_number)
    row = builder.row(part)
    units = unrecorded.units_of(part.id, builder.inputs.site_ids)
    made = ask(session, plate_question(builder, part, row, unrecorded=units))
    return Plate(row, open_lines_of(builder, part), units, made), builder


def read_entries(session: Session, part_number: str, stream: Stream) -> list[evidence.EntryRow]:
    """The log entries behind one figure of a part's working, latest first.

    Raises
    ------
    NotFound : no stock part has that number
    """
    clock = read_clock(session)
    parts = catalog.stock_parts(session, tuple(kind.value for kind in FORECAST_KINDS))
    group = equivalence_groups((part.id for part in parts), catalog.interchange(session))
    chosen = next((part for part in parts if part.number == part_number), None)
    if chosen is None:
        raise NotFound(f"no stock part has the number {part_number}")
    members = [part for part, leader in group.items() if leader == group[chosen.id]]
    rows = evidence.entries_of_parts(session, members, as_of=clock.today, known_at=clock.now)
    return [row for row in rows if stream_of(Finding(row.finding), early=row.early, exposed=row.exposed) is stream]
