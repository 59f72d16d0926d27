"""Every kind of part: what it is called, how it is told, what fits it, whether it is forecast and how. Declared here and nowhere else.

A further kind takes its name in `parts/kinds.py` and one entry here.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from enum import StrEnum

from almanac.core.parts.answers import Answer, Facts
from almanac.core.parts.fits.battery import fit_battery
from almanac.core.parts.fits.drive import fit_drive
from almanac.core.parts.fits.memory import fit_memory
from almanac.core.parts.fits.others import fit_by_chassis, fit_fan, fit_radio
from almanac.core.parts.kinds import Kind

FitRule = Callable[[Facts, Facts], Answer]


class BenchRole(StrEnum):
    """What a kind means for the gates of the bench."""

    PACK = "pack"
    STORAGE = "storage"
    BOARD = "board"
    SETTINGS = "settings"
    MAINS = "mains"


@dataclass(frozen=True)
class Worn:
    """How units of a kind are followed by readings.

    setting, share : company setting that says when one is worn, and what holds without it · beside : worn units fail beside the others,
    where those are counted by age too
    """

    setting: str
    share: float
    beside: bool = False


@dataclass(frozen=True)
class Forecast:
    """How a kind that is forecast is estimated and shown.

    shape_median : of the stated prior on the Weibull shape · colour, lamp : its hue on paper and in the dark · repair : what the bench's
    simulated machine calls a fault of it
    """

    shape_median: float
    colour: str
    lamp: str
    repair: str
    worn: Worn | None = None


@dataclass(frozen=True)
class KindSpec:
    """One kind. signs : words in a position's name that tell it · fit : rule of a part in a position"""

    kind: Kind
    name: str
    signs: str
    fit: FitRule = fit_by_chassis
    role: BenchRole | None = None
    forecast: Forecast | None = None


KINDS: tuple[KindSpec, ...] = (
    KindSpec(Kind.MEMORY, "Memory", r"memory|dimm", fit_memory, None, Forecast(1.0, "#256f7d", "#74c0cd", "memory")),
    KindSpec(
        Kind.SSD,
        "SSD",
        r"drive|ssd|cage|2\.5.inch|\bm\.2\b",
        fit_drive,
        BenchRole.STORAGE,
        Forecast(1.0, "#4a5a9a", "#9fb0ee", "drive", Worn("spent_share", 0.10, beside=True)),
    ),
    KindSpec(
        Kind.BATTERY,
        "Battery",
        r"battery|pack\b",
        fit_battery,
        BenchRole.PACK,
        Forecast(2.0, "#80590a", "#dcb25c", "pack", Worn("worn_share", 0.70)),
    ),
    KindSpec(Kind.FAN, "Fan", r"fan|blower", fit_fan, None, Forecast(1.6, "#87466c", "#dc9cc3", "fan")),
    KindSpec(Kind.MAINBOARD, "Mainboard", r"main ?board|system board", role=BenchRole.BOARD),
    KindSpec(Kind.KEYBOARD, "Keyboard", r"keyboard"),
    KindSpec(Kind.PALM_REST, "Palm rest", r"palm ?rest|top case"),
    KindSpec(Kind.DISPLAY, "Display", r"display|panel|screen"),
    KindSpec(Kind.RADIO, "Radio", r"radio|wireless|wi-?fi", fit_radio),
    KindSpec(Kind.HEAT_SINK, "Heat sink", r"heat ?sink|heat ?spreader"),
    KindSpec(Kind.OPTICAL_DRIVE, "Optical drive", r"optical|disc drive"),
    KindSpec(Kind.PROCESSOR, "Processor", r"processor|\bcpu\b"),
    KindSpec(Kind.POWER_UNIT, "Power unit", r"power (unit|supply)|inner supply", role=BenchRole.MAINS),
    KindSpec(Kind.CHARGING_SOCKET, "Charging socket", r"(charging|power|dc)[ -](socket|jack|port|inlet)"),
    KindSpec(Kind.IO_BOARD, "Input/output board", r"\b(i/?o|input/output|audio|usb|port|daughter)[ -]?board"),
    KindSpec(Kind.SPEAKERS, "Speakers", r"speakers?|loudspeaker"),
    KindSpec(Kind.SETTINGS_CELL, "Settings cell", r"(settings|clock|coin|button|cmos|rtc)[ -](cell|battery)", role=BenchRole.SETTINGS),
    KindSpec(Kind.OTHER, "Other", r"(?!)"),
)
"""In the order people expect; those that are forecast first."""

FORECAST_KINDS = tuple(spec.kind for spec in KINDS if spec.forecast is not None)
SPECS: Mapping[Kind, KindSpec] = {spec.kind: spec for spec in KINDS}
FORECASTS: Mapping[str, Forecast] = {spec.kind.value: spec.forecast for spec in KINDS if spec.forecast is not None}
WORN: Mapping[str, Worn] = {kind: forecast.worn for kind, forecast in FORECASTS.items() if forecast.worn is not None}
TOLD_LATE = (Kind.MEMORY, Kind.SSD, Kind.BATTERY, Kind.DISPLAY)
"""Their words also stand in names of more particular kinds: "settings battery", "optical drive", "display lead board"."""
TOLD_BY = sorted(KINDS, key=lambda spec: spec.kind in TOLD_LATE)
"""Kinds as they are asked for in a name: the particular before the general."""


def kinds_of_role(*roles: BenchRole) -> frozenset[str]:
    """Kinds with one of some roles at the bench."""
    return frozenset(spec.kind.value for spec in KINDS if spec.role in roles)


def kind_told(name: str) -> Kind:
    """The kind a position's name tells; "other" where it tells none. Keys and names decide nothing else."""
    found = next((spec for spec in TOLD_BY if re.search(spec.signs, name, re.IGNORECASE)), SPECS[Kind.OTHER])
    return found.kind


def kind_name(kind: str) -> str:
    """A kind in the middle of a sentence."""
    name = SPECS[Kind(kind)].name
    return name if name.isupper() else name.lower()
