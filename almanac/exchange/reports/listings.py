"""JSON of hardware listings: the tree of lshw, block devices of lsblk, sensors."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from dataclasses import replace
from typing import Any

from almanac.core.workbench.reported import DriveSeen, ModuleSeen, PackSeen
from almanac.exchange.reports.seen import GB, GIB, Seen, byte_count, number, serial_of

DEEPEST = 40
GENERATION = re.compile(r"\b(LPDDR\d\w?|DDR\d\w?)\b", re.IGNORECASE)
MT_S = re.compile(r"(\d{3,5})\s*(?:MHz|MT/s)", re.IGNORECASE)
FAN = re.compile(r"^fan\d+_input$")
HEAT = re.compile(r"^temp\d+_input$")
PROCESSOR = re.compile(r"package|tctl|tdie|cpu|processor", re.IGNORECASE)
BUSES = {"nvme": "NVMe", "sata": "SATA", "ata": "SATA"}
NO_FAN_ABOVE = 30_000


def entries(tree: Any, depth: int = 0) -> Iterator[Mapping[str, Any]]:
    """Every entry of a tree of entries with children, outer ones first."""
    for entry in tree if isinstance(tree, list) else [tree]:
        if not isinstance(entry, Mapping):
            continue
        yield entry
        if isinstance(entry.get("children"), list) and depth < DEEPEST:
            yield from entries(entry["children"], depth + 1)


def lshw(tree: Any) -> Seen:
    """Memory banks, disks and packs of `lshw -json`. A bank without a size is an empty slot."""
    found = list(entries(tree))
    banks = [entry for entry in found if entry.get("class") == "memory" and str(entry.get("id", "")).startswith("bank")]
    modules = tuple(module for entry in banks if (module := _bank(entry)))
    packs = tuple(_pack(entry) for entry in found if entry.get("class") == "power" and number(entry.get("capacity")))
    return Seen("hardware tree", modules, _disks(tree), packs)


def _bank(entry: Mapping[str, Any]) -> ModuleSeen | None:
    size = byte_count(entry.get("size"))
    if size is None:
        return None
    words = str(entry.get("description") or "")
    generation, speed = GENERATION.search(words), MT_S.search(words)
    return ModuleSeen(
        gb=size / GIB,
        slot=str(entry.get("slot") or entry.get("id") or ""),
        generation=generation.group(1).upper() if generation else "",
        running_mt_s=float(speed.group(1)) if speed else None,
        serial=serial_of(entry.get("serial")),
    )


def _pack(entry: Mapping[str, Any]) -> PackSeen:
    """The capacity of a pack is in mWh; one that was written in Wh is far too small to be mWh."""
    capacity = number(entry.get("capacity")) or 0.0
    return PackSeen(design_wh=capacity / 1000 if capacity > 1000 else capacity, serial=serial_of(entry.get("serial")))


def _disks(tree: Any, above: Mapping[str, Any] | None = None, depth: int = 0) -> tuple[DriveSeen, ...]:
    """Disks, each once: a namespace below its controller takes the controller's serial. What hangs on USB is no drive of the machine."""
    found: list[DriveSeen] = []
    for entry in tree if isinstance(tree, list) else [tree]:
        if not isinstance(entry, Mapping) or "usb" in str(entry.get("businfo") or "").lower():
            continue
        size = byte_count(entry.get("size")) if entry.get("class") in ("disk", "storage") else None
        named = entry.get("logicalname") or ""
        name = str(named[0] if isinstance(named, list) and named else named)
        if size is not None and not re.search(r"sr\d|cdrom|hwmon", name):
            holder = entry if serial_of(entry.get("serial")) else above or entry
            bus = _bus(f"{name} {entry.get('id')} {holder.get('id')}".lower())
            found.append(DriveSeen(size / GB, name.rsplit("/", 1)[-1], bus, serial_of(holder.get("serial"))))
            continue
        if isinstance(entry.get("children"), list) and depth < DEEPEST:
            found += _disks(entry["children"], entry if entry.get("class") == "storage" else above, depth + 1)
    return tuple(found)


def _bus(words: str) -> str:
    if "nvme" in words:
        return "NVMe"
    return "SATA" if re.search(r"\bsata|/sd[a-z]", words) else ""


def lsblk(document: Mapping[str, Any]) -> Seen:
    """Disks of `lsblk --json`; what is removable or on USB is none of the machine's."""
    found = []
    for entry in document.get("blockdevices") or []:
        if not isinstance(entry, Mapping) or entry.get("type") != "disk" or _loose(entry):
            continue
        name = str(entry.get("name") or entry.get("kname") or "")
        size = byte_count(entry.get("size"))
        if size is None or name.startswith(("zram", "ram", "loop", "fd", "dm-", "md")):
            continue
        bus = BUSES.get(str(entry.get("tran") or "").lower(), "NVMe" if name.startswith("nvme") else "")
        found.append(DriveSeen(size / GB, name, bus, serial_of(entry.get("serial"))))
    return Seen("block devices", drives=tuple(found))


def _loose(entry: Mapping[str, Any]) -> bool:
    return str(entry.get("tran") or "").lower() == "usb" or str(entry.get("rm")).lower() in ("true", "1")


def sensors(document: Mapping[str, Any]) -> Seen:
    """Fans and the hottest processor reading of `sensors -j`."""
    fans: list[float] = []
    heats: list[float] = []
    for chip, readings in document.items():
        for name, values in readings.items() if isinstance(readings, Mapping) else ():
            if not isinstance(values, Mapping):
                continue
            fans += [float(value) for key, value in values.items() if FAN.match(key) and _fan(value)]
            about = PROCESSOR.search(name) or re.match(r"coretemp|k10temp|zenpower|cpu", chip)
            heats += [float(value) for key, value in values.items() if HEAT.match(key) and about and _heat(value)]
    return Seen("sensors", fans_rpm=tuple(fans), hottest_c=max(heats, default=None))


def _fan(value: Any) -> bool:
    speed = number(value)
    return speed is not None and 0 <= speed <= NO_FAN_ABOVE


def _heat(value: Any) -> bool:
    heat = number(value)
    return heat is not None and 0 < heat < 150


def with_left(drive: DriveSeen, used_percent: float | None) -> DriveSeen:
    """A drive with what it has left: what it says of use may pass 100, what is left never falls below nothing."""
    return drive if used_percent is None else replace(drive, left_percent=max(0.0, 100.0 - used_percent))
