"""Which kind of label a text is, and what it says."""

from __future__ import annotations

import re

from almanac.core.parts.kinds import Kind
from almanac.core.parts.labels.battery import read_battery
from almanac.core.parts.labels.drive import read_drive
from almanac.core.parts.labels.memory import read_memory
from almanac.core.parts.labels.reading import Reader, Reading

FAN = r"\bfan\b|\bblower\b|brushless|\bCFM\b|\brpm\b"


def read_fan(text: str) -> Reading:
    """A fan's label: its volts and amperes are no facts that a rule reads.

    Parameters
    ----------
    text : the label as read
    """
    reading = Reading(Kind.FAN)
    if text.strip():
        reading.ask("a fan's label: which chassis, which side and whether its sink comes with it is not on it")
    return reading


SIGNS: tuple[tuple[str, Reader], ...] = (
    (r"\bPC[345]L?[- ]?\d|DDR[345]|\bSO-?DIMM\b", read_memory),
    (r"\bM\.2\b|NVMe|SATA|PCIe|\bSSD\b|(?<!\d)22(30|42|60|80|110)(?!\d)|2\.5\s?(\"|-?inch)|\bE[- ]key|key(ed)? ?E\b", read_drive),
    (r"\d\s*(m?Ah|Wh)\b", read_battery),
    (FAN, read_fan),
    (r"\d\s*V\b(?!.*\d\s*m?A\b)", read_battery),
)


def read_label(text: str, kind: Kind | None = None) -> Reading:
    """Read a memory, drive, battery or fan label.

    Parameters
    ----------
    text : as read · kind : where it is known; otherwise told from the text

    Returns
    -------
    Reading : kind None and one flag where the text shows no sign of any
    """
    readers: dict[Kind, Reader] = {Kind.MEMORY: read_memory, Kind.SSD: read_drive, Kind.BATTERY: read_battery, Kind.FAN: read_fan}
    if kind in readers:
        return readers[kind](text)
    for sign, reader in SIGNS:
        if re.search(sign, text, re.IGNORECASE):
            return reader(text)
    return Reading(None, flags=["no memory, drive, battery or fan label was recognised in this text"])
