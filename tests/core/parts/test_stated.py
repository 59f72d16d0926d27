"""How a part is held and what is ordered for it, graded and disputed like any fact (rule U3)."""

from __future__ import annotations

from typing import Any

import pytest

from almanac.core.parts.contradictions import contradicted
from almanac.core.parts.escalation import ordered_unit
from almanac.core.parts.fits.judge import judge
from almanac.core.parts.holding import held_of
from almanac.core.parts.kinds import Kind, Serviceability, Verdict
from almanac.core.parts.page import positions_of
from almanac.core.parts.questions import questions_of
from almanac.core.parts.stated import differing, said


def one(value: Any, grade: str = "measured", date: str = "2026-01-02") -> dict[str, Any]:
    return {"value": value, "grade": grade, "source": "desk", "date": date}


def place(**more: Any) -> dict[str, Any]:
    return {"key": "keys", "label": "Keyboard", "kind": "keyboard", "part_of": "rest", **more}


REST = {"key": "rest", "label": "Palm rest", "kind": "palm_rest", "serviceability": "screwed"}


def unit_of(**more: Any) -> tuple[tuple[str, ...], str]:
    held = {entry["key"]: held_of(entry) for entry in (REST, place(**more))}
    unit = ordered_unit("keys", held)
    return unit.units, unit.reason


@pytest.mark.parametrize(
    ("entry", "value", "doubt"),
    [
        ("screwed", "screwed", ""),
        (None, None, ""),
        ([one("screwed", "told")], "screwed", "only told"),
        ([one("screwed", "document")], "screwed", ""),
        ([one("screwed", "told"), one("staked", "document")], "staked", "sources differ (screwed or staked)"),
        ([one("screwed", "told"), one("staked")], "staked", ""),
        ([one("screwed"), one("in_assembly", date="2026-02-01")], "in_assembly", "sources differ (screwed or in assembly)"),
        ([one(None, "told")], None, ""),
    ],
)
def test_the_strongest_holds_and_a_doubt_is_named(entry: Any, value: Any, doubt: str) -> None:
    found = said(entry)
    assert (found.value, found.doubt) == (value, doubt)


def test_what_depends_on_an_option_is_no_dispute() -> None:
    assert differing([{**one(8), "when": {"memory": "8"}}, {**one(16), "when": {"memory": "16"}}]) == ()
    assert differing([one(8, "told"), one(16, "told")]) == (8, 16)


def test_what_is_ordered_follows_what_holds_and_says_what_it_rests_on() -> None:
    assert unit_of(serviceability="staked") == (("rest",), "staked, not ordered alone: the assembly is ordered")
    assert unit_of(serviceability=[one("staked", "told")]) == (("rest",), "staked, not ordered alone: the assembly is ordered (only told)")
    assert unit_of(serviceability=[one("screwed")]) == (("keys",), "screwed: ordered as itself")
    units, reason = unit_of(serviceability="screwed", orderable=[one(value=False, grade="told")])
    assert units == ("rest",)
    assert reason.endswith("(whether it is ordered alone: only told)")
    assert unit_of(serviceability=[one(None)])[0] == ("keys", "rest")


def test_a_page_is_read_with_what_holds() -> None:
    page = {"positions": [REST, place(serviceability=[one("soldered", "told")], ordered_unit=[one("kit 7", "told"), one("kit 8")])]}
    spec = next(spec for spec in positions_of(page) if spec.key == "keys")
    assert (spec.serviceability, spec.ordered_unit) == (Serviceability.SOLDERED, "kit 8")
    slot = {"key": "a", "label": "A", "kind": "memory", "serviceability": [one("soldered")]}
    assert judge(slot, Kind.MEMORY, {}).answer.verdict == Verdict.NO


def test_hearsay_and_dispute_are_asked_once_each() -> None:
    page = {
        "positions": [
            REST,
            place(serviceability=[one("staked", "told")], orderable=[one(value=True, grade="told"), one(value=False, grade="document")]),
        ]
    }
    asked = {question.text: question.worth for question in questions_of([], page)}
    assert asked == {
        "how Keyboard is held: only told": "decides what is ordered",
        "whether Keyboard is ordered alone: sources differ (yes or no)": "decides what is ordered",
    }
    assert questions_of([], {"positions": [REST, place(serviceability=[one("staked", "told"), one("staked")])]}) == []


def test_what_was_seen_to_be_held_one_way_is_contradicted_by_another() -> None:
    before = {"positions": [place(serviceability=[one("staked")])]}
    assert contradicted(before, before) == []
    assert contradicted(before, {"positions": [place(serviceability="screwed")]}) == ["Keyboard was seen to be staked, now it is screwed"]
    assert (
        contradicted({"positions": [place(serviceability=[one("staked", "told")])]}, {"positions": [place(serviceability="screwed")]}) == []
    )
