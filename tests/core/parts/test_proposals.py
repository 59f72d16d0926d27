"""Notes become proposals: units checked, sums recomputed, nothing guessed."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from almanac.core.parts.proposals import read_notes

POSITIONS = [
    {"key": "memory_a", "kind": "memory", "label": "Slot A"},
    {"key": "memory_b", "kind": "memory", "label": "Slot B"},
    {"key": "battery", "kind": "battery", "label": "Battery"},
]


def test_a_label_goes_to_the_position_it_names_or_asks() -> None:
    named, asked, only = read_notes("Slot B reads 8GB PC4-3200S\n- 8GB PC4-3200S\n7.6V 45Wh", POSITIONS)
    assert (named.target, named.value["grade_mt_s"]) == ("memory_b", 3200)
    assert asked.target is None
    assert "which memory position is meant?" in asked.flags
    assert (only.target, only.value["energy_wh"]) == ("battery", 45)
    assert "series" not in only.value


def test_sums_are_recomputed_and_a_difference_is_asked() -> None:
    right, wrong = read_notes("screws: 3 long, 5 short, 8 in total\n3 long, 5 short, total 9", POSITIONS)
    assert right.flags == ()
    assert right.value["total"] == 8
    assert wrong.flags == ("the note says 9, its groups add up to 8: which is it?",)


def test_what_is_no_fact_stays_a_note() -> None:
    found = read_notes("the left foot is loose\n\n   \nsmells of smoke", POSITIONS)
    assert [(item.field, item.line) for item in found] == [("note", 1), ("note", 4)]
    unread = read_notes("6 PH1 M2.5x4 wobbly", POSITIONS)[0]
    assert unread.flags == ("left aside: wobbly",)
    assert unread.value["fasteners"] == [{"group": "PH1 M2.5x4", "count": 6, "bit": "PH1", "thread": "M2.5x4"}]


@given(st.text(max_size=200))
def test_no_note_breaks_it(text: str) -> None:
    for item in read_notes(text, POSITIONS):
        assert item.field in ("facts", "fasteners", "note")
