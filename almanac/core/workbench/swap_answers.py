"""A part in the hand is answered before it goes in: right part, right bay, this serial elsewhere, from which shelf (rule N12)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from almanac.core.parts.kinds import Kind, Verdict

PAIRED = frozenset({Kind.MEMORY})
"""Kinds of which one machine may want two alike."""


@dataclass(frozen=True)
class InHand:
    """What is known of a part before it is fitted.

    part : its number as the company knows it, None where nobody does · kind : its kind, and `wanted` that of the position
    fit, reason : whether it fits the position, None where nobody looked · serial : as read, empty where it was not
    serial_part : what that serial is on record as · serial_at : where it is, in words, None where it is on no record
    away : whether that place is another machine, or one that no part is taken from · shelf : parts at the machine's site
    beside : part numbers in the other positions of the kind
    """

    part: str | None
    asked: str
    kind: Kind | None = None
    wanted: Kind | None = None
    fit: Verdict | None = None
    reason: str = ""
    serial: str = ""
    serial_part: str | None = None
    serial_at: str | None = None
    away: bool = False
    shelf: int = 0
    site: str = ""
    beside: Sequence[str] = ()


@dataclass(frozen=True)
class SwapAnswer:
    """One question about a part in the hand, answered."""

    question: str
    verdict: Verdict
    words: str


def swap_answers(held: InHand) -> list[SwapAnswer]:
    """Every answer there is before a part goes in; a no wants a reason that a lead will read.

    Parameters
    ----------
    held : what is known of it

    Returns
    -------
    list of SwapAnswer
    """
    if held.part is None:
        return [SwapAnswer("part", Verdict.NO, f"no part is called {held.asked}: read the label again")]
    found = [_right_part(held), _serial(held), _shelf(held)]
    if held.kind in PAIRED and held.beside:
        others = sorted(set(held.beside) - {held.part})
        words = f"the machine also holds {', '.join(others)}: not a pair" if others else "a pair with what it holds"
        found.append(SwapAnswer("pair", Verdict.UNKNOWN if others else Verdict.YES, words))
    return found


def _right_part(held: InHand) -> SwapAnswer:
    if held.kind != held.wanted:
        words = f"{held.part} is {_named(held.kind)}, this is the place of {_named(held.wanted)}"
        return SwapAnswer("part", Verdict.NO, words)
    if held.fit is None:
        return SwapAnswer("part", Verdict.UNKNOWN, f"nobody looked whether {held.part} fits here")
    words = {Verdict.YES: "fits here", Verdict.NO: "does not fit here", Verdict.UNKNOWN: "not known whether it fits here"}[held.fit]
    return SwapAnswer("part", held.fit, f"{held.part} {words}: {held.reason}")


def _named(kind: Kind | None) -> str:
    return f"a {kind.value.replace('_', ' ')}" if kind is not None else "something else"


def _serial(held: InHand) -> SwapAnswer:
    if not held.serial:
        return SwapAnswer("serial", Verdict.UNKNOWN, "its serial was not read")
    if held.serial_part is not None and held.serial_part != held.part:
        return SwapAnswer("serial", Verdict.NO, f"{held.serial} is on record as {held.serial_part}")
    if held.serial_at is None:
        return SwapAnswer("serial", Verdict.YES, f"{held.serial} is on no record yet")
    return SwapAnswer("serial", Verdict.NO if held.away else Verdict.YES, f"{held.serial} is on record {held.serial_at}")


def _shelf(held: InHand) -> SwapAnswer:
    """A shelf that books less than a hand holds never stops a job (rule N10)."""
    if held.shelf > 0:
        return SwapAnswer("shelf", Verdict.YES, f"{held.shelf} on the shelf at {held.site}")
    return SwapAnswer("shelf", Verdict.UNKNOWN, f"the shelf at {held.site} books none: say at the closing where it came from")


def contradictions(answers: Sequence[SwapAnswer]) -> list[str]:
    """What speaks against fitting it."""
    return [answer.words for answer in answers if answer.verdict == Verdict.NO]


def unanswered(data: Mapping[str, object], answers: Sequence[SwapAnswer]) -> list[str]:
    """Why a part may not go in yet: what speaks against it, where nobody said why it is fitted all the same."""
    if str(data.get("reason") or "").strip():
        return []
    return [f"{words}; another one, or say why it is fitted all the same" for words in contradictions(answers)]
