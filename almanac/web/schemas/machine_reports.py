"""What machines say of themselves at the bench."""

from __future__ import annotations

from typing import Literal
from uuid import UUID

from pydantic import Field

from almanac.web.schemas.base import Schema
from almanac.web.schemas.machines import MachineNoteView


class FigureView(Schema):
    what: str
    planned: str
    reported: str
    verdict: str
    reason: str


class PackTriageView(Schema):
    """What becomes of a pack. advice : quarantine, replace, watch, keep or unknown"""

    advice: str
    why: list[str]


class MachineSaid(Schema):
    """What the machine said before the first swap and after the last, a line a part; what of it is on record otherwise or was missed.

    pack : null where nothing is known to judge it by · notes : what stays with the machine until a later job mends it
    """

    before: list[str]
    after: list[str]
    missed: list[str]
    questions: list[str]
    pack: PackTriageView | None
    notes: list[MachineNoteView]


class ReportIn(Schema):
    device: UUID
    text: str = Field(max_length=2_000_000)


class StandInIn(Schema):
    device: UUID
    fault: Literal["memory", "drive", "pack", "fan"] | None = None


class ReportTaken(Schema):
    figures: list[FigureView]
