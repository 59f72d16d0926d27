"""Policies played forward: the plan, other aims, rules of thumb; and a scenario like the plan."""

from __future__ import annotations

from flask import Blueprint, Response

from almanac.exchange.tables import write_csv
from almanac.services.outlook.builder import OutlookBuilder
from almanac.services.outlook.rehearsal import AIMS, PLAN, RULES, Rehearsed, aim_name, rehearsed
from almanac.services.outlook.summary import read_builder
from almanac.services.scenarios.look import builders
from almanac.store.models import Role
from almanac.web.api import KEPT, endpoint
from almanac.web.database import session
from almanac.web.kept import known_reply
from almanac.web.schemas import rehearsal as schemas
from almanac.web.schemas.outlook import EstimateView, SettingInForce, SpreadView
from almanac.web.views.scenarios import change_of

blueprint = Blueprint("rehearsal", __name__, url_prefix="/api/v1/rehearsal")
BUDGET_COLUMNS = ("rule", "kind", "quarter", "low", "median", "high")


@endpoint(blueprint, "/rules", access=Role.READER, replies=schemas.RulesView)
def rehearsal_rules() -> schemas.RulesView:
    """The rules that are played beside each other."""
    return schemas.RulesView(rules=list(RULES))


@endpoint(blueprint, "", access=Role.READER, replies=schemas.RehearsalView, kept="slow")
def rehearsal(query: schemas.RuleQuery) -> schemas.RehearsalView:
    """All stock parts played forward from today under a rule."""
    builder = read_builder(session())
    return _view(builder, query.rule)


@endpoint(blueprint, "/scenario", method="POST", access=Role.READER, replies=schemas.RehearsalView, kept="slow")
def rehearse_scenario(json: schemas.RehearseScenarioIn) -> schemas.RehearsalView:
    """The same with some changes done."""
    _, scenario = builders(session(), [change_of(change) for change in json.changes])
    return _view(scenario, json.rule)


@endpoint(blueprint, "/told", access=Role.READER, replies=schemas.RehearsalTold)
def rehearsal_told() -> schemas.RehearsalTold:
    """The plan's rehearsal where it is known: nothing is played for a sentence beside something else."""
    known = known_reply(KEPT["rehearsal"], {"query": schemas.RuleQuery()})
    if known is None:
        return schemas.RehearsalTold(fill=None, aim=None, years=None)
    found = schemas.RehearsalView.model_validate_json(known)
    return schemas.RehearsalTold(fill=found.whole.fill, aim=found.aim, years=found.years)


@endpoint(blueprint, "/budget.csv", access=Role.READER, replies=None)
def budget_csv(query: schemas.RuleQuery) -> Response:
    """A year's money by kind and quarter, as CSV."""
    found = rehearsed(read_builder(session()), query.rule)
    rows = [
        [query.rule, kind, quarter + 1, round(spread.low), round(spread.median), round(spread.high)]
        for kind, quarters in found.quarters.items()
        for quarter, spread in enumerate(quarters)
    ]
    total = [[query.rule, "all", "year", round(found.money.low), round(found.money.median), round(found.money.high)]]
    headers = {"Content-Disposition": f'attachment; filename="budget-{query.rule}.csv"'}
    return Response(write_csv(BUDGET_COLUMNS, [*rows, *total]), mimetype="text/csv", headers=headers)


def _view(builder: OutlookBuilder, rule: str) -> schemas.RehearsalView:
    found, settings = rehearsed(builder, rule), builder.inputs.settings
    target = float(settings.value("target", default=0.95))
    return schemas.RehearsalView(
        rule=rule,
        as_of=builder.inputs.clock.today,
        aim=_aim(rule, target),
        target=SettingInForce(value=target, number=settings.number("company", "", "target")),
        aim_settings=settings.narrower("target"),
        parts=found.parts,
        left_out=found.left_out,
        runs=found.runs,
        years=found.years,
        whole=schemas.PlayedView.model_validate(found.whole),
        hole=schemas.HoleView.model_validate(found.hole),
        kinds=[
            schemas.KindPlayed.model_validate({"kind": kind, "figures": figures, "quarters": found.quarters[kind]})
            for kind, figures in found.kinds.items()
        ],
        places=_places(builder, found),
        money=SpreadView.model_validate(found.money),
        stock_value=EstimateView.model_validate(found.stock_value),
        scrapped_value=EstimateView.model_validate(found.scrapped_value),
        worst=[
            schemas.WorstPart.model_validate(
                {
                    "number": one.number, "name": one.name, "kind": one.kind, "fill": one.figures.fill,
                    "waiting": one.figures.expected_waiting.value, "before": one.before, "a_year": one.a_year, "why": one.why,
                }
            )
            for one in found.worst
        ],
    )  # fmt: skip


def _aim(rule: str, target: float) -> float | None:
    if rule == PLAN:
        return target
    return next((aim for aim in AIMS if aim_name(aim) == rule), None)


def _places(builder: OutlookBuilder, found: Rehearsed) -> list[schemas.PlacePlayed]:
    """Requests met at each place: the depot's first, then the sites it feeds in their order."""
    sites = builder.inputs.sites
    order = [*(site for site in sites if site.is_depot), *(site for site in sites if not site.is_depot)]
    return [
        schemas.PlacePlayed.model_validate({"code": site.code, "name": site.name, "fill": fill})
        for site, fill in zip(order, found.sites, strict=False)
    ]
