"""A technician who does every step of a plan honestly, for tests to make mistakes with."""

from __future__ import annotations

from typing import Any

from almanac.core.teardown.route import plan_route
from almanac.core.teardown.written import teardown_of
from almanac.core.workbench.entries import refusals
from almanac.core.workbench.journal import Entry, Standing, fold, open_gates
from almanac.core.workbench.plan import JobPlan, JobStep, Machine, Phase, job_plan
from tests.core.teardown.pages import part, step

ANSWERS = {
    "power": {"shut_down": True, "outside_off": True, "no_light": True},
    "isolation": {"held_seconds": 20, "how": "no pack inside", "maker_minutes": 2, "maker_source": "its label", "waited_minutes": 30},
    "pack": {"sound": True},
    "static": {"strap": True},
    "data": {"backup": True, "encryption": "on", "recovery_key": True},
}
APPROVED = {"spare": True}


def notebook() -> dict[str, Any]:
    """A small notebook: cover, battery plug, a module, a fan behind a lead; the keyboard is riveted."""
    return {
        "positions": [
            part("battery", "battery"),
            part("memory_a", "memory", "socketed"),
            part("fan", "fan"),
            part("drive", "ssd"),
            part("keyboard", "keyboard", "staked"),
        ],
        "operations": [
            step(
                "cover",
                tool="PH1",
                live=True,
                exposes=["battery", "memory_a", "fan", "drive"],
                fasteners=[{"group": "long", "count": 3, "captive": False}, {"group": "rim", "count": 2, "captive": True}],
            ),
            step("plug", ["cover"], isolates=True, plugs=[{"name": "battery lead", "kind": "slide"}]),
            step("memory_out", ["cover"], frees=["memory_a"], bare_board=True),
            step("drive_out", ["cover"], frees=["drive"], fasteners=[{"group": "short", "count": 1}]),
            step(
                "fan_out",
                ["cover"],
                frees=["fan"],
                bare_board=True,
                plugs=[{"name": "fan lead", "kind": "press_fit"}],
                fasteners=[{"group": "short", "count": 2, "captive": False}],
            ),
            step("keyboard_out", ["memory_out"], frees=["keyboard"], one_way={"reason": "rivets", "destroys": "keyboard"}, seal=True),
        ],
    }


def plan_for(page: dict[str, Any], *targets: str, form: str = "notebook", **more: Any) -> JobPlan:
    teardown = teardown_of(page)
    return job_plan(teardown, plan_route(teardown, targets, direct=targets), Machine(form, **more))


class Technician:
    """Writes a journal as an honest technician would; `skips` leaves something out."""

    def __init__(self, plan: JobPlan) -> None:
        self.plan = plan
        self.entries: list[Entry] = []

    @property
    def standing(self) -> Standing:
        return fold(self.plan, self.entries)

    def says(self, kind: str, **data: Any) -> list[str]:
        """Write an entry if it is taken; what is refused is returned."""
        entry = Entry(kind, data)
        refused = refusals(self.plan, self.standing, entry)
        if not refused:
            self.entries.append(entry)
        return refused

    def passes_gates(self) -> None:
        for gate in open_gates(self.plan, self.standing):
            if gate.approval:
                assert self.says("approve", gate=gate.id, name="A. Quay", opens=not gate.asks) == []
            if gate.id in self.standing.passed:
                continue
            assert self.says("gate", gate=gate.id, answers=ANSWERS.get(gate.id, APPROVED)) == []

    def does(self, **changes: Any) -> list[str]:
        """The next step with its gates, everything put back unless `changes` say otherwise."""
        self.passes_gates()
        step = self.standing.next_step(self.plan)
        assert step is not None
        return self.says("step", **({"step": step.id} | self.honest(step) | changes))

    def honest(self, step: JobStep) -> dict[str, Any]:
        if step.phase == Phase.SWAP:
            return {"part_number": "P-1"}
        if step.phase == Phase.TEST:
            return {"charge_checked": True, "result": "good"}
        if step.phase == Phase.OPENING:
            counted = {group.group: group.loose + group.unknown for group in step.screws if not group.counted}
            return {"captive": {group.group: False for group in step.screws if group.unknown}, **({"screws": counted} if counted else {})}
        counts = self.entries_of(step.operation)
        return {"screws": counts, "leads": [lead.name for lead in step.leads]}

    def entries_of(self, operation: str | None) -> dict[str, int]:
        step = self.plan.step(f"open:{operation}")
        assert step is not None
        return {group.group: group.loose + group.unknown for group in step.screws if group.loose + group.unknown}

    def until(self, name: str) -> None:
        while (step := self.standing.next_step(self.plan)) is not None and step.id != name:
            assert self.does() == []

    def everything(self) -> None:
        self.until("")
