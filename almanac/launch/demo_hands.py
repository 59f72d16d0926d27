"""The technician of the demo's bench, who does as the gates and the page say."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from typing import Any
from uuid import UUID, uuid5

from sqlalchemy.orm import Session

from almanac.core.workbench.plan import JobStep, Phase
from almanac.services.clock import Clock
from almanac.services.workbench.lease import Device, release_lease
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


@dataclass
class Hands:
    """A technician with one job, who does as the gates and the page say."""

    session: Session
    job_id: int
    user_id: int
    begun: datetime
    part_number: str
    said: int = 0

    @property
    def clock(self) -> Clock:
        """Two minutes on from what was said last."""
        now = self.begun + timedelta(minutes=2 * self.said)
        return Clock(now.date(), now)

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

    def goes(self, steps: int, honest: Callable[[Hands, JobStep], dict[str, Any]] | None = None) -> None:
        """So many steps on, each with its gates; `honest` says more than the way in asks for."""
        for _ in range(steps):
            step = self.job.next_step
            if step is None:
                return
            self.passes()
            self.says("step", step=step.id, **(honest(self, step) if honest else _honest(step)))

    def passes(self) -> None:
        """Every gate that can be answered; what somebody else approves stays."""
        for gate in self.job.gates:
            if gate.approval is None:
                self.says("gate", gate=gate.id, answers=ANSWERS[gate.id])

    @property
    def targets(self) -> tuple[str, ...]:
        """What the job is to reach."""
        return self.job.plan.wanted or self.job.plan.targets

    def goes_on_with(self, job_id: int) -> Hands:
        """The same technician two days later, with another job."""
        return replace(self, job_id=job_id, begun=self.begun + timedelta(days=2), said=0)

    def leaves(self) -> None:
        """Put the job out of hand."""
        release_lease(self.session, self.job_id, self.device)


def _honest(step: JobStep) -> dict[str, Any]:
    if step.phase == Phase.SWAP:
        return {"refitted": True}
    return {"captive": {group.group: False for group in step.screws if group.unknown}} if step.phase == Phase.OPENING else {}
