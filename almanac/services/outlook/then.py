"""The outlook's inputs as they were on a past day: lives and fleet as recorded by then."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, date, datetime, time

from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.services.outlook.inputs import Inputs
from almanac.store import ages as age_store
from almanac.store import evidence
from almanac.store.models import FleetPlan
from almanac.store.settings import Settings


def start_of(day: date) -> datetime:
    """The moment a past day began."""
    return datetime.combine(day, time.min, UTC)


def inputs_at(session: Session, inputs: Inputs, day: date, *, plans: list[FleetPlan], settings: Settings) -> Inputs:
    """Lives and fleet as recorded by the start of a past day; shelves and parts stay today's.

    plans : of the fleet, which carry no record of when they were made · settings : under which the day is looked at
    """
    clock = Clock(day, start_of(day))
    lives = evidence.lives(session, as_of=day, known_at=clock.now, now=False)
    group = inputs.group
    return replace(
        inputs,
        clock=clock,
        settings=settings,
        tenures=[row._replace(part_id=group[row.part_id]) for row in lives.tenures if row.part_id in group],
        service=[row._replace(part_id=group[row.part_id]) for row in lives.service if row.part_id in group],
        plans=plans,
        ages=age_store.read_ages(session, as_of=day, known_at=clock.now, now=False),
    )
