"""Lines typed beside a page: read in the act that keeps them, never over what was measured."""

from __future__ import annotations

from typing import Any

import pytest

from almanac.exchange.pages.typed import TypedLine, take_in

EVIDENCE = {"grade": "measured", "source": "bench", "date": "2026-03-01"}


def page(**more: Any) -> dict[str, Any]:
    return {
        "evidence": EVIDENCE,
        "positions": [
            {"key": "memory_a", "label": "Memory slot A", "kind": "memory"},
            {"key": "pack", "label": "Battery", "kind": "battery", **more},
        ],
        "operations": [{"id": "cover", "text": "Lift the cover", "fasteners": [{"group": "T5", "count": 1}]}],
    }


def test_a_fact_is_read_as_rules_read_it_with_the_pages_evidence() -> None:
    taken = take_in(page(), [TypedLine(("positions", "memory_a", "takes"), "maximum gb: 32"), TypedLine(("facts",), "memory tried gb: 64")])
    assert taken.page["positions"][0]["takes"] == {"maximum_gb": [{**EVIDENCE, "value": 32}]}
    assert taken.page["facts"] == {"memory_tried_gb": [{**EVIDENCE, "value": 64}]}
    assert not taken.faults
    assert not taken.asked


def test_evidence_of_its_own_stands_on_the_line() -> None:
    taken = take_in(page(), [TypedLine(("positions", "memory_a", "takes"), "generation: DDR4 (told: supplier; 2025-02-01)")])
    told = {"value": "DDR4", "grade": "told", "source": "supplier", "date": "2025-02-01"}
    assert taken.page["positions"][0]["takes"]["generation"] == [told]


def test_a_day_nobody_knows_is_said_so() -> None:
    taken = take_in(page(), [TypedLine(("positions", "memory_a", "takes"), "generation: DDR4 (told: supplier; undated)")])
    assert taken.page["positions"][0]["takes"]["generation"] == [{"value": "DDR4", "grade": "told", "source": "supplier", "date": None}]


def test_a_label_states_the_place_and_the_part() -> None:
    line = TypedLine(("positions", "memory_a", "takes"), "16GB 2Rx8 PC4-3200AA-SE1")
    taken = take_in(page(), [line]).page["positions"][0]
    assert taken["takes"]["generation"][0]["value"] == "DDR4"
    assert taken["fitted"]["ranks"] == [{**EVIDENCE, "grade": "label", "value": 2}]
    assert "ranks" not in taken["takes"]


def test_what_a_label_only_implies_is_inferred_and_what_was_measured_stays() -> None:
    measured = {**EVIDENCE, "value": 11.55}
    taken = take_in(page(takes={"voltage_v": [measured]}), [TypedLine(("positions", "pack", "takes"), "11.4V 4000mAh")])
    said = {**taken.page["positions"][1].get("fitted", {}), **taken.page["positions"][1]["takes"]}
    assert said["voltage_v"] == [measured, {**EVIDENCE, "grade": "label", "value": 11.4}]
    assert said["energy_wh"] == [{**EVIDENCE, "grade": "inferred", "value": 45.6}]


def test_a_label_that_names_two_sizes_is_asked() -> None:
    taken = take_in(page(), [TypedLine(("positions", "memory_a", "fitted"), "16GB (2x8GB) DDR4")])
    assert any("kit of 2 x 8 GB" in fault.message for fault in taken.asked)
    assert "capacity_gb" not in taken.page["positions"][0].get("fitted", {})


def test_fasteners_join_those_that_stand_there() -> None:
    taken = take_in(page(), [TypedLine(("operations", "cover", "fasteners"), "6x PH1 M2.5x4 captive")])
    assert [entry["count"] for entry in taken.page["operations"][0]["fasteners"]] == [1, 6]


@pytest.mark.parametrize(
    ("place", "text", "message"),
    [
        (("positions", "memory_a", "takes"), "generaton: DDR4", "generaton"),
        (("positions", "memory_a", "takes"), "generation: DDR9", "wanted, got"),
        (("positions", "memory_a", "takes"), "hello there", "says nothing"),
        (("positions", "gone", "takes"), "generation: DDR4", "was typed for gone"),
        (("operations", "cover", "fasteners"), "many of them", "not understood"),
        (("facts",), "banana", "says nothing"),
    ],
)
def test_a_line_that_cannot_be_read_changes_nothing(place: tuple[str, ...], text: str, message: str) -> None:
    before = page()
    taken = take_in(before, [TypedLine(place, text)])
    assert message in taken.faults[0].message
    assert {name: value for name, value in taken.page.items() if value} == before == page()
