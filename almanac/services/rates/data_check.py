"""What in the record the rates count in part, wrongly or not at all, and what each does to them."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from sqlalchemy.orm import Session

from almanac.core.life.outcomes import DEAD_ON_ARRIVAL_DAYS
from almanac.core.parts.declared.kinds import FORECAST_KINDS
from almanac.services.clock import read_clock
from almanac.store.data_check import OLD_DAYS, OddRow, odd_rows
from almanac.store.unrecorded import bare_rows

SHOWN = 50
KINDS = [kind.value for kind in FORECAST_KINDS]


@dataclass(frozen=True)
class Check:
    """A kind of odd row. `left_out` : such rows carry nothing into the rates."""

    key: str
    title: str
    effect: str
    left_out: bool


UNRECORDED = Check(
    "unrecorded",
    "Machines in service with nothing of a kind on record",
    "What they hold counts in no rate and no demand; the working of each part says how much that may be, by machines of their model. "
    "Import or record what is inside.",
    True,
)
CHECKS = (
    UNRECORDED,
    Check(
        "before_log", "Ended before the log of their site began", "They were never under observation: no failure, no time in service.", True
    ),
    Check("future", "Fitted after today", "Not counted until that day comes.", True),
    Check(
        "nowhere",
        "In a machine that stood nowhere on their last day",
        "No site, so no pool: not counted at all. Give the machine a stay.",
        True,
    ),
    Check(
        "no_exposure",
        "Never under observation for wear",
        f"Wear counts from {DEAD_ON_ARRIVAL_DAYS} days after fitting or from the day the log began. They ended earlier, and add no time.",
        True,
    ),
    Check(
        "gone_machine",
        "Still fitted in a machine that has been retired",
        "Their time in service goes on growing, and makes the rate too low. Record when the part came out.",
        False,
    ),
    Check(
        "unexplained",
        "Came out without an entry that says why",
        "Counted as in order until then. If some had failed, the rate is too low.",
        False,
    ),
    Check(
        "still_open",
        f"Open for more than {OLD_DAYS} days",
        "Counted in part, with the share of settled complaints of their kind that were confirmed. Settle them.",
        False,
    ),
    Check(
        "found",
        "Found failed at a check",
        "They failed some day since they were last seen in order: counted between the two ages, where the other failures put them.",
        False,
    ),
)
"""Overlapping lives, and lives that end before they begin, the database refuses; an import names them row by row."""


@dataclass(frozen=True)
class Found:
    """A check with how many rows it finds, and the first of them."""

    check: Check
    count: int
    rows: list[OddRow]


def data_check(session: Session) -> list[Found]:
    """Every check, in the order of what is left out first."""
    today = read_clock(session).today
    return [Found(check, *_rows(session, check, KINDS, today, SHOWN)) for check in CHECKS]


def left_out(session: Session, kind: str) -> int:
    """How many lives of a kind carry nothing into its rates."""
    today = read_clock(session).today
    return sum(_rows(session, check, [kind], today, 1)[0] for check in CHECKS if check.left_out)


def _rows(session: Session, check: Check, kinds: list[str], today: date, most: int) -> tuple[int, list[OddRow]]:
    if check is not UNRECORDED:
        return odd_rows(session, check.key, kinds=kinds, as_of=today, most=most)
    count, rows = bare_rows(session, kinds=KINDS, shown=kinds, as_of=today, most=most)
    return count, [OddRow(row.tag, "", row.in_service_on, None, row.kind) for row in rows]
