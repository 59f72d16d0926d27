"""Scenarios: what would be done, and what would follow."""

from __future__ import annotations

from datetime import date, datetime
from typing import Annotated, Literal

from pydantic import Field

from almanac.core.stock.shelf import Risk, ToDo
from almanac.web.schemas.base import Schema
from almanac.web.schemas.outlook import LikelyOrder, Point, YearPlayedView


class RetireIn(Schema):
    """Machines of a model go on a day: all of them, or so many."""

    do: Literal["retire"]
    model_id: int
    on: date
    site: str | None = Field(default=None, max_length=20)
    quantity: int | None = None


class BuyIn(Schema):
    """So many machines of a model come to a site on a day."""

    do: Literal["buy"]
    model_id: int
    on: date
    site: str = Field(max_length=20)
    duty: str = Field(max_length=40)
    quantity: int


class MoveIn(Schema):
    """Machines of a model run under another duty from today on."""

    do: Literal["move"]
    model_id: int
    duty: str = Field(max_length=40)
    site: str | None = Field(default=None, max_length=20)


class SeasonIn(Schema):
    """From one day until another some kinds age so many times as fast."""

    do: Literal["season"]
    factor: float
    on: date
    until: date
    kinds: list[str] = Field(max_length=8)


class SwapIn(Schema):
    """The part in a position of a model's machines is replaced on a day: in all of them, or in so many."""

    do: Literal["swap"]
    model_id: int
    position: str = Field(max_length=60)
    part_number: str = Field(max_length=60)
    on: date
    site: str | None = Field(default=None, max_length=20)
    quantity: int | None = None


ChangeIn = Annotated[RetireIn | BuyIn | MoveIn | SeasonIn | SwapIn, Field(discriminator="do")]
PlannedIn = Annotated[RetireIn | BuyIn | SwapIn, Field(discriminator="do")]


class ScenarioIn(Schema):
    """Changes to look at, done in this order."""

    changes: list[ChangeIn] = Field(max_length=50)
    site: str | None = Field(default=None, max_length=20)


class KeepIn(Schema):
    name: str = Field(max_length=120)
    changes: list[ChangeIn] = Field(max_length=50)


class ScenarioKept(Schema):
    id: int


class FleetPlanIn(Schema):
    """Changes to put into the plan of the fleet, with a word on why."""

    changes: list[PlannedIn] = Field(max_length=50)
    note: str = Field(default="", max_length=2000)


class PlannedChange(Schema):
    """Something planned: machines of a model at a site on a day, and of a swap the position and its new part."""

    id: int
    action: Literal["purchase", "retire", "swap"]
    model: str
    site: str
    duty: str
    planned_on: date
    quantity: int
    position: str | None
    part_number: str | None
    note: str
    recorded_at: datetime | None
    author: str | None


class PlanOfFleet(Schema):
    """What is planned for days to come, the next first."""

    plans: list[PlannedChange]


class PlansMade(Schema):
    ids: list[int]


class KeptScenario(Schema):
    id: int
    name: str
    author: str
    kept_at: datetime
    changes: list[ChangeIn]


class KeptScenarios(Schema):
    scenarios: list[KeptScenario]


class SideView(Schema):
    """A part's year: demand, and the next order."""

    year: float | None
    todo: ToDo | None
    risk: Risk | None
    order_at: int | None
    next_order: LikelyOrder
    quantity: int
    cost: float


class PairView(Schema):
    number: str
    name: str
    kind: str
    planned: SideView
    scenario: SideView


class LookAtScenario(Schema):
    """Parts that would be others, those that move most first, and the year's totals."""

    as_of: date
    planned_year: float
    scenario_year: float
    planned_cost: float
    scenario_cost: float
    parts: list[PairView]


class PlanSide(Schema):
    year: float | None
    order_at: int | None
    played: YearPlayedView | None
    path: list[Point]
    expected: list[float]


class PairOfPlans(Schema):
    """One part's plan and its month by month demand on both sides."""

    number: str
    name: str
    kind: str
    floor: int
    months: list[date]
    month_days: list[int]
    planned: PlanSide
    scenario: PlanSide
