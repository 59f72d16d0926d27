"""The count sheet of a site: every shelf in the order of its places, blind or with what is booked."""

from __future__ import annotations

from datetime import timedelta

from sqlalchemy.orm import Session

from almanac.core.stock.counting import count_due_on
from almanac.exchange.sheets import CountLine, count_pdf
from almanac.exchange.tables import write_csv
from almanac.services.clock import read_clock
from almanac.services.errors import Fault, Refused
from almanac.services.words import day
from almanac.store import catalog, stores

YEAR = timedelta(days=365)


def count_lines(session: Session, site_code: str, *, blind: bool) -> tuple[str, list[CountLine]]:
    """Name of a site, and its shelves that hold or held something.

    Raises
    ------
    Refused : no site has that code
    """
    site = next((one for one in catalog.sites(session) if one.code == site_code.upper()), None)
    if site is None:
        raise Refused(Fault("site", f"no site has the code {site_code or '(empty)'}"))
    today = read_clock(session).today
    lines = []
    for row in stores.to_count(session, site.id, today - YEAR):
        due = count_due_on(row.last_counted, row.moves, today) <= today
        lines.append(
            CountLine(
                place=row.place or "",
                number=row.part_number,
                name=row.part_name,
                booked="" if blind else str(row.booked),
                last="never" if row.last_counted is None else day(row.last_counted),
                due=due,
            )
        )
    return site.name, lines


def count_sheet(session: Session, site_code: str, *, blind: bool) -> bytes:
    """The sheet to print.

    Raises
    ------
    Refused : no site has that code
    """
    name, lines = count_lines(session, site_code, blind=blind)
    due = sum(line.due for line in lines)
    about = f"As of {day(read_clock(session).today)}. {len(lines)} shelves, {due} due; what moves often is counted often."
    told = "Count without looking at the books." if blind else "Booked figures are of that day; what moved since is not in them."
    return count_pdf(f"Count sheet, {name}", f"{about} {told}", lines, blind=blind)


def count_table(session: Session, site_code: str) -> bytes:
    """The sheet as CSV to fill in and give back: what is left empty was not counted.

    Raises
    ------
    Refused : no site has that code
    """
    _, lines = count_lines(session, site_code, blind=True)
    rows = [[site_code.upper(), line.place, line.number, line.name, "", ""] for line in lines]
    return write_csv(("site", "place", "part_number", "part_name", "counted", "reason"), rows)
