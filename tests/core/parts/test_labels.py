"""Reading labels: rules M2, M3, S1, S3, B1, B2, B3."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.core.errors import ContractError
from almanac.core.parts.kinds import Kind
from almanac.core.parts.labels.battery import energy_check, plausible_energy, series_count
from almanac.core.parts.labels.drive import m2_length
from almanac.core.parts.labels.memory import GRADES, grade_of_code, grade_of_report, repairs, snap
from almanac.core.parts.labels.read import read_label


def test_a_full_memory_label_is_read() -> None:
    read = read_label("8GB 1Rx8 PC4-3200AA-SA2-11")
    assert read.kind == Kind.MEMORY
    assert read.facts == {
        "generation": "DDR4", "suffix": "AA", "grade_mt_s": 3200, "form": "SO-DIMM", "capacity_gb": 8, "ranks": 1, "width": 8,
    }  # fmt: skip
    assert read.flags == []


@pytest.mark.parametrize(
    ("code", "grade"),
    [
        ((3, 12800), 1600),
        ((3, 1600), 1600),
        ((3, 10600), 1333),
        ((3, 14900), 1866),
        ((4, 17000), 2133),
        ((4, 21300), 2666),
        ((4, 25600), 3200),
        ((5, 38400), 4800),
        ((5, 4800), 4800),
    ],
)
def test_module_codes_name_their_grade(code: tuple[int, int], grade: int) -> None:
    assert grade_of_code(*code) == grade


@given(st.sampled_from([(g, rate) for g, rates in GRADES.items() for rate in rates]))
def test_every_grade_is_found_from_its_rate_and_from_its_bandwidth(pair: tuple[int, int]) -> None:
    generation, rate = pair
    assert snap(generation, rate) == rate
    if rate * 8 >= {3: 4000, 4: 6000, 5: 10000}[generation]:
        assert grade_of_code(generation, rate * 8) == rate


def test_ddr3_without_l_leaves_the_voltage_open_and_low_voltage_ddr4_is_dropped() -> None:
    plain, low, ddr4 = read_label("PC3-12800S-11"), read_label("PC3L-12800S"), read_label("DDR4L-2400 8GB")
    assert plain.facts["low_voltage"] is None
    assert any("voltage is unknown" in flag for flag in plain.flags)
    assert low.facts["low_voltage"] is True
    assert low.facts["generation"] == "DDR3L"
    assert ddr4.facts["generation"] == "DDR4"
    assert any("dropped" in flag for flag in ddr4.flags)


def test_a_misread_grade_proposes_repairs_and_asks() -> None:
    read = read_label("DDR4 2600 8GB")
    assert "grade_mt_s" not in read.facts
    assert "2400 MT/s or 2666 MT/s" in read.flags[0]
    assert all(grade_of_code(4, code) for code in repairs(4, 2600))


def test_a_report_may_give_the_clock() -> None:
    assert grade_of_report(4, 1333) == (2666, "1333 is the clock: the grade is 2666 MT/s")
    assert grade_of_report(4, 1600)[0] is None
    assert grade_of_report(4, 2666) == (2666, None)
    assert grade_of_report(4, 5000)[0] is None
    with pytest.raises(ContractError, match="generation"):
        snap(6, 8000)


@pytest.mark.parametrize(("code", "length"), [("2280", 80), ("2230", 30), ("22110", 110), ("2250", None), ("2290", None), ("1280", None)])
def test_only_lengths_that_exist_are_taken(code: str, length: int | None) -> None:
    assert m2_length(code) == length


def test_drive_labels_and_their_doubts() -> None:
    assert read_label("M.2 2280 NVMe PCIe Gen4 x4 512GB").facts == {
        "form": "M.2", "length_mm": 80, "bus": "NVMe", "generation": 4, "lanes": 4, "capacity_gb": 512,
    }  # fmt: skip
    assert read_label('2.5" SATA 480GB 7mm').facts["thickness_mm"] == 7
    assert any("ruler" in flag for flag in read_label("M.2 2250 SATA").flags)
    assert any("no thickness" in flag for flag in read_label("2.5 inch 8 mm SATA").flags)
    assert read_label("M.2 2230 key E").kind == Kind.RADIO
    notched = read_label("M.2 2280 B+M key 256 GB")
    assert "bus" not in notched.facts
    assert any("do not prove" in flag for flag in notched.flags)


def test_battery_arithmetic() -> None:
    assert energy_check(15.2, 3.95, 60.04)[0] == "good"
    assert energy_check(15.2, 3.95, 57.0)[0] == "look"
    assert energy_check(15.2, 3.95, 70.0)[0] == "wrong"
    read = read_label("15.2V 3950mAh 60Wh")
    assert read.facts["agreement"] == "good"
    assert read.facts["series"] == 4
    assert read_label("11.4 V 4900mAh 56 W").flags == ["W said of a pack is taken for Wh"]
    assert read_label("7.6 V 5920mAh").facts["energy_wh"] == 44.99
    assert any("unit slip" in flag for flag in read_label("7.6V 5920Ah").flags)
    assert any("implausible" in flag for flag in read_label("7.6 V 450 Wh").flags)
    assert read_label("7.6V 0mAh").facts == {"voltage_v": 7.6, "series": 2}


@given(st.integers(1, 8), st.floats(3.6, 3.95))
def test_a_series_count_is_found_or_unknown_but_never_wrong(series: int, cell_volts: float) -> None:
    assert series_count(series * cell_volts) in (series, None)


@pytest.mark.parametrize(("volts", "series"), [(15.2, 4), (11.4, 3), (11.1, 3), (7.6, 2), (7.2, 2), (12.0, None), (5.0, None)])
def test_series_of_usual_packs(volts: float, series: int | None) -> None:
    assert series_count(volts) == series


def test_cells_hold_eight_to_twenty_watt_hours() -> None:
    assert plausible_energy(60, 4)
    assert not plausible_energy(60, 2)
    with pytest.raises(ContractError):
        plausible_energy(0, 4)


@given(st.text(max_size=60))
def test_no_text_breaks_a_reader(text: str) -> None:
    read_label(text)
    for kind in (Kind.MEMORY, Kind.SSD, Kind.BATTERY):
        read_label(text, kind)


@pytest.mark.parametrize(
    ("text", "fact", "value", "asked"),
    [
        ("16GB (2x8GB) DDR4 3200", "capacity_gb", None, "a kit of 2 x 8 GB"),
        ("DDR4 3200 8GB 16GB", "capacity_gb", None, "the label names 8 and 16 GB"),
        ('6Gb/s SATA 2.5" SSD 512GB 7mm', "capacity_gb", 512, None),
        ("SSD 480GB 2.5 inch 7 mm SATA 6 Gb/s", "capacity_gb", 480, None),
        ("512G M.2 2280 NVMe +3.3V 2.5A", "capacity_gb", 512, None),
        ("512G M.2 2280 NVMe +3.3V 2.5A", "form", "M.2", None),
        ("SATA 5V 2.5A 240GB", "form", "absent", "no form on the label"),
        ("DDR4 8GB 1600MHz", "grade_mt_s", None, "the clock of 3200"),
        ("DDR4 8GB 3200MHz", "grade_mt_s", 3200, None),
        ("DDR4 8GB 1600 MT/s", "grade_mt_s", 1600, None),
        ("DDR5 16GB 2400MHz", "grade_mt_s", 4800, "2400 is the clock"),
        ("DDR4/DDR5 16GB SO-DIMM", "generation", None, "the label names DDR4 and DDR5"),
        ("PC4-2400T PC4-3200 8GB", "grade_mt_s", None, "the label names 2400 and 3200 MT/s"),
        ("M.2 2280 / 2242 NVMe 256GB", "length_mm", None, "the label names 80 and 42 mm"),
        ("M.2 2280 NVMe Gen4 x4 PCIe Gen3", "generation", None, "the label names 4 and 3"),
        ("15.2V 3 cells 3950mAh 60Wh", "cells", 3, "3 cells at 15.2 V are doubted"),
        ("15.2V 8 cells 7900mAh 120Wh", "cells", 8, None),
    ],
)
def test_of_two_that_differ_the_first_is_never_taken(text: str, fact: str, value: object, asked: str | None) -> None:
    read = read_label(text)
    assert read.facts.get(fact, "absent") == value
    assert (
        any(asked in flag for flag in read.flags) if asked else not any("which of them" in flag or "clock" in flag for flag in read.flags)
    )


@pytest.mark.parametrize("text", ["FAN DC 5V 0.5A 4-pin", "DC 12V 0.35A brushless", "Blower 5V 0.4A"])
def test_a_fans_label_is_no_battery(text: str) -> None:
    read = read_label(text)
    assert read.kind == Kind.FAN
    assert read.facts == {}


def test_volts_beside_amperes_are_no_pack() -> None:
    assert read_label("5V 0.5A").kind is None
    assert read_label("15.2V").kind == Kind.BATTERY
    assert read_label("15.2V 3.95Ah").kind == Kind.BATTERY
