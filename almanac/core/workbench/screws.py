"""Screws that do not come back: each has an honest end, and one that may lie inside keeps the power off (rule F7a)."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

OUTSIDE, INSIDE, REPLACED, LEFT_OUT, FOUND = "outside", "inside", "replaced", "left_out", "found"
WORDS = {
    OUTSIDE: "lost outside the machine",
    INSIDE: "perhaps inside",
    REPLACED: "replaced by another",
    LEFT_OUT: "left out",
    FOUND: "found",
}
"""What became of a screw; `left_out` is approved by a second person."""
ENDS = tuple(WORDS)


@dataclass(frozen=True)
class ScrewEnds:
    """How many screws of each group came to which end, `found` ones taken off again.

    by_group : count by end, by group
    """

    by_group: Mapping[str, Mapping[str, int]] = field(default_factory=dict)

    def added(self, group: str, end: str, count: int) -> ScrewEnds:
        """With so many more of a group. What is found was inside or outside before, and comes back by its own step."""
        own = dict(self.by_group.get(group, {}))
        if end != FOUND:
            own[end] = own.get(end, 0) + count
        for before in (INSIDE, OUTSIDE) if end == FOUND else ():
            taken = min(count, own.get(before, 0))
            own[before] = own.get(before, 0) - taken
            count -= taken
        return replace(self, by_group={**self.by_group, group: {name: left for name, left in own.items() if left > 0}})

    def searched(self, group: str) -> ScrewEnds:
        """A second person looked inside and found none: it was lost outside."""
        own = dict(self.by_group.get(group, {}))
        own[OUTSIDE] = own.get(OUTSIDE, 0) + own.pop(INSIDE, 0)
        return replace(self, by_group={**self.by_group, group: {name: left for name, left in own.items() if left > 0}})

    @property
    def inside(self) -> tuple[str, ...]:
        """Groups of which a screw may lie inside."""
        return tuple(group for group, own in self.by_group.items() if own.get(INSIDE))

    def accounted(self, group: str) -> int:
        """Screws of a group that will not come back."""
        return sum(self.by_group.get(group, {}).values())

    def missing(self, group: str, out: int, back: int) -> int:
        """Screws of a group that came out, are not back, and of which nobody said what became."""
        return max(out - back - self.accounted(group), 0)

    def lines(self) -> list[str]:
        """As it reads on record."""
        return [f"{count} x {group}: {WORDS[end]}" for group, own in self.by_group.items() for end, count in own.items()]


def end_refusals(ends: ScrewEnds, group: str, end: str, count: int, *, out: int, back: int, size: str) -> list[str]:
    """Why an end cannot be written of some screws.

    Parameters
    ----------
    ends : said so far · out, back : of the group · size : of what it was replaced by

    Returns
    -------
    list of str
    """
    if end not in ENDS:
        return [f"say what became of it: {', '.join(WORDS.values())}"]
    if count < 1:
        return ["how many screws: at least one"]
    if end == FOUND:
        lost = ends.by_group.get(group, {})
        most = lost.get(INSIDE, 0) + lost.get(OUTSIDE, 0)
        return [] if count <= most else [f"{group}: {most} were lost, {count} cannot be found"]
    if end == REPLACED and not size.strip():
        return ["say by which size it was replaced: a long screw never goes into a short hole"]
    missing = ends.missing(group, out, back)
    return [] if count <= missing else [f"{group}: {missing} are missing, not {count}"]
