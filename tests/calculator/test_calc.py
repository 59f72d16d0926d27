"""The calculator's contract: keys, figures against closed forms, and exit codes with every fault named."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from click.testing import CliRunner, Result
from scipy import stats

from almanac.cli import main
from almanac.core.life.weibull import fit_weibull
from tests.reference.visits import FOUND, LEFT, published


def run(*arguments: str, text: str | None = None) -> Result:
    return CliRunner().invoke(main, ["calc", *arguments], input=text)


def answer(*arguments: str, text: str) -> Any:
    result = run(*arguments, "-", "--json", text=text)
    assert result.exit_code == 0, result.output
    return json.loads(result.stdout)


RATES = "pool,failures,exposure,note\na,3,100,x\nb,0,50,\nc,9,120,\n"


def test_rates_give_exact_limits_and_shrunk_rates() -> None:
    found = answer("rates", text=RATES)
    assert set(found) == {"prior", "pooled_rate", "pools"}
    assert found["pooled_rate"] == pytest.approx(12 / 270)
    first = found["pools"][0]
    assert first["low"] == pytest.approx(stats.chi2.ppf(0.05, 6) / 200)
    assert first["high"] == pytest.approx(stats.chi2.ppf(0.95, 8) / 200)
    after = first["posterior"]
    assert after["shape"] == pytest.approx(found["prior"]["shape"] + 3)
    assert after["low"] == pytest.approx(stats.gamma.ppf(0.05, after["shape"], scale=1 / after["rate"]), rel=1e-8)
    assert after["sd"] == pytest.approx(after["shape"] ** 0.5 / after["rate"])


def test_a_prior_can_be_given() -> None:
    found = answer("rates", "--prior-shape", "2", "--prior-rate", "40", "--level", "0.8", text=RATES)
    assert found["prior"]["shape"] == 2
    expected = sum(stats.nbinom.logpmf(d, 2, 40 / (40 + t)) for d, t in ((3, 100), (0, 50), (9, 120)))
    assert found["prior"]["loglik"] == pytest.approx(expected)
    assert found["pools"][1]["posterior"]["mean"] == pytest.approx(2 / 90)
    assert run("rates", "-", "--prior-shape", "2", text=RATES).exit_code == 2


def test_pools_that_never_failed_have_no_zero_rate() -> None:
    found = answer("rates", text="pool,failures,exposure\na,0,100\nb,0,50\n")
    assert found["prior"]["shape"] == 0.5
    assert found["prior"]["loglik"] is None
    assert all(pool["posterior"]["mean"] > 0 for pool in found["pools"])


def test_life_counts_exposure_and_drops_what_carries_none() -> None:
    found = answer("life", text="exit,failed,entry,pool,count\n10,1,2,x,1\n5,0,0,x,3\n4,1,4,x,2\n7,0,,y,\n")
    first, second = found["pools"]
    assert (first["units"], first["failures"], first["exposure"], first["dropped"]) == (4, 1, 23, 2)
    assert first["constant"]["rate"] == pytest.approx(1 / 23)
    assert (second["pool"], second["exposure"], second["constant"]["low"]) == ("y", 7, 0)
    assert first["weibull"] is None
    assert first["weibull_reason"]


def test_demand_under_a_gamma_rate_is_negative_binomial() -> None:
    given = {
        "steps": 2,
        "units": [{"age": 5, "count": 10}, {"age": 0, "count": 4, "start_after": 0.5, "retire_after": 1.5}],
        "posterior": {"shape": 3, "rate": 60},
    }
    found = answer("demand", text=json.dumps(given))
    assert found["total"]["expected"] == pytest.approx(24 * 3 / 60)
    assert found["pmf"][0] == pytest.approx((60 / 84) ** 3)
    assert found["total"]["p95"] == stats.nbinom.ppf(0.95, 3, 60 / 84)
    assert [step["step"] for step in found["steps"]] == [1, 2]
    assert found["steps"][0]["expected"] == pytest.approx(12 * 3 / 60)


def test_demand_with_a_known_life_and_without_replacement() -> None:
    given = {"steps": 1, "units": [{"age": 0, "count": 6}], "life": {"shape": 1, "scale": 2.0}}
    assert answer("demand", text=json.dumps(given))["total"]["expected"] == pytest.approx(3.0)
    once = answer("demand", text=json.dumps(given | {"replace": False}))
    assert once["pmf"][6] == pytest.approx((1 - 2.718281828459045**-0.5) ** 6)


def test_units_can_come_from_a_file(tmp_path: Path) -> None:
    units = tmp_path / "units.csv"
    units.write_text("age,count,retire_after\n3,5,\n1,2,1\n")
    given = {"steps": 2, "units_file": str(units), "life": {"shape": 1, "scale": 10}}
    assert answer("demand", text=json.dumps(given))["total"]["expected"] == pytest.approx(1.2)


def test_stock_levels_of_each_school() -> None:
    poisson = {"demand": {"model": "poisson", "mean": 4.0}}
    assert answer("stock", text=json.dumps(poisson | {"target": 0.95}))["level"] == stats.poisson.ppf(0.95, 4)
    fill = answer("stock", text=json.dumps(poisson | {"school": "fill-rate", "target": 0.95}))["level"]
    assert stats.poisson.cdf(fill - 1, 4) >= 0.95 > stats.poisson.cdf(fill - 2, 4)
    cost = {"school": "least-cost", "holding": 1, "waiting": 19}
    assert answer("stock", text=json.dumps(poisson | cost))["level"] == stats.poisson.ppf(0.95, 4)
    shown = answer("stock", text=json.dumps(poisson | {"levels": [0, 5]}))["levels"]
    assert [row["S"] for row in shown] == [0, 5]
    assert shown[1]["cycle_service"] == pytest.approx(stats.poisson.cdf(5, 4))
    assert shown[0]["expected_backorders"] == pytest.approx(4)
    by_period = {"demand_lead": {"pmf": [0.5, 0.5]}, "demand_review": {"pmf": [0.25, 0.5, 0.25]}, "target": 0.99}
    assert answer("stock", text=json.dumps(by_period))["level"] == 3
    assert answer("stock", text=json.dumps({"demand": {"pmf": [0.5, 0.5]}, "levels": [1]}))["levels"][0]["fill_rate"] is None


@pytest.mark.parametrize(
    ("command", "text", "messages"),
    [
        ("rates", "pool,failures\na,1\n", ["missing column exposure"]),
        ("rates", "pool,failures,exposure\n", ["at least one row"]),
        (
            "rates",
            "pool,failures,exposure\na,x,1\nb,1,-2\nc,4,0\n",
            ["line 2, column failures", "line 3, column exposure", "line 4, column exposure"],
        ),
        (
            "life",
            "exit,failed,entry,looked\n3,1,5,\n2,0.5,0,\nnan,0,0,\n4,1,0,6\n",
            [
                "line 2, column exit: 3 is before entry 5",
                "line 3, column failed",
                "line 4, column exit",
                "line 5, column looked: 6 is after exit",
            ],
        ),
        ("demand", "{", ["line 1, column 2"]),
        ("demand", "[]", ["an object"]),
        ("demand", "{}", ["steps: a number", "units: a list", "life: life"]),
        ("demand", '{"steps": 1.5, "units": [{"age": -1}], "life": {"shape": 2, "scale": 3}}', ["units[0].age", "steps: a whole number"]),
        ("demand", '{"steps": 1, "units": [{"age": 1}], "life": {"shape": 0, "scale": 3}}', ["life.shape"]),
        ("demand", '{"steps": 1, "units": [{"age": 1}], "posterior": {"log_scale": 2}}', ["posterior.log_shape", "posterior.covariance"]),
        ("stock", '{"demand": {"model": "weather"}}', ["demand.model"]),
        ("stock", '{"demand": {"model": "poisson", "mean": 4}, "target": 1}', ["target"]),
        ("stock", '{"demand": {"pmf": [0.5, 0.4]}, "target": 0.9}', ["adding up to 1"]),
        ("stock", '{"demand": {"model": "poisson", "mean": 4}, "school": "hope"}', ["school"]),
    ],
)
def test_wrong_input_ends_with_2_and_names_every_fault(command: str, text: str, messages: list[str]) -> None:
    result = run(command, "-", text=text)
    assert result.exit_code == 2
    for message in messages:
        assert message in result.stderr
    assert result.stdout == ""


def test_a_file_that_is_not_there() -> None:
    result = run("rates", "/nowhere/at/all.csv")
    assert result.exit_code == 2
    assert "cannot be read" in result.stderr


def test_without_json_the_answer_is_a_table() -> None:
    result = run("rates", "-", text=RATES)
    assert "posterior.mean" in result.stdout
    assert len({len(line) for line in result.stdout.splitlines()[-4:]}) == 1


@pytest.mark.parametrize("level", [[], ["calc"], ["calc", "rates"], ["import"], ["backup"], ["user", "add"]])
def test_help_is_there_at_each_level(level: list[str]) -> None:
    result = CliRunner().invoke(main, [*level, "--help"])
    assert result.exit_code == 0
    assert len(result.output.splitlines()) > 5


PAGES = Path(__file__).parents[2] / "almanac" / "demo" / "pages"


def test_calc_route_gives_the_way_in_and_back() -> None:
    result = run("route", str(PAGES / "ostrel-packet-14.yaml"), "--to", "memory_a", "--to", "drive", "--json")
    found = json.loads(result.stdout)
    assert result.exit_code == 0
    assert [step["id"] for step in found["operations"]] == ["base_cover", "battery_plug", "memory_lid", "memory_a_out", "drive_out"]
    assert found["tools"] == ["PH1", "PH0"]
    assert found["minutes"]["total"] == pytest.approx(found["minutes"]["open"] + found["minutes"]["close"])
    assert sorted(step["operation"] for step in found["reassembly"]) == sorted(step["id"] for step in found["operations"])
    assert found["saved_minutes"] > 0
    assert found["tool_changes"] == 1


def test_calc_route_names_what_is_wrong(tmp_path: Path) -> None:
    page = tmp_path / "page.yaml"
    page.write_text("page_format: 1\nmaker: A\nname: B\nfamily: C\nform: notebook\noperations:\n  - {id: a, text: A, needs: [b]}\n")
    result = run("route", str(page), "--to", "x", "--json")
    assert result.exit_code == 2
    assert "line 7" in result.stderr
    assert "no operation is called 'b'" in result.stderr
    result = run("route", str(PAGES / "ostrel-packet-14.yaml"), "--to", "engine")
    assert result.exit_code == 2
    assert "memory_a" in result.stderr
    result = run("route", str(PAGES / "brindwell-tiller-16.yaml"), "--to", "drive", "--option", "battery=99 Wh")
    assert result.exit_code == 2
    assert "battery=56 Wh" in result.stderr
    lonely = tmp_path / "ostrel-packet-14-b.yaml"
    lonely.write_bytes((PAGES / "ostrel-packet-14-b.yaml").read_bytes())
    result = run("route", str(lonely), "--to", "drive")
    assert result.exit_code == 2
    assert "ostrel-packet-14.yaml is not in the same folder" in result.stderr


def test_calc_label() -> None:
    result = run("label", "PC3-12800S-11 4GB", "--json")
    assert result.exit_code == 0
    found = json.loads(result.stdout)
    assert found["kind"] == "memory"
    assert found["facts"]["grade_mt_s"] == 1600
    assert found["flags"]


def _lives(pools: dict[str, float]) -> str:
    """Tenures of pools that wear out, some of them only seen from an age on."""
    chance = np.random.default_rng(11)
    lines = ["entry,exit,failed,pool"]
    for name, scale in pools.items():
        for _ in range(60):
            age, entry, end = scale * chance.weibull(2.2), chance.choice([0.0, 6.0]), chance.uniform(10, 60)
            if age > entry:
                stop = min(age, max(end, entry + 1))
                lines.append(f"{entry},{stop},{int(age <= stop)},{name}")
    return "\n".join(lines) + "\n"


def test_life_takes_failures_found_at_a_look() -> None:
    rows = ["exit,failed,looked", *(f"{high},1,{low}" for low, high in FOUND), *(f"{age},0," for age in LEFT)]
    (pool,) = answer("life", "--at", "30", text="\n".join(rows) + "\n")["pools"]
    assert (pool["failures"], pool["units"]) == (21, 46)
    assert pool["at"][0]["survival"] == pytest.approx(0.668, abs=1e-3)
    fit = fit_weibull(published())
    assert (pool["weibull"]["shape"], pool["weibull"]["scale"]) == pytest.approx((fit.shape, fit.scale), rel=1e-9)
    kind = answer("life", "--pooling", "kind", text="\n".join(rows) + "\n")["kind"]
    assert kind["shape"] == pytest.approx(fit.shape, rel=0.01)


def test_life_gives_weibull_survival_and_the_school() -> None:
    found = answer("life", "--at", "12,24", text=_lives({"x": 40.0}))
    pool = found["pools"][0]
    fit = pool["weibull"]
    assert set(fit) == {"shape", "scale", "loglik", "shape_low", "shape_high", "scale_low", "scale_high", "se_shape", "se_scale"}
    assert fit["shape_low"] < fit["shape"] < fit["shape_high"]
    assert (pool["preferred"], pool["weibull_reason"]) == ("wear-out", None)
    assert pool["at"][0]["weibull_survival"] == pytest.approx(np.exp(-((12 / fit["scale"]) ** fit["shape"])))
    assert [step["survival"] for step in pool["survival"]] == sorted((step["survival"] for step in pool["survival"]), reverse=True)
    assert len(pool["cumulative_hazard"]) == len(pool["survival"])


def test_life_pools_a_kind_and_says_where_it_has_no_answer() -> None:
    found = answer("life", "--pooling", "kind", text=_lives({"x": 40.0, "y": 70.0, "z": 45.0}))
    assert set(found["kind"]) == {"shape", "prior_shape", "prior_rate", "loglik", "boundary"}
    assert all(pool["posterior"]["low"] < pool["posterior"]["mean"] < pool["posterior"]["high"] for pool in found["pools"])
    priored = answer("life", "--pooling", "kind", "--kind", "fan", text=_lives({"x": 40.0, "y": 70.0}))
    assert priored["kind"]["shape"] > 1
    none = answer("life", "--pooling", "kind", text="exit,failed,pool\n5,0,x\n7,0,y\n")
    assert none["pools"][0]["weibull"] is None
    assert "no failure" in none["pools"][0]["weibull_reason"]
    assert none["kind"]["loglik"] is None
    assert none["pools"][0]["posterior"]["mean"] > 0


def test_life_names_ages_that_are_none() -> None:
    result = run("life", "-", "--at", "12,x", text="exit,failed\n5,0\n")
    assert result.exit_code == 2
    assert "--at: an age of at least 0 was wanted, got 'x'" in result.stderr


def test_demand_of_a_part_that_wears_out() -> None:
    given = {"steps": 3, "units": [{"age": 20, "count": 8}, {"age": 2.5, "retire_after": 1.5}], "life": {"shape": 2.5, "scale": 24}}
    found = answer("demand", text=json.dumps({**given, "replace": False}))
    eight = 1 - np.exp((20 / 24) ** 2.5 - (23 / 24) ** 2.5)
    one = 1 - np.exp((2.5 / 24) ** 2.5 - (4 / 24) ** 2.5)
    assert found["total"]["expected"] == pytest.approx(8 * eight + one, rel=1e-9)
    assert sum(step["expected"] for step in found["steps"]) == pytest.approx(found["total"]["expected"], rel=1e-9)
    renewed = answer("demand", text=json.dumps(given))
    assert renewed["total"]["expected"] > found["total"]["expected"]
    assert sum(renewed["pmf"]) == pytest.approx(1, abs=1e-9)


def test_demand_under_an_uncertain_life_is_a_mixture() -> None:
    posterior = {"log_scale": np.log(24), "log_shape": np.log(2.0), "covariance": [[0.01, 0.002], [0.002, 0.02]]}
    given = {"steps": 2, "units": [{"age": 12, "count": 5}], "posterior": posterior, "replace": False}
    found = answer("demand", text=json.dumps(given))
    chance = np.random.default_rng(2)
    draws = np.exp(chance.multivariate_normal([np.log(24), np.log(2.0)], [[0.01, 0.002], [0.002, 0.02]], 200_000))
    fails = 1 - np.exp((12 / draws[:, 0]) ** draws[:, 1] - (14 / draws[:, 0]) ** draws[:, 1])
    assert found["total"]["expected"] == pytest.approx(5 * fails.mean(), rel=5e-3)
    assert found["pmf"][0] == pytest.approx(((1 - fails) ** 5).mean(), abs=2e-3)
    bad = {**given, "posterior": {**posterior, "covariance": [[1, 2], [2, 1]]}}
    assert "posterior.covariance" in run("demand", "-", text=json.dumps(bad)).stderr


def test_last_buy_is_the_quantile_until_the_last_retirement() -> None:
    by_step = answer("lastbuy", text=json.dumps({"units_by_step": [40, 30, 10], "rate": 0.1}))
    assert by_step["expected"] == pytest.approx(8)
    assert [row["quantity"] for row in by_step["quantity"]] == stats.poisson.ppf([0.5, 0.9, 0.95, 0.99], 8).tolist()
    shrunk = answer("lastbuy", text=json.dumps({"units_by_step": [40, 40], "posterior": {"shape": 4, "rate": 40}, "targets": [0.9]}))
    assert shrunk["quantity"] == [{"target": 0.9, "quantity": stats.nbinom.ppf(0.9, 4, 40 / 120)}]
    units = {"steps": 12, "units": [{"age": 30, "count": 20, "retire_after": 9}], "life": {"shape": 3, "scale": 40}}
    assert answer("lastbuy", text=json.dumps(units))["expected"] == pytest.approx(
        answer("demand", text=json.dumps(units))["total"]["expected"]
    )
    assert run("lastbuy", "-", text='{"units_by_step": [1]}').exit_code == 2


SHELF = {"rate": 0.03, "lead": [{"days": 21, "weight": 0.7}, {"days": 30, "weight": 0.3}], "review_days": 14, "target": 0.95}
NETWORK = {
    "depot": {"lead": [{"days": 21}], "review_days": 14, "pack": 2, "rate": 0.0137},
    "sites": [
        {"site": "GUL", "rate": 0.00274, "lane_days": 4, "every_days": 7},
        {"site": "BRA", "rate": 0.0055, "lane_days": 3, "every_days": 7},
    ],
    "price": 60,
    "target": 0.95,
}


def test_policy_answers_with_what_to_order_and_when() -> None:
    found = answer("policy", text=json.dumps(SHELF))
    assert set(found) == {"s", "Q", "level", "fill", "ready", "cycle", "expected_waiting", "expected_on_hand", "orders_a_year"}
    assert found["level"] == found["s"] + found["Q"]
    assert found["fill"] >= 0.95
    less = answer("policy", text=json.dumps({**SHELF, "target": found["fill"] - 1e-9}))
    assert less["s"] == found["s"]
    today = answer("policy", text=json.dumps({**SHELF, "position": 0, "pack": 4, "order_cost": 25, "holding": 0.2, "price": 60}))
    assert today["due"]
    assert today["quantity"] % today["Q"] == 0
    assert today["quantity"] > today["s"]
    assert today["due_day"] is None
    waiting = answer("policy", text=json.dumps({**SHELF, "position": found["s"] + 2}))
    assert set(waiting["due_day"]) == {"p05", "p50", "p95"}
    cheap = answer("policy", text=json.dumps({**SHELF, "measure": "least-cost", "waiting_cost": 1, "holding": 0.2, "price": 600}))
    dear = answer("policy", text=json.dumps({**SHELF, "measure": "least-cost", "waiting_cost": 100, "holding": 0.2, "price": 600}))
    assert cheap["s"] < dear["s"]


def test_reorder_gives_the_closed_form() -> None:
    found = answer("reorder", text=json.dumps({"rate": 0.05, "lead_time": 30, "r": 2, "Q": 4}))
    positions = np.arange(3, 7)
    assert found["fill_rate"] == pytest.approx(stats.poisson.cdf(positions - 1, 1.5).mean())
    assert found["expected_on_hand"] - found["expected_backorders"] == pytest.approx(positions.mean() - 1.5)
    several = answer("reorder", text=json.dumps({"rate": 0.05, "lead_time": 30, "r": [1, 2], "Q": 4}))
    assert several["levels"][1] == found


def test_network_gives_levels_moves_and_what_given_levels_do() -> None:
    found = answer("network", text=json.dumps({**NETWORK, "on_hand": {"depot": 3, "GUL": 0, "BRA": -1}, "on_order": 0}))
    assert set(found) == {"depot", "sites", "fill", "expected_waiting", "stock_value", "order", "transfers"}
    assert set(found["depot"]) == {"s", "Q", "fill", "expected_backorders"}
    assert found["fill"] >= 0.95
    assert sum(move["quantity"] for move in found["transfers"]) <= 3
    levels = {"depot": {"s": found["depot"]["s"], "Q": 2}, "sites": [site["level"] for site in found["sites"]]}
    again = answer("network", text=json.dumps({**NETWORK, "levels": levels}))
    assert again["sites"] == found["sites"]
    each = answer("network", text=json.dumps({**NETWORK, "per_site": True}))
    assert min(site["fill"] for site in each["sites"]) >= 0.95
    money = answer("network", text=json.dumps({**NETWORK, "budget": 300}))
    assert money["stock_value"] <= 300
    shared = {key: value for key, value in NETWORK.items() if key != "depot"} | {
        "depot": {"lead": [{"days": 21}], "review_days": 14, "units": 5},
        "sites": [{"site": "GUL", "units": 10, "lane_days": 4, "every_days": 7}],
        "posterior": {"shape": 3, "rate": 3000},
    }
    assert answer("network", text=json.dumps(shared))["fill"] >= 0.95


def test_echelon_and_budget_keep_their_keys() -> None:
    bases = [{"rate": 0.1, "repaired_here": 0.2, "repair_time": 5, "order_ship": 3}] * 2
    asked = {"bases": bases, "depot": {"repair_time": 20}, "levels": [{"depot": 4, "bases": [1, 2]}, {"depot": 0, "bases": [0, 0]}]}
    found = answer("echelon", text=json.dumps(asked))
    assert [set(level) for level in found["levels"]] == [{"depot", "bases", "total_expected_backorders"}] * 2
    assert set(found["levels"][0]["depot"]) == {"demand", "pipeline", "expected_backorders", "delay"}
    empty = found["levels"][1]
    assert empty["total_expected_backorders"] == pytest.approx(sum(base["pipeline"] for base in empty["bases"]))
    parts = [{"part": "a", "pipeline": 1.2, "cost": 10}, {"part": "b", "pipeline": 0.5, "cost": 3}]
    bought = answer("budget", text=json.dumps({"parts": parts, "budget": 25}))
    assert {"chosen", "cost", "expected_backorders", "left_over", "swapped", "curve"} == set(bought)
    assert bought["cost"] + bought["left_over"] == pytest.approx(25)


def test_rehearse_answers_each_line_as_soon_as_it_is_played() -> None:
    asked = {"parts": [SHELF, {**NETWORK, "policy": {"depot": {"s": 2, "Q": 2}, "sites": [1, 1]}}], "years": 3, "runs": 30, "seed": 2}
    one = answer("rehearse", text=json.dumps(asked, indent=1))
    assert set(one["all"]) == {
        "fill", "ready", "expected_waiting", "chance_of_waiting_a_year", "orders_a_year", "spent_a_year", "on_hand", "scrapped_a_year"
    }  # fmt: skip
    assert set(one["all"]["fill"]) == {"value", "error"}
    assert one["parts"][1]["policy"] == {"depot": {"s": 2, "Q": 2}, "sites": [1, 1]}
    result = run("rehearse", "-", "--json", text="\n".join(json.dumps({**asked, "seed": seed}) for seed in (2, 3)))
    assert result.exit_code == 0, result.output
    lines = [json.loads(line) for line in result.stdout.splitlines()]
    assert lines[0] == one
    assert lines[1] != one


@pytest.mark.parametrize(
    ("command", "document", "words"),
    [
        ("policy", {**SHELF, "target": 1.0}, "target: an aim above 0 and below 1 was wanted, got 1"),
        ("policy", {**SHELF, "lead": []}, "lead: a list of at least one object"),
        ("policy", {**SHELF, "lead": [{"days": 10, "weight": 0.4}, {"days": 20, "weight": 0.4}]}, "lead: weight"),
        ("policy", {**SHELF, "lead": [{"days": 10.5}]}, "lead[0].days: a whole number was wanted, got 10.5"),
        ("policy", {**SHELF, "rate": -1}, "rate: a number"),
        ("policy", {**SHELF, "order_cost": 5}, "no lot is large enough"),
        ("policy", {**SHELF, "measure": "luck"}, "measure: one of fill, ready, cycle, least-cost"),
        ("reorder", {"rate": 1, "lead_time": 3, "r": [1, 2], "Q": [1, 2, 3]}, "Q: as many as r"),
        ("network", {**NETWORK, "sites": []}, "sites: a list of at least one object"),
        ("network", {**NETWORK, "sites": [{"site": "A", "rate": 1}]}, "sites[0].lane_days"),
        ("network", {**NETWORK, "on_hand": {"XYZ": 1}}, "on_hand.XYZ: one of depot, GUL, BRA"),
        ("network", {**NETWORK, "budget": 1}, "below what is under way"),
        ("network", {**NETWORK, "levels": {"depot": {"s": 1, "Q": 1}, "sites": [1]}}, "levels.sites: a level for each of 2"),
        ("echelon", {"bases": [{"rate": 1}], "depot": {"repair_time": 1}, "levels": []}, "order_ship"),
        ("budget", {"parts": [{"part": "a", "pipeline": 1, "cost": 0}], "budget": 3}, "parts[0].cost"),
        ("rehearse", {"parts": [SHELF], "years": 0, "runs": 3}, "years: a number from 0.01"),
        ("rehearse", {"parts": [{**SHELF, "target": 1}], "years": 1, "runs": 3}, "parts[0].target"),
    ],
)
def test_what_cannot_be_is_named_with_its_place(command: str, document: dict[str, Any], words: str) -> None:
    result = run(command, "-", text=json.dumps(document))
    assert result.exit_code == 2
    assert words in result.stderr


def test_a_line_that_is_no_object_is_named() -> None:
    result = run("rehearse", "-", "--json", text=json.dumps({"parts": [SHELF], "years": 1, "runs": 2}) + "\n[]\n")
    assert result.exit_code == 2
    assert "line 2: an object with keys was wanted" in result.stderr
