"""Notes in the shapes people write them: what is counted is a count, what stands beside it is none."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.core.parts.note_counts import counted_in
from almanac.core.parts.proposals import read_notes

SHAPES = [
    ("8 screws PH1, 2 long at back", [8, 2]),
    ("screws 8xPH1 (2 under feet)", [8, 2]),
    ("PN 812-3345-01 3 screws", [3]),
    ("LD-80512 in slot, 1 screw PH1", [1]),
    ("fan: 3 screws M2x4", [3]),
    ("cover - 9 captive + 1 loose", [9, 1]),
    ("* drive held by one screw PH0", [1]),
    ("approx 8 clips round the rim", ["~8"]),
    ("at least 3 clips left", [">=3"]),
    ("5-6 screws", [">=5"]),
    ("T5 x4", [4]),
    ("4 x T5 six-lobe security", [4]),
    ("took 25 min, 6 screws PH1", [6]),
    ("at 9.30 six screws PH0 out", [6]),
    ("9:05-9:20 undid 10 screws T8", [10]),
    ("screws: nine", [9]),
    ("rev 3 board 7 screws", [7]),
    ("2 screws PH1 and 2 T5", [2, 2]),
    ("2024-03-14 undid 4 captive screws", [4]),
    ("3. two jack screws at the front", [2]),
    ("10:15 took cover off", []),
    ("no screws under the label", []),
    ("3 of 8 screws were missing", []),
    ("weight 1.4 kg", []),
    ("1. remove feet", []),
    ("20V 3.25A charger", []),
]


@pytest.mark.parametrize(("words", "counts"), SHAPES)
def test_a_line_counts_what_it_counts(words: str, counts: list[object]) -> None:
    assert [group.count.written for group in counted_in(words).groups] == counts


def test_what_is_not_sure_is_said() -> None:
    assert counted_in("5-6 screws").flags == ("5 to 6 was said: at least 5 is kept",)
    assert counted_in("at 9.30 six screws PH0 out").flags == ("left aside: out",)
    assert counted_in("screws 8xPH1 (2 under feet)").groups[1].hidden == "feet"


def test_a_note_states_what_it_says_and_not_what_follows_from_it() -> None:
    (proposal,) = read_notes("batt 11.4V 4.9Ah", [{"key": "pack", "kind": "battery"}])
    assert proposal.value == {"voltage_v": 11.4, "capacity_ah": 4.9}


@given(st.lists(st.sampled_from([words for words, _ in SHAPES]), max_size=6))
def test_every_line_of_a_note_comes_back(lines: list[str]) -> None:
    assert [item.line for item in read_notes("\n".join(lines), [])] == list(range(1, len(lines) + 1))


@given(st.text(max_size=60))
def test_no_line_breaks_the_reader(words: str) -> None:
    counted_in(words)
