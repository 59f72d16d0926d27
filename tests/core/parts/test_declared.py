"""Facts and kinds are declared once: what is typed is understood the same way everywhere, or refused with the nearest that can be."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.core.parts.contradictions import contradicted
from almanac.core.parts.declared.facts import BY_KIND, FACTS, FactSpec, Subject, spec_of
from almanac.core.parts.declared.kinds import FORECAST_KINDS, KINDS, kind_told
from almanac.core.parts.declared.understand import NotUnderstood, read_page_facts, understand
from almanac.core.parts.declared.words import fact_words, takes_words
from almanac.core.parts.fact_checks import fact_faults, faults_of_part
from almanac.core.parts.fits.judge import judge
from almanac.core.parts.kinds import Kind
from almanac.core.parts.labels.read import read_label
from almanac.core.parts.labels.reading import DERIVED
from almanac.web import declared

ROOT = Path(__file__).parents[3]


def page(kind: str, part: str, **facts: Any) -> dict[str, Any]:
    stored = {name: [{"value": value, "grade": "measured", "source": "t", "date": "2026-01-01"}] for name, value in facts.items()}
    return {"positions": [{"key": "p", "label": "P", "kind": kind, part: stored}], "operations": []}


@pytest.mark.parametrize(
    ("kind", "name", "typed", "meant"),
    [
        ("ssd", "bus", "nvme", "NVMe"),
        ("ssd", "bus", ["sata", "NVME"], ["SATA", "NVMe"]),
        ("memory", "form", "SODIMM", "SO-DIMM"),
        ("memory", "generation", "ddr4", "DDR4"),
        ("ssd", "generation", "Gen4", 4),
        ("ssd", "form", "2.5 in", "2.5-inch"),
        ("ssd", "form", '2.5"', "2.5-inch"),
        ("ssd", "lengths_mm", "42, 80", [42, 80]),
        ("ssd", "lanes", "x4", 4),
        ("ssd", "bracket", "yes", True),
        ("battery", "voltage_v", "11,4", 11.4),
        ("battery", "energy_wh", "60,5 Wh", 60.5),
        ("fan", "side", "center", "centre"),
        ("fan", "ordered", "with its sink", "with sink"),
        ("battery", "plug", "  board 8-pin ", "board 8-pin"),
        ("battery", "energy_wh", "?", None),
        ("fan", "other_colour", "blue", "blue"),
    ],
)
def test_harmless_spellings_are_understood(kind: str, name: str, typed: Any, meant: Any) -> None:
    read = understand(Kind(kind), name, typed)
    assert read.value == meant
    assert read.name == name
    assert understand(Kind(kind), name, read.value).notes == ()


@pytest.mark.parametrize(
    ("kind", "facts", "message", "cure"),
    [
        ("ssd", {"lengths_mm": 42}, "a list", "write [42]"),
        ("ssd", {"lengths_mm": [81]}, "one of 30, 42", "nearest is 80"),
        ("battery", {"energy_wh": "60 mWh"}, "a number of Wh", "write 0.06"),
        ("battery", {"capacity_ah": 3950}, "a number of Ah", "in mAh? 3.95 Ah"),
        ("memory", {"maximum_gb": 32768}, "a number of GB", "in MB? 32 GB"),
        ("ssd", {"thickness_mm": 0.28}, "one of 5, 7", "in inches? 7.11 mm"),
        ("memory", {"generation": 4}, "one of DDR3", "write it as a word"),
        ("memory", {"generation": "DDR44"}, "one of DDR3", "did you mean DDR4?"),
        ("memory", {"generaton": "DDR4"}, "no rule reads “generaton”", "did you mean generation?"),
        ("memory", {"speed": 3200}, "no rule reads “speed”", "other_speed"),
        ("fan", {"energy_wh": 60}, "no rule reads “energy_wh”", "stated of battery"),
        ("fan", {"ordered": "banana"}, "one of alone", "use one of these"),
        ("battery", {"mount": {"a": "b"}}, "a word, or a list", "write it as a word"),
        ("battery", {"voltage_v": True}, "a number of V", "write one figure"),
        ("battery", {"capacity_ah": -3}, "a number of Ah", "write a figure"),
        ("ssd", {"length_mm": 80}, "length is stated of the part", "move length_mm there"),
        ("memory", {"generation": "DDR4", "grade_mt_s": 320}, "320 MT/s is no grade of DDR4", "did you mean 3200?"),
        ("memory", {"generation": "DDR4", "voltage_v": 1.35}, "DDR4 has one voltage", "drop voltage_v"),
        ("ssd", {"form": "2.5-inch", "thickness_mm": 9}, "9 mm is no height of a drive", "5, 7, 9.5"),
        ("memory", {"generation": "DDR4", "grade_mt_s": 3000}, "3000 MT/s is no grade of DDR4", "did you mean 3200"),
        ("memory", {"generation": "DDR4", "grade_mt_s": 2660}, "2660 MT/s is no grade of DDR4", "did you mean 2666"),
    ],
)
def test_what_cannot_be_is_a_fault_with_the_nearest_that_can(kind: str, facts: dict[str, Any], message: str, cure: str) -> None:
    found = fact_faults(page(kind, "takes", **facts))
    assert [fault.where[-1] for fault in found] == [list(facts)[-1]], found
    assert message in found[0].message
    assert cure in found[0].cure
    assert not found[0].open


def test_a_part_on_a_shelf_is_held_to_the_same() -> None:
    stored = page("memory", "fitted", generation="DDR5", low_voltage=True)["positions"][0]["fitted"]
    assert [fault.message for fault in faults_of_part(Kind.MEMORY, stored)] == ["DDR5 has one voltage, so none is stated of it"]


@pytest.mark.parametrize("value", [None, "unknown", "?"])
def test_what_nobody_knows_is_no_fault(value: str | None) -> None:
    assert fact_faults(page("battery", "takes", voltage_v=value, energy_wh=value, mount=value)) == []


def test_a_page_is_kept_as_rules_read_it_and_says_what_was_written_otherwise() -> None:
    stored, notes = read_page_facts(page("ssd", "takes", Bus="nvme", lanes=4))
    takes = stored["positions"][0]["takes"]
    assert {name: said[0]["value"] for name, said in takes.items()} == {"bus": "NVMe", "lanes": 4}
    assert [note for _, note in notes] == ["Bus is read as bus", "'nvme' is read as NVMe"]
    assert read_page_facts(stored) == (stored, [])


def test_two_names_of_one_fact_are_statements_side_by_side() -> None:
    stored, _ = read_page_facts(page("ssd", "takes", bus="NVMe", BUS="SATA"))
    assert [said["value"] for said in stored["positions"][0]["takes"]["bus"]] == ["NVMe", "SATA"]


NAMES = sorted({spec.name for spec in FACTS} | {"speed", "other_x", "BUS"})
VALUES = st.one_of(
    st.none(), st.booleans(), st.integers(-5, 10**9), st.floats(), st.text(max_size=5), st.lists(st.integers(0, 100) | st.text(max_size=3), max_size=3),
    st.dictionaries(st.text(max_size=3), st.text(max_size=3), max_size=2), st.sampled_from(["DDR4", "nvme", "M.2", "yes", "42,80", "11,4", "Gen3"]),
)  # fmt: skip
STATED = st.dictionaries(st.sampled_from(NAMES), VALUES, max_size=6)


@given(st.sampled_from(list(Kind)), STATED, STATED)
def test_no_rule_stumbles_over_facts_that_are_called_sound(kind: Kind, takes: dict[str, Any], fitted: dict[str, Any]) -> None:
    """Whatever a page holds: either it is faulted, or every verdict can be asked."""
    slot, _ = read_page_facts(page(kind.value, "takes", **takes))
    part, _ = read_page_facts(page(kind.value, "fitted", **fitted))
    if fact_faults(slot) or fact_faults(part):
        return
    judge(slot["positions"][0], kind, part["positions"][0]["fitted"])
    takes_words(kind.value, {name: said[0]["value"] for name, said in slot["positions"][0]["takes"].items()})


@given(st.sampled_from(list(Kind)), st.sampled_from(NAMES), VALUES)
def test_what_is_understood_is_understood_again_the_same(kind: Kind, name: str, value: Any) -> None:
    try:
        read = understand(kind, name, value)
    except NotUnderstood as unclear:
        assert unclear.message
        assert unclear.cure
        return
    again = understand(kind, read.name, read.value)
    assert (again.name, again.value, again.notes) == (read.name, read.value, ())


@pytest.mark.parametrize("spec", FACTS, ids=lambda spec: f"{'/'.join(spec.kinds) or 'machine'}-{spec.name}")
def test_every_fact_says_what_it_decides_and_takes_its_own_values(spec: FactSpec) -> None:
    assert spec.decides
    for kind in spec.kinds or (None,):
        assert spec_of(kind, spec.name) is spec
        for value in spec.type.allowed:
            assert understand(kind, spec.name, "yes" if value is True else str(value)).value in (value, [value])
            assert fact_words(kind, spec.name, value)


@pytest.mark.parametrize(
    "label", ["8GB 1Rx8 PC4-3200AA-SA2-11", "16GB DDR3L-1600 SO-DIMM", "M.2 2280 NVMe PCIe Gen4 x4 512GB", '2.5" SATA 7 mm 480GB', "11.4V 3950mAh 45Wh"]
)  # fmt: skip
def test_what_a_label_says_is_a_fact_that_is_declared(label: str) -> None:
    reading = read_label(label)
    assert reading.kind is not None
    for name, value in reading.facts.items():
        if name not in DERIVED:
            assert understand(reading.kind, name, value, Subject.PART).value == value


@pytest.mark.parametrize(
    ("name", "kind"),
    [
        ("Settings battery", Kind.SETTINGS_CELL),
        ("Battery pack", Kind.BATTERY),
        ("Optical drive", Kind.OPTICAL_DRIVE),
        ("Drive bay", Kind.SSD),
        ("Mainboard", Kind.MAINBOARD),
        ("Keyboard", Kind.KEYBOARD),
        ("USB board", Kind.IO_BOARD),
        ("Charging socket", Kind.CHARGING_SOCKET),
        ("Memory slot A", Kind.MEMORY),
        ("Stand", Kind.OTHER),
    ],
)
def test_a_kind_is_told_from_its_name(name: str, kind: Kind) -> None:
    assert kind_told(name) == kind


def test_every_kind_is_declared_once() -> None:
    assert [spec.kind for spec in KINDS] == list(Kind)
    assert FORECAST_KINDS == (Kind.MEMORY, Kind.SSD, Kind.BATTERY, Kind.FAN)
    assert set(BY_KIND) == {None, *Kind}


def test_what_the_interface_and_the_docs_know_is_what_is_declared() -> None:
    assert (ROOT / "docs" / "facts.md").read_text() == declared.page(), "run bin/schema"
    assert (ROOT / "frontend/src/app/kinds.css").read_text() == declared.stylesheet(), "run bin/schema"
    plain = "".join(declared.typescript().split()).replace(",]", "]").replace(",}", "}").replace('"', "")
    written = "".join((ROOT / "frontend/src/api/declared.ts").read_text().split()).replace(",]", "]").replace(",}", "}").replace('"', "")
    assert written.replace("'", "") == plain.replace("'", "").replace("\\", "\\"), "run bin/schema"


def test_a_measurement_is_contradicted_by_another_value_and_by_silence() -> None:
    before = page("battery", "takes", energy_wh=60.0, plug="board 8-pin")
    told = page("battery", "takes", energy_wh=60.0, plug="board 8-pin")
    assert contradicted(before, told) == []
    told["positions"][0]["takes"]["energy_wh"][0]["value"] = 48.0
    del told["positions"][0]["takes"]["plug"]
    assert contradicted(before, told) == [
        "P, energy was measured as 60 Wh, now 48 Wh",
        "P, plug was measured as plug board 8-pin, now nothing holds",
    ]
    # A weaker word beside the measurement changes nothing that holds.
    weaker = page("battery", "takes", energy_wh=60.0, plug="board 8-pin")
    weaker["positions"][0]["takes"]["energy_wh"].append({"value": 50.0, "grade": "told", "source": "t", "date": "2026-05-01"})
    assert contradicted(before, weaker) == []
