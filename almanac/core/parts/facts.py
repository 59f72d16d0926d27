"""Facts with their evidence: {value, grade, source, date}; conflicting facts are kept side by side as a list."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, NotRequired, TypedDict

from almanac.core.errors import ContractError
from almanac.core.parts.kinds import Grade

STRENGTH = {grade.value: place for place, grade in enumerate(Grade)}


class Fact(TypedDict):
    """One statement about a part or position and what it rests on.

    date : ISO 8601, None where nobody knows the day · when : options of a machine it is so with alone
    """

    value: Any
    grade: str
    source: str
    date: str | None
    when: NotRequired[dict[str, Any] | None]


def fact(value: object, grade: Grade, source: str, date: str | None) -> Fact:
    """A fact as it is stored."""
    return {"value": value, "grade": grade.value, "source": source, "date": date}


def prevailing(facts: Sequence[Fact]) -> Fact:
    """The fact that holds where several conflict: the strongest grade, then the latest date.

    Parameters
    ----------
    facts : at least one

    Returns
    -------
    Fact

    Raises
    ------
    ContractError : no fact, or a grade that does not exist
    """
    if not facts:
        raise ContractError("facts: at least one was wanted, got none")
    for item in facts:
        if item["grade"] not in STRENGTH:
            raise ContractError(f"grade: one of {', '.join(STRENGTH)} was wanted, got {item['grade']!r}")
    latest_first = sorted(facts, key=lambda item: item["date"] or "", reverse=True)
    return min(latest_first, key=lambda item: STRENGTH[item["grade"]])
