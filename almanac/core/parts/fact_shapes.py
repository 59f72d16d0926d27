"""What the value of a fact that rules read looks like: a number, a whole number, a list of them, yes or no, a word.

A value of another shape is a fault at its place before any rule meets it; a fact that no rule reads may hold anything.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Iterator, Mapping
from typing import Any

from almanac.core.parts.answers import stated
from almanac.core.parts.faults import PageFault, Where
from almanac.core.parts.kinds import Kind

Check = Callable[[Any], bool]
LARGEST = 1e6


def _number(value: Any) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool) and math.isfinite(value) and 0 <= value <= LARGEST


def _whole(value: Any) -> bool:
    return _number(value) and value == int(value)


def _wholes(value: Any) -> bool:
    return isinstance(value, list) and bool(value) and all(_whole(item) for item in value)


def _yes_no(value: Any) -> bool:
    return isinstance(value, bool)


def _word(value: Any) -> bool:
    return isinstance(value, str) and bool(value.strip())


def _words(value: Any) -> bool:
    return _word(value) or (isinstance(value, list) and bool(value) and all(_word(item) for item in value))


def _by_word(value: Any) -> bool:
    return isinstance(value, dict) and bool(value) and all(_word(name) and _word(item) for name, item in value.items())


NUMBER: tuple[Check, str] = (_number, "a number without its unit")
WHOLE: tuple[Check, str] = (_whole, "a whole number without its unit")
WHOLES: tuple[Check, str] = (_wholes, "a list of whole numbers, such as [42, 80]")
YES_NO: tuple[Check, str] = (_yes_no, "true or false")
WORD: tuple[Check, str] = (_word, "a word")
WORDS: tuple[Check, str] = (_words, "a word, or a list of words")
BY_WORD: tuple[Check, str] = (_by_word, "a word for each colour, such as {black: main}")

ANY_KIND: Mapping[str, tuple[Check, str]] = {
    "thickness_mm": NUMBER,
    "caddy_mm": NUMBER,
    "inner_mm": NUMBER,
    "voltage_v": NUMBER,
    "capacity_ah": NUMBER,
    "energy_wh": NUMBER,
    "capacity_gb": NUMBER,
    "maximum_gb": NUMBER,
    "grade_mt_s": WHOLE,
    "length_mm": WHOLE,
    "lengths_mm": WHOLES,
    "lanes": WHOLE,
    "sides": WHOLE,
    "series": WHOLE,
    "ranks": WHOLE,
    "double_sided": YES_NO,
    "bracket": YES_NO,
    "pad": YES_NO,
    "carrier": YES_NO,
    "lead_carries_over": YES_NO,
    "low_voltage": YES_NO,
    "with_heat_sink": YES_NO,
    "form": WORD,
    "plug": WORD,
    "side": WORD,
    "ordered": WORD,
    "keying": WORD,
    "mount": WORDS,
    "bus": WORDS,
    "antennas": BY_WORD,
}
OF_KIND: Mapping[tuple[Kind, str], tuple[Check, str]] = {
    (Kind.MEMORY, "generation"): WORD,
    (Kind.SSD, "generation"): WHOLE,
}
OF_MACHINE: Mapping[str, tuple[Check, str]] = {
    "mains_wait_minutes": NUMBER,
    "memory_channels": WHOLE,
    "memory_maximum_gb": NUMBER,
    "memory_soldered_gb": NUMBER,
    "memory_tried_gb": NUMBER,
}


def shape_faults(facts: Mapping[str, Any], where: Where, kind: Kind | None) -> Iterator[PageFault]:
    """Every statement of some facts whose value no rule could read.

    Parameters
    ----------
    facts : of a position, or of the machine · where : their place in the page · kind : of the position, None for the machine
    """
    for name in facts:
        wanted = OF_MACHINE.get(name) if kind is None else OF_KIND.get((kind, name)) or ANY_KIND.get(name)
        if wanted is None:
            continue
        fits, words = wanted
        for statement in stated(facts, name):
            value = statement["value"]
            if value is not None and value != "unknown" and not fits(value):
                yield PageFault((*where, name), f"{words} was wanted, got {value!r}", _cure(value, fits))


def _cure(value: Any, fits: Check) -> str:
    """The nearest value that can be meant, where there is one."""
    if fits is _wholes and _whole(value):
        return f"write [{int(value)}]"
    found = re.fullmatch(r"\s*(\d+(?:[.,]\d+)?)\s*[A-Za-z/]*\s*", value) if isinstance(value, str) else None
    if found and fits in (_number, _whole):
        return f"write {found[1].replace(',', '.')}"
    if fits is _yes_no and str(value).strip().lower() in ("yes", "no"):
        return f"write {'true' if str(value).strip().lower() == 'yes' else 'false'}"
    return "write it as wanted, or leave it out where nobody knows"
