"""Every fact of a position, a part or a machine: its name, what it may be, and what it decides. Declared here and nowhere else."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from almanac.core.parts.declared.values import Anything, ByWord, Choice, FactType, Listed, Number, Words, YesNo
from almanac.core.parts.kinds import Kind
from almanac.core.parts.labels.drive import M2_LENGTHS_MM, THICKNESSES_MM

CADDY_BAYS_MM = (9.0, 9.5, 12.7)
SPARE = "other_"
"""A fact whose name begins so is kept and shown, and no rule reads it."""


class Subject(StrEnum):
    """What a fact is stated of: the place in a machine, the part that is in it or on a shelf, or the machine."""

    PLACE = "takes"
    PART = "fitted"
    MACHINE = "facts"


@dataclass(frozen=True)
class FactSpec:
    """One fact. kinds : of part it is stated of, none for the machine · decides : what reads it · said : pattern of its value in words

    asked : the question that settles it while a machine is open, where it is worth one
    """

    name: str
    label: str
    type: FactType
    kinds: tuple[Kind, ...]
    of: tuple[Subject, ...]
    decides: str
    said: str = "{}"
    unit: str = ""
    asked: str = ""
    shown: bool = True


BOTH, PLACE, PART = (Subject.PLACE, Subject.PART), (Subject.PLACE,), (Subject.PART,)
MEMORY, DRIVE, PACK, FAN = (Kind.MEMORY,), (Kind.SSD, Kind.OPTICAL_DRIVE), (Kind.BATTERY,), (Kind.FAN,)
MOUNTED = tuple(kind for kind in Kind if kind not in (Kind.MEMORY, Kind.SSD))
GENERATIONS = ("DDR3", "DDR3L", "DDR4", "DDR5", "LPDDR3", "LPDDR4", "LPDDR4X", "LPDDR5", "LPDDR5X")
MODULES = Choice(("SO-DIMM", "DIMM", "compression module"), {"sodim": "SO-DIMM", "dim": "DIMM", "camm": "compression module"})
DRIVES = Choice(
    ("M.2", "2.5-inch", "optical bay"),
    {"25in": "2.5-inch", "25": "2.5-inch", "25inches": "2.5-inch", "25zoll": "2.5-inch", "optical": "optical bay", "m2card": "M.2"},
)
BUSES = Choice(("SATA", "NVMe"), {"pcie": "NVMe", "sataiii": "SATA", "sata3": "SATA", "nvmepcie": "NVMe"}, many=True)
UNITS_OF_FAN = Choice(("alone", "with sink", "alone after tape"), {"withheatsink": "with sink", "withitssink": "with sink"})
SIDES = Choice(("left", "right", "centre"), {"center": "centre", "middle": "centre", "l": "left", "r": "right"})
KEYS = Choice(("M", "B", "B+M", "E", "A+E"), {"m+b": "B+M", "mb": "B+M", "bm": "B+M", "keym": "M", "keye": "E"})


def _gb(low: float = 0.0, high: float = 65_536.0) -> Number:
    return Number("GB", low=low, high=high, slips=(("MB", 1 / 1024),))


FACTS: tuple[FactSpec, ...] = (
    # memory
    FactSpec("form", "form", MODULES, MEMORY, BOTH, "M1: whether a module goes into a slot"),
    FactSpec(
        "generation",
        "generation",
        Choice(GENERATIONS),
        MEMORY,
        BOTH,
        "M1, M2: whether a module works in a slot; LPDDR is soldered",
        asked="technology of the slot or module: DDR3, DDR4, DDR5?",
    ),
    FactSpec(
        "grade_mt_s",
        "grade",
        Number("MT/s", low=1, high=20_000, whole=True),
        MEMORY,
        BOTH,
        "M3, M6: the speed modules run at",
        "{} MT/s",
        "MT/s",
        asked="grade of the slot or module in MT/s?",
    ),
    FactSpec(
        "capacity_gb",
        "capacity",
        _gb(0.25, 256),
        MEMORY,
        BOTH,
        "M5, M7, M9: totals that can be reached, the accepted report",
        "{} GB",
        "GB",
    ),
    FactSpec("maximum_gb", "maximum", _gb(0.25, 256), MEMORY, PLACE, "M5: the most a slot takes, a hard stop", "to {} GB", "GB"),
    FactSpec(
        "voltage_v",
        "voltage",
        Number("V", (1.35, 1.5)),
        MEMORY,
        PLACE,
        "M2: whether a DDR3 slot takes the low-voltage kind only",
        "{} V",
        "V",
    ),
    FactSpec("low_voltage", "low voltage", YesNo(), MEMORY, PART, "M2: whether a DDR3 module runs at 1.35 V", "low voltage"),
    FactSpec(
        "ranks", "ranks", Number("", (1, 2, 4, 8), whole=True), MEMORY, PART, "M6: a risk of practice where modules differ", "{} ranks"
    ),
    FactSpec("width", "width", Number("", (4, 8, 16), whole=True), MEMORY, PART, "shown only", "chips x{}", shown=False),
    FactSpec("suffix", "suffix", Words(), MEMORY, PART, "M3: kept as the label has it", shown=False),
    FactSpec("maker", "maker", Words(), (*MEMORY, Kind.SSD, *PACK), PART, "M6: a risk of practice where modules differ"),
    # drives
    FactSpec("form", "form", DRIVES, DRIVE, BOTH, "S2, S6: whether a drive goes in"),
    FactSpec(
        "bus", "bus", BUSES, DRIVE, BOTH, "S3: a drive of another bus goes in and is not detected", asked="bus of the slot: SATA or NVMe?"
    ),
    FactSpec(
        "generation", "generation", Number("", (1, 2, 3, 4, 5), whole=True), DRIVE, BOTH, "S4: the speed of the link", "generation {}"
    ),
    FactSpec("lanes", "lanes", Number("lanes", (1, 2, 4), whole=True), DRIVE, BOTH, "S4: the speed of the link", "{} lanes"),
    FactSpec(
        "lengths_mm",
        "posts",
        Listed(Number("mm", tuple(map(float, M2_LENGTHS_MM)), whole=True)),
        DRIVE,
        PLACE,
        "S1, S2: lengths for which a post stands",
        "{} mm",
        "mm",
    ),
    FactSpec(
        "length_mm",
        "length",
        Number("mm", tuple(map(float, M2_LENGTHS_MM)), whole=True),
        DRIVE,
        PART,
        "S1, S2: which post it needs",
        "{} mm",
        "mm",
    ),
    FactSpec(
        "thickness_mm",
        "thickness",
        Number("mm", tuple(sorted({*THICKNESSES_MM, *CADDY_BAYS_MM})), slips=(("inches", 25.4),)),
        DRIVE,
        BOTH,
        "S6: whether it goes in",
        "{} mm thick",
        "mm",
    ),
    FactSpec(
        "caddy_mm", "caddy", Number("mm", CADDY_BAYS_MM), DRIVE, PLACE, "S6: a caddy as high as the optical bay", "caddy of {} mm", "mm"
    ),
    FactSpec(
        "inner_mm", "inside of the caddy", Number("mm", THICKNESSES_MM), DRIVE, PLACE, "S6: the drive a caddy takes", "{} mm inside", "mm"
    ),
    FactSpec(
        "double_sided",
        "room for both sides",
        YesNo(),
        (Kind.SSD,),
        PLACE,
        "S5: whether there is height for chips on both sides",
        "double sided",
        asked="room for a double-sided drive?",
    ),
    FactSpec(
        "sides",
        "sides with chips",
        Number("", (1, 2), whole=True),
        (Kind.SSD,),
        PART,
        "S5: whether it needs the height",
        "chips on {} side(s)",
    ),
    FactSpec("bracket", "bracket", YesNo(), (Kind.SSD,), PLACE, "S2: carries a drive shorter than every post", "bracket"),
    FactSpec("pad", "pad", YesNo(), (Kind.SSD,), PLACE, "S5: a drive that touches base or shield needs its pad", "pad"),
    FactSpec("carrier", "carrier", YesNo(), (Kind.SSD,), PLACE, "S5: what a second drive needs", shown=False),
    FactSpec("keying", "keying", KEYS, (*DRIVE, Kind.RADIO), BOTH, "S3: evidence of the bus, no proof", "keyed {}"),
    FactSpec("capacity_gb", "capacity", _gb(1), DRIVE, BOTH, "S7, S8: the stock line, whether a copy fits", "{} GB", "GB"),
    # packs
    FactSpec(
        "energy_wh",
        "energy",
        Number("Wh", low=1, high=5_000, slips=(("mWh", 0.001),)),
        PACK,
        BOTH,
        "B1, B3, B6: packs are ranked by it",
        "{} Wh",
        "Wh",
        asked="Wh on the label?",
    ),
    FactSpec("voltage_v", "voltage", Number("V", low=1, high=40), PACK, BOTH, "B1, B2: the number of cells in series", "{} V", "V"),
    FactSpec(
        "capacity_ah",
        "charge",
        Number("Ah", low=0.1, high=100, slips=(("mAh", 0.001),)),
        PACK,
        BOTH,
        "B1, B3: with the voltage, the energy",
        "{} Ah",
        "Ah",
    ),
    FactSpec(
        "series", "cells in series", Number("", (1, 2, 3, 4, 5, 6, 7, 8), whole=True), PACK, BOTH, "B2, B6: must be equal", "{} in series"
    ),
    FactSpec("plug", "plug", Words(), PACK, BOTH, "B6: whether the lead fits", "plug {}", asked="which plug?"),
    FactSpec("lead_carries_over", "lead carries over", YesNo(), PACK, PLACE, "B6: then the plug does not matter", "lead carries over"),
    FactSpec("revision", "revision", Words(), PACK, BOTH, "B6: another one is a question", "revision {}"),
    # fans
    FactSpec("side", "side", SIDES, FAN, BOTH, "C2: left and right are different parts", asked="which side, as the user sits?"),
    FactSpec("ordered", "ordered", UNITS_OF_FAN, FAN, PLACE, "C1: what is ordered", "ordered {}", asked="ordered alone or with its sink?"),
    FactSpec("with_heat_sink", "with heat sink", YesNo(), FAN, PART, "C1: whether the sink comes with it", "with heat sink"),
    # the rest
    FactSpec("mount", "chassis", Words(many=True), MOUNTED, BOTH, "whether screws and room are those of the machine", "chassis {}"),
    FactSpec("form", "form", Words(), (Kind.RADIO,), BOTH, "whether a radio card goes in"),
    FactSpec(
        "antennas",
        "antennas",
        ByWord("{black: main, white: auxiliary}"),
        (Kind.RADIO,),
        PLACE,
        "which lead goes on which post",
        shown=False,
    ),
    FactSpec("soldered_memory_gb", "soldered memory", _gb(), (Kind.MAINBOARD,), PART, "shown only", "{} GB soldered", "GB"),
    # the machine
    FactSpec(
        "mains_wait_minutes",
        "wait after mains",
        Number("min", low=0, high=240),
        (),
        (Subject.MACHINE,),
        "G1: the wait before a machine with mains inside is opened",
        "{} min",
        "min",
    ),
    FactSpec(
        "memory_channels",
        "memory channels",
        Number("", (1, 2, 4), whole=True),
        (),
        (Subject.MACHINE,),
        "M7: the part that runs on two channels",
    ),
    FactSpec("memory_maximum_gb", "memory, documented maximum", _gb(), (), (Subject.MACHINE,), "M5: caps the totals", "{} GB", "GB"),
    FactSpec("memory_soldered_gb", "memory, soldered", _gb(), (), (Subject.MACHINE,), "M5: counts in every total", "{} GB", "GB"),
    FactSpec("memory_tried_gb", "memory, tried", _gb(), (), (Subject.MACHINE,), "M5: told apart from what is documented", "{} GB", "GB"),
)
"""In the order people say them: what it is, how large, then the rest."""

OTHER_FACT = FactSpec(SPARE, "other", Anything(), tuple(Kind), BOTH, "nothing: no rule reads it")
BY_KIND: Mapping[Kind | None, Mapping[str, FactSpec]] = {
    kind: {spec.name: spec for spec in FACTS if (kind in spec.kinds if kind is not None else not spec.kinds)} for kind in (None, *Kind)
}


def spec_of(kind: Kind | None, name: str) -> FactSpec | None:
    """The fact of a name, stated of a kind of part or of the machine (None); a spare one is read by no rule."""
    if name.startswith(SPARE) and len(name) > len(SPARE):
        return OTHER_FACT
    return BY_KIND[kind].get(name)


def label_of(name: str, kind: Kind | None = None) -> str:
    """What people call a fact."""
    spec = spec_of(kind, name) or next((one for one in FACTS if one.name == name), None)
    if name.startswith(SPARE):
        return name.removeprefix(SPARE).replace("_", " ")
    return spec.label if spec else name.replace("_", " ")
