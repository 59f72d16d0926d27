"""Three-valued answers with their reason and the weakest evidence they rest on."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from almanac.core.parts.facts import STRENGTH, Fact
from almanac.core.parts.kinds import Grade, Verdict
from almanac.core.parts.variants import whatever_the_variant


@dataclass(frozen=True)
class Answer:
    """What a rule says. `grade` is the weakest evidence used, None where no fact was needed.

    `practice` names a risk of practice beside a verdict of principle: it never turns a yes into a no.
    """

    verdict: Verdict
    reason: str
    grade: Grade | None = None
    practice: str | None = None


@dataclass(frozen=True)
class Known:
    """The prevailing value of a fact and its grade."""

    value: Any
    grade: Grade


Facts = Mapping[str, Fact | Sequence[Fact]]


def stated(facts: Facts, key: str) -> list[Fact]:
    """All statements about `key`, conflicting ones included."""
    found = facts.get(key)
    if not found:
        return []
    return list(found) if isinstance(found, Sequence) else [found]


def known(facts: Facts, key: str) -> Known | None:
    """The value that holds for `key`, None where nothing is known, the value itself is unknown, or it hangs on an option."""
    statements = stated(facts, key)
    if not statements:
        return None
    holds = whatever_the_variant(statements)
    if holds is None or holds["value"] is None or holds["value"] == "unknown":
        return None
    return Known(holds["value"], Grade(holds["grade"]))


def weakest(*grades: Grade | None) -> Grade | None:
    """The weakest of some grades; None counts as no evidence used."""
    used = [grade for grade in grades if grade is not None]
    return max(used, key=lambda grade: STRENGTH[grade.value]) if used else None


def yes(reason: str, *used: Known | None, practice: str | None = None) -> Answer:
    """A yes that rests on these facts."""
    return Answer(Verdict.YES, reason, weakest(*(item.grade if item else None for item in used)), practice)


def no(reason: str, *used: Known | None) -> Answer:
    """A no that rests on these facts."""
    return Answer(Verdict.NO, reason, weakest(*(item.grade if item else None for item in used)))


def unknown(reason: str, *used: Known | None) -> Answer:
    """Nothing can be said; the reason names what would settle it."""
    return Answer(Verdict.UNKNOWN, reason, weakest(*(item.grade if item else None for item in used)))


def all_of(answers: Sequence[Answer]) -> Answer:
    """Every answer must be yes: one no decides, then one unknown leaves it open.

    Parameters
    ----------
    answers : the rules asked; none at all is unknown

    Returns
    -------
    Answer : the reasons of the deciding answers; for a yes all reasons and the weakest grade
    """
    if not answers:
        return unknown("no rule could be asked")
    practice = "; ".join(dict.fromkeys(answer.practice for answer in answers if answer.practice)) or None
    for verdict in (Verdict.NO, Verdict.UNKNOWN, Verdict.YES):
        deciding = [answer for answer in answers if answer.verdict == verdict]
        if deciding:
            reason = "; ".join(dict.fromkeys(answer.reason for answer in deciding))
            return replace(deciding[0], reason=reason, grade=weakest(*(answer.grade for answer in deciding)), practice=practice)
    raise AssertionError
