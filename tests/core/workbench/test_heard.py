"""What a report leaves on record, and acceptance against what was agreed."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.core.parts.kinds import Kind, Verdict
from almanac.core.teardown.written import teardown_of
from almanac.core.workbench.acceptance import ModulePlanned, Otherwise, Planned, compare, modules_accepted
from almanac.core.workbench.closing_checks import CHECKS, Closed, closing_checks
from almanac.core.workbench.heard import Held, kept, lines
from almanac.core.workbench.journal import Entry, fold
from almanac.core.workbench.reported import DriveSeen, ModuleSeen, PackSeen, Reported
from tests.core.workbench.bench import notebook, plan_for

PACK = Held("pack", "Pack", Kind.BATTERY, 60)
DRIVE = Held("drive", "Drive", Kind.SSD, 512, "TL-1")
A, B = Held("a", "Slot A", Kind.MEMORY, 16), Held("b", "Slot B", Kind.MEMORY, 8)


def test_a_part_alone_of_its_kind_takes_serial_and_reading() -> None:
    found = kept([PACK, DRIVE], Reported(packs=(PackSeen(60.1, 51.2, serial="123"),), drives=(DriveSeen(512.1, left_percent=93),)))
    assert found.serials == {"pack": "123"}
    assert found.readings == {"pack": (51.2, 60.1), "drive": (93.0, 100.0)}
    assert found.questions == ()


def test_another_serial_than_on_record_is_a_question_and_nothing_is_kept() -> None:
    found = kept([DRIVE], Reported(drives=(DriveSeen(512.1, serial="TL-2", left_percent=93),)))
    assert (found.serials, found.readings) == ({}, {})
    assert found.questions == ("Drive says serial TL-2, on record is TL-1: was it changed without a record?",)
    assert kept([DRIVE], Reported(drives=(DriveSeen(512.1, serial="tl-1", left_percent=93),))).readings == {"drive": (93.0, 100.0)}


def test_modules_are_told_apart_by_size_or_not_at_all() -> None:
    report = Reported(modules=(ModuleSeen(8, serial="S8"), ModuleSeen(16, serial="S16")))
    assert kept([A, B], report).serials == {"a": "S16", "b": "S8"}
    twins = Reported(modules=(ModuleSeen(16, serial="S1"), ModuleSeen(16, serial="S2")))
    found = kept([A, Held("b", "Slot B", Kind.MEMORY, 16)], twins)
    assert found.serials == {}
    assert found.questions[0] == "a module with serial S1: which module on record it is cannot be told, nothing is kept of it"
    assert kept([], twins).questions[0] == "a module with serial S1: no module is on record here"
    assert kept([A, B], Reported(modules=(ModuleSeen(16, serial="S1"), ModuleSeen(16, serial="S2")))).serials == {}


@pytest.mark.parametrize("pack", [PackSeen(60, 0), PackSeen(60, 130), PackSeen(None, 50), PackSeen(60, None)])
def test_what_is_no_reading_is_none(pack: PackSeen) -> None:
    assert kept([PACK], Reported(packs=(pack,))).readings == {}


def test_a_report_is_said_line_by_line() -> None:
    report = Reported(
        modules=(ModuleSeen(16, "DIMM A", "DDR4", 3200, 2667, "S"),),
        drives=(DriveSeen(512.11, bus="NVMe", left_percent=93, hours=8123, failing=True), DriveSeen(left_percent=7)),
        packs=(PackSeen(60, 51, cycles=0, serial="9"),),
        fans_rpm=(2412, 0),
        hottest_c=61,
    )
    assert lines(report) == [
        "16 GB DDR4 made for 3200 MT/s, running at 2667 MT/s in DIMM A, serial S",
        "512.1 GB NVMe drive, 93% of its life left, 8,123 h on, says it is failing: save the data first",
        "a drive, 7% of its life left",
        "pack made for 60 Wh, full at 51 Wh (85%), 0 cycles, serial 9",
        "fans at 2412 rpm, 0 rpm",
        "processor at 61 °C",
    ]


@pytest.mark.parametrize(
    ("seen", "verdict"),
    [
        ([ModuleSeen(8, generation="DDR4", mt_s=3200)] * 2, Verdict.YES),
        ([ModuleSeen(8)] * 3, Verdict.YES),
        ([ModuleSeen(16, generation="DDR4", mt_s=3200)], Verdict.NO),
        ([ModuleSeen(8, generation="DDR3"), ModuleSeen(8, generation="DDR4")], Verdict.NO),
        ([ModuleSeen(8, generation="LPDDR4"), ModuleSeen(8, generation="DDR4"), ModuleSeen(8, generation="DDR4")], Verdict.YES),
        ([ModuleSeen(8, generation="DDR4", mt_s=2667), ModuleSeen(8, generation="DDR4", mt_s=3200)], Verdict.NO),
        ([ModuleSeen(8, generation="DDR4", mt_s=3200, running_mt_s=2667)] * 2, Verdict.YES),
        ([ModuleSeen(8, generation="DDR4", mt_s=1333)] * 2, Verdict.NO),
        ([ModuleSeen(8, generation="DDR4", mt_s=50)] * 2, Verdict.UNKNOWN),
        ([ModuleSeen(8, generation="DDR4", mt_s=1600)] * 2, Verdict.UNKNOWN),
        ([ModuleSeen(8, generation="DDR2", mt_s=800)] * 2, Verdict.NO),
    ],
)
def test_modules_are_held_against_count_generation_and_grade_agreed(seen: list[ModuleSeen], verdict: Verdict) -> None:
    assert modules_accepted([ModulePlanned(8, "DDR4", 3200)] * 2, seen).verdict == verdict


def test_a_drive_of_another_bus_or_one_too_many_is_seen() -> None:
    planned = Planned(drives_gb=(512,), buses=("NVMe",))
    (row,) = compare(planned, Reported(drives_gb=(512.1,), drives=(DriveSeen(512.1, bus="SATA"),)))
    assert (row.planned, row.reported, row.answer.verdict) == ("512 GB NVMe", "512.1 GB SATA", Verdict.NO)
    (row,) = compare(planned, Reported(drives_gb=(512.1,), drives=(DriveSeen(512.1),)))
    assert row.answer.verdict == Verdict.YES
    either = compare(Planned(drives_gb=(512,), buses=("SATA or NVMe",)), Reported(drives_gb=(512,), drives=(DriveSeen(512, bus="SATA"),)))
    assert [row.answer.verdict for row in either] == [Verdict.YES]
    more = compare(planned, Reported(drives_gb=(512, 1000), drives=(DriveSeen(512, bus="NVMe"), DriveSeen(1000, bus="SATA"))))
    assert [(row.planned, row.answer.verdict) for row in more] == [("512 GB NVMe", Verdict.YES), ("none", Verdict.UNKNOWN)]


def test_another_part_than_agreed_is_told_without_a_report() -> None:
    worse = Planned(otherwise=(Otherwise("Slot A", "M16", "M8", ("16 GB agreed, 8 GB fitted",)),))
    same = Planned(otherwise=(Otherwise("Slot A", "M16", "M16B"),))
    assert [row.answer.verdict for row in compare(worse, Reported())] == [Verdict.NO]
    assert [row.answer.verdict for row in compare(same, Reported())] == [Verdict.YES]


@given(
    st.lists(st.sampled_from([PACK, DRIVE, A, B]), unique=True),
    st.lists(
        st.builds(DriveSeen, st.floats(1, 2000), serial=st.sampled_from(["", "TL-1", "X"]), left_percent=st.none() | st.floats(0, 100)),
        max_size=4,
    ),
)
def test_every_reading_belongs_to_one_part_and_no_part_gets_two(held: list[Held], drives: list[DriveSeen]) -> None:
    found = kept(held, Reported(drives=tuple(drives)))
    assert set(found.readings) <= {item.position for item in held if item.kind == Kind.SSD}
    assert "drive" not in found.serials, "a serial on record is never overwritten"


def test_a_report_holds_until_the_next_swap() -> None:
    plan = plan_for(notebook(), "fan", "drive")
    swap = [Entry("step", {"step": f"swap:{key}", "refitted": True}) for key in ("fan", "drive")]
    said = Entry("report", {"memory_gb": 8})
    assert fold(plan, [said]).report_before == {"memory_gb": 8}
    assert fold(plan, [said]).report is None
    assert fold(plan, [swap[0], said]).report == {"memory_gb": 8}
    assert fold(plan, [swap[0], said, swap[1]]).report is None


def test_closing_checks_come_from_the_covers_that_were_opened() -> None:
    opened = list(teardown_of(notebook()).operations.values())
    plain = dict(closing_checks([], Closed(), ()))
    assert plain == {"rim": "the rim is closed all round", "rattle": CHECKS["rattle"], "feet": CHECKS["feet"], "latches": CHECKS["latches"]}
    found = dict(closing_checks(opened, Closed(("long foot", "front foot"), ("long foot",), 135), [Kind.DISPLAY]))
    assert found["feet"] == "the feet are back (long foot, front foot, long foot in its own place), it stands flat and does not rock"
    assert found["hinge"] == "the lid opens to 135°, no further, and closes, evenly and without a noise"
    assert "shutter" in found
    kinds = {item.kind for step in opened for item in step.fasteners}
    assert ("latches" in found) == bool(kinds & {"cam", "latch"})
    assert ("jack" in found) == ("jack" in kinds)
