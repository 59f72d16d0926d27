"""What people did to who may do what, and to what is decided by: signed in, failed, approved, waived, changed. Append-only."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from enum import StrEnum
from zoneinfo import ZoneInfo

from sqlalchemy.orm import Session

from almanac.exchange.tables import write_csv
from almanac.services.clock import FAR_FUTURE
from almanac.services.errors import Fault, Refused
from almanac.store.audit import AuditQuery, AuditRow, audit_page
from almanac.store.models import AuditEntry
from almanac.store.settings import settings_on

LONGEST = 300


class Event(StrEnum):
    """What is written down as it happens; the rest of the audit is read from the tables that keep it."""

    SIGNED_IN = "signed_in"
    SIGN_IN_FAILED = "sign_in_failed"
    PASSWORD_CHANGED = "password_changed"  # noqa: S105 - the name of an event
    LINK_MADE = "link_made"
    LINK_USED = "link_used"
    PERSON_ADDED = "person_added"
    PERSON_CHANGED = "person_changed"
    PERSON_ENDED = "person_ended"
    PERSON_BACK = "person_back"
    SIGNED_OUT = "signed_out"
    PROVIDER_AWAITED = "provider_awaited"
    PROVIDER_LEFT = "provider_left"
    KEY_MADE = "key_made"
    KEY_ENDED = "key_ended"


def note(session: Session, event: Event, *, by: int | None, subject: str, at: datetime, words: str = "", address: str = "") -> None:
    """Write down what somebody did.

    Parameters
    ----------
    by : who, None where nobody is signed in · subject : login, key or file it was done to · address : of the browser, where that matters
    """
    session.add(
        AuditEntry(at=at, event=event.value, user_id=by, subject=subject[:LONGEST], words=words[:LONGEST], address=address[:LONGEST])
    )
    session.flush()


WORDS = {
    "signed_in": "signed in",
    "sign_in_failed": "failed to sign in",
    "password_changed": "changed their password",
    "link_made": "made a link to choose a password",
    "link_used": "chose a password by a link",
    "person_added": "added a person",
    "person_changed": "changed a person",
    "person_ended": "ended a person",
    "person_back": "took a person back",
    "signed_out": "signed a person out",
    "provider_awaited": "let a person sign in through the provider",
    "provider_left": "took sign-in through the provider from a person",
    "key_made": "made a key",
    "key_ended": "ended a key",
    "backup_made": "made a backup",
    "backup_failed": "could not make a backup",
    "setting": "decided",
    "catalogue": "changed the catalogue",
    "approval_asked": "asked for approval",
    "approval_granted": "approved",
    "approval_refused": "refused to approve",
    "waiver": "waived a gate",
    "plan": "planned",
    "plan_withdrawn": "withdrew a plan",
    "alarm_accepted": "accepted an alarm",
    "alarm_aside": "put an alarm aside",
}
"""What somebody did, behind their name."""
GROUPS: dict[str, tuple[str, tuple[str, ...]]] = {
    "sign_ins": ("Sign-ins", ("signed_in", "sign_in_failed", "signed_out", "password_changed", "link_used")),
    "people": (
        "People and keys",
        (
            "link_made",
            "person_added",
            "person_changed",
            "person_ended",
            "person_back",
            "provider_awaited",
            "provider_left",
            "key_made",
            "key_ended",
        ),
    ),
    "approvals": ("Approvals and waivers", ("approval_asked", "approval_granted", "approval_refused", "waiver")),
    "backups": ("Backups", ("backup_made", "backup_failed")),
    "settings": ("Settings", ("setting",)),
    "catalogue": ("Prices and parts", ("catalogue",)),
    "plans": ("Plans", ("plan", "plan_withdrawn")),
    "alarms": ("Alarms", ("alarm_accepted", "alarm_aside")),
}
"""Events a person looks for together, by key: their name, and which."""
ROWS_A_PAGE = 100
MOST_WRITTEN = 100_000
"""Rows of a file; more are asked for by days."""
COLUMNS = ("at", "login", "name", "did", "subject", "words", "address")


@dataclass(frozen=True)
class AuditWish:
    """What a lead looks for. since, until : days of the company, both included · group : "" is all"""

    group: str = ""
    login: str = ""
    words: str = ""
    since: date | None = None
    until: date | None = None
    before: datetime | None = None
    before_key: str = ""


def read_audit(session: Session, wish: AuditWish, *, most: int = ROWS_A_PAGE) -> tuple[list[AuditRow], bool]:
    """What people did, the latest first, and whether there is more.

    Raises
    ------
    Refused : no such group of events
    """
    if wish.group and wish.group not in GROUPS:
        raise Refused(Fault("group", f"one of {', '.join(GROUPS)} was wanted"))
    zone = ZoneInfo(settings_on(session, FAR_FUTURE).value("time_zone", default="UTC"))
    query = AuditQuery(
        events=GROUPS[wish.group][1] if wish.group else None,
        login=wish.login or None,
        since=datetime.combine(wish.since, time(), zone) if wish.since else None,
        until=datetime.combine(wish.until + timedelta(days=1), time(), zone) if wish.until else None,
        words=wish.words.strip(),
        before=wish.before,
        before_key=wish.before_key,
    )
    rows = audit_page(session, query, most + 1)
    return rows[:most], len(rows) > most


def audit_csv(session: Session, wish: AuditWish) -> bytes:
    """The same as a file, the latest rows of it."""
    rows, more = read_audit(session, wish, most=MOST_WRITTEN)
    lines = [
        (row.at.isoformat(), row.login, row.name, WORDS.get(row.event, row.event), row.subject, row.words, row.address) for row in rows
    ]
    rest = [("", "", "", f"there is more before these {MOST_WRITTEN:,} rows: ask for fewer days", "", "", "")] if more else []
    return write_csv(COLUMNS, [*lines, *rest])
