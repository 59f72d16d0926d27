"""The outlook's inputs as they were on a past day: lives and fleet as recorded by then."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, date, datetime, time

from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.services.outlook.inputs import Inputs, new_models, with_fade
from almanac.services.outlook.life import read_life
from almanac.store import catalog, evidence, planning
from almanac.store.settings import Settings


def start_of(day: date) -> datetime:
    """The moment a past day began."""
    return datetime.combine(day, time.min, UTC)


def inputs_at(session: Session, inputs: Inputs, day: date, *, settings: Settings, purchases: bool = True) -> Inputs:
    """Lives, fleet and its plans as recorded by the start of a past day; shelves and parts stay today's.

    settings : under which the day is looked at · purchases : whether machines planned to be bought then count
    """
    clock = Clock(day, start_of(day))
    known = planning.planned_changes(session, after=day, known_at=clock.now)
    plans = [plan for plan in known if purchases or plan.action != "purchase"]
    assets = evidence.assets_in_service(session, (plan.model_id for plan in plans), as_of=day)
    then = replace(
        inputs,
        clock=clock,
        settings=settings,
        life=read_life(session, list(inputs.numbers), as_of=day, known_at=clock.now),
        plans=plans,
        assets=assets,
        first_parts={model: catalog.first_listed_parts(session, model) for model in new_models(plans, assets)},
    )
    return with_fade(session, then)
