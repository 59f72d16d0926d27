"""The positions of a model page: what a revision's page document says each place in the machine takes."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from almanac.core.errors import ContractError
from almanac.core.parts.kinds import Kind, Serviceability


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
    """Positions of a page document, in its order.

    Parameters
    ----------
    page : mapping with a list `positions` of {key, label, kind, serviceability, ordered_unit?, when?}

    Returns
    -------
    list of PositionSpec

    Raises
    ------
    ContractError : a position without a key, used twice, or of unknown kind or serviceability
    """
    found: dict[str, PositionSpec] = {}
    for place, entry in enumerate(page.get("positions", [])):
        key = entry.get("key")
        if not key or key in found:
            raise ContractError(f"positions[{place}].key: a key used once was wanted, got {key!r}")
        try:
            kind, held = Kind(entry["kind"]), Serviceability(entry.get("serviceability", "unknown"))
        except ValueError as error:
            raise ContractError(f"positions[{place}] ({key}): {error}") from error
        found[key] = PositionSpec(key, entry.get("label") or key, kind, held, entry.get("ordered_unit"), entry.get("when"))
    return list(found.values())
