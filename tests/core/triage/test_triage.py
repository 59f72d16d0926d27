"""Diagnosis: priors, results, the next test, when a finding is confirmed, and repair against replacement."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.core.errors import ContractError
from almanac.core.life.outcomes import Finding
from almanac.core.parts.kinds import Verdict
from almanac.core.triage.confirm import Evidence, WatchRules, cure_holds, finding_allowed, may_confirm, pair_question
from almanac.core.triage.knowledge import Symptom, symptoms_of
from almanac.core.triage.repair import Costs, GoodPart, harvest_value, remaining_value, weigh
from almanac.core.triage.table import Case, information_bits, next_tests, priors, separates, updated

DOCUMENT: dict[str, Any] = {
    "symptoms": [
        {
            "id": "dark",
            "words": "The screen stays dark",
            "hypotheses": [
                {"id": "flat", "words": "flat battery", "per_100": 6, "trivial": True},
                {"id": "memory", "words": "memory", "kind": "memory", "after": {"drop": 2}},
                {"id": "lead", "words": "display lead", "per_100": 1, "after": {"drop": 4}},
                {"id": "pack", "words": "swollen pack", "per_100": 0.5, "old_age": 3},
            ],
            "tests": [
                {"id": "charge", "words": "charge it", "minutes": 5, "outcomes": ["starts", "dark"], "trivial": True,
                 "otherwise": [0.02, 0.98], "chances": {"flat": [0.97, 0.03]}},
                {"id": "outside", "words": "outside screen", "minutes": 2, "outcomes": ["picture", "dark"],
                 "otherwise": [0.05, 0.95], "chances": {"lead": [0.95, 0.05]}},
                {"id": "light", "words": "press the power button", "minutes": 0.5, "outcomes": ["light", "no light"],
                 "otherwise": [0.7, 0.3]},
                {"id": "look", "words": "look at the pack", "minutes": 4, "outcomes": ["flat", "swollen"], "safety": "pack",
                 "otherwise": [0.99, 0.01], "chances": {"pack": [0.05, 0.95]}},
            ],
        }
    ]
}  # fmt: skip
RULES = WatchRules()


def dark() -> Symptom:
    return symptoms_of(DOCUMENT)[0]


def test_priors_come_from_rates_events_and_age() -> None:
    plain = {row.hypothesis.id: row.prior for row in priors(dark(), Case({"memory": 1.5}))}
    assert plain == pytest.approx({"flat": 6 / 9, "memory": 1.5 / 9, "lead": 1 / 9, "pack": 0.5 / 9})
    dropped = {row.hypothesis.id: row.prior for row in priors(dark(), Case({"memory": 1.5}, ["drop"], old=True))}
    assert dropped["lead"] == pytest.approx(4 / (6 + 3 + 4 + 1.5))
    tested = {row.hypothesis.id: row.weight for row in priors(dark(), Case({"memory": 1.5}, replaced={"memory": 1.0}))}
    half = {row.hypothesis.id: row.weight for row in priors(dark(), Case({"memory": 1.5}, replaced={"memory": 0.5}))}
    assert (tested["memory"], half["memory"], tested["lead"]) == pytest.approx((0.075, 0.75, 1.0))
    with pytest.raises(ContractError, match="no rate of kind memory"):
        priors(dark(), Case({}))


def test_a_result_multiplies_in_and_equal_likelihoods_change_nothing() -> None:
    rows = priors(dark(), Case({"memory": 1.5}))
    charge, light = dark().tests[0], dark().tests[2]
    after = updated(rows, charge, "dark")
    weights = np.array([6 * 0.03, 1.5 * 0.98, 1 * 0.98, 0.5 * 0.98])
    assert [row.posterior for row in after] == pytest.approx((weights / weights.sum()).tolist())
    assert [row.posterior for row in updated(rows, light, "light")] == pytest.approx([row.prior for row in rows])
    assert not separates(rows, light, "light")
    assert separates(rows, charge, "dark")
    with pytest.raises(ContractError, match="outcome"):
        updated(rows, charge, "smoke")


def test_safety_first_then_trivial_then_information_a_minute_and_idle_tests_last() -> None:
    rows = priors(dark(), Case({"memory": 1.5}))
    advice = next_tests(dark(), rows)
    assert [item.test.id for item in advice] == ["look", "charge", "outside", "light"]
    assert advice[-1].bits == 0
    assert "tells nothing" in advice[-1].reason
    cleared = updated(updated(rows, dark().tests[3], "flat"), dark().tests[0], "dark")
    assert next_tests(dark(), cleared, ["look", "charge"])[0].test.id == "outside"


@given(st.lists(st.floats(0.01, 1), min_size=2, max_size=6), st.data())
def test_information_is_the_mutual_information_of_hypothesis_and_outcome(weights: list[float], data: st.DataObject) -> None:
    rows = [[data.draw(st.floats(0.01, 0.99)) for _ in weights]]
    document = {
        "symptoms": [{
            "id": "s", "words": "s",
            "hypotheses": [{"id": f"h{i}", "words": "h", "per_100": weight} for i, weight in enumerate(weights)],
            "tests": [{"id": "t", "words": "t", "minutes": 1, "outcomes": ["a", "b"], "otherwise": [0.5, 0.5],
                       "chances": {f"h{i}": [chance, 1 - chance] for i, chance in enumerate(rows[0])}}],
        }]
    }  # fmt: skip
    (symptom,) = symptoms_of(document)
    table = priors(symptom, Case({}))
    joint = np.array([[row.prior * symptom.tests[0].likelihood(outcome, row.hypothesis.id) for outcome in "ab"] for row in table])
    expected = (joint * np.log2(joint / (joint.sum(0) * joint.sum(1, keepdims=True)))).sum()
    assert information_bits(table, symptom.tests[0]) == pytest.approx(expected, abs=1e-9)
    assert sum(row.posterior for row in updated(table, symptom.tests[0], "a")) == pytest.approx(1)


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"symptoms": []}, "at least one symptom"),
        ({"symptoms": [{"id": "x"}]}, r"symptoms\[0\]: words, hypotheses, tests missing"),
        ({"symptoms": [{"id": "x", "words": "x", "tests": [], "hypotheses": [{"id": "a", "words": "a", "per_100": 1}]}]}, "at least two"),
        ({"symptoms": [{"id": "x", "words": "x", "tests": [], "hypotheses": [{"id": "a", "words": "a"}] * 2}]}, "per_100: how often"),
        ({"symptoms": [{"id": "x", "words": "x", "tests": [], "hypotheses": [{"id": "a", "words": "a", "per_100": 1}] * 2}]}, "used twice"),
    ],
)
def test_faulty_knowledge_names_its_place(change: dict[str, Any], words: str) -> None:
    with pytest.raises(ContractError, match=words):
        symptoms_of(change)


def _with_test(**changes: Any) -> dict[str, Any]:
    symptom = DOCUMENT["symptoms"][0]
    return {"symptoms": [{**symptom, "tests": [{**symptom["tests"][0], **changes}]}]}


@pytest.mark.parametrize(
    ("changes", "words"),
    [
        ({"otherwise": [0.0, 1.0]}, "nothing is ever certain"),
        ({"otherwise": [0.5]}, "2 chances were wanted"),
        ({"chances": {"ghost": [0.5, 0.5]}}, "no hypothesis is called ghost"),
        ({"minutes": 0}, "above 0"),
        ({"outcomes": ["only"]}, "at least two"),
    ],
)
def test_faulty_tests_name_their_place(changes: dict[str, Any], words: str) -> None:
    with pytest.raises(ContractError, match=words):
        symptoms_of(_with_test(**changes))


@pytest.mark.parametrize(
    ("evidence", "verdict"),
    [
        (Evidence(5, 14, proof="swollen"), Verdict.YES),
        (Evidence(5, 14, fails_elsewhere=True), Verdict.YES),
        (Evidence(5, 14), Verdict.UNKNOWN),
        (Evidence(4, 14, proof="swollen"), Verdict.UNKNOWN),
        (Evidence(5, 13, fails_elsewhere=True), Verdict.UNKNOWN),
        (Evidence(5, 14, fails_elsewhere=False), Verdict.NO),
        (Evidence(9, 99, came_back=True, proof="burnt"), Verdict.NO),
    ],
)
def test_confirmed_needs_a_cure_that_holds_and_proof_of_the_old_part(evidence: Evidence, verdict: Verdict) -> None:
    assert may_confirm(evidence, RULES).verdict == verdict


def test_findings_that_contradict_the_evidence_are_refused() -> None:
    assert finding_allowed(Finding.CONFIRMED, Evidence(), RULES, age_days=900).verdict == Verdict.UNKNOWN
    assert finding_allowed(Finding.DEAD_ON_ARRIVAL, Evidence(), RULES, age_days=15).verdict == Verdict.NO
    assert finding_allowed(Finding.DEAD_ON_ARRIVAL, Evidence(), RULES, age_days=14).verdict == Verdict.YES
    assert finding_allowed(Finding.NO_FAULT_FOUND, Evidence(proof="burnt"), RULES, age_days=1).verdict == Verdict.NO
    assert "2 cold starts and 4 days" in cure_holds(Evidence(3, 10), RULES).reason


def test_a_kit_replaced_for_one_bad_module_is_one_failure() -> None:
    assert pair_question([Finding.OPEN, Finding.NO_FAULT_FOUND]) is None
    assert pair_question([Finding.UPGRADE, Finding.UPGRADE]) is None
    assert pair_question([Finding.OPEN]) is None
    assert "one failure" in str(pair_question([Finding.OPEN, Finding.CONFIRMED]))


def test_repair_replace_and_harvest_stand_side_by_side() -> None:
    costs = Costs(labour_per_hour=60, machine_price=1000, machine_years=5, setup_minutes=60)
    options = weigh(costs, parts_price=80, minutes=30, risk_minutes=10, age_years=4, good_parts=[GoodPart("drive", 100, 2)])
    assert options.repair.total == pytest.approx(80 + 30 + 10)
    assert options.replace.total == pytest.approx(1060)
    assert options.harvest.total == pytest.approx(1060 - 70)
    assert options.remaining_value == pytest.approx(200)
    assert options.ratio == pytest.approx(0.6)
    assert options.talk is True
    assert weigh(costs, parts_price=0, minutes=30, risk_minutes=10, age_years=4).talk is False
    assert weigh(costs, parts_price=80, minutes=30, risk_minutes=0, age_years=6).ratio is None
    unknown = weigh(costs, parts_price=None, minutes=30, risk_minutes=10, age_years=4, unpriced=["lid"])
    assert (unknown.repair.total, unknown.repair.least, unknown.ratio, unknown.talk) == (None, 40, None, None)
    assert weigh(costs, parts_price=None, minutes=120, risk_minutes=0, age_years=4, unpriced=["lid"]).talk is True
    with pytest.raises(ContractError):
        weigh(costs, parts_price=-1, minutes=1, risk_minutes=0, age_years=1)


@given(st.floats(0, 5000), st.floats(0, 20), st.floats(0.5, 12))
def test_a_machine_is_never_worth_less_than_nothing(price: float, age: float, life: float) -> None:
    assert 0 <= remaining_value(price, age, life) <= price
    assert 0 <= harvest_value(GoodPart("fan", price, age), 0.15) <= price
