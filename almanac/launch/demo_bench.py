"""What lies on the demo's bench: jobs in hand, one parked, one that waits, one that a pack stopped, a waiver, an approval asked."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any
from uuid import UUID, uuid5

from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.core.workbench.approvals import Approval
from almanac.core.workbench.plan import JobStep, Phase
from almanac.demo import truth
from almanac.demo.rows import at
from almanac.services.clock import Clock
from almanac.services.workbench.after import AbandonRequest, abandon_job
from almanac.services.workbench.approve import AnswerRequest, ApprovalRequest, answer_approval, ask_approval
from almanac.services.workbench.lease import Device, release_lease
from almanac.services.workbench.open import OpenRequest, open_job
from almanac.services.workbench.planning import PlanRequest
from almanac.services.workbench.read import JobReading, read_job
from almanac.services.workbench.write import DeviceEntry, write_entries

KEYS = UUID("6d1f1f4e-58c1-4f0e-9a65-5c0e2f8f6f10")
ANSWERS: dict[str, dict[str, Any]] = {
    "power": {"shut_down": True, "outside_off": True, "no_light": True},
    "isolation": {"held_seconds": 15, "how": "battery plug out", "waited_minutes": 30},
    "pack": {"sound": True},
    "static": {"strap": True},
    "data": {"backup": True, "encryption": "on", "recovery_key": True},
}
MACHINE = """
SELECT a.tag, o.key FROM tenure t JOIN asset a ON a.id = t.asset_id JOIN position o ON o.id = t.position_id
JOIN device_model m ON m.id = a.model_id JOIN part p ON p.id = t.part_id
WHERE m.name = :model AND p.kind = :kind AND t.removed_on IS NULL AND a.retired_on IS NULL
ORDER BY a.id DESC LIMIT 1
"""
LEAD_AND_HANDS = "SELECT min(id) FILTER (WHERE role = 'lead'), min(id) FILTER (WHERE role = 'technician') FROM \"user\""


@dataclass
class Hands:
    """A technician with one job, who does as the gates and the page say."""

    session: Session
    job_id: int
    user_id: int
    begun: datetime
    said: int = 0

    @property
    def clock(self) -> Clock:
        """Two minutes on from what was said last."""
        return Clock(truth.AS_OF, self.begun + timedelta(minutes=2 * self.said))

    @property
    def device(self) -> Device:
        """The browser at the bench."""
        return Device(uuid5(KEYS, f"device {self.job_id}"), self.user_id)

    @property
    def job(self) -> JobReading:
        """The job as it stands."""
        return read_job(self.session, self.job_id, clock=self.clock)

    def says(self, kind: str, **data: Any) -> None:
        """Write an entry, which the rules of the bench must take."""
        self.said += 1
        entry = DeviceEntry(uuid5(KEYS, f"{self.job_id} {self.said}"), kind, data, self.clock.now)
        taken = write_entries(self.session, self.job_id, [entry], device=self.device, clock=self.clock)
        if taken.reasons:
            raise ValueError(f"demo job {self.job_id}: {'; '.join(taken.reasons)}")

    def goes(self, steps: int) -> None:
        """So many steps on, each with its gates."""
        for _ in range(steps):
            step = self.job.next_step
            if step is None:
                return
            self.passes()
            self.says("step", step=step.id, **_honest(step))

    def passes(self) -> None:
        """Every gate that can be answered; what somebody else approves stays."""
        for gate in self.job.gates:
            if gate.approval is None:
                self.says("gate", gate=gate.id, answers=ANSWERS[gate.id])

    def leaves(self) -> None:
        """Put the job out of hand."""
        release_lease(self.session, self.job_id, self.device)


def _honest(step: JobStep) -> dict[str, Any]:
    if step.phase == Phase.SWAP:
        return {"refitted": True}
    return {"captive": {group.group: False for group in step.screws if group.unknown}} if step.phase == Phase.OPENING else {}


def lay_on_the_bench(session: Session) -> None:
    """Jobs of the last days, through the rules that any job goes through.

    Raises
    ------
    ValueError : an entry that the rules do not take
    """
    lead, hands = session.execute(text(LEAD_AND_HANDS)).one()
    if lead is None or hands is None:
        return

    def opened(model: str, kind: str, symptom: str, *, days: int, hour: int, **more: Any) -> Hands:
        tag, key = session.execute(text(MACHINE), {"model": model, "kind": kind}).one()
        begun = at(truth.AS_OF - timedelta(days=days)).replace(hour=hour)
        request = OpenRequest(tag, "repair", symptom, PlanRequest([key]), **more)
        return Hands(session, open_job(session, request, clock=Clock(begun.date(), begun), author_id=hands), hands, begun)

    _parked(opened("Halyard 14", "battery", "dies at 40 per cent", days=3, hour=9))
    _waiting(opened("Tiller 16", "fan", "fan grinds", days=2, hour=10))
    opened("Packet 15", "battery", "lid does not close flat", days=2, hour=14, signs=["lid", "touchpad"])
    _retired(opened("Tiller 13", "memory", "restarts under load", days=1, hour=11))
    _with_a_waiver(opened("Packet 13", "fan", "loud after an hour", days=0, hour=8), lead)
    _asks(opened("Drydock 16", "fan", "hot without noise", days=0, hour=9))


def _parked(hands: Hands) -> None:
    hands.goes(2)
    hands.says("park", words="called to the ferry", screws_where="box 3, left", isolated=True)
    hands.leaves()


def _waiting(hands: Hands) -> None:
    hands.says("wait", **{"for": "part"})
    hands.leaves()


def _retired(hands: Hands) -> None:
    abandon_job(
        hands.session, hands.job_id, AbandonRequest("the machine is retired with its model"), device=hands.device, clock=hands.clock
    )


def _with_a_waiver(hands: Hands, lead: int) -> None:
    """At its fifth step, with a strap that was lent."""
    while "static" not in [gate.id for gate in hands.job.gates]:
        hands.goes(1)
    for gate in hands.job.gates:
        if gate.id != "static":
            hands.says("gate", gate=gate.id, answers=ANSWERS[gate.id])
    asked = ApprovalRequest(Approval.WAIVE, "static", "the strap is lent to Marrowness; a hand stays on the frame")
    number = ask_approval(hands.session, hands.job_id, asked, clock=hands.clock, author_id=hands.user_id)
    answer_approval(hands.session, number, AnswerRequest(granted=True), approver_id=lead, clock=hands.clock)
    while len(hands.job.standing.done) < 4:
        hands.goes(1)
    hands.leaves()


def _asks(hands: Hands) -> None:
    asked = ApprovalRequest(Approval.WAIVE, "power", "its button is stuck; the mains lead and the pack are out")
    ask_approval(hands.session, hands.job_id, asked, clock=hands.clock, author_id=hands.user_id)
    hands.leaves()
