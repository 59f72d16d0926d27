"""Which part of the record each thing a machine reports is: serials to keep, readings to write, and what does not go together."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from almanac.core.parts.answers import Facts, known
from almanac.core.parts.kinds import Kind
from almanac.core.workbench.reported import DriveSeen, ModuleSeen, PackSeen, Reported

SIZES = {Kind.MEMORY: "capacity_gb", Kind.SSD: "capacity_gb", Kind.BATTERY: "energy_wh"}
"""Kinds a machine reports of, and the fact that says how large a part of them is."""
SAME_DRIVE = 0.01
SAME_PACK = 0.05
SAME_MODULE_GB = 0.5


@dataclass(frozen=True)
class Held:
    """A part on record in the machine. size : GB of a drive or module, Wh of a pack, None where nobody knows"""

    position: str
    label: str
    kind: str
    size: float | None
    serial: str = ""


@dataclass(frozen=True)
class Kept:
    """What of a report is kept. serials : by position, where none was on record · readings : full and design capacity by position

    questions : what is on record otherwise, or cannot be told apart; nothing of it is written
    otherwise : those of them that the record contradicts · cycles : charge cycles a pack has counted, by position, with its reading
    """

    serials: Mapping[str, str] = field(default_factory=dict)
    readings: Mapping[str, tuple[float, float]] = field(default_factory=dict)
    questions: tuple[str, ...] = ()
    otherwise: tuple[str, ...] = ()
    cycles: Mapping[str, int] = field(default_factory=dict)


Part = DriveSeen | PackSeen | ModuleSeen


def kept(held: Sequence[Held], report: Reported) -> Kept:
    """What a report says of the parts on record.

    Parameters
    ----------
    held : parts of the machine as on record when it reported · report : of the machine

    Returns
    -------
    Kept : a part is known by its serial, else by its size where one part alone has it; a guess between two is none
    """
    serials: dict[str, str] = {}
    readings: dict[str, tuple[float, float]] = {}
    questions: list[str] = []
    otherwise: list[str] = []
    cycles: dict[str, int] = {}
    for kind, parts in ((Kind.BATTERY, report.packs), (Kind.SSD, report.drives), (Kind.MEMORY, report.modules)):
        own = [item for item in held if item.kind == kind]
        for part in parts:
            place = _place(own, part, parts)
            if place is None:
                asked = _unplaced(kind, own, part)
                questions += asked
                otherwise += asked if not own else []
                continue
            if part.serial and not place.serial:
                serials[place.position] = part.serial
            elif part.serial and part.serial.upper() != place.serial.upper():
                questions.append(f"{place.label} says serial {part.serial}, on record is {place.serial}: was it changed without a record?")
                otherwise.append(questions[-1])
                continue
            figures = _reading(part)
            if figures:
                readings[place.position] = figures
                if isinstance(part, PackSeen) and part.cycles is not None:
                    cycles[place.position] = part.cycles
    return Kept(serials, readings, tuple(questions), tuple(otherwise), cycles)


def size_of(kind: str, facts: Facts) -> float | None:
    """GB of a drive or module, Wh of a pack, by the facts of its part; None of other kinds, and where nobody knows."""
    fact = known(facts, SIZES[Kind(kind)]) if kind in SIZES else None
    return float(fact.value) if fact else None


def same_size(size: float | None, part: Part) -> bool:
    """Whether a part that reports has a size: GB of a drive or module, Wh of a pack."""
    if size is None:
        return False
    if isinstance(part, ModuleSeen):
        return abs(part.gb - size) < SAME_MODULE_GB
    if isinstance(part, DriveSeen):
        return part.gb is not None and abs(part.gb - size) <= SAME_DRIVE * size
    return part.design_wh is not None and abs(part.design_wh - size) <= SAME_PACK * size


def _place(own: Sequence[Held], part: Part, all_seen: Sequence[Part]) -> Held | None:
    by_serial = [item for item in own if part.serial and item.serial.upper() == part.serial.upper()]
    if by_serial:
        return by_serial[0]
    if len(own) == 1 and len(all_seen) == 1:
        return own[0]
    like = [item for item in own if same_size(item.size, part)]
    twins = [other for other in all_seen if like and same_size(like[0].size, other)]
    return like[0] if len(like) == 1 and len(twins) == 1 else None


def _unplaced(kind: Kind, own: Sequence[Held], part: Part) -> list[str]:
    """What is said of a part that is no one's on record, where it says something worth keeping."""
    if not part.serial and _reading(part) is None:
        return []
    name = {Kind.BATTERY: "pack", Kind.SSD: "drive", Kind.MEMORY: "module"}[kind]
    who = f"a {name}{f' with serial {part.serial}' if part.serial else ''}"
    return [
        f"{who}: no {name} is on record here" if not own else f"{who}: which {name} on record it is cannot be told, nothing is kept of it"
    ]


def _reading(part: Part) -> tuple[float, float] | None:
    """Full and design capacity of a pack in Wh, or what a drive has left of 100; a pack full of nothing or far too much is a slip."""
    if isinstance(part, PackSeen) and part.full_wh and part.design_wh and part.full_wh <= 2 * part.design_wh:
        return part.full_wh, part.design_wh
    if isinstance(part, DriveSeen) and part.left_percent is not None:
        return part.left_percent, 100.0
    return None


def lines(report: Reported) -> list[str]:
    """Everything a report says, a line a part, with its units."""
    found = [_module_words(module) for module in report.modules]
    found += [_drive_words(drive) for drive in report.drives]
    found += [_pack_words(pack) for pack in report.packs]
    if report.fans_rpm:
        found.append("fans at " + ", ".join(f"{speed:g} rpm" for speed in report.fans_rpm))
    if report.hottest_c is not None:
        found.append(f"processor at {report.hottest_c:g} °C")
    return found


def _module_words(module: ModuleSeen) -> str:
    speed = f" made for {module.mt_s:g} MT/s" if module.mt_s else ""
    running = f", running at {module.running_mt_s:g} MT/s" if module.running_mt_s and module.running_mt_s != module.mt_s else ""
    slot = f" in {module.slot}" if module.slot else ""
    return f"{module.gb:g} GB {module.generation or 'module'}{speed}{running}{slot}{_serial(module.serial)}"


def _drive_words(drive: DriveSeen) -> str:
    size = f"{drive.gb:.4g} GB" if drive.gb is not None else "a drive"
    left = f", {drive.left_percent:g}% of its life left" if drive.left_percent is not None else ""
    hours = f", {drive.hours:,.0f} h on" if drive.hours is not None else ""
    failing = ", says it is failing: save the data first" if drive.failing else ""
    return f"{size}{f' {drive.bus}' if drive.bus else ''} drive{left}{hours}{failing}{_serial(drive.serial)}".replace(
        "a drive drive", "a drive"
    )


def _pack_words(pack: PackSeen) -> str:
    design = f"pack made for {pack.design_wh:.4g} Wh" if pack.design_wh else "pack"
    full = f", full at {pack.full_wh:.4g} Wh" if pack.full_wh else ""
    health = f" ({pack.full_wh / pack.design_wh:.0%})" if pack.full_wh and pack.design_wh else ""
    cycles = f", {pack.cycles} cycles" if pack.cycles is not None else ""
    return f"{design}{full}{health}{cycles}{_serial(pack.serial)}"


def _serial(serial: str) -> str:
    return f", serial {serial}" if serial else ""
