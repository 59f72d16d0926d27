"""The parts machines of a form have, hinge to front: what whoever walks one is offered, and takes or leaves."""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

from almanac.core.parts.kinds import Kind


class Bone(NamedTuple):
    """A part to look for. several : there may be more than one, told apart by a letter"""

    label: str
    kind: Kind
    several: bool = False


BOARD = Bone("Mainboard", Kind.MAINBOARD)
CELL = Bone("Settings cell", Kind.SETTINGS_CELL)
MEMORY = Bone("Memory slot", Kind.MEMORY, several=True)
DRIVE = Bone("Drive", Kind.SSD, several=True)
FAN = Bone("Fan", Kind.FAN, several=True)
SINK = Bone("Heat sink", Kind.HEAT_SINK)
RADIO = Bone("Radio", Kind.RADIO)
SPEAKERS = Bone("Speakers", Kind.SPEAKERS)
DISPLAY = Bone("Display", Kind.DISPLAY)
PACK = Bone("Battery", Kind.BATTERY, several=True)
SOCKET = Bone("Charging socket", Kind.CHARGING_SOCKET)
INPUTS = Bone("Input/output board", Kind.IO_BOARD)
KEYBOARD = Bone("Keyboard", Kind.KEYBOARD)
REST = Bone("Palm rest", Kind.PALM_REST)
POWER = Bone("Power unit", Kind.POWER_UNIT)
OPTICAL = Bone("Optical drive", Kind.OPTICAL_DRIVE)

_PORTABLE = (DISPLAY, SOCKET, FAN, SINK, BOARD, MEMORY, RADIO, INPUTS, CELL, DRIVE, PACK, SPEAKERS, KEYBOARD, REST)
SKELETONS: Mapping[str, tuple[Bone, ...]] = {
    "notebook": (*_PORTABLE, OPTICAL),
    "convertible": _PORTABLE,
    "all_in_one": (POWER, FAN, SINK, BOARD, MEMORY, CELL, RADIO, DRIVE, OPTICAL, SPEAKERS, DISPLAY),
    "mini_pc": (DRIVE, MEMORY, FAN, SINK, BOARD, CELL, RADIO, SPEAKERS),
    "workstation": (POWER, FAN, SINK, BOARD, MEMORY, CELL, DRIVE, OPTICAL, RADIO, SPEAKERS),
}
"""By form."""


def all_bones() -> tuple[Bone, ...]:
    """Every part some form has, once."""
    return tuple(dict.fromkeys(one for its in SKELETONS.values() for one in its))
