"""Scenarios beside the plan: looked at, kept, shared and given up."""

from __future__ import annotations

from flask import Blueprint

from almanac.services.clock import read_clock
from almanac.services.outlook.builder import OutlookBuilder
from almanac.services.outlook.order_plans import Row
from almanac.services.outlook.plate import Plate
from almanac.services.scenarios.changes import Change, Move, Season
from almanac.services.scenarios.kept import give_up, keep, kept
from almanac.services.scenarios.look import look, plates
from almanac.store.models import Role
from almanac.web.access import author_id
from almanac.web.api import endpoint
from almanac.web.database import session
from almanac.web.schemas import scenarios as schemas
from almanac.web.schemas.base import Done
from almanac.web.schemas.outlook import Point, YearPlayedView
from almanac.web.views.fleet_plans import change_planned
from almanac.web.views.outlook_words import likely_order

blueprint = Blueprint("scenarios", __name__, url_prefix="/api/v1/scenarios")


@endpoint(blueprint, "", access=Role.READER, replies=schemas.KeptScenarios)
def kept_scenarios() -> schemas.KeptScenarios:
    """Every kept scenario, the latest first."""
    return schemas.KeptScenarios(
        scenarios=[
            schemas.KeptScenario.model_validate(
                {"id": one.id, "name": one.name, "author": author, "kept_at": one.kept_at, "changes": one.changes}
            )
            for one, author in kept(session())
        ]
    )


@endpoint(blueprint, "", method="POST", access=Role.LEAD, replies=schemas.ScenarioKept, status=201)
def keep_scenario(json: schemas.KeepIn) -> schemas.ScenarioKept:
    """Keep a scenario under a name."""
    changes = [change.model_dump(mode="json") for change in json.changes]
    return schemas.ScenarioKept(id=keep(session(), json.name, changes, clock=read_clock(session()), author_id=author_id()))


@endpoint(blueprint, "/<int:scenario_id>", method="DELETE", access=Role.LEAD, replies=Done)
def give_up_scenario(scenario_id: int) -> Done:
    """Delete a kept scenario; the data were never touched by it."""
    give_up(session(), scenario_id)
    return Done()


@endpoint(blueprint, "/look", method="POST", access=Role.READER, replies=schemas.LookAtScenario, kept="dear")
def look_at_scenario(json: schemas.ScenarioIn) -> schemas.LookAtScenario:
    """What would follow from some changes, part by part."""
    found = look(session(), [change_of(change) for change in json.changes], site_code=json.site)
    sides = [(_side(pair.planned, found.planned), _side(pair.scenario, found.scenario)) for pair in found.pairs]
    prices = [float(pair.planned.part.price) for pair in found.pairs]
    return schemas.LookAtScenario(
        as_of=found.planned.inputs.clock.today,
        planned_year=sum(planned.year or 0.0 for planned, _ in sides),
        scenario_year=sum(scenario.year or 0.0 for _, scenario in sides),
        planned_cost=sum((planned.year or 0.0) * price for (planned, _), price in zip(sides, prices, strict=True)),
        scenario_cost=sum((scenario.year or 0.0) * price for (_, scenario), price in zip(sides, prices, strict=True)),
        parts=[
            schemas.PairView(
                number=pair.planned.part.number,
                name=pair.planned.part.name,
                kind=pair.planned.part.kind,
                planned=planned,
                scenario=scenario,
            )
            for pair, (planned, scenario) in zip(found.pairs, sides, strict=True)
            if pair.differs
        ],
    )


@endpoint(blueprint, "/look/<number>", method="POST", access=Role.READER, replies=schemas.PairOfPlans, kept="dear")
def look_at_part(number: str, json: schemas.ScenarioIn) -> schemas.PairOfPlans:
    """One part's plan beside what it would be."""
    planned, scenario = plates(session(), [change_of(change) for change in json.changes], number, site_code=json.site)
    return schemas.PairOfPlans(
        number=planned.row.part.number,
        name=planned.row.part.name,
        kind=planned.row.part.kind,
        floor=planned.row.shelf.holding.floor,
        months=[month.step.first_on for month in planned.made.months],
        month_days=[month.step.from_day for month in planned.made.months],
        planned=_plan(planned),
        scenario=_plan(scenario),
    )


def change_of(change: schemas.RetireIn | schemas.BuyIn | schemas.MoveIn | schemas.SeasonIn | schemas.SwapIn) -> Change:
    """A change as a service takes it."""
    if isinstance(change, schemas.RetireIn | schemas.BuyIn | schemas.SwapIn):
        return change_planned(change)
    if isinstance(change, schemas.MoveIn):
        return Move(change.model_id, change.duty, change.site)
    return Season(change.factor, change.on, change.until, tuple(change.kinds))


def _side(row: Row, builder: OutlookBuilder) -> schemas.SideView:
    return schemas.SideView(
        year=row.year_total,
        todo=row.todo,
        risk=row.risk,
        order_at=row.plan.order_at if row.plan else None,
        next_order=likely_order(row, builder),
        quantity=row.quantity,
        cost=float(row.cost),
    )


def _plan(plate: Plate) -> schemas.PlanSide:
    played = plate.made.played
    return schemas.PlanSide(
        year=plate.row.year_total,
        order_at=plate.row.plan.order_at if plate.row.plan else None,
        played=YearPlayedView.model_validate(played) if played else None,
        path=[Point.model_validate(point) for point in plate.row.projection.path],
        expected=[month.expected for month in plate.made.months],
    )
