"""What the outlook cannot say, why, and what it would take: silence is not good news."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from almanac.core.parts.declared.kinds import FORECAST_KINDS
from almanac.services.outlook.inputs import Inputs
from almanac.services.outlook.order_plans import Row
from almanac.services.words import count


@dataclass(frozen=True)
class Unsaid:
    """One thing that cannot be said: of how many stock parts, for which reason, and the cure."""

    parts: int
    what: str
    why: str
    cure: str


def unsaid_of(inputs: Inputs, rows: Sequence[Row]) -> list[Unsaid]:
    """Everything the rows keep silent about, the widest first."""
    silent = [row for row in rows if not row.projection.said]
    if silent and not inputs.logged:
        units = inputs.units_on_record()
        why = f"no incident is on record, though {count(units, 'part is', 'parts are')} in service: nobody knows whether none failed"
        cure = "import the old log, or record what fails from now on"
        return [Unsaid(len(silent), "failures, demand and order days", why, cure)]
    found = [*_no_lane(inputs, rows)]
    for kind in FORECAST_KINDS:
        own = [row for row in silent if row.part.kind == kind.value]
        if own:
            why = f"no part of the kind {kind.value} was ever recorded in a machine"
            found.append(Unsaid(len(own), f"{kind.value} parts", why, "import tenures, or record what machines hold"))
    return sorted(found, key=lambda item: -item.parts)


def _no_lane(inputs: Inputs, rows: Sequence[Row]) -> list[Unsaid]:
    """Sites whose lane nobody knows: their levels rest on the slowest there is."""
    lacking = [site for site in inputs.no_lane if inputs.site is None or inputs.site.id == site.id]
    if not lacking or not rows:
        return []
    days = inputs.lanes[lacking[0].id]
    why = f"no lane from the depot is on record, so that levels there are worked out as for {count(days, 'day', 'days')} under way"
    names = ", ".join(site.name for site in lacking)
    return [Unsaid(len(rows), f"how long parts take to {names}", why, "type the lane in Stores")]
