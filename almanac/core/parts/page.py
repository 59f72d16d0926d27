"""The positions of a model page: what a revision's page document says each place in the machine takes."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from almanac.core.errors import ContractError
from almanac.core.parts.escalation import Held, ordered_unit
from almanac.core.parts.holding import held_of, ordered_in_place
from almanac.core.parts.kinds import Kind, Serviceability

KIND_ORDER = {kind: number for number, kind in enumerate(Kind)}
"""Parts are listed by their kind: a page may hold them in the order they come out."""


@dataclass(frozen=True)
class PositionSpec:
    """One position of a page. `key` survives revisions; `ordered_unit` is None where the part itself is ordered."""

    key: str
    label: str
    kind: Kind
    serviceability: Serviceability
    ordered_unit: str | None
    option_condition: dict[str, Any] | None


def positions_of(page: Mapping[str, Any]) -> list[PositionSpec]:
    """Positions of a page document with what is ordered for each (rule E1), by kind, those forecast first, and as written within.

    Parameters
    ----------
    page : mapping with a list `positions` of {key, label, kind, serviceability, part_of?, orderable?, ordered_unit?, when?}

    Returns
    -------
    list of PositionSpec

    Raises
    ------
    ContractError : a position without a key, used twice, or of unknown kind or serviceability
    """
    held: dict[str, Held] = {}
    for place, entry in enumerate(page.get("positions") or []):
        key = entry.get("key")
        if not key or key in held:
            raise ContractError(f"positions[{place}].key: a key used once was wanted, got {key!r}")
        try:
            held[key] = held_of(entry)
        except ValueError as error:
            raise ContractError(f"positions[{place}] ({key}): {error}") from error
    entries = sorted(page.get("positions") or [], key=lambda entry: KIND_ORDER[Kind(entry["kind"])])
    return [_spec(entry, held) for entry in entries]


def _spec(entry: Mapping[str, Any], held: Mapping[str, Held]) -> PositionSpec:
    place = held[entry["key"]]
    unit = ordered_in_place(entry) or _unit(place, held)
    return PositionSpec(place.key, entry.get("label") or place.key, place.kind, place.held, unit, entry.get("when"))


def _unit(place: Held, held: Mapping[str, Held]) -> str | None:
    """What is ordered where it is not the part itself; both where that is not known."""
    units = ordered_unit(place.key, held).units
    return None if units == (place.key,) else " or ".join(units)
