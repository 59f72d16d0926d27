"""The register of machines: looked through, counted by age, and looks at it that are kept under a name."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from almanac.core.parts.declared.kinds import FORECAST_KINDS
from almanac.core.parts.kinds import Duty
from almanac.services.clock import Clock
from almanac.services.errors import Fault, NotFound, Refused
from almanac.services.readings import worn_limits
from almanac.store import register as store
from almanac.store.models import FleetView
from almanac.store.register import MachineStanding, RegisterOrder, RegisterRow, Sought, Wanted

MOST_ROWS = 500
LONGEST_NAME, LONGEST_QUERY = 60, 2000
MOST_VIEWS = 60


@dataclass(frozen=True)
class Look:
    """A look at the register as it was asked for."""

    words: str = ""
    models: tuple[int, ...] = ()
    sites: tuple[str, ...] = ()
    duties: tuple[str, ...] = ()
    standing: str = MachineStanding.IN_USE.value
    youngest: int | None = None
    oldest: int | None = None
    wanted: tuple[str, ...] = ()

    def sought(self, clock: Clock) -> Sought:
        """What is looked for.

        Raises
        ------
        Refused : words that nothing is known by
        """
        faults = [
            *_unknown("duty", self.duties, list(Duty)),
            *_unknown("standing", (self.standing,), list(MachineStanding)),
            *_unknown("wanted", self.wanted, list(Wanted)),
        ]
        if self.youngest is not None and self.oldest is not None and self.youngest >= self.oldest:
            faults.append(Fault("oldest", f"more than {self.youngest} years was wanted: machines of that age and more, up to this one"))
        if faults:
            raise Refused(*faults)
        return Sought(
            today=clock.today,
            words=self.words.strip(),
            models=self.models,
            sites=tuple(code.upper() for code in self.sites),
            duties=self.duties,
            standing=MachineStanding(self.standing),
            youngest=self.youngest,
            oldest=self.oldest,
            wanted=tuple(Wanted(one) for one in self.wanted),
            kinds=tuple(kind.value for kind in FORECAST_KINDS),
        )


def _unknown(name: str, given: Sequence[str], allowed: Sequence[str]) -> list[Fault]:
    return [Fault(name, f"one of {', '.join(allowed)} was wanted, got {one}") for one in given if one not in allowed]


def read_register(
    session: Session, look: Look, clock: Clock, *, sort: str, descending: bool, page: tuple[int, int]
) -> tuple[int, list[RegisterRow]]:
    """How many machines are meant, and some of them. page : first and how many

    Raises
    ------
    Refused : words that nothing is known by
    """
    if sort not in list(RegisterOrder):
        raise Refused(Fault("sort", f"one of {', '.join(RegisterOrder)} was wanted, got {sort}"))
    limits = worn_limits(session, clock) if Wanted.WORN in look.wanted else {}
    return store.found_rows(session, look.sought(clock), limits, sort=RegisterOrder(sort), descending=descending, page=page)


def count_ages(session: Session, look: Look, clock: Clock, *, by_site: bool) -> dict[int | None, list[int]]:
    """Machines by whole year of age, the oldest together, of each model or site by its id; None is no site."""
    limits = worn_limits(session, clock) if Wanted.WORN in look.wanted else {}
    found: dict[int | None, list[int]] = {}
    for place, band, machines in store.ages(session, look.sought(clock), limits, by_site=by_site):
        found.setdefault(place, [0] * (store.OLDEST_BAND + 1))[band] += machines
    return found


def read_views(session: Session, user_id: int) -> list[FleetView]:
    """Looks that a user keeps, by name."""
    return list(session.scalars(select(FleetView).where(FleetView.user_id == user_id).order_by(FleetView.name)))


def keep_view(session: Session, user_id: int, name: str, query: str, *, now: datetime) -> int:
    """Keep a look under a name; one of that name is taken the place of.

    Raises
    ------
    Refused : no name, a query that is too long, or too many
    """
    words = " ".join(name.split())
    faults = []
    if not words or len(words) > LONGEST_NAME:
        faults.append(Fault("name", f"a name of up to {LONGEST_NAME} letters was wanted"))
    if len(query) > LONGEST_QUERY:
        faults.append(Fault("query", f"up to {LONGEST_QUERY} letters were wanted"))
    kept = {view.name: view for view in read_views(session, user_id)}
    if words not in kept and len(kept) >= MOST_VIEWS:
        faults.append(Fault("name", f"you keep {MOST_VIEWS} looks: let one go first"))
    if faults:
        raise Refused(*faults)
    if words in kept:
        kept[words].query, kept[words].made_at = query, now
        return kept[words].id
    view = FleetView(user_id=user_id, name=words, query=query, made_at=now)
    session.add(view)
    session.flush()
    return view.id


def drop_view(session: Session, user_id: int, view_id: int) -> None:
    """Keep a look no longer.

    Raises
    ------
    NotFound : the user keeps no such look
    """
    gone = session.execute(delete(FleetView).where(FleetView.id == view_id, FleetView.user_id == user_id))
    if not gone.rowcount:  # type: ignore[attr-defined]
        raise NotFound(f"you keep no look with the number {view_id}")
