"""How the positions of a page are held, and whether they are ordered alone, as the rules of escalation read it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from almanac.core.parts.escalation import Held
from almanac.core.parts.kinds import Kind, Serviceability
from almanac.core.parts.stated import field


def held_as(entry: Mapping[str, Any]) -> Serviceability:
    """How a position is held, unknown where nobody knows.

    Raises
    ------
    ValueError : a way of holding that does not exist
    """
    return Serviceability(field(entry, "serviceability").value or "unknown")


def ordered_in_place(entry: Mapping[str, Any]) -> str | None:
    """What is ordered for a position, where that is no position of its page."""
    unit = field(entry, "ordered_unit").value
    return str(unit) if unit else None


def held_of(entry: Mapping[str, Any]) -> Held:
    """A position as the rules of escalation read it.

    Raises
    ------
    ValueError : a kind or a way of holding that does not exist
    """
    how, alone = field(entry, "serviceability"), field(entry, "orderable")
    above = entry.get("part_of") or ordered_in_place(entry)
    doubt = how.doubt or (f"whether it is ordered alone: {alone.doubt}" if alone.doubt else "")
    return Held(entry["key"], Kind(entry["kind"]), held_as(entry), above, alone.value, doubt)
