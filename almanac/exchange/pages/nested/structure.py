"""What of a step follows from where it stands: what it needs, whether it is done live, whether a board lies bare."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from typing import Any

from almanac.core.parts.kinds import Kind

BARE = frozenset({Kind.MEMORY, Kind.SSD, Kind.RADIO, Kind.FAN, Kind.HEAT_SINK, Kind.MAINBOARD, Kind.PROCESSOR, Kind.IO_BOARD})
"""Kinds that are taken from or beside a bare board."""
FLAGS = ("live", "bare_board")


def flags_of(steps: Sequence[Mapping[str, Any]], kinds: Mapping[str, str]) -> dict[str, dict[str, bool]]:
    """Flags that follow from the structure, by step.

    Steps that the isolation needs are done live, as the isolation itself is, unless they are outside. A board lies bare where a
    step inside takes out a part that sits on one.

    Parameters
    ----------
    steps : of a page, in any order · kinds : of the positions, by key
    """
    by_id = {step.get("id"): step for step in steps}
    before = _before_power(by_id)
    found = {}
    for name, step in by_id.items():
        live = name in before and not step.get("outside")
        inside = not live and not step.get("outside") and not step.get("isolates")
        bare = inside and any(kinds.get(key) in BARE for key in step.get("frees") or [])
        found[str(name)] = {"live": live, "bare_board": bare}
    return found


def _before_power(by_id: Mapping[Any, Mapping[str, Any]]) -> set[str]:
    """The isolating steps and all they need."""
    waiting, found = [name for name, step in by_id.items() if step.get("isolates")], set[str]()
    while waiting:
        name = waiting.pop()
        if name in by_id and name not in found:
            found.add(name)
            waiting.extend(other for need in by_id[name].get("needs") or [] for other in names_in(need))
    return found


def parts_beneath(steps: Sequence[Mapping[str, Any]], above: Mapping[str, str | None], inline: Mapping[str, str]) -> dict[str, list[str]]:
    """Parts that lie bare once a cover is off: those written beneath it, as far as the next cover.

    Parameters
    ----------
    steps : in the order of the page · above : the step each is written beneath · inline : the part that is one entry with a step
    """
    covers = {str(step["id"]) for step in steps if step.get("layer")}
    found: dict[str, list[str]] = {}
    for name, key in inline.items():
        over = above.get(name)
        while over is not None and over not in covers:
            over = above.get(over)
        if over is not None:
            found.setdefault(over, []).append(key)
    return found


def names_in(need: Any) -> Collection[str]:
    """The steps of one need: itself, or its alternatives."""
    if isinstance(need, str):
        return (need,)
    named = [*(need.get("any") or []), need.get("done")] if isinstance(need, Mapping) else []
    return [name for name in named if isinstance(name, str)]
