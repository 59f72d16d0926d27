"""Results as a whole, what a test tells in words, and what a complaint is about."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.core.errors import ContractError
from almanac.core.triage.complaint import ranked
from almanac.core.triage.knowledge import Symptom, symptoms_of
from almanac.core.triage.results import Result, conflict_bits, conflicts, heard
from almanac.core.triage.table import Case, Row, priors, updated
from almanac.core.triage.tells import apart, tells
from almanac.exchange.diagnosis.read import standard
from tests.core.triage.test_triage import DOCUMENT, dark


def table() -> tuple[Symptom, list[Row]]:
    return dark(), priors(dark(), Case({"memory": 1.5}))


def test_a_second_look_at_the_same_thing_is_no_second_witness() -> None:
    found = heard(dark(), [Result("outside", "picture"), Result("charge", "dark"), Result("outside", "picture")])
    assert [(test.id, result.outcome) for test, result in found.counted] == [("charge", "dark"), ("outside", "picture")]
    assert found.contradicting == []


def test_two_answers_to_one_test_count_for_neither() -> None:
    both = [Result("outside", "picture"), Result("outside", "dark")]
    found = heard(dark(), [*both, Result("charge", "dark"), Result("ghost", "dark"), Result("charge", "never")])
    assert [test.id for test, _ in found.counted] == ["charge"]
    assert [(test.id, results) for test, results in found.contradicting] == [("outside", both)]


def test_an_answer_of_this_job_stands_for_one_of_an_earlier_one() -> None:
    found = heard(dark(), [Result("outside", "picture", 7), Result("charge", "dark", 7), Result("outside", "dark")])
    assert [(test.id, result.outcome, result.job) for test, result in found.counted] == [("charge", "dark", 7), ("outside", "dark", None)]
    assert found.contradicting == []


def test_results_that_hardly_go_together_are_named() -> None:
    symptom, rows = table()
    charge, outside = symptom.tests[0], symptom.tests[1]
    # Flat battery: it starts once charged, and nothing but a display lead gives an outside picture alone.
    p_start = (6 * 0.97 + 3 * 0.02) / 9
    p_picture = (8 * 0.05 + 1 * 0.95) / 9
    p_both = (6 * 0.97 * 0.05 + 2 * 0.02 * 0.05 + 1 * 0.02 * 0.95) / 9
    bits = conflict_bits(rows, (charge, "starts"), (outside, "picture"))
    assert bits == pytest.approx(math.log2(p_start * p_picture / p_both))
    assert conflict_bits(rows, (outside, "picture"), (charge, "starts")) == pytest.approx(bits)
    assert conflict_bits(rows, (symptom.tests[2], "light"), (outside, "picture")) == pytest.approx(0)
    rare = heard(symptom, [Result("charge", "starts"), Result("outside", "picture")])
    assert 0 < bits < 2
    assert conflicts(rows, rare.counted) == [], "a little rarer together is no contradiction"
    made = heard(symptom, [Result("charge", "starts"), Result("look", "swollen"), Result("outside", "dark")])
    assert [(one[0].id, other[0].id) for one, other in conflicts(rows, made.counted)] == [("charge", "look")]


def test_what_a_test_tells_is_said_plainly() -> None:
    symptom, rows = table()
    said = {test.id: tells(rows, test) for test in symptom.tests}
    assert said["charge"] == "tells “flat battery” from all else"
    assert said["light"] == ""
    two = [row for row in rows if row.hypothesis.id in ("flat", "lead")]
    assert tells(two, symptom.tests[1]) == "tells “display lead” from “flat battery”" or tells(two, symptom.tests[1]).startswith("tells")
    cleared = updated(rows, symptom.tests[0], "dark")
    assert tells(cleared, symptom.tests[3]) == "tells “swollen pack” from all else"


@given(st.sampled_from([test for symptom in standard() for test in symptom.tests]))
def test_hypotheses_answer_a_test_between_alike_and_one_bit_apart(test: object) -> None:
    names = [*test.chances, "any other"]  # type: ignore[attr-defined]
    for one in names:
        assert apart(test, one, one) == pytest.approx(0)  # type: ignore[arg-type]
        for other in names:
            assert 0 <= apart(test, one, other) + 1e-12 <= 1 + 1e-9  # type: ignore[arg-type]
            assert apart(test, one, other) == pytest.approx(apart(test, other, one))  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("words", "symptom"),
    [
        ("Laptop hangs", "freezes"),
        ("swtiches itself on at night", "wakes_itself"),
        ("battery drops from 40% to zero", "charges_not_holds"),
        ("no sound from the speakers", "no_sound"),
        ("wifi keeps dropping", "no_radio"),
        ("Coffee spilled over the keybord", "keys_dead"),
        ("cannot open my files", "loses_files"),
        ("gets very hot, but the fan is silent", "hot_quiet"),
        ("won't wake up after the lid was closed", "does_not_wake"),
        ("the clock is wrong every morning", "clock_wrong"),
        ("black screen", "dark_screen"),
        ("loud fan", "loud_fan"),
        ("the fan makes noises", "loud_fan"),
    ],
)
def test_free_words_find_their_symptom(words: str, symptom: str) -> None:
    assert ranked(words, standard())[0][0].id == symptom


def test_a_word_counts_the_more_the_fewer_symptoms_know_it() -> None:
    assert [symptom.id for symptom, _ in ranked("sound", standard())] == ["no_sound"]
    shares = {symptom.id: share for symptom, share in ranked("battery crackles", standard())}
    assert shares["no_sound"] > max(share for name, share in shares.items() if name != "no_sound")


@pytest.mark.parametrize("words", ["", "it was fine", "Bildschirm", "???", "12 34"])
def test_nothing_is_guessed_from_words_nobody_knows(words: str) -> None:
    assert ranked(words, standard()) == []


@given(st.text(max_size=60))
def test_shares_are_shares(words: str) -> None:
    shares = [share for _, share in ranked(words, standard())]
    assert all(0 < share <= 1 + 1e-9 for share in shares)
    assert shares == sorted(shares, reverse=True)


def test_words_people_say_are_read_as_a_list() -> None:
    entry = {**DOCUMENT["symptoms"][0], "said": ["no picture"]}
    assert symptoms_of({"symptoms": [entry]})[0].said == ("no picture",)
    with pytest.raises(ContractError, match=r"symptoms\[0\].said: a list of words"):
        symptoms_of({"symptoms": [{**entry, "said": "no picture"}]})


def test_every_complaint_that_ships_can_be_told_apart() -> None:
    rates = {"memory": 2.0, "ssd": 2.0, "battery": 4.0, "fan": 3.0}
    assert len(standard()) == 16
    for symptom in standard():
        rows = priors(symptom, Case(rates))
        assert any(tells(rows, test) for test in symptom.tests)
        for row in rows[1:]:
            assert any(apart(test, rows[0].hypothesis.id, row.hypothesis.id) > 0.01 for test in symptom.tests), symptom.id
