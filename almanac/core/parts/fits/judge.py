"""One verdict of a part in a position, from what people listed and what the rules say."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from almanac.core.parts.answers import Answer, Facts
from almanac.core.parts.fits.fit import fit
from almanac.core.parts.holding import held_as
from almanac.core.parts.kinds import Kind, Verdict


@dataclass(frozen=True)
class Judged:
    """The answer, and whether a person listed it or a rule computed it."""

    answer: Answer
    origin: str


def judge(entry: Mapping[str, Any], part_kind: Kind, part: Facts, *, listed: str | None = None, stands_in: bool = False) -> Judged:
    """A part in a position of a page.

    What was seen in the position outranks the rules, whose contradiction is named beside it. A part on the interchange list of a
    listed one fits where the rules do not know.

    Parameters
    ----------
    entry : position of a page · part_kind, part : of the stock part · listed : why a person listed it · stands_in : for a listed one

    Returns
    -------
    Judged
    """
    held = held_as(entry)
    answer = fit(Kind(entry["kind"]), entry.get("takes") or {}, part_kind, part, held=held)
    if listed is not None:
        doubt = f"; but by its facts: {answer.reason}" if answer.verdict == Verdict.NO else ""
        return Judged(Answer(Verdict.YES, listed + doubt, answer.grade, answer.practice), "listed")
    if stands_in and answer.verdict == Verdict.UNKNOWN:
        return Judged(Answer(Verdict.YES, "stands in for a part listed here", answer.grade, answer.practice), "computed")
    return Judged(answer, "computed")
