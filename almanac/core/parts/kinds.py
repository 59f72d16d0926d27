"""Kinds of part, how a part is held, and how sure a fact is."""

from __future__ import annotations

from enum import StrEnum


class Kind(StrEnum):
    """What a position takes. The first four are forecast; the others may be logged and escalated to."""

    MEMORY = "memory"
    SSD = "ssd"
    BATTERY = "battery"
    FAN = "fan"
    MAINBOARD = "mainboard"
    KEYBOARD = "keyboard"
    PALM_REST = "palm_rest"
    DISPLAY = "display"
    RADIO = "radio"
    HEAT_SINK = "heat_sink"
    OPTICAL_DRIVE = "optical_drive"
    PROCESSOR = "processor"
    POWER_UNIT = "power_unit"
    CHARGING_SOCKET = "charging_socket"
    IO_BOARD = "io_board"
    SPEAKERS = "speakers"
    SETTINGS_CELL = "settings_cell"
    OTHER = "other"


class Serviceability(StrEnum):
    """How a part is held in the machine, from easiest to not at all."""

    SOCKETED = "socketed"
    SCREWED = "screwed"
    CLIPPED = "clipped"
    TAPED = "taped"
    GLUED = "glued"
    STAKED = "staked"
    SOLDERED = "soldered"
    IN_ASSEMBLY = "in_assembly"
    UNKNOWN = "unknown"


class Grade(StrEnum):
    """Evidence of a fact, strongest first; where facts conflict both are kept and the stronger wins."""

    MEASURED = "measured"
    LABEL = "label"
    REPORTED = "reported"
    DOCUMENT = "document"
    INFERRED = "inferred"
    TOLD = "told"
    ASSUMED = "assumed"


class Verdict(StrEnum):
    """Three-valued answer of a fit rule; unknown is never filled in silently."""

    YES = "yes"
    NO = "no"
    UNKNOWN = "unknown"


class Duty(StrEnum):
    """How long a machine runs on an ordinary day."""

    OFFICE_HOURS = "office_hours"
    TWO_SHIFTS = "two_shifts"
    ROUND_THE_CLOCK = "round_the_clock"


class Environment(StrEnum):
    """What the air at a site does to a machine."""

    OFFICE = "office"
    SALT = "salt"
    DUST = "dust"
