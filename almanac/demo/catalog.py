"""The invented catalogue of the demo: harbours, suppliers, parts and models. No real maker, product or place."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import date

from almanac.core.parts.kinds import Duty, Environment, Kind, Serviceability


@dataclass(frozen=True)
class DemoSite:
    code: str
    name: str
    time_zone: str
    environment: Environment
    log_began_on: date
    lane_days: int
    share: float
    leaves: tuple[int, ...] = ()
    carrier: str = "boat"


LONG_LOG, SHORT_LOG = date(2021, 11, 1), date(2023, 11, 1)
SITES = (
    DemoSite("ELD", "Eldermouth", "UTC", Environment.OFFICE, LONG_LOG, 0, 0.38),
    DemoSite("GUL", "Gullskerry", "UTC", Environment.SALT, LONG_LOG, 4, 0.18, (1,)),
    DemoSite("BRA", "Brackenquay", "UTC", Environment.DUST, LONG_LOG, 3, 0.15, (2,), "van"),
    DemoSite("WID", "Widdershaw", "UTC", Environment.OFFICE, LONG_LOG, 6, 0.12, (3,)),
    DemoSite("MAR", "Marrowness", "UTC", Environment.SALT, SHORT_LOG, 8, 0.10, (0,)),
    DemoSite("TER", "Ternhaven", "UTC", Environment.DUST, SHORT_LOG, 11, 0.07, (4,)),
)

SUPPLIERS: dict[str, list[tuple[int, float]]] = {
    "Ostrel Spares": [(18, 0.25), (21, 0.45), (28, 0.25), (42, 0.05)],
    "Brindwell Parts Office": [(12, 0.3), (16, 0.5), (25, 0.2)],
    "Quillfin Service Supply": [(20, 0.4), (26, 0.4), (35, 0.2)],
    "Lantern Components": [(6, 0.5), (9, 0.4), (15, 0.1)],
}


@dataclass(frozen=True)
class DemoPart:
    number: str
    name: str
    kind: Kind
    supplier: str
    price: str
    facts: dict[str, object]
    pack: int = 1
    minimum_order: int = 1
    shelf_life_days: int | None = None
    end_of_supply_on: date | None = None


def _memory(number: str, size: int, generation: str, grade: int, price: str) -> DemoPart:
    facts: dict[str, object] = {"capacity_gb": size, "generation": generation, "grade_mt_s": grade, "form": "SO-DIMM", "maker": "Lantern"}
    if generation.startswith("DDR3"):
        facts["low_voltage"] = generation.endswith("L")
    return DemoPart(
        number, f"SO-DIMM {size} GB, {generation}-{grade}", Kind.MEMORY, "Lantern Components", price, facts, pack=2, minimum_order=2
    )


def _drive(number: str, name: str, price: str, **facts: object) -> DemoPart:
    return DemoPart(number, name, Kind.SSD, "Lantern Components", price, facts)


def _stick(number: str, name: str, capacity: int, length: int, price: str) -> DemoPart:
    """An M.2 drive for NVMe, generation 3, four lanes, chips on one side; the largest has them on both."""
    facts = {"form": "M.2", "length_mm": length, "bus": "NVMe", "generation": 3, "lanes": 4, "sides": 2 if capacity > 1000 else 1}
    return _drive(number, name, price, capacity_gb=capacity, **facts)


def _pack(
    number: str, name: str, supplier: str, price: str, plug: str, mount: str, volts: float, watt_hours: float, pack: int = 1
) -> DemoPart:
    facts: dict[str, object] = {"voltage_v": volts, "energy_wh": watt_hours, "plug": plug, "mount": mount}
    return DemoPart(number, name, Kind.BATTERY, supplier, price, facts, pack=pack, minimum_order=pack, shelf_life_days=540)


def _fan(number: str, name: str, supplier: str, price: str, mount: str, side: str, sink: bool | None, end: date | None = None) -> DemoPart:
    facts: dict[str, object] = {"with_heat_sink": sink, "mount": mount, "side": side}
    return DemoPart(number, name, Kind.FAN, supplier, price, facts, end_of_supply_on=end)


OSTREL, BRINDWELL, QUILLFIN = "Ostrel Spares", "Brindwell Parts Office", "Quillfin Service Supply"
PARTS = (
    _memory("LM-8320", 8, "DDR4", 3200, "28.00"),
    _memory("LM-16320", 16, "DDR4", 3200, "46.00"),
    _memory("LM-8266", 8, "DDR4", 2666, "24.00"),
    _memory("LM-16548", 16, "DDR5", 4800, "59.00"),
    _memory("LM-4160L", 4, "DDR3L", 1600, "17.00"),
    _stick("LD-80512", "M.2 2280 NVMe, 512 GB", 512, 80, "58.00"),
    _stick("LD-80256", "M.2 2280 NVMe, 256 GB", 256, 80, "39.00"),
    _stick("LD-30256", "M.2 2230 NVMe, 256 GB", 256, 30, "37.00"),
    _stick("LD-801024", "M.2 2280 NVMe, 1,024 GB", 1024, 80, "96.00"),
    _drive("LD-25480", "2.5-inch SATA, 480 GB, 7 mm", "44.00", capacity_gb=480, bus="SATA", form="2.5-inch", thickness_mm=7),
    _pack("OB-P14-60", "Pack P14, 15.2 V, 60 Wh", OSTREL, "61.00", "board 10-pin", "P14", 15.2, 60.0, 4),
    _pack("OB-P13-45", "Pack P13, 7.6 V, 45 Wh", OSTREL, "57.00", "board 8-pin", "P13", 7.6, 45.0),
    _pack("OB-P15-48", "Pack P15, outside, 11.1 V, 48 Wh", OSTREL, "44.00", "outside 7-blade", "P15", 11.1, 48.0, 2),
    _pack("OB-H14-52", "Pack H14, 15.2 V, 52 Wh", OSTREL, "66.00", "board 10-pin", "H14", 15.2, 52.0),
    _pack("OB-H12-38", "Pack H12, 7.6 V, 38 Wh", OSTREL, "58.00", "board 8-pin", "H12", 7.6, 38.0),
    _pack("BB-T16-56", "Pack T16, 11.4 V, 56 Wh", BRINDWELL, "59.00", "pack 9-pin", "T16", 11.4, 56.0, 2),
    _pack("BB-T16-84", "Pack T16, 11.4 V, 84 Wh", BRINDWELL, "78.00", "pack 9-pin", "T16 wide", 11.4, 84.0),
    _pack("BB-T13-50", "Pack T13, 11.4 V, 50 Wh", BRINDWELL, "56.00", "board 9-pin", "T13", 11.4, 50.0),
    _pack("BB-TC-47", "Pack TC, 11.1 V, 47 Wh", BRINDWELL, "41.00", "outside 8-blade", "TC", 11.1, 47.0),
    _pack("QB-D15-90", "Pack D15, 11.4 V, 90 Wh", QUILLFIN, "104.00", "board 12-pin", "D15", 11.4, 90.0),
    _pack("QB-D16-94", "Pack D16, 15.2 V, 94 Wh", QUILLFIN, "118.00", "board 12-pin", "D16", 15.2, 94.0),
    _fan("OF-P14", "Fan, Packet 14", OSTREL, "19.00", "P14", "left", False),
    _fan("OF-P13", "Fan, Packet 13", OSTREL, "18.00", "P13", "left", False),
    _fan("OF-P15-S", "Fan with sink, Packet 15", OSTREL, "34.00", "P15", "left", True, date(2027, 6, 30)),
    _fan("OF-H14-L", "Fan, Halyard 14, left", OSTREL, "21.00", "H14", "left", False),
    _fan("OF-H14-R", "Fan, Halyard 14, right", OSTREL, "21.00", "H14", "right", False),
    _fan("BF-T16-L", "Fan, Tiller 16, left", BRINDWELL, "20.00", "T16", "left", False),
    _fan("BF-T16-R", "Fan, Tiller 16, right", BRINDWELL, "20.00", "T16", "right", False),
    _fan("BF-T13", "Fan, Tiller 13", BRINDWELL, "19.00", "T13", "left", None),
    _fan("BF-TC-S", "Fan with sink, Tiller Classic", BRINDWELL, "36.00", "TC", "left", True),
    _fan("BF-C20-S", "Fan with sink, Counter 20", BRINDWELL, "42.00", "C20", "centre", True),
    _fan("BF-C24-S", "Fan with sink, Counter 24", BRINDWELL, "48.00", "C24", "centre", True),
    _fan("QF-D15-L", "Fan, Drydock 15, left", QUILLFIN, "33.00", "D15", "left", False),
    _fan("QF-D15-R", "Fan, Drydock 15, right", QUILLFIN, "33.00", "D15", "right", False),
    _fan("QF-D16-L", "Fan, Drydock 16, left", QUILLFIN, "35.00", "D16", "left", False),
    _fan("QF-D16-R", "Fan, Drydock 16, right", QUILLFIN, "35.00", "D16", "right", False),
    _fan("QF-BL-L", "Fan, Bollard, left", QUILLFIN, "22.00", "BL", "left", False),
    _fan("QF-BL-R", "Fan, Bollard Twin, right", QUILLFIN, "22.00", "BL", "right", False),
    DemoPart("OK-H14", "Palm rest with keyboard, Halyard 14", Kind.PALM_REST, OSTREL, "88.00", {"mount": "H14"}),
    DemoPart("OX-H14", "Mainboard, Halyard 14, 16 GB", Kind.MAINBOARD, OSTREL, "310.00", {"soldered_memory_gb": 16, "mount": "H14"}),
    DemoPart("OX-P14", "Mainboard, Packet 14, 16 GB", Kind.MAINBOARD, OSTREL, "295.00", {"soldered_memory_gb": 16, "mount": "P14"}),
)

WARRANTY_DAYS = {Kind.SSD: 1095, Kind.BATTERY: 365, Kind.FAN: 365}
"""Days suppliers stand for parts of a kind."""

PRICE_BREAKS = (
    ("LM-8320", 20, "26.50"),
    ("LM-16320", 20, "43.00"),
    ("LD-80512", 20, "54.00"),
    ("OB-P14-60", 20, "58.50"),
    ("OB-P14-60", 60, "55.00"),
)
"""What one costs where as many are bought at a time."""

INTERCHANGE = (("LM-8320", "LM-8266", "a faster module serves a slower slot"),)


@dataclass(frozen=True)
class DemoPosition:
    """A position and the parts that fit it, the one delivered first. `when` is the option the position depends on."""

    key: str
    label: str
    kind: Kind
    fits: tuple[str, ...]
    held: Serviceability = Serviceability.SCREWED
    ordered_unit: str | None = None
    when: dict[str, str] | None = None


@dataclass(frozen=True)
class DemoModel:
    maker: str
    name: str
    family: str
    form: str
    fleet: int
    bought: tuple[int, int]
    years: float
    duties: dict[Duty, float]
    positions: tuple[DemoPosition, ...]
    options: dict[str, dict[str, float]] = field(default_factory=dict)


def _slot(key: str, *parts: str, label: str | None = None) -> DemoPosition:
    return DemoPosition(key, label or f"Memory slot {key[-1].upper()}", Kind.MEMORY, parts, Serviceability.SOCKETED)


def _ssd(*parts: str, key: str = "drive", label: str = "Drive") -> DemoPosition:
    return DemoPosition(key, label, Kind.SSD, parts)


def _battery(*parts: str, key: str = "battery", when: dict[str, str] | None = None, label: str = "Battery") -> DemoPosition:
    return DemoPosition(key, label, Kind.BATTERY, parts, when=when)


def _fans(*sides: tuple[str, str], when: dict[str, str] | None = None) -> tuple[DemoPosition, ...]:
    return tuple(DemoPosition(f"fan_{side}", f"Fan, {side}", Kind.FAN, (part,), when=when) for side, part in sides)


ON_BOARD = DemoPosition("memory_on_board", "On-board memory", Kind.MEMORY, (), Serviceability.SOLDERED, "mainboard")
DESK = {Duty.OFFICE_HOURS: 0.7, Duty.TWO_SHIFTS: 0.3}
CREW = {Duty.OFFICE_HOURS: 0.35, Duty.TWO_SHIFTS: 0.65}
COUNTER = {Duty.TWO_SHIFTS: 1.0}
ALWAYS = {Duty.ROUND_THE_CLOCK: 1.0}
DDR4 = ("LM-16320", "LM-8320")
KEYBOARD_14 = DemoPosition("keyboard", "Keyboard", Kind.KEYBOARD, ("OK-H14",), Serviceability.STAKED, "palm_rest")

MODELS = (
    DemoModel("Ostrel", "Packet 14", "Packet", "notebook", 412, (2022, 2025), 5.5, CREW,
              (ON_BOARD, _slot("memory_a", "LM-8320", "LM-16320"), _ssd("LD-80512", "LD-80256"), _battery("OB-P14-60"), *_fans(("left", "OF-P14")),
               DemoPosition("mainboard", "Mainboard", Kind.MAINBOARD, ("OX-P14",)))),
    DemoModel("Ostrel", "Packet 14 b", "Packet", "notebook", 200, (2024, 2026), 5.5, CREW,
              (ON_BOARD, _slot("memory_a", "LM-16548"), _ssd("LD-80512"), _battery("OB-P14-60"), *_fans(("left", "OF-P14")))),
    DemoModel("Ostrel", "Packet 13", "Packet", "notebook", 118, (2021, 2024), 5.0, DESK,
              (ON_BOARD, _ssd("LD-30256"), _battery("OB-P13-45"), *_fans(("left", "OF-P13")))),
    DemoModel("Ostrel", "Packet 15", "Packet", "notebook", 187, (2018, 2021), 7.0, DESK,
              (_slot("memory_a", "LM-4160L"), _slot("memory_b", "LM-4160L"), _ssd("LD-25480", label="2.5-inch bay"), _battery("OB-P15-48"),
               *_fans(("left", "OF-P15-S")))),
    DemoModel("Ostrel", "Halyard 14", "Halyard", "convertible", 140, (2022, 2025), 5.0, CREW,
              (ON_BOARD, _ssd("LD-30256"), _battery("OB-H14-52"), *_fans(("left", "OF-H14-L"), ("right", "OF-H14-R")), KEYBOARD_14,
               DemoPosition("mainboard", "Mainboard", Kind.MAINBOARD, ("OX-H14",)))),
    DemoModel("Ostrel", "Halyard 12", "Halyard", "convertible", 96, (2021, 2024), 5.0, DESK, (ON_BOARD, _ssd("LD-30256"), _battery("OB-H12-38"))),
    DemoModel("Brindwell", "Tiller 16", "Tiller", "notebook", 164, (2021, 2024), 5.5, DESK,
              (_slot("memory_a", *DDR4), _slot("memory_b", *DDR4), _ssd("LD-80256", "LD-80512"),
               _battery("BB-T16-56", key="battery_small", when={"battery": "56 Wh"}, label="Battery, small"),
               _battery("BB-T16-84", key="battery_large", when={"battery": "84 Wh"}, label="Battery, large"),
               *_fans(("left", "BF-T16-L"), ("right", "BF-T16-R"))), {"battery": {"56 Wh": 0.65, "84 Wh": 0.35}}),
    DemoModel("Brindwell", "Tiller 13", "Tiller", "notebook", 58, (2020, 2022), 6.0, DESK,
              (_slot("memory_a", "LM-8266"), _ssd("LD-80256"), _battery("BB-T13-50"), *_fans(("left", "BF-T13")))),
    DemoModel("Brindwell", "Tiller Classic", "Tiller", "notebook", 31, (2019, 2020), 7.5, DESK,
              (_slot("memory_a", "LM-8266"), _slot("memory_b", "LM-8266"), _ssd("LD-25480"), _battery("BB-TC-47"), *_fans(("left", "BF-TC-S")))),
    DemoModel("Brindwell", "Counter 20", "Counter", "all_in_one", 122, (2020, 2023), 7.0, COUNTER,
              (_slot("memory_a", "LM-8266"), _slot("memory_b", "LM-8266"), _ssd("LD-25480"), *_fans(("centre", "BF-C20-S")))),
    DemoModel("Brindwell", "Counter 24", "Counter", "all_in_one", 196, (2022, 2025), 7.0, COUNTER,
              (_slot("memory_a", *DDR4), _slot("memory_b", *DDR4), _ssd("LD-80256"), *_fans(("centre", "BF-C24-S")))),
    DemoModel("Quillfin", "Drydock 15", "Drydock", "workstation", 18, (2021, 2022), 6.0, DESK,
              (_slot("memory_a", *DDR4), _slot("memory_b", *DDR4), _ssd("LD-801024", key="drive_1", label="Drive 1"),
               _ssd("LD-801024", key="drive_2", label="Drive 2"), _battery("QB-D15-90"), *_fans(("left", "QF-D15-L"), ("right", "QF-D15-R")))),
    DemoModel("Quillfin", "Drydock 16", "Drydock", "workstation", 22, (2023, 2024), 6.0, DESK,
              (_slot("memory_a", "LM-16548"), _slot("memory_b", "LM-16548"), _ssd("LD-801024"), _battery("QB-D16-94"),
               *_fans(("left", "QF-D16-L"), ("right", "QF-D16-R")))),
    DemoModel("Quillfin", "Bollard", "Bollard", "mini_pc", 288, (2021, 2025), 7.0, ALWAYS,
              (_slot("memory_a", "LM-8320", "LM-16320"), _ssd("LD-25480"), *_fans(("left", "QF-BL-L")))),
    DemoModel("Quillfin", "Bollard Twin", "Bollard", "mini_pc", 74, (2023, 2025), 7.0, ALWAYS,
              (_slot("memory_a", "LM-8320", "LM-16320"), _ssd("LD-25480"), *_fans(("left", "QF-BL-L"), ("right", "QF-BL-R")))),
)  # fmt: skip

USERS = (
    ("quay", "M. Quay", "lead", "ferry-lead-2026"),
    ("pell", "R. Pell", "technician", "ferry-bench-2026"),
    ("ledger", "A. Ledger", "reader", "ferry-read-2026"),
)
"""Demo sign-ins only: an installation without the demo ships no user and no password."""
