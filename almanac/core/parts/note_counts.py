"""Fasteners in the way people write notes: clock times, part numbers and minutes beside them are not counts."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass

from almanac.core.teardown.operations import Fasteners
from almanac.core.teardown.shorthand import read_shorthand

_SMALL = "one|two|three|four|five|six|seven|eight|nine|ten|eleven|twelve"
_THING = r"screws?|clips?|jack screws?|jacks?|cams?|latch(?:es)?"
_TERM = rf"(?:{_THING}|captive|loose|long|medium|short|hidden|PH\d|T\d{{1,2}}|JIS\d|M\d(?:\.\d)?x\d{{1,2}}(?:\.\d)?)"
TERM = re.compile(rf"\b{_TERM}\b", re.IGNORECASE)
COUNTED = re.compile(
    r"(?P<how>at least|about|approx(?:imately|\.)?|around|some|~|>=)?\s*"
    rf"(?<![\w.-])(?P<count>\d{{1,3}}|{_SMALL})\b\s*(?:[x×]\s)?\s*(?=.*?\b{_TERM}\b)",
    re.IGNORECASE,
)
ASIDE = tuple(
    re.compile(pattern, re.IGNORECASE)
    for pattern in (
        r"\b\d{4}-\d{2}-\d{2}\b|\b\d{1,2}[./]\d{1,2}[./]\d{2,4}\b",
        r"(?:\b(?:at|from)\s+)?\b\d{1,2}[:.]\d{2}(?:\s*(?:-|–|to|until)\s*\d{1,2}[:.]\d{2})?(?!\d|\s*(?:mm|V|A|Ah|Wh|kg)\b)",
        r"\b(?:p/?n|part(?: no\.?| number)?)?[\s:#]*\b(?=[\w-]*(?:[A-Za-z]|\d{3}))(?=[\w-]*\d)[A-Za-z0-9]{2,}(?:-[A-Za-z0-9]{2,})+\b",
        r"\brev(?:ision)?\.?\s*\w+\b",
        r"\b(?:took\s+)?(?:about\s+)?\d+(?:\.\d+)?\s*(?:min(?:utes|s)?|h|hours?)\b",
        r"^\s*\d{1,2}[.)]\s+",
    )
)
"""Dates, clock times, part numbers, revisions, minutes, the number of a list."""
REWRITTEN = (
    (re.compile(r"\(([^)]*)\)"), r", \1"),
    (re.compile(r"\b(PH\d|T\d{1,2}|JIS\d)\s*[x×]\s*(\d{1,3})\b", re.IGNORECASE), r"\2x \1"),
    (re.compile(rf"\b({_THING})\s*[:=]\s*((?:~|>=)?\s*(?:\d{{1,3}}|{_SMALL}))\s*$", re.IGNORECASE), r"\2 \1"),
    (re.compile(r"(?<=\d)\s*[x×]\s*(?=[A-Za-z])", re.IGNORECASE), " x "),
    (re.compile(r"\b(?:six-lobe|three-winged|security|cross|head|pcs|pieces)\b", re.IGNORECASE), ""),
)
BETWEEN = re.compile(rf"\b(\d{{1,2}})\s*(?:-|–|to|or)\s*(\d{{1,2}})(?=\s+(?:\w+\s+)?{_TERM}\b)", re.IGNORECASE)
NOT_A_COUNT = re.compile(rf"\b\d+\s+of\s+(?:the\s+)?\d+\b|\bno\s+(?:\w+\s+)?(?:{_THING})\b", re.IGNORECASE)


@dataclass(frozen=True)
class NoteCounts:
    """Fasteners a note counts, and doubts in words: what stood beside them, ranges."""

    groups: tuple[Fasteners, ...]
    flags: tuple[str, ...]


def counted_in(words: str) -> NoteCounts:
    """Fasteners in one line of a note; none where it counts none.

    Parameters
    ----------
    words : a line, such as "9:05-9:20 undid 10 screws T8" or "screws 8xPH1 (2 under feet)"
    """
    if NOT_A_COUNT.search(words):
        return NoteCounts((), ())
    plain, flags = words, []
    for aside in ASIDE:
        plain = aside.sub(" ", plain)
    for pattern, instead in REWRITTEN:
        plain = pattern.sub(instead, plain)
    for low, high in BETWEEN.findall(plain):
        flags.append(f"{low} to {high} was said: at least {low} is kept")
    plain = BETWEEN.sub(r">=\1", plain)
    groups: list[Fasteners] = []
    for piece in _pieces(plain):
        read = read_shorthand(piece)
        groups += read.groups
        flags += [f"left aside: {word}" for word in read.unread]
    return NoteCounts(tuple(groups), tuple(dict.fromkeys(flags)))


def _pieces(plain: str) -> Iterator[str]:
    """Every stretch that begins with a count and speaks of fasteners."""
    for piece in re.split(r"[,;+]|\band\b", plain):
        found = COUNTED.search(piece)
        if found:
            yield f"{_sign(found['how'])}{found['count']} {piece[found.end() :].strip()}"
        elif under := re.match(rf"\s*(\d{{1,3}}|{_SMALL})\s+(under\b.*)", piece, re.IGNORECASE):
            yield f"{under[1]} hidden {under[2]}"


def _sign(how: str | None) -> str:
    if not how:
        return ""
    return ">=" if how.lower() in (">=", "at least") else "~"
