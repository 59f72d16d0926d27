"""Taking a sum of money over: every part's own aim, and parts that are bought when needed; and giving that back."""

from __future__ import annotations

from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.services.company_settings import RANGES, WHEN_NEEDED, SettingRequest, change_setting
from almanac.services.outlook.builder import OutlookBuilder
from almanac.services.outlook.money import MoneyRead
from almanac.services.words import figure

SAME = 5e-5
"""An aim that is kept to four digits is no other one."""


def take_over(session: Session, found: MoneyRead, *, clock: Clock, author_id: int) -> int:
    """Set the aim of every part to what it comes to at a sum; returns how many changed.

    A part that none is kept of is bought when needed from then on; one that was, and is kept now, no more.
    """
    low, high, _ = RANGES["target"]
    settings, why = found.builder.inputs.settings, f"chosen on the curve of money, {figure(found.chosen.money, 0)} tied up"
    changed = 0
    for part in found.parts:
        number = part.row.part.number
        aim = round(min(max(part.point.fill, low), high), 4)
        wanted: dict[str, float | str | None] = {}
        if not part.kept:
            wanted[WHEN_NEEDED] = "all"
        elif settings.own("part", number, WHEN_NEEDED) == "all":
            wanted[WHEN_NEEDED] = None
        if part.kept and abs(float(settings.value("target", kind=part.row.part.kind, part_number=number, default=0.95)) - aim) > SAME:
            wanted["target"] = aim
        for key, value in wanted.items():
            if settings.own("part", number, key) == value:
                continue
            last = settings.number("part", number, key)
            change_setting(session, SettingRequest("part", number, key, value, last, why), clock=clock, author_id=author_id)
        changed += bool(wanted)
    return changed


def give_back(session: Session, builder: OutlookBuilder, *, clock: Clock, author_id: int) -> int:
    """Have every part follow the wider aim again; returns how many had one of their own."""
    settings, changed = builder.inputs.settings, 0
    for part in builder.inputs.parts:
        if settings.own("part", part.number, "target") is None:
            continue
        request = SettingRequest("part", part.number, "target", None, settings.number("part", part.number, "target"), "as the company's")
        change_setting(session, request, clock=clock, author_id=author_id)
        changed += 1
    return changed
