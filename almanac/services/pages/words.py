"""What positions take, said in words with units."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from almanac.core.parts.labels.memory import SIZES_GB


def takes_words(kind: str, values: Mapping[str, Any]) -> list[str]:
    """What a position takes, in words: the generic facts of each kind, with units."""
    words = []
    for name, value in sorted(values.items(), key=lambda item: ORDER.index(item[0]) if item[0] in ORDER else len(ORDER)):
        pattern = "generation {}" if kind == "ssd" and name == "generation" else UNITS.get(name, "{}")
        text = pattern.format(", ".join(map(str, value)) if isinstance(value, list) else value)
        if isinstance(value, bool):
            text = name.replace("_", " ") if value else f"no {name.replace('_', ' ')}"
        if name in HIDDEN or isinstance(value, dict):
            continue
        words.append(text)
    if kind == "memory" and str(values.get("generation", "")).startswith("DDR3"):
        low = values.get("generation") == "DDR3L" or values.get("voltage_v") == 1.35
        words.append("low-voltage DDR3" if low else "DDR3 of 1.5 V or not known")
    return words


ORDER = (
    "form", "generation", "bus", "lanes", "lengths_mm", "length_mm", "thickness_mm", "caddy_mm", "inner_mm", "grade_mt_s", "capacity_gb",
    "maximum_gb", "voltage_v", "capacity_ah", "energy_wh", "series", "side", "ordered", "plug", "mount",
)  # fmt: skip
"""The order people say them in: what it is, then how large, then the rest."""
UNITS = {
    "length_mm": "{} mm",
    "grade_mt_s": "{} MT/s",
    "maximum_gb": "to {} GB",
    "capacity_gb": "{} GB",
    "lengths_mm": "{} mm",
    "thickness_mm": "{} mm thick",
    "caddy_mm": "caddy of {} mm",
    "inner_mm": "{} mm inside",
    "voltage_v": "{} V",
    "capacity_ah": "{} Ah",
    "energy_wh": "{} Wh",
    "lanes": "{} lanes",
    "mount": "chassis {}",
    "plug": "plug {}",
    "side": "{}",
    "ordered": "ordered {}",
    "mains_wait_minutes": "{} min",
}
HIDDEN = frozenset({"carrier", "antennas"})


def fact_label(name: str) -> str:
    """The name of a fact without its unit."""
    for unit in ("_gb", "_mm", "_mt_s", "_v", "_ah", "_wh", "_minutes"):
        name = name.removesuffix(unit)
    return name.replace("_", " ")


def fact_words(kind: str, name: str, value: Any) -> str:
    """One value with its unit."""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if value is None:
        return "not known"
    words = takes_words(kind, {name: value})
    return words[0] if words else str(value)


def sizes_for(generation: str | None) -> tuple[int, ...]:
    """Sizes of one module of a technology named such as DDR4; none for soldered ones."""
    digit = generation[3] if generation and generation.startswith("DDR") else ""
    return SIZES_GB.get(int(digit), ()) if digit.isdigit() else ()
