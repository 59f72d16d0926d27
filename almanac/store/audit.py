"""The audit: what is written down as it happens, and what other tables keep of decisions, in one order of time."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import NamedTuple

from sqlalchemy import text
from sqlalchemy.orm import Session

SOURCES = """
SELECT at, event, user_id, subject, words, address, 'a' || id AS key FROM audit_entry
UNION ALL SELECT recorded_at, 'setting', author_id,
  replace(s.key, '_', ' ') || CASE WHEN scope = 'company' THEN '' ELSE ' of ' || scope || ' ' || scope_key END,
  left(value::text, 200) || ' from ' || to_char(from_on, 'FMDD Mon YYYY')
  || CASE WHEN reason = '' THEN '' ELSE ': ' || reason END, '', 's' || id
  FROM setting s WHERE s.key <> 'setup_code'
UNION ALL SELECT recorded_at, 'catalogue', author_id, subject, field || ': ' || before || ', now ' || after, '', 'c' || id
  FROM catalog_change
UNION ALL SELECT asked_at, 'approval_asked', asked_by_id, 'job ' || job_id, title || ': ' || reason, '', 'q' || id FROM approval
UNION ALL SELECT answered_at, CASE WHEN granted THEN 'approval_granted' ELSE 'approval_refused' END, answered_by_id,
  'job ' || job_id, title, '', 'p' || id FROM approval WHERE answered_at IS NOT NULL
UNION ALL SELECT recorded_at, 'waiver', author_id, 'job ' || job_id,
  replace(data ->> 'gate', '_', ' ') || ', by ' || (data ->> 'name') || ': ' || (data ->> 'reason'), '', 'w' || id
  FROM job_entry WHERE kind = 'waive'
UNION ALL SELECT p.recorded_at, 'plan', p.author_id, p.action || ' of ' || p.quantity || ' ' || m.maker || ' ' || m.name,
  'on ' || to_char(p.planned_on, 'FMDD Mon YYYY') || CASE WHEN p.note = '' THEN '' ELSE ': ' || p.note END, '', 'f' || p.id
  FROM fleet_plan p JOIN device_model m ON m.id = p.model_id
UNION ALL SELECT p.withdrawn_at, 'plan_withdrawn', p.withdrawn_by_id, p.action || ' of ' || p.quantity || ' ' || m.maker || ' ' || m.name,
  'on ' || to_char(p.planned_on, 'FMDD Mon YYYY'), '', 'g' || p.id
  FROM fleet_plan p JOIN device_model m ON m.id = p.model_id WHERE p.withdrawn_at IS NOT NULL
UNION ALL SELECT decided_at, 'alarm_' || verdict, author_id, scope || ' alarm', reason, '', 'l' || id FROM alarm_decision
UNION ALL SELECT at, CASE WHEN good THEN 'backup_made' ELSE 'backup_failed' END, NULL, file, words, '', 'b' || id FROM backup_run
"""
WHERE = """
WHERE (CAST(:events AS text[]) IS NULL OR e.event = ANY(:events))
  AND (CAST(:login AS text) IS NULL OR u.login = :login)
  AND (CAST(:since AS timestamptz) IS NULL OR e.at >= :since) AND (CAST(:until AS timestamptz) IS NULL OR e.at < :until)
  AND (:words = '' OR position(lower(:words) IN lower(e.subject || ' ' || e.words || ' ' || e.address)) > 0)
"""
PAGE = f"""SELECT e.at, e.event, u.login, u.name, e.subject, e.words, e.address, e.key
FROM ({SOURCES}) e LEFT JOIN "user" u ON u.id = e.user_id {WHERE}
  AND (CAST(:before AS timestamptz) IS NULL OR (e.at, e.key) < (:before, :before_key))
ORDER BY e.at DESC, e.key DESC LIMIT :most"""


@dataclass(frozen=True)
class AuditQuery:
    """What is asked for; nothing asks for all. until : not included · before, before_key : of the last row of the page before"""

    events: Sequence[str] | None = None
    login: str | None = None
    since: datetime | None = None
    until: datetime | None = None
    words: str = ""
    before: datetime | None = None
    before_key: str = ""


class AuditRow(NamedTuple):
    """One thing somebody did. login and name are None where nobody was signed in, or the machine did it."""

    at: datetime
    event: str
    login: str | None
    name: str | None
    subject: str
    words: str
    address: str
    key: str


def audit_page(session: Session, query: AuditQuery, most: int) -> list[AuditRow]:
    """Rows of the audit, the latest first."""
    terms = {
        "events": list(query.events) if query.events is not None else None,
        **{name: getattr(query, name) for name in ("login", "since", "until", "words", "before", "before_key")},
        "most": most,
    }
    return [AuditRow(*row) for row in session.execute(text(PAGE), terms)]
