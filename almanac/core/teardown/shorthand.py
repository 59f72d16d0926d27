"""Reading a line of fastener shorthand, such as "6x PH1 M2.5x4 captive, 1 hidden under label".

The grammar: groups apart by comma, semicolon or "and". A group is a count (figure or word; ">=3" or "3+" at least, "~8" about, "?" not
known), then in any order a bit (PH1, T5,
2 mm), a thread (M2.5x4), a length word (long, medium, short), captive or loose, a kind (jack, cam, latch, numbered) and a place
("at the hinge", "round the rim", "under the label"). A group without bit, thread or length word that is hidden is part of the group
before it.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass, replace

from almanac.core.teardown.bits import said_as_bits
from almanac.core.teardown.counts import UNKNOWN, Count, total
from almanac.core.teardown.operations import Fasteners

NUMBERS = {
    word: value
    for value, word in enumerate(("one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve"), 1)
}
SIGN = r"(?:(?P<sign>>=|≥|~|≈|at\s+least\b|about\b|some\b|around\b)\s*)?"
FIGURE = rf"(?P<figure>\d{{1,3}}(?![\d.])|(?:{'|'.join(NUMBERS)}|a|an)\b|\?)"
COUNT = re.compile(rf"^\s*{SIGN}{FIGURE}(?P<more>\+|\s+or\s+more\b)?\s*(?:[x×]\s*)?", re.IGNORECASE)
LEAST, ROUGHLY = (">=", "≥", "at least"), ("~", "≈", "about", "some", "around")
BIT = re.compile(r"\b(PH|JIS|TR|T|Y|H|SL|PZ|P)\s?(000|00|\d{1,2})\b", re.IGNORECASE)
THREAD = re.compile(r"\bM\s?(\d(?:\.\d)?)\s?[x×]\s?(\d{1,2}(?:\.\d)?)(?:\s?mm)?\b", re.IGNORECASE)
LENGTH = re.compile(r"\b(long|medium|short)\b", re.IGNORECASE)
HIDDEN = re.compile(r"\b(?:hidden\s+)?(?:under|beneath|behind)\s+(?:an?\s+|the\s+)?([a-z][a-z0-9 -]*)|\bhidden\b", re.IGNORECASE)
PLACE = re.compile(r"\b(?:at|round|around|along|on|in)\s+(?:an?\s+|the\s+)?([a-z][a-z0-9 -]*)", re.IGNORECASE)
KINDS = {"jack": "jack", "cam": "cam", "latch": "latch", "clip": "clip"}
FILLER = re.compile(r"\b(screws?|of them|which|each|all|jacks?|cams?|latch(?:es)?|clips?|mostly|captive|loose|numbered)\b", re.IGNORECASE)


@dataclass(frozen=True)
class Understood:
    """What a line was taken to say: groups of fasteners, their places, and words that meant nothing."""

    groups: tuple[Fasteners, ...]
    places: tuple[str | None, ...]
    unread: tuple[str, ...]

    @property
    def total(self) -> Count:
        return total(group.count for group in self.groups)


def read_shorthand(line: str) -> Understood:
    """Groups of fasteners in a line of shorthand.

    Parameters
    ----------
    line : as spoken or typed

    Returns
    -------
    Understood : what could not be read is named, never guessed
    """
    groups: list[Fasteners] = []
    places: list[str | None] = []
    unread: list[str] = []
    for item in re.split(r"[,;]|\band\b", said_as_bits(line)):
        if not item.strip():
            continue
        counted = COUNT.match(item)
        if not counted:
            unread.append(item.strip())
            continue
        count, words = _count(counted), item[counted.end() :]
        group, place, left = _group(count, words)
        hidden_part = group.hidden and not (BIT.search(words) or THREAD.search(words) or LENGTH.search(words))
        if hidden_part and groups and count.exact and groups[-1].count.exact and count.number <= groups[-1].count.number:
            _split_off(groups, places, count, group.hidden)
        else:
            groups.append(group)
            places.append(place)
        unread.extend(left)
    return Understood(tuple(groups), tuple(places), tuple(unread))


def _count(found: re.Match[str]) -> Count:
    """5, "at least 3", "3+", "~8", "?" as they are said."""
    if found["figure"] == "?":
        return UNKNOWN
    number = int(found["figure"]) if found["figure"].isdigit() else NUMBERS.get(found["figure"].lower(), 1)
    sign = " ".join((found["sign"] or "").lower().split())
    return Count(number, least=sign in LEAST or bool(found["more"]), about=sign in ROUGHLY)


def _split_off(groups: list[Fasteners], places: list[str | None], count: Count, hidden: str | None) -> None:
    """Some of the last group are hidden: it becomes two of one length group."""
    last = groups[-1]
    part = replace(last, count=count, hidden=hidden)
    if last.count == count:
        groups[-1] = part
        return
    groups[-1] = replace(last, count=Count(last.count.number - count.number))
    groups.append(part)
    places.append(places[-1])


def _group(count: Count, words: str) -> tuple[Fasteners, str | None, list[str]]:
    bit, thread, length = BIT.search(words), THREAD.search(words), LENGTH.search(words)
    hidden, place = HIDDEN.search(words), PLACE.search(words)
    kind = next((kind for word, kind in KINDS.items() if re.search(rf"\b{word}", words, re.IGNORECASE)), "screw")
    captive = _captive(words)
    size = f"M{thread[1]}x{thread[2]}" if thread else None
    bit_name = f"{bit[1].upper()}{bit[2]}" if bit else None
    group = " ".join(part for part in (bit_name, size or (length[1].lower() if length else None)) if part) or kind
    covered = (hidden[1] or "cover, not said which").strip() if hidden else None
    found = Fasteners(
        group=group,
        count=count,
        bit=bit_name,
        thread=size,
        captive=True if kind == "jack" else captive,
        mostly=kind != "jack" and _mostly(words),
        kind=kind,
        hidden=covered,
        numbered="numbered" in words.lower(),
    )
    return found, place[1].strip() if place else None, _left_over(words, (bit, thread, length, hidden, place))


def _mostly(words: str) -> bool:
    return bool(re.search(r"\bmostly\s+captive\b", words, re.IGNORECASE))


def _captive(words: str) -> bool | None:
    if _mostly(words):
        return None
    if re.search(r"\bcaptive\b", words, re.IGNORECASE):
        return True
    return False if re.search(r"\bloose\b", words, re.IGNORECASE) else None


def _left_over(words: str, matches: Iterable[re.Match[str] | None]) -> list[str]:
    """Words no rule read."""
    rest = list(words)
    for match in matches:
        if match:
            rest[match.start() : match.end()] = " " * (match.end() - match.start())
    left = FILLER.sub(" ", "".join(rest))
    return [word for word in re.split(r"[\s.]+", left) if len(word) > 1 or word.isdigit()]


def write_shorthand(groups: Iterable[Fasteners]) -> str:
    """Groups as a line of the same grammar; reading it again gives the same groups."""
    return ", ".join(_words(group) for group in groups)


def _words(group: Fasteners) -> str:
    held = "mostly captive" if group.mostly else "captive" if group.captive else "loose" if group.captive is False else None
    length = next((word for word in ("long", "medium", "short") if word in group.group and not group.thread), None)
    kind = group.kind if group.kind != "screw" else None
    hidden = f"under {group.hidden}" if group.hidden else None
    words = [group.bit, group.thread or length, kind, held if kind != "jack" else None, "numbered" if group.numbered else None, hidden]
    return f"{group.count.written}x " + " ".join(word for word in words if word)
