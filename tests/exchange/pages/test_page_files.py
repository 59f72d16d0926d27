"""Page files: read with every fault at its line, written back equal, hostile ones refused."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest

from almanac.calculator.pages import check, file_name, read_page_at
from almanac.core.parts.answers import known
from almanac.core.parts.inheritance import inherit
from almanac.exchange.pages.read import check_page, read_page, validate_page
from almanac.exchange.pages.write import write_page

PAGES = Path(__file__).parents[3] / "almanac" / "demo" / "pages"
HEAD = """page_format: 1
maker: Ostrel
name: Test
family: Test
form: notebook
evidence: {grade: measured, source: bench, date: 2026-01-02}
"""


def messages(text: str) -> list[str]:
    return [str(fault) for fault in read_page(text.encode()).faults]


@pytest.mark.parametrize("path", sorted(PAGES.glob("*.yaml")), ids=lambda path: path.stem)
def test_the_demo_pages_are_sound_and_round_trip(path: Path) -> None:
    lines, sound = check(str(path))
    assert sound, lines
    found, whole = read_page_at(str(path))
    assert found.page is not None
    assert whole is not None
    assert file_name(f"{found.page['maker']} {found.page['name']}") == path.name
    assert read_page(write_page(found.page)).page == found.page


def test_short_facts_take_the_pages_evidence_and_conflicts_stay() -> None:
    text = (
        HEAD
        + "positions:\n  - key: a\n    label: A\n    kind: memory\n    takes:\n      form: SO-DIMM\n      maximum_gb: [{value: 8, grade: told, source: x}, {value: 16, grade: label}]\n"
    )
    page = read_page(text.encode()).page
    assert page is not None
    takes = page["positions"][0]["takes"]
    assert takes["form"] == [{"value": "SO-DIMM", "grade": "measured", "source": "bench", "date": "2026-01-02"}]
    held = known(takes, "maximum_gb")
    assert held is not None
    assert held.value == 16
    assert len(takes["maximum_gb"]) == 2


@pytest.mark.parametrize(
    ("addition", "line", "words"),
    [
        ("wings: 2\n", 7, "wings"),
        ("plan: {width_mm: 14, depth_mm: 220}\n", 7, "in inches? 14 in is 356 mm"),
        ("positions:\n  - key: a\n    label: A\n    kind: toaster\n", 10, "kind"),
        (
            "positions:\n  - key: a\n    label: A\n    kind: ssd\n    takes: {form: M.2, lengths_mm: [50]}\n",
            11,
            "one of 30, 42, 60, 80, 110",
        ),
        ("positions:\n  - key: a\n    label: A\n    kind: ssd\n    takes: {thickness_mm: 0.28}\n", 11, "in inches? 7.11 mm"),
        (
            "positions:\n  - key: a\n    label: A\n    kind: memory\n    takes: {generation: DDR4, grade_mt_s: 3100}\n",
            11,
            "no grade of DDR4",
        ),
        ("positions:\n  - key: a\n    label: A\n    kind: battery\n    takes: {voltage_v: 7.6, energy_wh: 450}\n", 11, "Wh, not W or mWh"),
        (
            "positions:\n  - key: a\n    label: A\n    kind: battery\n    takes: {voltage_v: 15.2, capacity_ah: 3.95, energy_wh: 70}\n",
            11,
            "17% off",
        ),
        ("positions:\n  - {key: a, label: A, kind: fan}\n  - {key: a, label: B, kind: fan}\n", 9, "used twice"),
        ("operations:\n  - {id: a, text: A, needs: [b]}\n  - {id: b, text: B, needs: [a]}\n", 8, "circle"),
        ("identity: {label: {value: X, grade: rumour}}\n", 7, "grade"),
        ("operations:\n  - id: a\n    text: A\n    plugs: [{name: x, kind: slide, release: towards me}]\n", 10, "release"),
        ("operations:\n  - id: a\n    text: A\n    fasteners: [{group: g, count: 2, thread: 4mm}]\n", 10, "thread"),
    ],
)
def test_every_fault_names_its_line_and_cure(addition: str, line: int, words: str) -> None:
    found = messages(HEAD + addition)
    assert any(message.startswith(f"line {line}:") and words in message for message in found), found


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"a: &x 1\nb: *x\n", "aliases and anchors are refused"),
        (b"a: !!python/object:os.system 1\n", "tags such as"),
        (b"a: " + b"[" * 25 + b"]" * 25, "nested deeper than 20"),
        (b"a: 1\na: 2\n", "written twice"),
        (b"", "empty"),
        (b"\xff\xfe", "UTF-8"),
        (b"- 1\n- 2\n", "a mapping"),
        (b"a: [1, 2\n", "line 2"),
        (b"x: " + b"y" * 1_000_001, "1,000,000 at most"),
        (b"? [a]\n: 1\n", "plain word"),
    ],
)
def test_hostile_files_are_refused_by_name(data: bytes, words: str) -> None:
    read = read_page(data)
    assert read.page is None
    assert any(words in str(fault) for fault in read.faults), read.faults


def test_words_that_yaml_would_turn_into_something_else_stay_words() -> None:
    text = HEAD + 'notes:\n  - {text: no}\n  - {text: "on"}\n  - {text: 2026-01-02}\n'
    page = read_page(text.encode()).page
    assert page is not None
    assert [note["text"] for note in page["notes"]] == ["no", "on", "2026-01-02"]
    assert read_page(write_page(page)).page == page


def test_a_sibling_states_only_its_differences() -> None:
    _, packet = read_page_at(str(PAGES / "ostrel-packet-14.yaml"))
    own, whole = read_page_at(str(PAGES / "ostrel-packet-14-b.yaml"))
    assert packet is not None
    assert own.page is not None
    assert whole is not None
    assert [entry["key"] for entry in whole["positions"]] == [entry["key"] for entry in packet["positions"]]
    slot = next(entry for entry in whole["positions"] if entry["key"] == "memory_a")
    assert slot["takes"]["generation"][0]["value"] == "DDR5"
    assert "inherited_from" not in slot["takes"]["generation"][0]
    assert slot["takes"]["form"][0]["inherited_from"] == "Ostrel Packet 14"
    assert len(own.page["positions"]) < len(whole["positions"])


def test_what_a_sibling_has_not_disappears_with_its_names() -> None:
    _, whole = read_page_at(str(PAGES / "brindwell-counter-24.yaml"))
    assert whole is not None
    cover = next(entry for entry in whole["operations"] if entry["id"] == "back_cover")
    assert "second_cage" not in cover["exposes"]
    assert all(entry["key"] != "second_cage" for entry in whole["positions"])


def test_a_fault_of_an_inherited_step_is_told_at_the_page_that_inherits() -> None:
    sibling = read_page((HEAD + "operations:\n  - {id: a, text: A}\n").encode()).page
    assert sibling is not None
    text = HEAD.replace("name: Test", "name: Other") + "inherits: Ostrel Test\noperations:\n  - {id: a, text: A, needs: [z]}\n"
    own = read_page(text.encode(), sibling)
    assert [fault.line for fault in own.faults if not fault.open] == [9]
    assert own.page is not None
    alone = check_page(own.page)
    assert alone[0].open
    assert "not at hand" in alone[0].message
    assert inherit(own.page, sibling)["operations"][0]["text"] == "A"


LIBRARY = ("should", "input", "valid", "pydantic", "Field required", "Extra inputs", "permitted")
"""Words of the library that judges the format: none of them reaches a person."""


@pytest.mark.parametrize(
    ("entry", "words"),
    [
        ({"maker": ""}, "maker: is empty"),
        ({"maker": None}, "maker: text was wanted"),
        ({"form": "boat"}, "form: one of notebook, convertible, all_in_one, mini_pc, workstation was wanted, got 'boat'"),
        ({"oprations": []}, "oprations: no entry is called so; operations is meant?"),
        ({"plan": {"width_mm": 5000, "depth_mm": 2}}, "width_mm: is above 1000, got 5000; look at the unit"),
        ({"plan": {"width_mm": 0, "depth_mm": 2}}, "width_mm: is not above 0"),
        ({"plan": 3}, "plan: an entry of its own was wanted"),
        ({"operations": {"a": 1}}, "operations: a list was wanted"),
        ({"operations": [{"id": "a", "text": "A", "live": "perhaps"}]}, "live: yes or no (true or false) was wanted"),
        ({"operations": [{"id": "a", "text": "A", "fasteners": [{"group": "g", "count": "many"}]}]}, "count: a number, >=3 (at least)"),
        ({"operations": [{"id": "a", "text": "A", "fasteners": [{"group": "g", "count": 900}]}]}, "count: 1 to 200 was wanted"),
        ({"operations": [{"id": " a", "text": "A"}]}, "id: a short name without blanks"),
        ({"positions": [{"key": "a", "kind": "fan"}]}, "label: is missing; add it"),
        ({"evidence": {"grade": "measured", "source": "x", "date": "soon"}}, "date: a day such as 2026-03-14 was wanted"),
    ],
)
def test_no_sentence_of_a_library_reaches_a_person(entry: dict[str, Any], words: str) -> None:
    head = {"page_format": 2, "maker": "M", "name": "N", "family": "F", "form": "notebook"}
    page, faults = validate_page({**head, **entry})
    said = [f"{fault.message}; {fault.cure}" for fault in faults]
    assert page is None
    assert any(words in one for one in said), said
    assert not [one for one in said if any(word in one for word in LIBRARY)]
