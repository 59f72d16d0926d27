"""What the company decided about its bench: each value with its unit, as it holds today."""

from __future__ import annotations

from sqlalchemy.orm import Session

from almanac.core.triage.confirm import WatchRules
from almanac.core.triage.repair import Costs
from almanac.core.workbench.gates import GateRules
from almanac.services.clock import Clock
from almanac.services.company_settings import Decision, decisions
from almanac.services.workbench.weighing import costs_of

WORDS = {
    "cold_starts": "Cold starts a cure has to hold",
    "watch_days": "Days a cure has to hold",
    "hold_seconds": "Power button held with the power off, s",
    "own_approval": "The only person may approve own work, with a photo: 1 yes, 0 no",
    "labour_per_hour": "Labour, an hour",
    "machine_price": "A machine, new",
    "machine_years": "Years it is written off over",
    "setup_minutes": "Setting a new machine up, min",
    "age_penalty": "Share of its price a recovered part loses a year",
    "talk_ratio": "Repair over remaining value: a reason to talk from",
}


def bench_settings(session: Session, clock: Clock) -> list[Decision]:
    """Every decision about the bench, with its default where nobody decided."""
    costs: Costs = costs_of(session, clock)
    watch, gates = WatchRules(), GateRules()
    usual: dict[str, float | None] = {
        "cold_starts": watch.cold_starts,
        "watch_days": watch.days,
        "hold_seconds": gates.hold_seconds,
        "own_approval": 0,
        **{name: getattr(costs, name) for name in Costs.__dataclass_fields__ if name in WORDS},
    }
    return decisions(session, clock, WORDS, usual)
