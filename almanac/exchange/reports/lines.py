"""Lines of text: memory devices of dmidecode, packs of upower, fans of sensors."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping

from almanac.core.workbench.reported import ModuleSeen, PackSeen
from almanac.exchange.reports.seen import GIB, Seen, byte_count, number, serial_of

PAIR = re.compile(r"^\s+([A-Za-z][\w /()-]*?):\s+(.+?)\s*$")
SIZE = re.compile(r"^\s*Size:\s*(\d+)\s*(MB|GB)\s*$", re.MULTILINE)
FAN = re.compile(r"^\s*[\w ]*fan[\w ]*:\s*(\d+)\s*RPM", re.MULTILINE | re.IGNORECASE)
HEAT = re.compile(r"^\s*(?:Package id \d+|Tctl|Tdie|CPU[\w ]*):\s*\+?([\d.,]+)\s*°?C", re.MULTILINE)
HEADER = re.compile(r"^(?=\S)", re.MULTILINE)
POWER_STATES = {
    "charging": True,
    "fully-charged": True,
    "pending-charge": True,
    "discharging": False,
    "empty": False,
    "pending-discharge": False,
}


def text(words: str) -> Seen:
    """Whatever lines say of memory, packs and fans; nothing of it where no line is understood."""
    modules = tuple(module for block in _blocks(words) if (module := _module(block))) or _bare_modules(words)
    packs = tuple(pack for block in _blocks(words) if (pack := _pack(block)))
    fans = tuple(float(speed) for speed in FAN.findall(words))
    heats = [heat for found in HEAT.findall(words) if (heat := number(found)) is not None]
    names = [
        name for name, there in (("memory devices", modules), ("power devices", packs), ("sensors", fans or heats)) if there
    ]  # fmt: skip
    return Seen(" and ".join(names) or "lines", modules, packs=packs, fans_rpm=fans, hottest_c=max(heats, default=None))


def _blocks(words: str) -> Iterator[tuple[str, dict[str, str]]]:
    """Blocks of indented `name: value` lines, each with the line above it that is not indented."""
    for chunk in HEADER.split(words):
        head, _, rest = chunk.partition("\n")
        pairs: dict[str, str] = {}
        for line in rest.splitlines():
            found = PAIR.match(line)
            if found:
                pairs.setdefault(found.group(1).strip().lower(), found.group(2))
        if pairs:
            yield head.strip(), pairs


def _module(block: tuple[str, Mapping[str, str]]) -> ModuleSeen | None:
    head, pairs = block
    size = byte_count(pairs.get("size", "")) if head.startswith("Memory Device") else None
    if size is None:
        return None
    kind = pairs.get("type", "")
    return ModuleSeen(
        gb=size / GIB,
        slot=pairs.get("locator", ""),
        generation=kind.upper() if re.match(r"(LP)?DDR", kind, re.IGNORECASE) else "",
        mt_s=number(pairs.get("speed")),
        running_mt_s=number(pairs.get("configured memory speed") or pairs.get("configured clock speed")),
        serial=serial_of(pairs.get("serial number")),
    )


def _bare_modules(words: str) -> tuple[ModuleSeen, ...]:
    """Lines `Size: 16 GB` alone, as people cut them out; not where blocks of memory devices say that none is fitted."""
    if "Memory Device" in words:
        return ()
    sizes = (byte_count(f"{figure} {unit}") for figure, unit in SIZE.findall(words))
    return tuple(ModuleSeen(size / GIB) for size in sizes if size)


def _pack(block: tuple[str, Mapping[str, str]]) -> PackSeen | None:
    """A pack that feeds the machine: not that of a mouse, and not the sum of all that is shown as a device of its own."""
    head, pairs = block
    if head.startswith("Portable Battery"):
        return PackSeen(design_wh=_watt_hours(pairs.get("design capacity")), serial=serial_of(pairs.get("serial number")))
    if "energy-full-design" not in pairs and "energy-full" not in pairs:
        return None
    if "DisplayDevice" in head or pairs.get("power supply", "yes") == "no":
        return None
    cycles = number(pairs.get("charge-cycles"))
    return PackSeen(
        design_wh=_watt_hours(pairs.get("energy-full-design")),
        full_wh=_watt_hours(pairs.get("energy-full")),
        charging=POWER_STATES.get(pairs.get("state", "").split(" ")[0]),
        cycles=int(cycles) if cycles else None,
        serial=serial_of(pairs.get("serial")),
    )


def _watt_hours(words: str | None) -> float | None:
    """Energy of `60.1 Wh`, `60,1 Wh` or `60100 mWh`; nothing and nought are not known."""
    figure = number(words)
    if not figure or words is None:
        return None
    return figure / 1000 if words.strip().endswith("mWh") else figure if words.strip().endswith("Wh") else None
