"""What a page leaves open, ranked by what an answer would change (rule U5)."""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import suppress
from typing import Any

import pytest

from almanac.core.parts.declared.facts import FACTS, FactSpec, Subject
from almanac.core.parts.declared.values import Impossible
from almanac.core.parts.facts import Fact
from almanac.core.parts.faults import Cause, PageFault, Stake
from almanac.core.parts.kinds import Kind
from almanac.core.parts.questions import OpenQuestion, questions_of, ranked
from almanac.core.parts.worth import Candidate, decided_by, weighed
from almanac.core.teardown.checks import page_faults


def said(value: Any, grade: str = "measured") -> list[Fact]:
    return [Fact(value=value, grade=grade, source="bench", date="2026-01-02")]


def slot(**takes: Any) -> dict[str, Any]:
    return {"key": "memory_a", "label": "Slot A", "kind": "memory", "serviceability": "socketed", "takes": takes}


def module(number: str, generation: str = "DDR4", capacity: int = 16, **more: Any) -> Candidate:
    facts: dict[str, Fact | Sequence[Fact]] = {
        "form": said("SO-DIMM", "label"),
        "generation": said(generation, "label"),
        "capacity_gb": said(capacity, "label"),
    }
    return Candidate(number, facts, **more)


KNOWN = {"form": said("SO-DIMM"), "generation": said("DDR4"), "maximum_gb": said(32)}


def test_danger_stands_before_decisions_before_minutes_before_the_record() -> None:
    stakes = [Stake.RECORD, Stake.MINUTES, Stake.DANGER, Stake.DECISION]
    found = ranked([OpenQuestion("x", str(stake), "", stake, size) for stake in stakes for size in (1.0, 5.0)])
    assert [question.stake for question in found] == sorted(stakes * 2)
    assert [question.size for question in found] == [5.0, 1.0] * 4


def test_one_cause_is_one_line() -> None:
    faults = [
        PageFault(
            ("operations", n, "minutes"),
            f"s{n} untimed",
            "time it",
            True,
            cause=Cause("{n} steps nobody timed", f"s{n}", Stake.MINUTES, 2.0),
        )
        for n in range(6)
    ]
    (line,) = questions_of([*faults, PageFault(("facts",), "kept so", "nothing", open=True, noted=True)], {})
    assert line.text == "6 steps nobody timed: s0, s1, s2, s3 and 2 more"
    assert line.worth == "12.0 min of the ways in rest on it"
    (alone,) = questions_of(faults[:1], {})
    assert alone.text == "s0 untimed"


def test_a_fact_decides_the_parts_whose_verdict_it_turns() -> None:
    unknown = slot(**{**KNOWN, "generation": said(None)})
    assert decided_by(unknown, "generation", [module("A"), module("B", "DDR5")]) == ["A", "B"]
    assert decided_by(unknown, "generation", [module("A", listed=True)]) == []
    graded = Candidate("A", {**module("A").facts, "grade_mt_s": said(3200, "label")})
    assert decided_by(slot(**KNOWN), "grade_mt_s", [graded]) == []  # whatever the slot's grade, it fits: only the speed differs
    size = slot(**{**KNOWN, "maximum_gb": said(None)})
    assert decided_by(size, "maximum_gb", [module("A"), module("B", "DDR5")]) == ["A"]  # the other never fits, whatever the size


def test_what_an_answer_decides_is_said_with_the_machines_it_concerns() -> None:
    whole = {"positions": [slot(**{**KNOWN, "generation": said(None), "grade_mt_s": said(None)})]}
    found = weighed(questions_of([], whole), whole, {Kind.MEMORY: [module("LD-80512")]}, 412)
    assert [(question.fact, question.stake) for question in found] == [("generation", Stake.DECISION), ("grade_mt_s", Stake.RECORD)]
    assert found[0].worth == "decides whether LD-80512 fits 412 machines"
    assert found[1].worth == ""


def test_hearsay_that_decides_is_asked_before_hearsay_that_does_not() -> None:
    whole = {"positions": [slot(**{**KNOWN, "grade_mt_s": said(3200, "told"), "generation": said("DDR4", "told")})]}
    found = weighed(questions_of([], whole), whole, {Kind.MEMORY: [module("A"), module("B"), module("C")]}, 1)
    assert found[0].text == "Slot A, generation: DDR4, only told"
    assert found[0].worth == "decides whether A, B and 1 more fit 1 machine"


def test_what_a_slot_takes_in_length_is_worth_a_look() -> None:
    entry = {
        "key": "d",
        "kind": "ssd",
        "takes": {"form": said("M.2"), "bus": said(["NVMe"]), "lengths_mm": said(None), "double_sided": said(True)},
    }
    drive = Candidate("D", {"form": said("M.2"), "bus": said("NVMe"), "length_mm": said(80), "sides": said(1)})
    assert decided_by(entry, "lengths_mm", [drive]) == ["D"]


def test_how_a_part_is_held_decides_what_is_ordered() -> None:
    whole = {
        "positions": [
            {"key": "keyboard", "label": "Keyboard", "kind": "keyboard", "serviceability": "unknown", "part_of": "palm_rest"},
            {"key": "palm_rest", "label": "Palm rest", "kind": "palm_rest", "serviceability": "screwed"},
        ]
    }
    (question,) = weighed(questions_of([], whole), whole, {}, 22)
    assert question.worth == "decides whether it or the palm rest is ordered (22 machines)"
    assert question.stake == Stake.DECISION


def test_a_page_that_does_not_cut_the_power_asks_that_first() -> None:
    page = {
        "page_format": 2,
        "positions": [slot(**KNOWN)],
        "operations": [{"id": "out", "text": "Out", "frees": ["memory_a"], "seal": None}],
    }
    found = questions_of(page_faults(page), page)
    assert [question.stake for question in found[:2]] == [Stake.DANGER, Stake.DANGER]
    assert "cuts the power" in found[0].text
    assert "seal" in found[1].text
    assert [question.stake for question in found[2:]] == [Stake.MINUTES, Stake.RECORD]


@pytest.mark.parametrize(
    "spec", [spec for spec in FACTS if Subject.PLACE in spec.of], ids=lambda spec: f"{spec.kinds[0].value}-{spec.name}"
)
def test_every_fact_of_a_place_can_be_weighed(spec: FactSpec) -> None:
    """Whatever is open, supposing its values breaks no rule of fit."""
    for kind in spec.kinds:
        for number in ("whole", "bare"):
            own: dict[str, Fact | Sequence[Fact]] = {
                other.name: said(_some(other), "label") for other in FACTS if kind in other.kinds and Subject.PART in other.of
            }
            part = Candidate(number, own if number == "whole" else {})
            takes = {other.name: said(_some(other)) for other in FACTS if kind in other.kinds and Subject.PLACE in other.of}
            entries: list[dict[str, Any]] = [{"kind": kind.value, "takes": takes}, {"kind": kind.value, "takes": {}}]
            for entry in entries:
                decided_by(entry, spec.name, [part])


def _some(spec: FactSpec) -> Any:
    """Any value the fact may have."""
    for given in (*spec.type.allowed, 2, [80], "word", {"black": "main"}):
        with suppress(Impossible):
            return spec.type.understood(given)
    raise AssertionError(spec.name)
