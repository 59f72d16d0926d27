"""The demo's log was drawn from stated parameters: what the core finds has to agree with them."""

from __future__ import annotations

import math
from collections import Counter
from random import Random

import pytest

from almanac.core.life.outcomes import DEAD_ON_ARRIVAL_DAYS
from almanac.core.parts.declared.kinds import FORECAST_KINDS
from almanac.core.parts.kinds import Environment, Kind
from almanac.demo import catalog, truth
from almanac.demo.company import Company, build_company
from almanac.demo.fleet import build_fleet
from almanac.demo.history import HistoryWriter
from almanac.demo.load import draw


def _written() -> tuple[Company, HistoryWriter]:
    company, chance = build_company(with_users=False), Random(truth.SEED)
    writer = HistoryWriter(company, chance)
    machines = build_fleet(company, Random(5))
    writer.write(machines)
    return company, writer


def _latest(company: Company) -> dict[int, str]:
    """Finding of the latest revision by tenure that it took out."""
    lines = {line["revision_id"]: line for line in company.rows.tables["event_line"]}
    found: dict[int, str] = {}
    for revision in company.rows.tables["event_revision"]:
        line = lines[revision["id"]]
        if line["action"] == "replaced":
            found[line["removed_tenure_id"]] = revision["finding"]
    return found


@pytest.mark.parametrize("kind", FORECAST_KINDS)
def test_failures_agree_with_the_hazard_they_were_drawn_from(kind: Kind) -> None:
    """Failures less the integrated hazard over every tenure seen is a martingale: within four standard deviations of zero."""
    company, writer = _written()
    tables, kind_truth = company.rows.tables, truth.KINDS[kind]
    assets = {asset["id"]: asset for asset in tables["asset"]}
    models = {identifier: name for name, identifier in company.models.items()}
    positions = {position["id"]: position for position in tables["position"]}
    air = {stay["asset_id"]: stay["site_id"] for stay in tables["asset_stay"]}
    sites = {company.sites[site.code]: site for site in catalog.SITES}
    findings = _latest(company)
    expected, confirmed, still_open = 0.0, 0, 0
    for tenure in tables["tenure"]:
        if positions[tenure["position_id"]]["kind"] != kind.value or tenure.get("forgotten"):
            continue
        asset = assets[tenure["asset_id"]]
        factor = writer.factors[models[tenure["model_id"]], kind] * kind_truth.duty[asset["duty"]]
        factor *= kind_truth.environment[Environment(sites[air[tenure["asset_id"]]].environment)]
        start = max((tenure["observed_from"] - tenure["fitted_on"]).days, DEAD_ON_ARRIVAL_DAYS) / 365.25
        end = ((tenure["removed_on"] or truth.AS_OF) - tenure["fitted_on"]).days / 365.25
        if end > start:
            scale = kind_truth.scale_years / factor
            expected += (end / scale) ** kind_truth.shape - (start / scale) ** kind_truth.shape
            confirmed += findings.get(tenure["id"]) == "confirmed"
            still_open += findings.get(tenure["id"]) == "open"
    slack = 4 * math.sqrt(expected) + 0.05 * expected  # machines that moved are taken at their last site here
    assert confirmed <= expected + slack
    assert confirmed + still_open >= expected - slack


def test_the_same_seed_draws_the_same_company() -> None:
    first, second = draw(), draw()
    assert first.rows.tables == second.rows.tables
    assert draw(seed=1).rows.tables["incident"] != first.rows.tables["incident"]


def test_the_company_is_the_scenarios() -> None:
    company = draw()
    tables = company.rows.tables
    assert len(tables["site"]) == 6
    assert 1_900 <= sum(asset["retired_on"] is None for asset in tables["asset"]) <= 2_200
    assert len(tables["device_model"]) == 15
    assert len({site["log_began_on"] for site in tables["site"]}) == 2
    assert "user" not in tables  # no password is shipped without the demo


def test_findings_are_settled_late_as_in_life() -> None:
    tables = draw().rows.tables
    numbers = Counter(revision["incident_id"] for revision in tables["event_revision"])
    assert 0.2 < sum(count == 2 for count in numbers.values()) / len(numbers) < 0.8
    assert 20 < sum(incident["is_open"] for incident in tables["incident"]) < 120
    assert all(revision["recorded_at"].date() <= truth.AS_OF for revision in tables["event_revision"])


def test_no_shelf_of_the_demo_was_ever_overdrawn() -> None:
    held: Counter[tuple[int, str]] = Counter()
    for move in sorted(draw().rows.tables["stock_move"], key=lambda move: (move["moved_on"], -move["quantity"])):
        held[move["shelf_id"], move["bucket"]] += move["quantity"]
        assert held[move["shelf_id"], move["bucket"]] >= 0, move
