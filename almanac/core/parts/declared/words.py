"""Facts said in words with their units, in the order people say them."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from almanac.core.parts.declared.facts import FACTS, label_of, spec_of
from almanac.core.parts.declared.understand import said_of
from almanac.core.parts.declared.values import is_unknown
from almanac.core.parts.kinds import Kind

ORDER: Mapping[str, int] = {name: place for place, name in enumerate(dict.fromkeys(spec.name for spec in FACTS))}
LAST = len(ORDER)


def in_order(names: Mapping[str, Any]) -> list[str]:
    """Names of facts in the order people say them."""
    return sorted(names, key=lambda name: (ORDER.get(name, LAST), name))


def fact_words(kind: Kind | None, name: str, value: Any) -> str:
    """One value with its unit, such as "to 32 GB"; a yes is the fact's own word, a no says so."""
    if is_unknown(value):
        return "not known"
    spec = spec_of(kind, name)
    if isinstance(value, bool):
        return label_of(name, kind) if value else f"no {label_of(name, kind)}"
    return spec.said.format(said_of(value)) if spec else said_of(value)


def plain_words(kind: Kind | None, name: str, value: Any) -> str:
    """The same beside the fact's label: yes, no, or the value with its unit."""
    return said_of(value) if isinstance(value, bool) else fact_words(kind, name, value)


def takes_words(kind: str, values: Mapping[str, Any]) -> list[str]:
    """What a position takes, each of its facts in words; those nobody asks for in a list are left out."""
    of = Kind(kind)
    shown = [name for name in in_order(values) if (spec := spec_of(of, name)) is None or spec.shown]
    words = [fact_words(of, name, values[name]) for name in shown]
    if of == Kind.MEMORY and str(values.get("generation", "")).startswith("DDR3"):
        low = values.get("generation") == "DDR3L" or values.get("voltage_v") == 1.35
        words.append("low-voltage DDR3" if low else "DDR3 of 1.5 V or not known")
    return words
