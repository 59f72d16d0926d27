"""A machine says what is in a place of which nothing is on record: which part that must be, where only one can be meant."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field

from almanac.core.parts.kinds import Kind
from almanac.core.workbench.heard import Held, Part, same_size
from almanac.core.workbench.reported import Reported

NAMES = {Kind.BATTERY: "pack", Kind.SSD: "drive", Kind.MEMORY: "module"}
SAME_TOTAL_GB = 0.5


@dataclass(frozen=True)
class Empty:
    """A place of which nothing is on record. never : nothing ever was · fitting : parts that fit, each with its size"""

    position: str
    label: str
    kind: str
    never: bool
    fitting: Mapping[str, float | None] = field(default_factory=dict)


def met(held: Sequence[Held], empty: Sequence[Empty], report: Reported) -> dict[str, str]:
    """Part numbers by position of what a machine reports where nothing ever was on record.

    Parameters
    ----------
    held : parts on record · empty : places of which nothing is on record · report : of the machine

    Returns
    -------
    dict : a place is filled where no part of its kind is on record, as many report as there are places, all of one size, and one part
    alone of that size fits; a guess is none
    """
    found: dict[str, str] = {}
    for kind, seen in _by_kind(report):
        places = [place for place in empty if place.kind == kind]
        if any(part.kind == kind for part in held) or not places or len(places) != len(seen):
            continue
        for place in places:
            numbers = [number for number, size in place.fitting.items() if all(same_size(size, part) for part in seen)]
            if place.never and len(numbers) == 1:
                found[place.position] = numbers[0]
    return found


def missing(held: Sequence[Held], report: Reported, *, unrecorded: Collection[str] = ()) -> list[str]:
    """What a machine should report by its record and does not, or has more of in sum: each as a question.

    Parameters
    ----------
    held : parts on record · report : of the machine; of a kind it says nothing of, nothing is asked
    unrecorded : kinds of which a place has nothing on record, such as memory on the board: their sum says nothing
    """
    asked = []
    for kind, seen in _by_kind(report):
        own = [part for part in held if part.kind == kind]
        if kind != Kind.MEMORY and seen and len(own) > len(seen):
            asked.append(f"it reports {_count(len(seen), kind)}, on record are {_count(len(own), kind)}: was one taken out?")
    memory = [part.size for part in held if part.kind == Kind.MEMORY]
    known = [size for size in memory if size is not None]
    summed = memory and Kind.MEMORY not in unrecorded
    if report.memory_gb is not None and summed and len(known) == len(memory) and abs(sum(known) - report.memory_gb) >= SAME_TOTAL_GB:
        asked.append(f"it reports {report.memory_gb:g} GB of memory, on record are {sum(known):g} GB: was it changed without a record?")
    return asked


def _by_kind(report: Reported) -> list[tuple[Kind, Sequence[Part]]]:
    return [(Kind.BATTERY, report.packs), (Kind.SSD, report.drives), (Kind.MEMORY, report.modules)]


def _count(count: int, kind: Kind) -> str:
    return f"{count} {NAMES[kind]}{'' if count == 1 else 's'}"
