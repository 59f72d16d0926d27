"""Facts that rules read have the shape the rules expect: everything else is a fault at its place, with its cure."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.core.parts.fact_checks import fact_faults
from almanac.core.parts.fact_shapes import ANY_KIND, OF_KIND, OF_MACHINE
from almanac.core.parts.fits.judge import judge
from almanac.core.parts.kinds import Kind


def page(kind: str, part: str, **facts: Any) -> dict[str, Any]:
    stored = {name: [{"value": value, "grade": "measured", "source": "t", "date": "2026-01-01"}] for name, value in facts.items()}
    return {"positions": [{"key": "p", "label": "P", "kind": kind, part: stored}], "operations": []}


@pytest.mark.parametrize(
    ("kind", "facts", "message", "cure"),
    [
        ("ssd", {"lengths_mm": 42}, "a list of whole numbers", "write [42]"),
        ("ssd", {"lengths_mm": ["80"]}, "a list of whole numbers", "leave it out"),
        ("battery", {"voltage_v": "11.55 V"}, "a number without its unit", "write 11.55"),
        ("battery", {"energy_wh": "60,5"}, "a number without its unit", "write 60.5"),
        ("memory", {"grade_mt_s": 3200.5}, "a whole number", "leave it out"),
        ("memory", {"generation": 4}, "a word", "leave it out"),
        ("ssd", {"generation": "Gen4"}, "a whole number", "leave it out"),
        ("ssd", {"bracket": "yes"}, "true or false", "write true"),
        ("battery", {"mount": {"a": "b"}}, "a word, or a list of words", "leave it out"),
        ("ssd", {"thickness_mm": float("inf")}, "a number", "leave it out"),
        ("battery", {"voltage_v": True}, "a number", "leave it out"),
        ("battery", {"capacity_ah": -3}, "a number", "leave it out"),
    ],
)
def test_a_value_of_another_shape_is_a_fault_at_its_place(kind: str, facts: dict[str, Any], message: str, cure: str) -> None:
    found = fact_faults(page(kind, "takes", **facts))
    assert [fault.where for fault in found] == [("positions", 0, "takes", next(iter(facts)))]
    assert message in found[0].message
    assert cure in found[0].cure
    assert not found[0].open


@pytest.mark.parametrize("value", [None, "unknown"])
def test_what_nobody_knows_is_no_fault(value: str | None) -> None:
    assert fact_faults(page("battery", "takes", voltage_v=value, energy_wh=value, mount=value)) == []


def test_facts_of_the_machine_have_shapes_too() -> None:
    whole = {"facts": page("fan", "takes", mains_wait_minutes="ten")["positions"][0]["takes"]}
    assert [fault.where for fault in fact_faults(whole)] == [("facts", "mains_wait_minutes")]


NAMES = sorted({*ANY_KIND, *OF_MACHINE, *(name for _, name in OF_KIND)})
VALUES = st.one_of(
    st.none(), st.booleans(), st.integers(-5, 10**9), st.floats(), st.text(max_size=5), st.lists(st.integers(0, 100) | st.text(max_size=3), max_size=3),
    st.dictionaries(st.text(max_size=3), st.text(max_size=3), max_size=2),
)  # fmt: skip


@given(
    st.sampled_from(list(Kind)),
    st.dictionaries(st.sampled_from(NAMES), VALUES, max_size=6),
    st.dictionaries(st.sampled_from(NAMES), VALUES, max_size=6),
)
def test_no_rule_stumbles_over_facts_that_are_called_sound(kind: Kind, takes: dict[str, Any], fitted: dict[str, Any]) -> None:
    """Whatever a page holds: either it is faulted, or every verdict can be asked."""
    slot, part = page(kind.value, "takes", **takes), page(kind.value, "takes", **fitted)
    if fact_faults(slot) or fact_faults(part):
        return
    judge(slot["positions"][0], kind, part["positions"][0]["takes"])
