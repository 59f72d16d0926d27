"""`calc forecast`, `calc fade`, `calc watch` and `page check --json` as somebody scripts them."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest
from click.testing import CliRunner, Result

from almanac.cli import main

COMPANY: dict[str, Any] = {
    "kind": "battery",
    "school": "auto",
    "years": 1,
    "tenures": [["a", 0, 2.5, 1], ["a", 0, 3.1, 1], ["a", 0, 3.5, 0, 60], ["b", 0, 2, 0, 100], ["b", None, 1, 1, 1, 1.0, 4.0, 1]],
    "in_service": [["a", 3.5, 60], ["b", 2.0, 100], ["b", None, 3, 1.5, 5, 1]],
}


def run(*arguments: str, text: str | None = None) -> Result:
    return CliRunner().invoke(main, list(arguments), input=text)


def forecast(document: dict[str, Any]) -> dict[str, Any]:
    result = run("calc", "forecast", "-", "--json", text=json.dumps(document))
    assert result.exit_code == 0, result.output
    found: dict[str, Any] = json.loads(result.stdout)
    return found


def test_a_forecast_has_its_keys_and_adds_up() -> None:
    found = forecast(COMPANY)
    assert {"expected", "p05", "p25", "p50", "p75", "p95", "pools", "weight_wear_out", "shape"} <= set(found)
    assert "trend" not in found
    assert [set(pool) for pool in found["pools"]] == [{"pool", "expected", "p05", "p50", "p95"}] * 2
    assert sum(pool["expected"] for pool in found["pools"]) == pytest.approx(found["expected"])
    assert found["p05"] <= found["p25"] <= found["p50"] <= found["p75"] <= found["p95"]
    assert found == forecast(COMPANY)
    drifting = forecast({**COMPANY, "trend": True, "ended": [1, 0.4, 0, 0, 0.2]})
    assert set(drifting["trend"]) == {"p05", "p50", "p95"}


def test_each_school_says_its_own() -> None:
    constant, worn = (forecast({**COMPANY, "school": school}) for school in ("constant", "wear-out"))
    assert (constant["weight_wear_out"], worn["weight_wear_out"]) == (0.0, 1.0)
    assert constant["shape"] is None
    assert worn["expected"] > constant["expected"]


def test_groups_share_a_shape_and_evidence_grows_old() -> None:
    one = forecast({**COMPANY, "groups": {"a": "cells", "b": "cells"}})
    assert one["expected"] != forecast(COMPANY)["expected"]
    ended = [3, 3, 0, 0, 3]
    aged = forecast({**COMPANY, "school": "constant", "half_life": 2, "ended": ended})
    assert aged["failures"] < 3
    assert aged["expected"] < forecast({**COMPANY, "school": "constant"})["expected"]


def test_each_line_is_answered() -> None:
    lines = [COMPANY, {**COMPANY, "years": 2}]
    result = run("calc", "forecast", "-", "--json", text="\n".join(map(json.dumps, lines)))
    first, second = map(json.loads, result.stdout.splitlines())
    assert first == forecast(COMPANY)
    assert second["expected"] > first["expected"]


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"kind": "wheel"}, "kind: one of memory, ssd, battery, fan was wanted"),
        ({"half_life": 0.02}, "half_life: a number from 0.25"),
        ({"trend": True}, "ended: years before the as-of day were wanted for each of 5 tenures"),
        ({"trend": "yes"}, "trend: true or false"),
        ({"tenures": [["a", 2, 1, 0]]}, "tenures[0][2]: the exit (1) lies before the entry (2)"),
        ({"tenures": [["a", 0, 1, 2]]}, "tenures[0][3]: failed is 0 or 1"),
        ({"tenures": [["a", None, 1, 0, 1, 4, 2]]}, "tenures[0][6]: the span ends (2) before it begins (4)"),
        ({"tenures": [["a", None, 1, 0]]}, "tenures[0][5]: a number"),
        ({"tenures": [["a", 1, 1, 0]]}, "no unit was at risk"),
        ({"in_service": [["a", -1, 2]]}, "in_service[0][1]"),
        ({"groups": ["a"]}, "groups: an object of pool to group"),
        ({"years": 0}, "years: a number from 0.001"),
    ],
)
def test_what_no_forecast_can_be_made_of_is_named(change: dict[str, Any], words: str) -> None:
    result = run("calc", "forecast", "-", "--json", text=json.dumps({**COMPANY, **change}))
    assert (result.exit_code, words in result.stderr) == (2, True), result.output


READINGS = "unit,date,full,design,fitted_on\n" + "\n".join(
    f"u{unit},2026-{month:02d}-01,{60 - 0.3 * month - unit / 4:.2f},60,2025-01-01" for unit in range(6) for month in (1, 4, 7, 10)
)


def fade(text: str, *arguments: str) -> Result:
    return run("calc", "fade", "-", "--json", *arguments, text=text)


def test_fade_says_when_each_pack_crosses() -> None:
    result = fade(READINGS, "--as-of", "2026-11-01", "--threshold", "0.85", "--days", "730")
    found = json.loads(result.stdout)
    assert set(found["units"][0]["p_crossed"]) == {"180", "365"}
    assert all(unit["day"]["p05"] <= unit["day"]["p50"] <= unit["day"]["p95"] for unit in found["units"])
    assert all(unit["p_crossed"]["180"] <= unit["p_crossed"]["365"] for unit in found["units"])
    assert 0 < found["expected"] <= 6
    assert sum(found["groups"][0]["weight"].values()) == pytest.approx(1.0)


def test_fade_says_what_is_odd_and_drops_nothing_in_silence() -> None:
    odd = "\nv,2026-01-01,50,60,\nv,2026-01-01,51,60,\nv,2026-05-01,66,60,\nv,2026-06-01,40,50,\nv,2026-12-01,48,60,\nw,2026-12-01,40,60,"
    found = json.loads(fade(READINGS + odd, "--as-of", "2026-11-01", "--threshold", "0.9").stdout)
    units = {unit["unit"]: unit for unit in found["units"]}
    notes = " · ".join(units["v"]["notes"])
    for words in ("two readings on", "rises from", "110% of the design", "differs from reading to reading", "left out", "due already"):
        assert words in notes, words
    assert units["w"]["p_crossed"] is None
    assert "no reading" in units["w"]["notes"][0]


@pytest.mark.parametrize(
    ("line", "words"),
    [
        ("x,2026-13-01,50,60,", "line 2, column date: a date"),
        ("x,2026-01-01,50,0,", "line 2, column design: a capacity above 0"),
        ("x,2026-01-01,200,60,", "more than twice the design capacity"),
        ("x,2026-01-01,0,60,", "line 2, column full: a capacity above 0"),
        ("x,2026-01-01,50,60,2026-03-01", "before it was fitted"),
    ],
)
def test_fade_names_what_is_wrong(line: str, words: str) -> None:
    result = fade(f"unit,date,full,design,fitted_on\n{line}\n")
    assert (result.exit_code, words in result.stderr) == (2, True), result.output


def test_watch_says_which_chart_speaks_and_since_when() -> None:
    loud = [0, 0, 1, 0, 3, 4, 3, 2]
    rows = [f"loud,2026-{i + 1:02d},{count},0.5,0.1" for i, count in enumerate(loud)]
    rows += [f"still,2026-{i + 1:02d},{int(i == 3)},0.5," for i in range(8)]
    result = run(
        "calc", "watch", "-", "--json", "--years-between-false-alarms", "5", text="\n".join(["chart,period,failures,expected,cv", *rows])
    )
    charts = {chart["chart"]: chart for chart in json.loads(result.stdout)["charts"]}
    assert (charts["loud"]["since"], charts["still"]["alarm"]) == ("2026-05", None)
    assert charts["loud"]["alarm"] in ("2026-05", "2026-06", "2026-07")
    assert charts["loud"]["observed"] > charts["loud"]["expected"]
    assert {"chart", "alarm", "since", "statistic", "limit", "observed", "expected"} <= set(charts["still"])


@pytest.mark.parametrize(
    ("rows", "words"),
    [
        ("a,1,1.5,0.5,\n", "a whole number was wanted"),
        ("a,1,1,0.5,\na,1,1,0.5,\n", "a has 1 twice"),
        ("a,1,1,0.5,0.1\na,2,1,0.5,0.2\n", "another cv"),
        ("a,1,0,0,\n", "nothing is expected in any period"),
        ("a,,1,0.5,\n", "the name or number of a period"),
    ],
)
def test_watch_names_what_is_wrong(rows: str, words: str) -> None:
    result = run("calc", "watch", "-", text=f"chart,period,failures,expected,cv\n{rows}")
    assert (result.exit_code, words in result.stderr) == (2, True), result.output


def test_periods_come_in_their_order_however_they_are_listed() -> None:
    rows = [f"a,{period},{count},0.5" for period, count in ((10, 4), (2, 0), (9, 3), (1, 0))]
    answers = [
        json.loads(run("calc", "watch", "-", "--json", text="\n".join(["chart,period,failures,expected", *order])).stdout)
        for order in (rows, sorted(rows), rows[::-1])
    ]
    assert answers[0] == answers[1] == answers[2]
    assert answers[0]["charts"][0]["since"] == "9"


def test_page_check_as_a_document(tmp_path: Path) -> None:
    sound = Path(__file__).resolve().parents[2] / "almanac" / "demo" / "pages" / "brindwell-counter-20.yaml"
    result = run("page", "check", str(sound), "--json")
    assert (result.exit_code, json.loads(result.stdout)["faults"]) == (0, [])
    broken = tmp_path / "broken.yaml"
    broken.write_text(sound.read_text().replace("family:", "famly:", 1))
    result = run("page", "check", str(broken), str(tmp_path / "none.yaml"), "--json")
    assert result.exit_code == 2
    first, second = (json.loads(line) for line in result.stdout.splitlines())
    assert [set(fault) for fault in first["faults"]] == [{"line", "place", "wanted", "got", "cure"}] * 2
    assert {fault["place"] for fault in first["faults"]} == {"family", "famly"}
    assert "cannot be read" in second["faults"][0]["wanted"]
