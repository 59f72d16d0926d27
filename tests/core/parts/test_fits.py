"""Fit verdicts: three-valued, with a reason, monotone where the rule says so."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.core.errors import ContractError
from almanac.core.parts.answers import Facts, all_of, no, unknown, yes
from almanac.core.parts.facts import Fact, fact
from almanac.core.parts.fits.battery import (
    battery_health,
    counts_as_stock,
    fit_battery,
    larger_pack,
)
from almanac.core.parts.fits.drive import fit_drive, fittings_to_add, known_bus, speed_in
from almanac.core.parts.fits.fit import fit
from almanac.core.parts.fits.memory import dual_channel_gb, fit_memory, mixed_grade
from almanac.core.parts.fits.others import antenna_post, fan_units, fans_of_side, fit_fan, sink_consumables
from almanac.core.parts.kinds import Grade, Kind, Serviceability, Verdict


def known(grade: Grade = Grade.MEASURED, **values: Any) -> dict[str, list[Fact]]:
    return {key: [fact(value, grade, "bench", "2026-01-01")] for key, value in values.items()}


SLOT = known(form="SO-DIMM", generation="DDR4", grade_mt_s=2666, maximum_gb=16)


def module(**values: Any) -> Facts:
    return known(**{"form": "SO-DIMM", "generation": "DDR4", "grade_mt_s": 2666, "capacity_gb": 8, **values})


def test_memory_must_match_in_form_and_technology() -> None:
    assert fit_memory(SLOT, module()).verdict == Verdict.YES
    assert fit_memory(SLOT, module(generation="DDR5")).reason == "the slot takes DDR4, this is DDR5"
    assert fit_memory(SLOT, module(form="DIMM")).verdict == Verdict.NO
    assert fit_memory(SLOT, known(capacity_gb=8)).verdict == Verdict.UNKNOWN


def test_a_documented_maximum_stops_and_a_missing_one_only_warns() -> None:
    assert fit_memory(SLOT, module(capacity_gb=32)).verdict == Verdict.NO
    open_slot = {key: value for key, value in SLOT.items() if key != "maximum_gb"}
    answer = fit_memory(open_slot, module(capacity_gb=32))
    assert answer.verdict == Verdict.YES
    assert answer.practice is not None
    assert "untested" in answer.practice


def test_a_faster_module_serves_a_slower_slot_and_a_slower_one_says_so() -> None:
    assert fit_memory(SLOT, module(grade_mt_s=3200)).practice is None
    slower = fit_memory(SLOT, module(grade_mt_s=2133))
    assert slower.verdict == Verdict.YES
    assert slower.practice == "runs at 2133 MT/s, below the slot's 2666"


@pytest.mark.parametrize(
    ("slot", "stick", "verdict"),
    [
        ({"generation": "DDR3L"}, {"generation": "DDR3L"}, Verdict.YES),
        ({"generation": "DDR3", "voltage_v": 1.35}, {"generation": "DDR3", "low_voltage": False}, Verdict.NO),
        ({"generation": "DDR3", "voltage_v": 1.35}, {"generation": "DDR3"}, Verdict.UNKNOWN),
        ({"generation": "DDR3", "voltage_v": 1.5}, {"generation": "DDR3"}, Verdict.YES),
        ({"generation": "DDR3", "voltage_v": 1.5}, {"generation": "DDR3L"}, Verdict.YES),
        ({"generation": "DDR3"}, {"generation": "DDR3"}, Verdict.UNKNOWN),
    ],
)
def test_ddr3_voltages(slot: dict[str, Any], stick: dict[str, Any], verdict: Verdict) -> None:
    answer = fit_memory(known(form="SO-DIMM", **slot), known(form="SO-DIMM", capacity_gb=4, **stick))
    assert answer.verdict == verdict


@given(st.sampled_from([4, 8, 16, 32]), st.sampled_from([4, 8, 16, 32]))
def test_a_smaller_module_never_fits_worse(larger: int, smaller: int) -> None:
    if smaller > larger:
        larger, smaller = smaller, larger
    if fit_memory(SLOT, module(capacity_gb=larger)).verdict == Verdict.YES:
        assert fit_memory(SLOT, module(capacity_gb=smaller)).verdict == Verdict.YES


def test_the_reason_rests_on_the_weakest_evidence() -> None:
    told = {**SLOT, **known(Grade.TOLD, generation="DDR4")}
    assert fit_memory(told, module()).grade == Grade.TOLD
    assert all_of([yes("a"), unknown("b"), no("c")]).reason == "c"
    assert all_of([]).verdict == Verdict.UNKNOWN


def test_mixing_channels_and_acceptance() -> None:
    mixed = mixed_grade([module(), module(grade_mt_s=3200)])
    assert mixed.reason == "together they run at 2666 MT/s"
    assert mixed.practice is not None
    assert mixed_grade([module(), known(capacity_gb=8)]).verdict == Verdict.UNKNOWN
    with pytest.raises(ContractError):
        mixed_grade([])
    assert dual_channel_gb(16, 8) == 16


M2 = known(form="M.2", lengths_mm=[80], bus="NVMe", generation=3, lanes=4, double_sided=False)


def drive(**values: Any) -> dict[str, list[Fact]]:
    return known(**{"form": "M.2", "length_mm": 80, "bus": "NVMe", "generation": 4, "lanes": 4, "sides": 1, **values})


def test_drives_by_length_bus_and_sides() -> None:
    assert fit_drive(M2, drive()).verdict == Verdict.YES
    assert fit_drive(M2, drive(length_mm=110)).verdict == Verdict.NO
    assert fit_drive(M2, drive(length_mm=50)).verdict == Verdict.UNKNOWN
    assert fit_drive(M2, drive(length_mm=30)).verdict == Verdict.UNKNOWN
    assert fit_drive({**M2, **known(bracket=True)}, drive(length_mm=30)).verdict == Verdict.YES
    assert fit_drive({**M2, **known(bracket=False)}, drive(length_mm=30)).verdict == Verdict.NO
    assert "not detected" in fit_drive(M2, drive(bus="SATA")).reason
    assert fit_drive(M2, drive(sides=2)).verdict == Verdict.NO
    assert fit_drive(M2, known(form="2.5-inch")).verdict == Verdict.NO


def test_for_the_bus_the_report_outranks_the_label_and_the_notch() -> None:
    label = fact("SATA", Grade.LABEL, "label", "2026-01-01")
    report = fact("NVMe", Grade.REPORTED, "machine", "2026-01-01")
    found = known_bus({"bus": [label, report]})
    assert found is not None
    assert found.value == "NVMe"
    notch = known_bus(known(keying="M"))
    assert notch is not None
    assert notch.grade == Grade.INFERRED
    assert known_bus(known(keying="B+M")) is None


@given(st.sampled_from([5.0, 7.0, 9.5, 12.5]), st.sampled_from([5.0, 7.0, 9.5, 12.5, 15.0]))
def test_a_thinner_drive_never_fits_worse(thin: float, bay: float) -> None:
    place = known(form="2.5-inch", thickness_mm=bay, bus="SATA")
    verdicts = {mm: fit_drive(place, known(form="2.5-inch", thickness_mm=mm, bus="SATA")).verdict for mm in (5.0, 7.0, 9.5, 12.5, 15.0)}
    if verdicts[thin] == Verdict.YES:
        assert all(verdicts[mm] == Verdict.YES for mm in verdicts if mm <= thin)


def test_an_optical_bay_takes_a_caddy_of_its_own_height() -> None:
    bay = known(form="optical bay", thickness_mm=9.5, caddy_mm=9.5, inner_mm=7, bus="SATA")
    assert fit_drive(bay, known(form="2.5-inch", thickness_mm=7, bus="SATA")).verdict == Verdict.YES
    assert fit_drive(bay, known(form="2.5-inch", thickness_mm=9.5, bus="SATA")).verdict == Verdict.NO
    assert fit_drive({**bay, **known(caddy_mm=12.7)}, known(form="2.5-inch", thickness_mm=7)).verdict == Verdict.NO
    assert fit_drive(bay, drive()).verdict == Verdict.NO


def test_the_link_runs_at_the_slower_of_the_two() -> None:
    speed = speed_in(M2, drive())
    assert speed is not None
    assert speed.gb_s == pytest.approx(3.94)
    assert speed.held_back
    sata = speed_in(known(form="2.5-inch"), known(bus="SATA"))
    assert sata is not None
    assert sata.gb_s == 0.6
    assert speed_in(known(form="M.2"), drive()) is None
    assert fittings_to_add(known(pad=True), second_drive=False) == ["pad"]
    assert fittings_to_add({}, second_drive=True) == ["carrier", "screw", "pad"]


BAY = known(voltage_v=15.2, plug="board 10-pin", mount="P14", energy_wh=60)


def pack(**values: Any) -> dict[str, list[Fact]]:
    return known(**{"voltage_v": 15.2, "plug": "board 10-pin", "mount": "P14", "energy_wh": 60, **values})


def test_packs_by_series_plug_and_room() -> None:
    assert fit_battery(BAY, pack()).verdict == Verdict.YES
    assert fit_battery(BAY, pack(voltage_v=11.4)).verdict == Verdict.NO
    assert fit_battery(BAY, pack(mount="P13")).verdict == Verdict.NO
    assert fit_battery(BAY, pack(plug="board 8-pin")).verdict == Verdict.NO
    assert fit_battery({**BAY, **known(lead_carries_over=True)}, pack(plug="another")).verdict == Verdict.YES
    other_size = fit_battery(BAY, pack(energy_wh=52))
    assert other_size.verdict == Verdict.YES
    assert other_size.practice == "52 Wh instead of 60 Wh"
    assert fit_battery({**BAY, **known(revision="A")}, pack(revision="B")).verdict == Verdict.UNKNOWN


def test_packs_compare_by_watt_hours_and_by_charge_only_at_equal_series() -> None:
    assert larger_pack(known(energy_wh=45), known(energy_wh=60)).verdict == Verdict.YES
    assert larger_pack(known(capacity_ah=5, series=2), known(capacity_ah=4, series=4)).verdict == Verdict.UNKNOWN
    assert larger_pack(known(capacity_ah=5, series=3), known(capacity_ah=4, series=3)).verdict == Verdict.NO


def test_a_damaged_or_harvested_pack_never_counts_as_stock() -> None:
    assert counts_as_stock(harvested=True, damaged=False).verdict == Verdict.NO
    assert counts_as_stock(harvested=False, damaged=False).verdict == Verdict.YES
    assert [battery_health(full, 100).advice for full in (81, 80, 60, 59)] == ["keep", "watch", "watch", "replace"]


def test_fans_by_side_and_unit_ordered() -> None:
    place = known(mount="T16", side="left", ordered="alone")
    assert fit_fan(place, known(mount="T16", side="left", with_heat_sink=False)).verdict == Verdict.YES
    assert fit_fan(place, known(mount="T16", side="right", with_heat_sink=False)).verdict == Verdict.NO
    assert fit_fan(place, known(mount="T16", side="left", with_heat_sink=True)).verdict == Verdict.NO
    assert fit_fan(place, known(mount="T16", side="left")).verdict == Verdict.UNKNOWN
    assert fan_units(known(ordered="alone")) == ("alone",)
    assert fan_units({}) == ("alone", "with sink")
    assert fans_of_side(["left", "right", "left"], "left") == 2
    assert sink_consumables(sink_moved=True)
    assert not sink_consumables(sink_moved=False)


def test_radios_and_antennas_have_no_default() -> None:
    place = known(form="M.2 keyed E", antennas={"black": "main"})
    card = known(form="M.2 keyed E")
    assert fit(Kind.RADIO, place, Kind.RADIO, card, held=Serviceability.SOCKETED).verdict == Verdict.YES
    assert fit(Kind.RADIO, place, Kind.RADIO, card, held=Serviceability.SOLDERED).verdict == Verdict.NO
    assert antenna_post(place, "black").reason == "black on main"
    assert antenna_post(place, "white").verdict == Verdict.UNKNOWN


def test_one_entrance_for_all_kinds() -> None:
    assert fit(Kind.MEMORY, SLOT, Kind.SSD, drive(), held=Serviceability.SOCKETED).verdict == Verdict.NO
    assert fit(Kind.MEMORY, SLOT, Kind.MEMORY, module(), held=Serviceability.SOLDERED).verdict == Verdict.NO
    assert fit(Kind.SSD, M2, Kind.SSD, drive(), held=Serviceability.SCREWED).verdict == Verdict.YES
    assert fit(Kind.MAINBOARD, known(mount="P14"), Kind.MAINBOARD, known(mount="P14"), held=Serviceability.SCREWED).verdict == Verdict.YES
    assert fit(Kind.RADIO, known(form="x"), Kind.RADIO, known(form="y"), held=Serviceability.SOCKETED).verdict == Verdict.NO
