"""What a machine says is in places of which nothing is on record, and what it says less or more of than the record."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.core.parts.kinds import Kind
from almanac.core.workbench.heard import Held
from almanac.core.workbench.met import Empty, met, missing
from almanac.core.workbench.reported import DriveSeen, ModuleSeen, PackSeen, Reported

PACK = Empty("pack", "Pack", Kind.BATTERY, never=True, fitting={"B-57": 57.0, "B-84": 84.0})
SLOTS = [Empty(key, key, Kind.MEMORY, never=True, fitting={"M-8": 8.0, "M-16": 16.0}) for key in ("a", "b")]


def says(*packs: float, modules: tuple[float, ...] = ()) -> Reported:
    return Reported(packs=tuple(PackSeen(size, size) for size in packs), modules=tuple(ModuleSeen(size) for size in modules))


def test_the_only_part_of_its_size_is_the_one() -> None:
    assert met([], [PACK], says(57.4)) == {"pack": "B-57"}
    assert met([], [PACK], says(84.0)) == {"pack": "B-84"}
    assert met([], [PACK], says(70.0)) == {}


@pytest.mark.parametrize(
    ("held", "empty", "report"),
    [
        ([], [Empty("pack", "Pack", Kind.BATTERY, never=False, fitting={"B-57": 57.0})], says(57.0)),
        ([], [Empty("pack", "Pack", Kind.BATTERY, never=True, fitting={"B-57": 57.0, "C-57": 57.0})], says(57.0)),
        ([], [Empty("pack", "Pack", Kind.BATTERY, never=True, fitting={"B-57": None})], says(57.0)),
        ([], [PACK], says(57.0, 57.0)),
        ([], [PACK], says()),
        ([Held("other", "Other", Kind.BATTERY, 57.0)], [PACK], says(57.0)),
        ([], [PACK], Reported(packs=(PackSeen(None, 50.0),))),
    ],
    ids=["one was there", "two fit", "nobody knows its size", "two report", "none reports", "another is on record", "no size"],
)  # fmt: skip
def test_a_guess_is_none(held: list[Held], empty: list[Empty], report: Reported) -> None:
    assert met(held, empty, report) == {}


def test_slots_are_filled_together_where_modules_are_alike() -> None:
    assert met([], SLOTS, says(modules=(8, 8))) == {"a": "M-8", "b": "M-8"}
    assert met([], SLOTS, says(modules=(8, 16))) == {}
    assert met([], SLOTS, says(modules=(8,))) == {}


def test_what_is_less_or_more_than_on_record_is_asked() -> None:
    drives = [Held("d1", "Drive", Kind.SSD, 512), Held("d2", "Drive", Kind.SSD, 1024)]
    assert missing(drives, Reported(drives=(DriveSeen(512),))) == ["it reports 1 drive, on record are 2 drives: was one taken out?"]
    assert missing(drives, Reported()) == []
    memory = [Held("a", "A", Kind.MEMORY, 8), Held("b", "B", Kind.MEMORY, 8)]
    assert missing(memory, Reported(memory_gb=24)) == ["it reports 24 GB of memory, on record are 16 GB: was it changed without a record?"]
    assert missing(memory, Reported(memory_gb=16.2)) == []
    assert missing(memory, Reported(memory_gb=24), unrecorded={"memory"}) == []
    assert missing(drives, Reported(drives=(DriveSeen(512),)), unrecorded={"memory"}) != []
    assert missing([Held("a", "A", Kind.MEMORY, None)], Reported(memory_gb=24)) == []
    assert missing([], Reported(memory_gb=24)) == []


@given(st.lists(st.sampled_from([8.0, 16.0, 32.0]), max_size=4), st.integers(0, 3))
def test_no_place_gets_a_part_of_another_size(sizes: list[float], places: int) -> None:
    empty = [Empty(str(place), "Slot", Kind.MEMORY, never=True, fitting={"M-8": 8.0, "M-16": 16.0}) for place in range(places)]
    found = met([], empty, says(modules=tuple(sizes)))
    assert all({"M-8": 8.0, "M-16": 16.0}[number] == size for number in found.values() for size in sizes)
    assert len(found) in (0, places)
