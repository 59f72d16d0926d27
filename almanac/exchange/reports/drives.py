"""JSON of a drive's own record: smartctl, and the log of an NVMe drive."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from almanac.core.workbench.reported import DriveSeen
from almanac.exchange.reports.listings import with_left
from almanac.exchange.reports.seen import GB, Seen, number, serial_of

LEFT = ("SSD_Life_Left", "Percent_Lifetime_Remain", "Remaining_Lifetime_Perc", "Media_Wearout_Indicator", "Wear_Leveling_Count")
"""Attributes of a SATA drive whose normalised value counts down from 100, the plainest first."""
USED_INDICATOR = "Percentage Used Endurance Indicator"


def smartctl(document: Mapping[str, Any]) -> Seen:
    """One drive of `smartctl --json`. A drive that tells no wear is taken without it; one that says nothing of itself is told."""
    device = _part(document, "device")
    size = number(_part(document, "user_capacity").get("bytes")) or number(document.get("nvme_total_capacity"))
    log = _part(document, "nvme_smart_health_information_log")
    passed = _part(document, "smart_status").get("passed")
    drive = DriveSeen(
        gb=size / GB if size else None,
        name=str(device.get("name") or "").rsplit("/", 1)[-1],
        bus={"nvme": "NVMe", "ata": "SATA"}.get(str(device.get("protocol") or device.get("type") or "").lower(), ""),
        serial=serial_of(document.get("serial_number")),
        hours=number(_part(document, "power_on_time").get("hours")) or number(log.get("power_on_hours")),
        failing=None if not isinstance(passed, bool) else not passed,
    )
    if drive.gb is None and not drive.serial:
        said = "; ".join(str(item.get("string")) for item in _part(document, "smartctl").get("messages") or [] if isinstance(item, Mapping))
        return Seen("drive record", missed=(f"smartctl says of {drive.name or 'a drive'}: {said or 'nothing'}",))
    return Seen("drive record", drives=(_worn(document, log, drive),))


def _worn(document: Mapping[str, Any], log: Mapping[str, Any], drive: DriveSeen) -> DriveSeen:
    for used in (
        number(_part(document, "endurance_used").get("current_percent")),
        number(log.get("percentage_used")),
        _statistic(document),
    ):
        if used is not None:
            return with_left(drive, used)
    table = _part(document, "ata_smart_attributes").get("table") or []
    values = {str(row.get("name")): number(row.get("value")) for row in table if isinstance(row, Mapping)}
    left = next((values[name] for name in LEFT if values.get(name) is not None), None)
    return with_left(drive, None if left is None or left > 100 else 100.0 - left)


def _statistic(document: Mapping[str, Any]) -> float | None:
    for page in _part(document, "ata_device_statistics").get("pages") or []:
        for row in page.get("table") or [] if isinstance(page, Mapping) else []:
            if isinstance(row, Mapping) and row.get("name") == USED_INDICATOR:
                return number(row.get("value"))
    return None


def nvme_log(document: Mapping[str, Any]) -> Seen:
    """The log of `nvme smart-log -o json`: it names no drive, so it is one drive of whom only its wear is known."""
    used = number(document.get("percent_used", document.get("percentage_used")))
    warning = number(document.get("critical_warning"))
    drive = DriveSeen(bus="NVMe", hours=number(document.get("power_on_hours")), failing=None if warning is None else warning > 0)
    return Seen("NVMe log", drives=(with_left(drive, used),))


def _part(document: Mapping[str, Any], name: str) -> Mapping[str, Any]:
    value = document.get(name)
    return value if isinstance(value, Mapping) else {}
