"""Fasteners nobody has counted: asked for at the bench, and what came out becomes a proposal to the page (rule U1)."""

from __future__ import annotations

from typing import Any

import pytest

from almanac.core.workbench.counted import counted_otherwise, with_counts
from almanac.core.workbench.entries import count_questions, refusals
from almanac.core.workbench.journal import Entry, fold
from tests.core.workbench.bench import Technician, notebook, plan_for


def opened(count: Any, said: dict[str, Any]) -> tuple[list[str], list[str], list[str]]:
    """What is refused, asked and proposed where the cover's screws are so many on the page, and somebody says so many."""
    page = notebook()
    page["operations"][0]["fasteners"] = [{"group": "long", "count": count, "captive": said.pop("page_captive", False)}]
    plan = plan_for(page, "fan")
    step = plan.steps[0]
    data = {"step": step.id, **said}
    worker = Technician(plan)
    worker.passes_gates()
    refused = refusals(plan, worker.standing, Entry("step", data))
    standing = fold(plan, [Entry("step", data)])
    return refused, count_questions(step, data), [found.words for found in counted_otherwise(plan, standing)]


@pytest.mark.parametrize(("count", "words"), [(">=2", "at least 2"), ("~3", "about 3"), ("?", "an unknown number")])
def test_what_nobody_counted_is_asked_for(count: str, words: str) -> None:
    refused, _, proposed = opened(count, {})
    assert refused == [f"long: the page says {words}: count those that came out (rule U1)"]
    assert proposed == []
    refused, asked, proposed = opened(count, {"screws": {"long": 3}})
    assert (refused, asked) == ([], [])
    assert proposed == [f"cover: 3 × long came out, the page says {words}"]  # what came out settles it


def test_a_number_somebody_counted_is_not_asked_for_and_a_difference_is_a_question() -> None:
    assert opened(3, {}) == ([], [], [])
    assert opened(3, {"screws": {"long": 3}}) == ([], [], [])
    _, asked, proposed = opened(3, {"screws": {"long": 2}})
    assert asked == ["long: counted 2, the page says 3: which is it?"]
    assert proposed == ["cover: 2 × long came out, the page says 3"]
    _, asked, _ = opened(">=4", {"screws": {"long": 3}})
    assert asked == ["long: counted 3, the page says at least 4: which is it?"]


def test_captive_ones_that_stay_in_need_no_count() -> None:
    refused, _, _ = opened("?", {"captive": {"long": True}, "page_captive": None})
    assert refused == []


def test_the_page_learns_the_number() -> None:
    page = notebook()
    page["operations"][0]["fasteners"] = [{"group": "long", "count": ">=2", "captive": False}]
    plan = plan_for(page, "fan")
    standing = fold(plan, [Entry("step", {"step": plan.steps[0].id, "screws": {"long": 5}})])
    document, proposed, left = with_counts(page, page, counted_otherwise(plan, standing), "job 9")
    assert document["operations"][0]["fasteners"][0]["count"] == 5
    assert document["operations"][0]["fasteners"][0]["note"] == "5 counted, at least 2 before: job 9"
    assert (len(proposed), left) == (1, [])
