"""One more statement of a fact never overwrites what was said before."""

from __future__ import annotations

from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from almanac.core.parts.facts import STRENGTH
from almanac.core.parts.statements import with_statement

STATEMENTS = st.builds(
    lambda value, grade, date: {"value": value, "grade": grade, "source": "x", "date": date},
    st.sampled_from([None, 30, 80, "M.2"]), st.sampled_from(sorted(STRENGTH)), st.sampled_from(["2026-01-02", "2026-05-01"]),
)  # fmt: skip


def said(value: object, grade: str, date: str = "2026-01-02") -> dict[str, Any]:
    return {"value": value, "grade": grade, "source": "x", "date": date}


def test_a_label_does_not_take_the_place_of_what_was_measured() -> None:
    assert with_statement([said(30, "measured")], said(80, "label")) == [said(30, "measured"), said(80, "label")]
    assert with_statement([said(30, "measured")], said(30, "label")) == [said(30, "measured")]


def test_the_same_value_is_said_by_the_stronger_evidence_of_equals_the_later() -> None:
    assert with_statement([said(30, "told")], said(30, "measured")) == [said(30, "measured")]
    assert with_statement([said(30, "told")], said(30, "told", "2026-05-01")) == [said(30, "told", "2026-05-01")]
    assert with_statement([said(30, "told", "2026-05-01")], said(30, "told")) == [said(30, "told", "2026-05-01")]


def test_looked_for_and_not_known_gives_way() -> None:
    assert with_statement([said(None, "measured")], said(30, "told")) == [said(30, "told")]
    assert with_statement([said(30, "told")], said(None, "measured")) == [said(30, "told")]
    assert with_statement([], said(None, "measured")) == [said(None, "measured")]


@given(st.lists(STATEMENTS, max_size=6))
def test_no_value_is_lost_and_none_is_said_twice(statements: list[dict[str, Any]]) -> None:
    found: list[dict[str, Any]] = []
    for one in statements:
        found = with_statement(found, one)
    known = [one["value"] for one in statements if one["value"] is not None]
    assert [one["value"] for one in found if one["value"] is not None] == list(dict.fromkeys(known))
