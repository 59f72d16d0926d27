"""Facts, pages and pools of interchangeable parts."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.core.errors import ContractError
from almanac.core.parts.alternates import equivalence_groups
from almanac.core.parts.escalation import Held, may_move_over, moves_over, ordered_unit
from almanac.core.parts.facts import fact, prevailing
from almanac.core.parts.kinds import Grade, Kind, Serviceability
from almanac.core.parts.page import positions_of


def test_the_stronger_evidence_holds_and_the_later_of_equals() -> None:
    told = fact(8, Grade.TOLD, "a colleague", "2026-10-01")
    read = fact(16, Grade.LABEL, "module label", "2024-02-05")
    read_again = fact(32, Grade.LABEL, "module label", "2026-02-05")
    assert prevailing([told, read, read_again])["value"] == 32
    assert prevailing([told])["value"] == 8


def test_a_fact_without_a_known_grade_is_refused() -> None:
    with pytest.raises(ContractError, match="grade"):
        prevailing([{"value": 1, "grade": "rumour", "source": "", "date": ""}])
    with pytest.raises(ContractError, match="at least one"):
        prevailing([])


def test_positions_of_a_page() -> None:
    page = {
        "positions": [{"key": "battery", "kind": "battery"}, {"key": "m", "label": "Slot", "kind": "memory", "serviceability": "soldered"}]
    }
    first, second = positions_of(page)  # by kind, whatever order the page holds them in
    assert first.serviceability is Serviceability.SOLDERED
    assert (second.label, second.kind, second.serviceability) == ("battery", Kind.BATTERY, Serviceability.UNKNOWN)
    assert positions_of({}) == []


@pytest.mark.parametrize(
    ("entries", "message"),
    [
        ([{"kind": "fan"}], r"positions\[0\].key"),
        ([{"key": "a", "kind": "fan"}, {"key": "a", "kind": "ssd"}], r"positions\[1\].key"),
        ([{"key": "a", "kind": "gearbox"}], r"positions\[0\] \(a\)"),
    ],
)
def test_a_page_with_a_wrong_position_names_it(entries: list[dict[str, str]], message: str) -> None:
    with pytest.raises(ContractError, match=message):
        positions_of({"positions": entries})


def test_two_way_equivalents_are_one_and_one_way_substitutes_are_not() -> None:
    groups = equivalence_groups([5, 3, 8, 9], [(3, 5), (5, 3), (8, 9), (5, 77)])
    assert groups == {3: 3, 5: 3, 8: 8, 9: 9}


@given(st.lists(st.tuples(st.integers(0, 9), st.integers(0, 9)), max_size=25))
def test_groups_are_an_equivalence(pairs: list[tuple[int, int]]) -> None:
    groups = equivalence_groups(range(10), pairs)
    assert all(groups[groups[part]] == groups[part] <= part for part in range(10))
    for a, b in pairs:
        if (b, a) in pairs:
            assert groups[a] == groups[b]


def test_what_comes_off_a_board_moves_to_the_new_one_and_what_does_not_comes_along() -> None:
    def held(key: str, how: str, part_of: str | None = "board", *, orderable: bool | None = None) -> Held:
        return Held(key, Kind.OTHER, Serviceability(how), part_of, orderable)

    parts = [
        Held("board", Kind.MAINBOARD, Serviceability.SCREWED), held("memory", "socketed"), held("drive", "screwed"), held("chip", "soldered"),
        held("shield", "staked"), held("radio", "socketed", "shield"), held("label", "clipped", "radio"), held("foot", "clipped", None),
        held("clip", "clipped", orderable=False), held("lid", "unknown"),
    ]  # fmt: skip
    positions = {part.key: part for part in parts}
    assert moves_over("board", positions) == ("memory", "drive", "radio")
    assert may_move_over("board", positions) == ("lid",)  # neither moved nor brought along: nobody knows
    assert ordered_unit("chip", positions).takes_along == ("shield", "clip")
    circle = {"a": held("a", "staked", "b"), "b": held("b", "staked", "a"), "m": held("m", "socketed", "b")}
    assert moves_over("a", circle) == ("m",)
