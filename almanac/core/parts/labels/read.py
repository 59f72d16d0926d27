"""Which kind of label a text is, and what it says."""

from __future__ import annotations

import re

from almanac.core.parts.kinds import Kind
from almanac.core.parts.labels.battery import read_battery
from almanac.core.parts.labels.drive import read_drive
from almanac.core.parts.labels.memory import read_memory
from almanac.core.parts.labels.reading import Reader, Reading

SIGNS: tuple[tuple[str, Reader], ...] = (
    (r"\bPC[345]L?[- ]?\d|DDR[345]|\bSO-?DIMM\b", read_memory),
    (r"\bM\.2\b|NVMe|SATA|PCIe|\bSSD\b|(?<!\d)22(30|42|60|80|110)(?!\d)|2\.5\s?(\"|-?inch)|\bE[- ]key|key(ed)? ?E\b", read_drive),
    (r"\d\s*(m?Ah|Wh|V)\b", read_battery),
)


def read_label(text: str, kind: Kind | None = None) -> Reading:
    """Read a memory, drive or battery label.

    Parameters
    ----------
    text : as read · kind : where it is known; otherwise told from the text

    Returns
    -------
    Reading : kind None and one flag where the text shows no sign of any
    """
    readers: dict[Kind, Reader] = {Kind.MEMORY: read_memory, Kind.SSD: read_drive, Kind.BATTERY: read_battery}
    if kind in readers:
        return readers[kind](text)
    for sign, reader in SIGNS:
        if re.search(sign, text, re.IGNORECASE):
            return reader(text)
    return Reading(None, flags=["no memory, drive or battery label was recognised in this text"])
