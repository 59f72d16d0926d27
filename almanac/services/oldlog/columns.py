"""Which column of an old log means what, proposed from its header and settled by a person."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from almanac.core.life.outcomes import Finding


@dataclass(frozen=True)
class Field:
    """Something the log wants, with the header words it often stands under."""

    name: str
    about: str
    words: tuple[str, ...]
    required: bool = True


FIELDS = (
    Field("tag", "asset tag of the machine", ("tag", "asset", "machine", "device", "inventory")),
    Field("occurred_on", "day it happened", ("date", "day", "occurred", "when", "reported")),
    Field(
        "position",
        "which part of the machine: position, label, or kind where there is one",
        ("position", "part", "component", "what", "kind"),
    ),
    Field("finding", "what it turned out to be", ("finding", "result", "outcome", "cause", "verdict"), required=False),
    Field("reason", "what was noticed", ("reason", "symptom", "complaint", "problem", "description"), required=False),
    Field("part_number", "number of the part fitted, where it differs", ("number", "fitted", "replacement", "spare"), required=False),
    Field("serial", "serial of the new part", ("serial",), required=False),
    Field(
        "last_good_on",
        "of a failure that a check found: day it was last seen in order",
        ("last good", "seen good", "good on"),
        required=False,
    ),
    Field("minutes", "minutes at the bench", ("minutes", "time", "duration"), required=False),
    Field("note", "anything else", ("note", "comment", "remark"), required=False),
)
FINDING_WORDS: dict[str, Finding] = {
    "confirmed": Finding.CONFIRMED, "failed": Finding.CONFIRMED, "defective": Finding.CONFIRMED, "faulty": Finding.CONFIRMED,
    "worn": Finding.CONFIRMED, "broken": Finding.CONFIRMED, "open": Finding.OPEN, "unknown": Finding.OPEN, "unclear": Finding.OPEN,
    "": Finding.OPEN, "no fault found": Finding.NO_FAULT_FOUND, "nff": Finding.NO_FAULT_FOUND, "ok": Finding.NO_FAULT_FOUND,
    "damage": Finding.DAMAGE, "damaged": Finding.DAMAGE, "spill": Finding.DAMAGE, "drop": Finding.DAMAGE, "dropped": Finding.DAMAGE,
    "dead on arrival": Finding.DEAD_ON_ARRIVAL, "doa": Finding.DEAD_ON_ARRIVAL, "upgrade": Finding.UPGRADE, "upgraded": Finding.UPGRADE,
    "preventive": Finding.PREVENTIVE, "planned": Finding.PREVENTIVE,
}  # fmt: skip
"""Words people write for a finding; others are asked for, never guessed."""


def proposed(header: Sequence[str]) -> dict[str, str]:
    """A column for each field whose words stand in its header; a column is proposed once."""
    found: dict[str, str] = {}
    for field in FIELDS:
        exact = next((name for name in header if name == field.name and name not in found.values()), None)
        loose = next((name for name in header if name not in found.values() and _means(name, field.words)), None)
        if exact or loose:
            found[field.name] = exact or str(loose)
    return found


def _means(name: str, words: Sequence[str]) -> bool:
    spoken = set(re.split(r"[^a-z]+", name.lower()))
    return any(word in spoken for word in words)


def finding_of(text: str, said: Mapping[str, str]) -> Finding | None:
    """The finding of a cell: as the person said this word means, else as people usually write it; None is to be asked."""
    word = " ".join(text.lower().replace("_", " ").split())
    if word in said:
        return Finding(said[word]) if said[word] else None
    return FINDING_WORDS.get(word)


ISO = re.compile(r"^(\d{4})-(\d{1,2})-(\d{1,2})")
PARTS = re.compile(r"^(\d{1,2})[./-](\d{1,2})[./-](\d{2}|\d{4})$")


def day_of(text: str, *, day_first: bool) -> date | None:
    """A day written ISO, or as 4.12.2026, 4/12/2026; None where it is none. `day_first` settles which number is the day."""
    iso = ISO.match(text)
    parts = PARTS.match(text)
    try:
        if iso:
            return date(int(iso[1]), int(iso[2]), int(iso[3]))
        if parts:
            first, second, year = int(parts[1]), int(parts[2]), int(parts[3])
            day, month = (first, second) if day_first else (second, first)
            return date(year + 2000 if year < 100 else year, month, day)
    except ValueError:
        return None
    return None
