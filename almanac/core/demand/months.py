"""Calendar months as steps from the as-of day: the first partial, each of its true length."""

from __future__ import annotations

from calendar import monthrange
from dataclasses import dataclass
from datetime import date

from almanac.core.errors import ContractError


@dataclass(frozen=True)
class MonthStep:
    """Days after the as-of day (first, last]: demand of a step falls in that half-open window."""

    first_on: date
    last_on: date
    from_day: int
    to_day: int


def month_steps(as_of: date, months: int) -> list[MonthStep]:
    """Steps that end on month ends, the first being what is left of the as-of month.

    The as-of day is day 0 and belongs to the past; on the last day of a month nothing is left of it and the steps begin
    with the next.

    Parameters
    ----------
    as_of : the day everything is counted from
    months : number of steps, >= 1

    Returns
    -------
    list of MonthStep : contiguous, to_day of one is from_day of the next

    Raises
    ------
    ContractError : months below 1
    """
    if months < 1:
        raise ContractError(f"months: a whole number of at least 1 was wanted, got {months}")
    steps: list[MonthStep] = []
    year, month, done = as_of.year, as_of.month, 0
    while len(steps) < months:
        last = date(year, month, monthrange(year, month)[1])
        day = (last - as_of).days
        if day > done:
            steps.append(MonthStep(date.fromordinal(as_of.toordinal() + done + 1), last, done, day))
            done = day
        year, month = (year, month + 1) if month < 12 else (year + 1, 1)
    return steps
