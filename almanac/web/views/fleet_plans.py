"""The plan of the fleet: what will be bought, retired and replaced."""

from __future__ import annotations

from flask import Blueprint

from almanac.services.clock import read_clock
from almanac.services.fleet_plans import plan, planned, withdraw
from almanac.services.scenarios.changes import Buy, Planned, Retire, Swap
from almanac.store.models import Role
from almanac.web.access import author_id
from almanac.web.api import endpoint
from almanac.web.database import session
from almanac.web.schemas import scenarios as schemas
from almanac.web.schemas.base import Done

blueprint = Blueprint("fleet_plans", __name__, url_prefix="/api/v1/plans")


@endpoint(blueprint, "", access=Role.READER, replies=schemas.PlanOfFleet)
def plan_of_fleet() -> schemas.PlanOfFleet:
    """What is planned for days to come, the next first."""
    rows = planned(session(), clock=read_clock(session()))
    return schemas.PlanOfFleet(plans=[schemas.PlannedChange.model_validate(row._asdict()) for row in rows])


@endpoint(blueprint, "", method="POST", access=Role.LEAD, replies=schemas.PlansMade, status=201)
def plan_changes(json: schemas.FleetPlanIn) -> schemas.PlansMade:
    """Put changes into the plan, all or none of them."""
    changes = [change_planned(change) for change in json.changes]
    return schemas.PlansMade(ids=plan(session(), changes, json.note, clock=read_clock(session()), author_id=author_id()))


@endpoint(blueprint, "/<int:plan_id>", method="DELETE", access=Role.LEAD, replies=Done)
def withdraw_plan(plan_id: int) -> Done:
    """Take something out of the plan; that it was planned stays on record."""
    withdraw(session(), plan_id, clock=read_clock(session()), author_id=author_id())
    return Done()


def change_planned(change: schemas.RetireIn | schemas.BuyIn | schemas.SwapIn) -> Planned:
    """What can be planned, as the services take it."""
    if isinstance(change, schemas.RetireIn):
        return Retire(change.model_id, change.on, change.site, change.quantity)
    if isinstance(change, schemas.BuyIn):
        return Buy(change.model_id, change.on, change.site, change.duty, change.quantity)
    return Swap(change.model_id, change.position, change.part_number, change.on, change.site, change.quantity)
