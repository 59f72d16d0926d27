"""The demo's machines: delivered, placed, moved and retired as a fleet is."""

from __future__ import annotations

from collections import Counter, defaultdict
from datetime import timedelta
from itertools import pairwise

import pytest

from almanac.core.parts.fits.judge import judge
from almanac.core.parts.page import positions_of
from almanac.demo import catalog, truth
from almanac.demo.company import part_facts
from almanac.demo.load import draw
from almanac.demo.page_files import read_pages

PAGES = read_pages()
TABLES = draw().rows.tables


def test_stays_follow_one_another_without_a_gap() -> None:
    stays = defaultdict(list)
    for stay in TABLES["asset_stay"]:
        stays[stay["asset_id"]].append(stay)
    moved = 0
    for asset in TABLES["asset"]:
        mine = stays[asset["id"]]
        assert mine[0]["from_on"] == asset["in_service_on"]
        assert mine[-1]["until_on"] == asset["retired_on"]
        for before, after in pairwise(mine):
            assert before["until_on"] == after["from_on"]
            moved += 1
    assert moved > 100


def test_nobody_is_retired_in_the_future_and_plans_end_on_a_quarter() -> None:
    for asset in TABLES["asset"]:
        assert asset["in_service_on"] < truth.AS_OF
        assert (asset["retired_on"] is None) != (asset["retire_planned_on"] is None)
        end = asset["retired_on"] or asset["retire_planned_on"]
        assert (end + timedelta(days=1)).day == 1
        assert end.month % 3 == 0
        assert asset["retired_on"] is None or asset["retired_on"] <= truth.AS_OF


def test_every_position_of_a_machine_in_service_holds_one_part() -> None:
    held = Counter((t["asset_id"], t["position_id"]) for t in TABLES["tenure"] if t["removed_on"] is None)
    assert set(held.values()) == {1}
    retired = {asset["id"] for asset in TABLES["asset"] if asset["retired_on"]}
    assert not retired & {asset for asset, _ in held}


def test_units_without_a_row_leave_none_behind() -> None:
    units = {unit["id"] for unit in TABLES["unit"]}
    assert {tenure["unit_id"] for tenure in TABLES["tenure"]} == units
    tenures = {tenure["id"] for tenure in TABLES["tenure"]}
    for line in TABLES["event_line"]:
        assert line["removed_tenure_id"] in tenures
        assert line["fitted_tenure_id"] is None or line["fitted_tenure_id"] in tenures


def test_parts_of_the_catalogue_are_named_where_they_are_used() -> None:
    numbers = {part.number for part in catalog.PARTS}
    assert len(numbers) == len(catalog.PARTS)
    for model in catalog.MODELS:
        for position in model.positions:
            assert set(position.fits) <= numbers, (model.name, position.key)
    assert {part.supplier for part in catalog.PARTS} <= set(catalog.SUPPLIERS)


@pytest.mark.parametrize("model", TABLES["device_model"], ids=lambda model: str(model["name"]))
def test_pages_give_the_positions_that_were_written(model: dict[str, object]) -> None:
    _, whole = PAGES[f"{model['maker']} {model['name']}"]
    keys = [spec.key for spec in positions_of(whole)]
    assert keys == [position["key"] for position in TABLES["position"] if position["model_id"] == model["id"]]


@pytest.mark.parametrize("model", catalog.MODELS, ids=lambda model: model.name)
def test_the_rules_agree_with_what_the_survey_saw_fitted(model: catalog.DemoModel) -> None:
    """No listed part is one the rules would refuse: the pages and the parts state the same facts."""
    _, whole = PAGES[f"{model.maker} {model.name}"]
    entries = {entry["key"]: entry for entry in whole["positions"]}
    parts = {part.number: part for part in catalog.PARTS}
    for position in model.positions:
        for number in position.fits:
            judged = judge(entries[position.key], parts[number].kind, part_facts(parts[number]))
            if entries[position.key]["serviceability"] != "staked":
                assert judged.answer.verdict != "no", (position.key, number, judged.answer.reason)


def test_shares_and_lead_times_add_up() -> None:
    assert sum(site.share for site in catalog.SITES) == pytest.approx(1.0)
    for lead in catalog.SUPPLIERS.values():
        assert sum(weight for _, weight in lead) == pytest.approx(1.0)
    for model in catalog.MODELS:
        assert sum(model.duties.values()) == pytest.approx(1.0)
