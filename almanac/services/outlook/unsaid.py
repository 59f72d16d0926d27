"""What the outlook cannot say, why, and what it would take: silence is not good news."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from almanac.core.parts.kinds import FORECAST_KINDS
from almanac.services.outlook.inputs import Inputs
from almanac.services.outlook.lines import Line
from almanac.services.words import count


@dataclass(frozen=True)
class Unsaid:
    """One thing that cannot be said: of how many stock parts, for which reason, and the cure."""

    parts: int
    what: str
    why: str
    cure: str


def unsaid_of(inputs: Inputs, lines: Sequence[Line]) -> list[Unsaid]:
    """Everything the lines keep silent about, the widest first."""
    silent = [line for line in lines if line.law is None]
    if silent and not inputs.logged:
        units = sum(sum(row.units) for row in inputs.service)
        why = f"no incident is on record, though {count(units, 'part is', 'parts are')} in service: nobody knows whether none failed"
        cure = "import the old log, or record what fails from now on"
        return [Unsaid(len(silent), "failures, demand and order days", why, cure)]
    found = []
    for kind in FORECAST_KINDS:
        own = [line for line in silent if line.part.kind == kind.value]
        if own:
            why = f"no part of the kind {kind.value} was ever recorded in a machine"
            found.append(Unsaid(len(own), f"{kind.value} parts", why, "import tenures, or record what machines hold"))
    return sorted(found, key=lambda item: -item.parts)
