"""What settling an open fact would decide: parts whose verdict depends on it (rule U5)."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from typing import Any

from almanac.core.parts.answers import Facts, known
from almanac.core.parts.declared.facts import FACTS, Subject
from almanac.core.parts.declared.values import Impossible, Listed
from almanac.core.parts.faults import Stake
from almanac.core.parts.fits.judge import judge
from almanac.core.parts.kinds import Grade, Kind, Verdict
from almanac.core.parts.questions import OpenQuestion, ranked

_OF_PART = {"maximum_gb": "capacity_gb", "lengths_mm": "length_mm"}
"""Facts of a place, and what a part says of itself to them."""
LISTED = 2
"""So many parts are named, the rest counted."""


@dataclass(frozen=True)
class Candidate:
    """A stock part as the fit rules read it. listed : somebody said that it fits here, so no fact decides it"""

    number: str
    facts: Facts
    listed: bool = False


def weighed(
    questions: Sequence[OpenQuestion], whole: Mapping[str, Any], parts: Mapping[Kind, Sequence[Candidate]], machines: int
) -> list[OpenQuestion]:
    """Questions with what their answer would decide, ranked anew.

    Parameters
    ----------
    questions : of a page · whole : the page with what it takes over · parts : stock parts by kind · machines : of the model in service

    Returns
    -------
    list of OpenQuestion : those that decide whether a part fits say so, with the machines it concerns
    """
    entries = {entry["key"]: entry for entry in whole.get("positions") or []}
    return ranked(_weighed(question, entries.get(question.where), parts, machines) for question in questions)


def _weighed(
    question: OpenQuestion, entry: Mapping[str, Any] | None, parts: Mapping[Kind, Sequence[Candidate]], machines: int
) -> OpenQuestion:
    if entry is None:
        return question
    if question.stake == Stake.DECISION:
        return replace(question, size=float(machines), worth=f"{question.worth} ({_of(machines)})" if question.worth else "")
    if question.fact is None:
        return question
    flips = decided_by(entry, question.fact, parts.get(Kind(entry["kind"]), ()))
    if not flips:
        return question
    named = ", ".join(flips[:LISTED]) + (f" and {len(flips) - LISTED} more" if len(flips) > LISTED else "")
    return replace(
        question,
        stake=Stake.DECISION,
        size=float(machines),
        worth=f"decides whether {named} fit{'s' if len(flips) == 1 else ''} {_of(machines)}",
    )


def _of(machines: int) -> str:
    return f"{machines} machine{'' if machines == 1 else 's'}"


def decided_by(entry: Mapping[str, Any], name: str, parts: Iterable[Candidate]) -> list[str]:
    """Parts that fit or not as one fact of a position turns out, whatever is said of it now.

    Parameters
    ----------
    entry : position of a page · name : of the fact · parts : of the position's kind

    Returns
    -------
    list of part numbers
    """
    kind, found = Kind(entry["kind"]), []
    for part in parts:
        if part.listed:
            continue
        said = {_judged(entry, name, value, kind, part) for value in _values(kind, name, part)}
        if Verdict.YES in said and Verdict.NO in said:
            found.append(part.number)
    return found


def _judged(entry: Mapping[str, Any], name: str, value: Any, kind: Kind, part: Candidate) -> Verdict:
    settled = {"value": value, "grade": Grade.MEASURED.value, "source": "supposed", "date": "9999-12-31"}
    return judge({**entry, "takes": {**(entry.get("takes") or {}), name: [settled]}}, kind, part.facts).answer.verdict


def _values(kind: Kind, name: str, part: Candidate) -> Iterator[Any]:
    """What the fact may turn out to be: the values there are, and what the part says of itself, above and below."""
    spec = next((spec for spec in FACTS if spec.name == name and kind in spec.kinds and Subject.PLACE in spec.of), None)
    if spec is None:
        return
    told = _OF_PART.get(name, name)
    own = known(part.facts, told)
    values: list[Any] = list(spec.type.of.allowed if isinstance(spec.type, Listed) else spec.type.allowed)
    if own is not None:
        values.append(own.value)
        if isinstance(own.value, int | float) and not isinstance(own.value, bool):
            values += [own.value / 2, own.value * 2]
    for value in values:
        with suppress(Impossible):  # half of a figure may be none that can be
            yield spec.type.understood([value] if isinstance(spec.type, Listed) else value)
