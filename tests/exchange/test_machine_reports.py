"""What a machine says of itself: the documented form, a hardware tree, a listing, and what is none of these."""

from __future__ import annotations

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.exchange.reports.read import LARGEST, ReportFault, read_report

DOCUMENTED = {
    "machine_report": 1,
    "memory": {"installed_gb": 16, "usable_gb": 15.6, "changed_prompts": 1},
    "drives": [{"gb": 512.1}, {"gb": 1024.2}],
    "pack": {"design_wh": 60, "full_wh": 51.5, "charging": True},
    "fans": [{"rpm": 2400}, {"rpm": 0}],
}
GIB = 2**30
TREE = {
    "class": "system",
    "children": [
        {
            "class": "bus",
            "children": [
                {"class": "memory", "id": "memory", "size": 16 * GIB},
                {"class": "memory", "id": "bank:0", "size": 8 * GIB},
                {"class": "memory", "id": "bank:1", "size": 8 * GIB},
                {"class": "disk", "id": "disk", "size": 512_000_000_000},
                {"class": "disk", "id": "card reader", "size": None},
                "a line that is no entry",
            ],
        },
        {"class": "power", "id": "battery", "capacity": 60_100},
    ],
}
LISTING = """
Memory Device
\tSize: 8192 MB
Memory Device
\tSize: 8 GB
Memory Device
\tSize: No Module Installed
  energy-full:         51.2 Wh
  energy-full-design:  60.1 Wh
  state:               discharging
fan1: 2400 RPM
Fan2: 0 rpm
"""


def test_the_documented_form() -> None:
    found = read_report(json.dumps(DOCUMENTED))
    assert found.form == "machine report"
    report = found.report
    assert (report.memory_gb, report.usable_gb, report.memory_prompts) == (16, 15.6, 1)
    assert report.drives_gb == (512.1, 1024.2)
    assert (report.pack_design_wh, report.pack_full_wh, report.charging) == (60, 51.5, True)
    assert report.fans_rpm == (2400, 0)


def test_a_report_may_leave_out_what_it_does_not_know() -> None:
    report = read_report('{"machine_report": 1, "kernel": "ignored"}').report
    assert report.memory_gb is report.pack_design_wh is report.charging is None
    assert report.drives_gb == report.fans_rpm == ()


@pytest.mark.parametrize("wrapped", [TREE, [TREE]])
def test_a_hardware_tree_is_walked_to_its_banks_disks_and_pack(wrapped: object) -> None:
    found = read_report(json.dumps(wrapped))
    assert found.form == "hardware tree"
    assert found.report.memory_gb == 16  # the banks, not the sum of them that stands above
    assert found.report.drives_gb == (512.0,)
    assert found.report.pack_design_wh == pytest.approx(60.1)


def test_a_tree_without_memory_does_not_say_there_is_none() -> None:
    report = read_report('[{"class": "disk", "size": 256060514304}]').report
    assert report.memory_gb is None
    assert report.drives_gb == pytest.approx((256.060514304,))


def test_a_tree_nested_without_end_is_cut_off() -> None:
    tree: dict[str, object] = {"class": "disk", "size": 10**12}
    for _ in range(80):
        tree = {"class": "bus", "children": [tree]}
    with pytest.raises(ReportFault, match="hardware tree: nothing about"):
        read_report(json.dumps(tree))


def test_a_listing_of_lines() -> None:
    found = read_report(LISTING)
    assert found.form == "memory devices and power devices and sensors"
    report = found.report
    assert report.memory_gb == 16
    assert (report.pack_design_wh, report.pack_full_wh, report.charging) == (60.1, 51.2, False)
    assert report.fans_rpm == (2400, 0)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("  \n", "the report is empty"),
        ("x" * (LARGEST + 1), "longer than 2 MB"),
        ('{"machine_report": 1,\n "drives": [}', "line 2, column 13: no JSON"),
        ('{"machine_report": 2}', "machine_report: "),
        ('{"machine_report": 1, "drives": [{"gb": 512}, {"gb": -1}]}', "drives.1.gb: "),
        ('{"memory": 16}', "JSON of no form that is read: it has memory"),
        ("[1, 2]", 'JSON of no form that is read: "[1, 2]"'),
        ("it has sixteen of memory", 'nothing was understood: lines that begin "it has sixteen of memory"'),
    ],
)
def test_what_is_no_report_says_what_was_wanted(text: str, words: str) -> None:
    with pytest.raises(ReportFault) as fault:
        read_report(text)
    assert words in str(fault.value)


@given(
    st.text(max_size=300)
    | st.recursive(st.none() | st.integers() | st.text(max_size=5), lambda inner: st.lists(inner, max_size=3)).map(json.dumps)
)
def test_no_text_breaks_the_reading(text: str) -> None:
    try:
        read_report(text)
    except ReportFault as fault:
        assert str(fault)
