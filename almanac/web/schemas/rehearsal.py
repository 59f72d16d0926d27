"""Rehearsals: what was seen when a rule was played forward."""

from __future__ import annotations

from datetime import date

from pydantic import Field

from almanac.web.schemas.base import Schema
from almanac.web.schemas.outlook import EstimateView, SettingInForce, SpreadView
from almanac.web.schemas.scenarios import ScenarioIn


class RuleQuery(Schema):
    rule: str = Field(default="plan", max_length=20)


class RehearseScenarioIn(ScenarioIn):
    rule: str = Field(default="plan", max_length=20)


class PlayedView(Schema):
    """Requests met at once, days with one on the shelf, machine-days of waiting, orders, money and scrapped parts of a year."""

    fill: EstimateView | None
    ready: EstimateView
    expected_waiting: EstimateView
    chance_of_waiting_a_year: EstimateView
    orders_a_year: EstimateView
    spent_a_year: EstimateView
    on_hand: EstimateView
    scrapped_a_year: EstimateView


class KindPlayed(Schema):
    kind: str
    figures: PlayedView
    quarters: list[SpreadView]


class PlacePlayed(Schema):
    code: str
    name: str
    fill: EstimateView | None


class WorstPart(Schema):
    """A part with much waiting: machine-days a year and before help can come, requests a year, and why."""

    number: str
    name: str
    kind: str
    fill: EstimateView | None
    waiting: float
    before: float
    a_year: float
    why: str


class HoleView(Schema):
    fill: EstimateView | None
    waiting: EstimateView


class RehearsalView(Schema):
    """A rule as it was played.

    aim : what it promises, null for one that promises nothing · left_out : parts of which nothing can be said
    aim_settings : kinds and parts with an aim of their own
    """

    rule: str
    as_of: date
    aim: float | None
    target: SettingInForce
    aim_settings: int
    parts: int
    left_out: int
    runs: int
    years: int
    whole: PlayedView
    hole: HoleView
    kinds: list[KindPlayed]
    places: list[PlacePlayed]
    money: SpreadView
    stock_value: EstimateView
    scrapped_value: EstimateView
    worst: list[WorstPart]


class RehearsalTold(Schema):
    """What is known of the plan's rehearsal, null while it was never played."""

    fill: EstimateView | None
    aim: float | None
    years: int | None


class RulesView(Schema):
    """Rules that can be played."""

    rules: list[str]
