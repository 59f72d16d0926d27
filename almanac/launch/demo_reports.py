"""The demo's fleet reports: some machines every night, a few of them otherwise than the record, and one that nobody recorded."""

from __future__ import annotations

from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.demo import truth
from almanac.demo.rows import at
from almanac.services.clock import Clock
from almanac.services.fleet.night import nights
from almanac.services.fleet.reports import By, Sender, take_machine_report
from almanac.standins.night import Inside, night_report

LEAD = "SELECT min(id) FROM \"user\" WHERE role = 'lead'"
EVERY, MOST = 15, 120
FAULTS = ("another drive", "more memory")
STRANGER = "QB41C77F0"


def let_machines_report(session: Session) -> None:
    """One night of reports, through the door that any report comes by."""
    lead = session.scalar(text(LEAD))
    if lead is None:
        return
    night = at(truth.AS_OF).replace(hour=2)
    by = By(Clock(night.date(), night), night, lead)
    for one in nights(session, by.clock, every=EVERY, most=MOST, faults=FAULTS):
        take_machine_report(session, Sender(one.tag, one.serial, night), one.words, by)
    words = night_report([Inside("memory", 16, "", 1.0), Inside("ssd", 512, "", 1.0)], seed=STRANGER)
    take_machine_report(session, Sender("", STRANGER, night), words, by)
