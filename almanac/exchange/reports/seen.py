"""What one document of a report says, before documents are put together."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Any

from almanac.core.workbench.reported import DriveSeen, ModuleSeen, PackSeen

GIB = 2**30
GB = 10**9
UNITS = {"B": 1, "K": 2**10, "KB": 2**10, "M": 2**20, "MB": 2**20, "G": GIB, "GB": GIB, "T": 2**40, "TB": 2**40}
NO_SERIAL = frozenset({"", "unknown", "not specified", "none", "n/a", "to be filled by o.e.m.", "no dimm", "00000000", "0", "-"})
FIGURE = re.compile(r"^\s*(-?[\d.,\s]*\d)\s*([A-Za-z/%]*)\s*$")


@dataclass(frozen=True)
class Seen:
    """What one document says. form : what it is, in words · missed : what it says that was not understood, in words"""

    form: str
    modules: tuple[ModuleSeen, ...] = ()
    drives: tuple[DriveSeen, ...] = ()
    packs: tuple[PackSeen, ...] = ()
    fans_rpm: tuple[float, ...] = ()
    memory_gb: float | None = None
    usable_gb: float | None = None
    memory_prompts: int = 0
    hottest_c: float | None = None
    missed: tuple[str, ...] = ()

    @property
    def empty(self) -> bool:
        """Whether it says nothing that a report is read for."""
        parts = (self.modules, self.drives, self.packs, self.fans_rpm)
        return not any(parts) and self.memory_gb is None and self.hottest_c is None


def number(value: Any) -> float | None:
    """A finite number, from a number or from text with a decimal point or comma; None for anything else."""
    if isinstance(value, bool) or value is None:
        return None
    if isinstance(value, int | float):
        return float(value) if abs(value) < 1e30 else None
    found = FIGURE.match(str(value))
    return decimal(found.group(1)) if found else None


def decimal(text: str) -> float | None:
    """A figure of text: the last of point and comma is the decimal sign, unless it groups thousands as in 60.100 beside no other sign.

    "41,25" is 41.25, "1.234,5" is 1234.5; "60.100" is ambiguous and read as 60.1: who knows that a figure is whole, asks `whole`.
    """
    compact = re.sub(r"\s", "", text)
    sign = max(compact.rfind("."), compact.rfind(","))
    if sign >= 0:
        compact = re.sub(r"[.,]", "", compact[:sign]) + "." + compact[sign + 1 :]
    try:
        return float(compact)
    except ValueError:
        return None


def whole(text: str) -> float | None:
    """A whole figure of text, whose points, commas and blanks group thousands: "60.100", "60,100" and "60 100" are 60100."""
    digits = re.sub(r"[.,'\s\u00a0\u202f]", "", text)
    return float(digits) if digits.isdigit() else None


def byte_count(value: Any) -> float | None:
    """Bytes of a size: a number is bytes, text carries its unit in powers of 1024, as in 476.9G, 476,9G or 8192 MB."""
    plain = number(value)
    if plain is None:
        return None
    if isinstance(value, int | float):
        return plain if plain > 0 else None
    unit = FIGURE.match(str(value)).group(2).upper().replace("IB", "B")  # type: ignore[union-attr]
    factor = UNITS.get(unit or "B")
    return plain * factor if factor and plain > 0 else None


def serial_of(value: Any) -> str:
    """A serial as written; empty for the words makers put where none is."""
    text = str(value or "").strip()
    return "" if text.lower() in NO_SERIAL or not text.strip("0. -") else text[:80]
