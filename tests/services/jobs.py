"""A technician at the bench of the demo company: opens a job, passes gates, does every step, closes."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import UUID, uuid4

from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.core.workbench.approvals import Approval
from almanac.core.workbench.closing import checks_of
from almanac.core.workbench.plan import Phase
from almanac.services.accounts import create_user
from almanac.services.clock import Clock
from almanac.services.ledger.record import LineRequest
from almanac.services.workbench.approve import AnswerRequest, ApprovalRequest, answer_approval, ask_approval
from almanac.services.workbench.close import Closed, CloseLine, CloseRequest, close_job
from almanac.services.workbench.lease import Device
from almanac.services.workbench.open import OpenRequest, open_job
from almanac.services.workbench.planning import PlanRequest
from almanac.services.workbench.read import JobReading, read_job
from almanac.services.workbench.report import ask_stand_in
from almanac.services.workbench.write import DeviceEntry, Taken, write_entries
from almanac.store.models import Role
from tests.core.workbench.bench import ANSWERS, APPROVED
from tests.services.helpers import Bench, bench

LEAD = 1
FITTING = """
SELECT p.number FROM job j JOIN position o ON o.model_id = j.model_id AND o.key = :position
JOIN fits f ON f.position_id = o.id AND f.verdict = 'yes' JOIN part p ON p.id = f.part_id
WHERE j.id = :job ORDER BY p.number <> :part, p.id LIMIT 1
"""
START = datetime(2026, 11, 1, 9, tzinfo=UTC)


class Worker:
    """One device with a job in hand."""

    def __init__(self, session: Session, clock: Clock, job_id: int, *, user_id: int = 2, device: UUID | None = None) -> None:
        self.session, self.clock, self.job_id = session, clock, job_id
        self.device = Device(device or uuid4(), user_id)
        self.minute = 0

    @property
    def job(self) -> JobReading:
        return read_job(self.session, self.job_id, clock=self.clock)

    def sends(self, kind: str, key: UUID | None = None, **data: Any) -> Taken:
        self.minute += 1
        entry = DeviceEntry(key or uuid4(), kind, data, START + timedelta(minutes=self.minute))
        return write_entries(self.session, self.job_id, [entry], device=self.device, clock=self.clock)

    def says(self, kind: str, **data: Any) -> None:
        taken = self.sends(kind, **data)
        assert taken.reasons == []

    def passes_gates(self) -> None:
        for gate in self.job.gates:
            if gate.approval:
                self.is_approved(Approval.GATE, gate.id)
            if gate.asks:
                self.says("gate", gate=gate.id, answers=ANSWERS.get(gate.id, APPROVED))

    def is_approved(self, kind: Approval, subject: str = "", *, reason: str = "it has to be", by: int = LEAD, **details: str) -> None:
        """Ask for an approval and have a second person give it."""
        asked = ApprovalRequest(kind, subject, reason)
        number = ask_approval(self.session, self.job_id, asked, clock=self.clock, author_id=self.device.user_id)
        answer_approval(self.session, number, AnswerRequest(granted=True, details=details), approver_id=by, clock=self.clock)

    def does(self, part: str | None = None, **changes: Any) -> None:
        self.passes_gates()
        job = self.job
        step = job.next_step
        assert step is not None
        data: dict[str, Any] = {"step": step.id}
        if step.phase == Phase.OPENING:
            data["captive"] = {group.group: False for group in step.screws if group.unknown}
        elif step.phase == Phase.SWAP:
            data |= {"part_number": self.fitting(str(step.position), part)} if part else {"refitted": True}
        elif step.phase == Phase.TEST:
            data |= {"charge_checked": True, "result": "good"}
        else:
            opened = job.plan.step(f"open:{step.operation}")
            assert opened is not None
            data["screws"] = {group.group: group.loose + group.unknown for group in opened.screws if group.loose + group.unknown}
            data["leads"] = [lead.name for lead in step.leads]
        self.says("step", **(data | changes))

    def fitting(self, position: str, part: str) -> str:
        """The part, or one that fits where it does not."""
        found = self.session.execute(text(FITTING), {"job": self.job_id, "position": position, "part": part}).scalars().all()
        return str(found[0]) if found else part

    def until(self, name: str, part: str | None = None) -> None:
        while (step := self.job.next_step) is not None and step.id != name:
            self.does(part)

    def finishes(self, part: str | None = None) -> None:
        """Every step, the checks, and a healthy report."""
        self.until("", part)
        self.says("check", **dict.fromkeys(checks_of(self.job.plan), True))
        ask_stand_in(self.session, self.job_id, fault=None, device=self.device, clock=self.clock)

    def closes(self, *lines: CloseLine, **changes: Any) -> Closed:
        request = CloseRequest(**({"finding": "open", "lines": list(lines)} | changes))
        return close_job(self.session, self.job_id, request, device=self.device, clock=self.clock)


def machine(session: Session, kind: str, model: str = "Packet 14") -> tuple[Bench, str]:
    """A machine of a model with a part of a kind in it and the same on a shelf, and the position's key."""
    row = session.execute(
        text("""
        SELECT a.tag, t.position_id, p.number, s.code, o.key
        FROM tenure t JOIN asset a ON a.id = t.asset_id JOIN part p ON p.id = t.part_id JOIN position o ON o.id = t.position_id
        JOIN device_model m ON m.id = a.model_id AND m.name = :model
        JOIN site s ON true JOIN shelf h ON h.part_id = p.id AND h.site_id = s.id
        WHERE t.removed_on IS NULL AND a.retired_on IS NULL AND p.kind = :kind AND t.fitted_on < '2026-08-01'
          AND (SELECT sum(quantity) FROM stock_move m WHERE m.shelf_id = h.id AND bucket = 'on_hand') > 0
        ORDER BY a.id LIMIT 1"""),
        {"kind": kind, "model": model},
    ).one()
    return Bench(*row[:4]), row[4]


def opened(session: Session, clock: Clock, tag: str, *targets: str, **changes: Any) -> Worker:
    values: dict[str, Any] = {"tag": tag, "purpose": "repair", "symptom": "stops under load", "plan": PlanRequest(targets)} | changes
    return Worker(session, clock, open_job(session, OpenRequest(**values), clock=clock, author_id=2))


def replaced(position: str, where: Bench, **changes: Any) -> CloseLine:
    custody = changes.pop("custody", "")
    return CloseLine(position, LineRequest(0, "replaced", where.part, where.site, **changes), custody)


__all__ = ["Bench", "Worker", "bench", "machine", "opened", "replaced"]


def other_technician(session: Session) -> int:
    """A second technician, who may approve what needs no lead."""
    login = "anchor"
    known = session.scalar(text('SELECT id FROM "user" WHERE login = :login'), {"login": login})
    return (
        int(known)
        if known
        else create_user(session, login=login, name="B. Anchor", role=Role.TECHNICIAN, password="a long enough password").id
    )
