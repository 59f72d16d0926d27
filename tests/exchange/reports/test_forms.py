"""Each form that is read, alone."""

from __future__ import annotations

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.core.workbench.reported import DriveSeen, ModuleSeen, PackSeen, Reported
from almanac.exchange.reports.read import ReportFault, read_report
from almanac.exchange.reports.seen import byte_count, decimal, number, serial_of, whole
from tests.exchange.reports import documents as d

PACK = PackSeen(60.1, 51.25, None, 212, "00123")


def read(text: str) -> Reported:
    return read_report(text).report


def test_lshw() -> None:
    found = read(d.LSHW)
    assert found.modules == (ModuleSeen(16, "DIMM A", "DDR4", None, 2667, "B7A10233"),)
    assert found.memory_gb == 16, "an empty bank is none, the sum above the banks is not counted"
    assert [(drive.name, drive.bus, drive.serial) for drive in found.drives] == [("nvme0n1", "NVMe", "TL88120031")]
    assert found.drives_gb == pytest.approx((512.110190592,))
    assert found.packs == (PackSeen(60.1, serial="00123"),)
    assert read(f"[{d.LSHW}]") == found


def test_dmidecode() -> None:
    found = read(d.DMIDECODE)
    assert found.modules == (
        ModuleSeen(16, "DIMM A", "DDR4", 3200, 2667, "B7A10233"),
        ModuleSeen(8, "DIMM B", "DDR4", 2667, 2667, ""),
    )
    assert (found.memory_gb, found.pack_design_wh) == (24, 60.1)


def test_smartctl() -> None:
    (nvme,) = read(d.SMARTCTL_NVME).drives
    assert nvme == DriveSeen(512.110190592, "nvme0", "NVMe", "TL88120031", 93, 8123, failing=False)
    (sata,) = read(d.SMARTCTL_ATA).drives
    assert sata == DriveSeen(256.060514304, "sda", "SATA", "GL-7781", 38, 20110, failing=True)


@pytest.mark.parametrize(
    ("changed", "left"),
    [
        ({"endurance_used": {"current_percent": 12}}, 88),
        ({"ata_device_statistics": {"pages": [{"table": [{"name": "Percentage Used Endurance Indicator", "value": 30}]}]}}, 70),
        ({"ata_smart_attributes": {"table": [{"name": "Wear_Leveling_Count", "value": 41}]}}, 41),
        ({"ata_smart_attributes": {"table": [{"name": "Media_Wearout_Indicator", "value": 253}]}}, None),
        ({"ata_smart_attributes": {"table": []}}, None),
    ],
)
def test_wear_is_read_where_a_drive_tells_it(changed: dict[str, object], left: float | None) -> None:
    document = {**json.loads(d.SMARTCTL_ATA), **changed}
    assert read(json.dumps(document)).drives[0].left_percent == left


def test_a_drive_that_says_nothing_is_told() -> None:
    with pytest.raises(ReportFault, match="smartctl says of sda: Permission denied"):
        read(d.SMARTCTL_REFUSED)
    found = read_report(f"{d.SMARTCTL_REFUSED}\n{d.SMARTCTL_NVME}")
    assert found.missed == ("smartctl says of sda: Permission denied",)
    assert len(found.report.drives) == 1


def test_upower_leaves_mice_and_sums_out() -> None:
    found = read(d.UPOWER)
    assert found.packs == (PackSeen(60.1, 51.25, charging=True, cycles=212, serial="00123"),)
    assert (found.pack_design_wh, found.pack_full_wh, found.charging) == (60.1, 51.25, True)


def test_lsblk_leaves_sticks_and_what_is_no_disk_out() -> None:
    found = read(d.LSBLK)
    assert [(drive.name, drive.bus) for drive in found.drives] == [("nvme0n1", "NVMe")]
    assert found.drives_gb[0] == pytest.approx(512.1, abs=0.1)
    in_bytes = d.LSBLK.replace('"476,9G"', "512110190592")
    assert read(in_bytes).drives_gb == pytest.approx((512.110190592,))


def test_sensors() -> None:
    found = read(d.SENSORS)
    assert found.fans_rpm == (2412, 0)
    assert found.hottest_c == 63, "of the processor, not of the drive"
    plain = "coretemp-isa-0000\nPackage id 0:  +61.0°C  (high = +100.0°C)\nfan1:        2412 RPM\n"
    assert (read(plain).fans_rpm, read(plain).hottest_c) == ((2412,), 61)


def test_battery_reports() -> None:
    assert read(d.BATTERY_XML).packs == (PACK,)
    first, second = read(d.BATTERY_HTML).packs
    assert first == PACK
    assert second == PackSeen(23.25), "nought and a dash are how it says that it does not know"
    assert read(d.BATTERY_HTML).pack_design_wh is None, "of two packs nobody says which is meant"


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("<!DOCTYPE x [<!ENTITY a 'b'>]><BatteryReport>&a;</BatteryReport>", "declares a document type"),
        ("<BatteryReport><Battery></BatteryReport>", "no XML"),
        ("<BatteryReport></BatteryReport>", "battery report: nothing about"),
        ('{"percent_used": 3}', "NVMe log|a log names no drive"),
        ('{"blockdevices": [3, null]}', "block devices: nothing about"),
        ('{"smartctl": {"messages": 3}, "device": {"name": "/dev/sda"}}', "does not follow it"),
    ],
)
def test_what_only_looks_like_a_form_says_what_is_wrong(text: str, words: str) -> None:
    try:
        said = " ".join(read_report(text).missed)
    except ReportFault as fault:
        said = str(fault)
    assert any(one in said for one in words.split("|"))


@pytest.mark.parametrize(
    ("text", "value"),
    [("41,25", 41.25), ("60.1", 60.1), ("1.234,5", 1234.5), ("1,234.5", 1234.5), ("-3", -3), ("", None), ("a", None), ("1e5", None)],
)
def test_decimal_signs(text: str, value: float | None) -> None:
    assert (decimal(text) if text not in ("1e5",) else number(text)) == value


@pytest.mark.parametrize(("text", "value"), [("60.100", 60100), ("60,100", 60100), ("60\u202f100", 60100), ("-", None), ("", None)])
def test_grouped_thousands(text: str, value: float | None) -> None:
    assert whole(text) == value


@pytest.mark.parametrize(
    ("said", "value"),
    [("476.9G", 476.9 * 2**30), ("476,9G", 476.9 * 2**30), ("8192 MB", 2**33), (512, 512), ("512", 512), ("2 furlongs", None), (0, None),
     (True, None), ("1 TiB", 2**40), (None, None)],
)  # fmt: skip
def test_sizes(said: object, value: float | None) -> None:
    assert byte_count(said) == (None if value is None else pytest.approx(value))


@pytest.mark.parametrize("said", ["", "Not Specified", "00000000", None, "Unknown", "0 0 0", "-"])
def test_words_for_no_serial_are_none(said: str | None) -> None:
    assert serial_of(said) == ""


DOCUMENTS = [d.LSHW, d.DMIDECODE, d.SMARTCTL_NVME, d.SMARTCTL_ATA, d.NVME_LOG, d.UPOWER, d.LSBLK, d.SENSORS, d.BATTERY_XML, d.BATTERY_HTML]


@given(st.sampled_from(DOCUMENTS), st.integers(0, 4000), st.integers(0, 200), st.text(max_size=4))
def test_no_damaged_document_breaks_the_reading(document: str, at: int, cut: int, put: str) -> None:
    at %= len(document)
    try:
        read_report(document[:at] + put + document[at + cut :])
    except ReportFault as fault:
        assert str(fault)


VALUES = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats() | st.text(max_size=6),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=5), inner, max_size=3),
    max_leaves=6,
)
NAMES = st.sampled_from(
    ["class", "size", "children", "blockdevices", "smartctl", "device", "user_capacity", "ata_smart_attributes", "percent_used", "capacity"]
)


@given(st.dictionaries(NAMES, VALUES, max_size=5))
def test_no_value_of_a_wrong_kind_breaks_the_reading(document: dict[str, object]) -> None:
    try:
        read_report(json.dumps(document))
    except ReportFault as fault:
        assert str(fault)
