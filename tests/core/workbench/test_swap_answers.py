"""A part in the hand is answered before it goes in (rule N12)."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest

from almanac.core.parts.kinds import Kind, Verdict
from almanac.core.workbench.swap_answers import InHand, contradictions, swap_answers, unanswered

FAN = InHand("OF-1", "OF-1", Kind.FAN, Kind.FAN, Verdict.YES, "listed", "OF100000001", None, None, False, 3, "Eldermouth")


@pytest.mark.parametrize(
    ("changes", "question", "verdict", "words"),
    [
        ({}, "part", Verdict.YES, "OF-1 fits here: listed"),
        ({"fit": Verdict.NO, "reason": "another mount"}, "part", Verdict.NO, "OF-1 does not fit here: another mount"),
        ({"fit": None}, "part", Verdict.UNKNOWN, "nobody looked whether OF-1 fits here"),
        ({"kind": Kind.BATTERY}, "part", Verdict.NO, "OF-1 is a battery, this is the place of a fan"),
        ({"part": None}, "part", Verdict.NO, "no part is called OF-1: read the label again"),
        ({}, "serial", Verdict.YES, "OF100000001 is on no record yet"),
        ({"serial": ""}, "serial", Verdict.UNKNOWN, "its serial was not read"),
        ({"serial_part": "OF-2", "serial_at": "in no machine"}, "serial", Verdict.NO, "OF100000001 is on record as OF-2"),
        ({"serial_part": "OF-1", "serial_at": "in SK-1", "away": True}, "serial", Verdict.NO, "OF100000001 is on record in SK-1"),
        ({"serial_part": "OF-1", "serial_at": "in this machine"}, "serial", Verdict.YES, "OF100000001 is on record in this machine"),
        ({}, "shelf", Verdict.YES, "3 on the shelf at Eldermouth"),
        ({"shelf": 0}, "shelf", Verdict.UNKNOWN, "the shelf at Eldermouth books none: say at the closing where it came from"),
    ],
)
def test_each_question_has_its_answer(changes: dict[str, Any], question: str, verdict: Verdict, words: str) -> None:
    [answer] = [one for one in swap_answers(replace(FAN, **changes)) if one.question == question]
    assert (answer.verdict, answer.words) == (verdict, words)


def test_memory_is_answered_as_a_pair() -> None:
    module = replace(FAN, kind=Kind.MEMORY, wanted=Kind.MEMORY, part="LM-1", asked="LM-1")
    assert [one.question for one in swap_answers(module)] == ["part", "serial", "shelf"]
    assert swap_answers(replace(module, beside=["LM-1"]))[-1].words == "a pair with what it holds"
    assert swap_answers(replace(module, beside=["LM-2"]))[-1].verdict == Verdict.UNKNOWN
    assert [one.question for one in swap_answers(replace(FAN, beside=["OF-2"]))] == ["part", "serial", "shelf"]


def test_a_no_wants_a_reason_and_a_shelf_that_books_too_little_never_does() -> None:
    assert contradictions(swap_answers(replace(FAN, shelf=0))) == []
    wrong = swap_answers(replace(FAN, fit=Verdict.NO, reason="another mount", away=True, serial_at="in SK-1", serial_part="OF-1"))
    assert len(contradictions(wrong)) == 2
    assert [words.split("; ")[1] for words in unanswered({}, wrong)] == ["another one, or say why it is fitted all the same"] * 2
    assert unanswered({"reason": "  "}, wrong) != []
    assert unanswered({"reason": "the maker said so"}, wrong) == []
