"""Facts by variant: nobody is told the value of another machine's option."""

from __future__ import annotations

from typing import Any

import pytest

from almanac.core.parts.answers import known
from almanac.core.parts.statements import with_statement
from almanac.core.parts.variants import of_variant
from almanac.core.teardown.checks import page_faults


def said(value: object, when: dict[str, Any] | None = None, grade: str = "label") -> dict[str, Any]:
    return {"value": value, "grade": grade, "source": "x", "date": None, **({"when": when} if when else {})}


SMALL, LARGE = said(8, {"memory": "8 GB"}), said(16, {"memory": ["16 GB", "24 GB"]})
PAGE = {
    "options": {"memory": {"values": ["8 GB", "16 GB", "24 GB"]}},
    "facts": {"memory_soldered_gb": [SMALL, LARGE]},
    "positions": [{"key": "pack", "kind": "battery", "takes": {"voltage_v": [said(11.4), said(15.2, {"memory": "8 GB"})]}}],
}


def held(statements: list[dict[str, Any]]) -> object:
    found = known({"memory_soldered_gb": statements}, "memory_soldered_gb")  # type: ignore[dict-item]
    return found.value if found else None


@pytest.mark.parametrize(
    ("statements", "value"),
    [
        ([SMALL, LARGE], None),
        ([SMALL], None),  # of the other variants nobody said anything
        ([said(8), said(8, {"memory": "8 GB"})], 8),
        ([said(8), LARGE], None),
        ([said(8), said(32, grade="told")], 8),
    ],
)
def test_what_hangs_on_an_option_is_not_known_of_all(statements: list[dict[str, Any]], value: object) -> None:
    assert held(statements) == value


@pytest.mark.parametrize(("option", "soldered", "volts"), [("8 GB", 8, 15.2), ("24 GB", 16, 11.4)])
def test_of_a_machine_its_own_variant_holds(option: str, soldered: int, volts: float) -> None:
    page = of_variant(PAGE, {"memory": option})
    assert known(page["facts"], "memory_soldered_gb").value == soldered  # type: ignore[union-attr]
    assert known(page["positions"][0]["takes"], "voltage_v").value == volts  # type: ignore[union-attr]


def test_a_machine_whose_option_nobody_knows_stays_open() -> None:
    assert of_variant(PAGE, {}) is PAGE
    assert known(of_variant(PAGE, {"radio": "none"})["facts"], "memory_soldered_gb") is None


def test_a_condition_names_an_option_of_the_page() -> None:
    wrong = {**PAGE, "facts": {"memory_soldered_gb": [said(8, {"memory": "9 GB"}), said(4, {"mem": "x"})]}}
    told = [(fault.where, fault.message) for fault in page_faults(wrong) if not fault.open]
    assert (("facts", "memory_soldered_gb", 0, "when", "memory"), "'9 GB' is no value of memory") in told
    assert (("facts", "memory_soldered_gb", 1, "when", "mem"), "no option is called 'mem'") in told
    assert not [fault for fault in page_faults(PAGE) if not fault.open and "when" in fault.where]


def test_the_same_value_of_another_variant_is_another_statement() -> None:
    assert len(with_statement([SMALL], said(8, {"memory": "16 GB"}))) == 2
    assert len(with_statement([SMALL], said(8, {"memory": "8 GB"}, grade="told"))) == 1
