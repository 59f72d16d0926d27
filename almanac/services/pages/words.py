"""What positions take, said in words with units."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from almanac.core.parts.labels.memory import SIZES_GB


def takes_words(kind: str, values: Mapping[str, Any]) -> list[str]:
    """What a position takes, in words: the generic facts of each kind, with units."""
    words = []
    for name, value in values.items():
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


UNITS = {
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
}
HIDDEN = frozenset({"carrier", "antennas"})


def sizes_for(generation: str | None) -> tuple[int, ...]:
    """Sizes of one module of a technology named such as DDR4; none for soldered ones."""
    digit = generation[3] if generation and generation.startswith("DDR") else ""
    return SIZES_GB.get(int(digit), ()) if digit.isdigit() else ()
