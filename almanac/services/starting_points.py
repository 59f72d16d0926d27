"""Stated starting points: what the company believes of a kind before its log tells, and how sure it is; overruled by the log."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy.orm import Session

from almanac.core.life.stated import Stated
from almanac.core.parts.declared.kinds import FORECAST_KINDS, kind_name
from almanac.services.clock import Clock
from almanac.services.company_settings import SettingRequest, change_setting
from almanac.services.errors import Fault, NotFound, Refused
from almanac.store import settings
from almanac.store.settings import Settings, settings_on

KEYS = ("stated_rate", "stated_worth", "stated_after", "stated_later")


@dataclass(frozen=True)
class StartingPoint:
    """A belief as it is typed. per_hundred : failures of 100 units a year, None where nobody knows · worth : failures it weighs as
    much as · after_years, later_per_hundred : age from which on another rate holds, both or none
    """

    per_hundred: float | None
    worth: float | None = None
    after_years: float | None = None
    later_per_hundred: float | None = None


def stated_of(company: Settings, kind: str) -> Stated | None:
    """What is stated of a kind; None where nothing is, or nobody knows."""
    rate, worth, after, later = (company.own("kind", kind, key) for key in KEYS)
    if rate is None or worth is None:
        return None
    if after is None or later is None:
        return Stated(float(rate) / 100.0, float(worth))
    return Stated(float(rate) / 100.0, float(worth), float(after), float(later) / 100.0)


def stated_words(stated: Stated, kind: str) -> str:
    """The belief in a sentence."""
    later = ""
    if stated.after_years is not None and stated.later is not None:
        later = f", after {stated.after_years:g} years {100 * stated.later:.4g}"
    sure = f"{stated.worth:g} failure{'' if stated.worth == 1 else 's'}"
    return f"{kind_name(kind)}, {100 * stated.per_year:.4g} of 100 a year{later}, as sure as if {sure} had been seen"


def read_start(session: Session, kind: str, clock: Clock) -> tuple[StartingPoint, int]:
    """A kind's starting point, and the number of its entry, which an edit has to name.

    Raises
    ------
    NotFound : it is no kind that is forecast
    """
    _known(kind)
    company = settings_on(session, clock.today)
    return StartingPoint(*(company.own("kind", kind, key) for key in KEYS)), company.number("kind", kind, KEYS[0])


def _known(kind: str) -> None:
    if kind not in {one.value for one in FORECAST_KINDS}:
        raise NotFound(f"starting points are stated of {', '.join(FORECAST_KINDS)}; {kind} is none of them")


def state_start(session: Session, kind: str, start: StartingPoint, *, expected_number: int, clock: Clock, author_id: int) -> int:
    """State a starting point, or take it back where nobody knows; returns the number of the entry.

    Raises
    ------
    NotFound : it is no kind that is forecast · Stale : it was changed meanwhile · Refused : what cannot be, each with its place
    """
    _known(kind)
    faults = []
    if start.per_hundred is not None and start.worth is None:
        faults.append(Fault("stated_worth", "how sure: as if how many failures had been seen"))
    if (start.after_years is None) != (start.later_per_hundred is None):
        lacking = "stated_later" if start.later_per_hundred is None else "stated_after"
        faults.append(Fault(lacking, "an age and the rate from then on were wanted, both or none"))
    if faults:
        raise Refused(*faults)
    told = start.per_hundred is not None
    values = (start.per_hundred, start.worth, start.after_years, start.later_per_hundred)
    numbers = [expected_number, *(settings.last_number(session, "kind", kind, key) for key in KEYS[1:])]
    for key, value, number in zip(KEYS, values, numbers, strict=True):
        request = SettingRequest("kind", kind, key, value if told else None, number)
        try:
            change_setting(session, request, clock=clock, author_id=author_id)
        except Refused as error:
            raise Refused(*(Fault(key, fault.message) for fault in error.faults)) from error
    return expected_number + 1
