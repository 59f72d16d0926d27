"""Several documents pasted in a row: each part once, whatever order they come in."""

from __future__ import annotations

import json
from itertools import permutations

import pytest

from almanac.exchange.reports.read import MOST_DOCUMENTS, ReportFault, read_report
from tests.exchange.reports import documents as d

ALL = [d.LSHW, d.DMIDECODE, d.SMARTCTL_NVME, d.NVME_LOG, d.UPOWER, d.LSBLK, d.SENSORS, d.BATTERY_XML]


def test_a_whole_evening_of_tools_is_one_machine() -> None:
    found = read_report("\n".join(ALL))
    report = found.report
    assert report.memory_gb == 24
    assert [module.serial for module in report.modules] == ["B7A10233", ""]
    assert len(report.drives) == len(report.drives_gb) == 1
    assert (report.drives[0].serial, report.drives[0].left_percent) == ("TL88120031", 93)
    assert len(report.packs) == 1
    assert (report.packs[0].cycles, report.charging, report.fans_rpm) == (212, True, (2412, 0))
    assert found.form.split(", ")[0] == "hardware tree"
    assert found.missed == ("memory devices and power devices says 24 GB of memory, hardware tree 16 GB",)


@pytest.mark.parametrize("order", list(permutations([d.DMIDECODE, d.SMARTCTL_NVME, d.UPOWER, d.LSBLK])))
def test_the_order_of_documents_does_not_matter(order: tuple[str, ...]) -> None:
    report = read_report("\n\n".join(order)).report
    assert (report.memory_gb, len(report.drives), len(report.packs)) == (24, 1, 1)
    assert (report.drives[0].serial, report.drives[0].bus, report.packs[0].charging) == ("TL88120031", "NVMe", True)


def test_two_drives_of_one_size_are_two() -> None:
    twin = json.loads(d.LSBLK)
    twin["blockdevices"].append({**twin["blockdevices"][-1], "name": "nvme1n1"})
    assert len(read_report(json.dumps(twin)).report.drives) == 2
    both = read_report(json.dumps(twin) + d.SMARTCTL_NVME).report
    assert [(drive.name, drive.serial) for drive in both.drives] == [("nvme0n1", "TL88120031"), ("nvme1n1", "")]


def test_twins_that_say_nothing_of_themselves_are_two() -> None:
    assert read_report('{"machine_report": 1, "drives": [{"gb": 512}, {"gb": 512}]}').report.drives_gb == (512, 512)


def test_the_sum_of_two_packs_is_no_third() -> None:
    device = "Device: /org/freedesktop/UPower/devices/{}\n  power supply: yes\n  battery\n    energy-full-design: {} Wh\n"
    text = device.format("battery_BAT0", "23.5") + device.format("battery_BAT1", "36.4") + device.format("DisplayDevice", "59.9")
    assert [pack.design_wh for pack in read_report(text).report.packs] == [23.5, 36.4]


def test_a_log_without_a_name_is_no_ones_where_two_could_be_meant() -> None:
    twin = json.loads(d.LSBLK)
    twin["blockdevices"].append({**twin["blockdevices"][-1], "name": "nvme1n1"})
    found = read_report(json.dumps(twin) + d.NVME_LOG)
    assert [drive.left_percent for drive in found.report.drives] == [None, None]
    assert found.missed == ("a log names no drive, and several could be meant: its wear is left out",)
    one = read_report(d.LSBLK + d.NVME_LOG).report
    assert [drive.left_percent for drive in one.drives] == [0], "what it says of use may pass 100"


def test_what_is_not_understood_between_documents_is_said() -> None:
    broken = '{"blockdevices": [}\n' + d.UPOWER
    found = read_report(f'$ cat notes\nhello there\n{d.SMARTCTL_NVME}\n{broken}\n{{"weather": 3}}')
    assert len(found.report.drives) == len(found.report.packs) == 1
    assert any(words.startswith('lines that begin "$ cat notes hello there') for words in found.missed)
    assert any("no JSON" in words for words in found.missed)
    assert any("it has weather" in words for words in found.missed)


def test_documents_without_end_are_cut_off_and_said() -> None:
    found = read_report(d.NVME_LOG * 3 + d.LSBLK * MOST_DOCUMENTS)
    assert any(words.startswith(f"more than {MOST_DOCUMENTS} documents") for words in found.missed)
    with pytest.raises(ReportFault):
        read_report("{}" * 500)
