"""What moves from an old part to the one that comes in its place: what hangs on it, and whole parts that sit on it (rule E3)."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from almanac.core.parts.escalation import carry_over, may_move_over, moves_over
from almanac.core.teardown.operations import Teardown


def carried_over(page: Mapping[str, Any], teardown: Teardown, unit: str) -> tuple[str, ...]:
    """Names of what moves to the new unit; what comes with it does not.

    Parameters
    ----------
    page : whole page in its stored form · teardown : of it · unit : key of the position that is replaced
    """
    entries = {entry["key"]: entry for entry in page.get("positions") or []}
    if unit not in entries:
        return ()
    attached, included = entries[unit].get("attached") or (), entries[unit].get("included") or ()
    there = {key: place.as_held for key, place in teardown.places.items() if place.state == "present"}
    known = (teardown.places[key].label for key in moves_over(unit, there))
    open_ = (f"{teardown.places[key].label}, if it comes off: how it is held is not known" for key in may_move_over(unit, there))
    return carry_over([*attached, *known, *open_], included)
