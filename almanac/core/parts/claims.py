"""Claims of documents and hearsay, held against what was seen (rule N8)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from almanac.core.parts.answers import Answer, no, unknown, yes


@dataclass(frozen=True)
class ClaimState:
    """How much of a claim is verified; below all of it, it stays "claimed"."""

    verified: int
    claimed: int

    @property
    def state(self) -> str:
        return "verified" if self.claimed and self.verified == self.claimed else "claimed"

    @property
    def words(self) -> str:
        return f"{self.state}: {self.verified} of {self.claimed} variants seen"


def claim_state(claimed: Sequence[str], verified: Sequence[str]) -> ClaimState:
    """Variants verified of those a claim covers; others verified do not count."""
    return ClaimState(len(set(claimed) & set(verified)), len(set(claimed)))


def option_counts(counts: Mapping[str, int], fleet: int, *, unknown_count: int = 0) -> Answer:
    """Whether the counts of an option add up to the fleet (rule N8).

    Parameters
    ----------
    counts : machines by value of the option · fleet : machines of the model · unknown_count : machines nobody looked at

    Returns
    -------
    Answer
    """
    total = sum(counts.values()) + unknown_count
    if total != fleet:
        return no(f"the options add up to {total}, the fleet has {fleet}")
    return unknown(f"{unknown_count} of {fleet} were not looked at") if unknown_count else yes(f"all {fleet} are accounted for")


STRING_ROLES = ("maker_model", "spare_code", "drawing", "revision", "date", "cable", "approval", "unknown")
ORDERABLE_ROLES = frozenset({"maker_model", "spare_code"})


def orderable_code(strings: Mapping[str, str]) -> Answer:
    """Which of a label's strings is ordered: a spare code or a maker's model; two candidates are a question (rule N8).

    Parameters
    ----------
    strings : the text of each string to its role

    Returns
    -------
    Answer : yes names the code
    """
    spares = [text for text, role in strings.items() if role == "spare_code"]
    candidates = spares or [text for text, role in strings.items() if role in ORDERABLE_ROLES]
    if len(candidates) > 1:
        return unknown(f"which one? {' or '.join(candidates)}")
    if candidates:
        return yes(f"order {candidates[0]}")
    return no("no string here can be ordered: find the spare code or the maker's model")
