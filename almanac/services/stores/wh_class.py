"""The Wh class of a pack, as carriers ask for it; no permission follows from it."""

from __future__ import annotations

from almanac.core.workbench.cautions import transport_class
from almanac.store.models import Part


def energy_class(part: Part) -> str:
    """To 100, to 160, or above, by what its facts state; said where nobody knows."""
    stated = part.facts.get("energy_wh")
    first = stated[0] if isinstance(stated, list) and stated else stated
    value = first.get("value") if isinstance(first, dict) else None
    return transport_class(float(value)) if isinstance(value, int | float) and value > 0 else "class not known"
