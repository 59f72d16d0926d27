"""What names in a column mean: as a person said, as they are on record, or as what they are most like."""

from __future__ import annotations

from collections.abc import Mapping

from rapidfuzz import fuzz, process

from almanac.services.intake.columns import plain
from almanac.services.intake.settled import NEW, Question, Settled

SURE, RUNNER_UP, PERHAPS = 93, 4, 60
"""How alike a name is taken for another without a question, how far ahead of the next, and how alike one is proposed."""


class Meanings:
    """What names of one field mean. known : meaning by plain name · may_be_new : whether one that is not on record may be ours"""

    def __init__(self, field: str, known: Mapping[str, str], settled: Settled, *, may_be_new: bool = False) -> None:
        self.field, self.known, self.said = field, known, settled.names.get(field, {})
        self.may_be_new = may_be_new
        self.met: dict[str, tuple[str, list[int], str | None, str | None]] = {}

    def of(self, line: int, text: str) -> str | None:
        """The meaning of a text; None where it is to be asked."""
        key = plain(text)
        if key not in self.met:
            meaning, proposal = self._look(key)
            self.met[key] = (text, [], meaning, proposal)
        self.met[key][1].append(line)
        return self.met[key][2]

    def _look(self, key: str) -> tuple[str | None, str | None]:
        said = self.said.get(key)
        if said is not None and (said != NEW or key not in self.known):
            # What was new once is on record since.
            return said, None
        if key in self.known:
            return self.known[key], None
        best = process.extract(key, self.known.keys(), scorer=fuzz.ratio, limit=5)
        ranked: dict[str, float] = {}
        for name, score, _ in best:
            ranked[self.known[name]] = max(score, ranked.get(self.known[name], 0.0))
        order = sorted(ranked.items(), key=lambda item: -item[1])
        if not order or order[0][1] < PERHAPS:
            return None, None
        ahead = order[0][1] - (order[1][1] if len(order) > 1 else 0.0)
        sure = order[0][1] >= SURE and ahead >= RUNNER_UP and _same_version(key, self._of(order[0][0]))
        return (order[0][0], order[0][0]) if sure else (None, order[0][0])

    def _of(self, meaning: str) -> str:
        return max((name for name, own in self.known.items() if own == meaning), key=len, default="")

    def questions(self) -> list[Question]:
        """Names to be asked for, those in most rows first."""
        open_ = [(text, lines, proposal) for text, lines, meaning, proposal in self.met.values() if meaning is None]
        return [
            Question(self.field, text, len(lines), tuple(lines[:3]), proposal, may_be_new=self.may_be_new)
            for text, lines, proposal in sorted(open_, key=lambda one: -len(one[1]))
        ]

    def taken(self) -> list[tuple[str, str, str]]:
        """Names taken for another without a question."""
        return [(self.field, text, meaning) for text, _, meaning, proposal in self.met.values() if meaning and proposal]


def _same_version(one: str, other: str) -> bool:
    """Whether the numbers and single letters of two names are the same: "14 b" is no misspelt "14"."""

    def marks(name: str) -> list[str]:
        return [word for word in name.split() if len(word) == 1 or any(sign.isdigit() for sign in word)]

    return marks(one) == marks(other)
