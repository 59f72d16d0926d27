"""What a machine says of itself, part by part, whatever tool it says it with."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, fields
from typing import Any


@dataclass(frozen=True)
class ModuleSeen:
    """A memory module. gb : of 2^30 bytes · generation : such as DDR4 · mt_s : the grade it is made for, running_mt_s : it runs at"""

    gb: float
    slot: str = ""
    generation: str = ""
    mt_s: float | None = None
    running_mt_s: float | None = None
    serial: str = ""


@dataclass(frozen=True)
class DriveSeen:
    """A drive. gb : of 10^9 bytes · bus : NVMe or SATA · left_percent : of its life, as it says itself"""

    gb: float | None = None
    name: str = ""
    bus: str = ""
    serial: str = ""
    left_percent: float | None = None
    hours: float | None = None
    failing: bool | None = None


@dataclass(frozen=True)
class PackSeen:
    """A pack, energies in Wh. cycles : charge cycles counted"""

    design_wh: float | None = None
    full_wh: float | None = None
    charging: bool | None = None
    cycles: int | None = None
    serial: str = ""


@dataclass(frozen=True)
class Reported:
    """What it reports; None and empty where it says nothing.

    memory_gb : installed, usable_gb : what the system can use · fans_rpm : one a fan · hottest_c : the hottest processor reading
    """

    memory_gb: float | None = None
    usable_gb: float | None = None
    drives_gb: tuple[float, ...] = ()
    pack_design_wh: float | None = None
    pack_full_wh: float | None = None
    charging: bool | None = None
    fans_rpm: tuple[float, ...] = ()
    memory_prompts: int = 0
    modules: tuple[ModuleSeen, ...] = ()
    drives: tuple[DriveSeen, ...] = ()
    packs: tuple[PackSeen, ...] = ()
    hottest_c: float | None = None


PARTS: Mapping[str, type] = {"modules": ModuleSeen, "drives": DriveSeen, "packs": PackSeen}


def report_of(document: Mapping[str, Any]) -> Reported:
    """A report from the entry of a journal."""
    known = {item.name for item in fields(Reported)}
    values: dict[str, Any] = {key: tuple(value) if isinstance(value, list) else value for key, value in document.items() if key in known}
    for key, kind in PARTS.items():
        values[key] = tuple(kind(**item) for item in values.get(key, ()))
    return Reported(**values)
