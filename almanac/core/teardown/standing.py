"""How good a page is, in a sentence: ways described to their end, steps timed, facts that are our own."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from almanac.core.teardown.depth import Depth
from almanac.core.teardown.operations import Teardown

WELL, MOSTLY, HALF = "Well known", "Mostly known", "Half known"
OWN_SHARE, HEARSAY_SHARE = 0.5, 0.2
"""A page of which half the facts are not our own is not well known, however complete; of which hardly any are, it is half known."""
UNSEEN = ("not_fitted", "not_visible")


@dataclass(frozen=True)
class Standing:
    """ways of so many parts are described to their end, timed of so many steps · own_share : of facts, None without any"""

    parts: int
    ways: int
    steps: int
    timed: int
    own_share: float | None

    @property
    def level(self) -> str:
        """Well, mostly or half known."""
        if self.ways < self.parts or not self.parts or self.timed * 2 < self.steps or (self.own_share or 0.0) < HEARSAY_SHARE:
            return HALF
        return WELL if self.timed == self.steps and (self.own_share or 0.0) >= OWN_SHARE else MOSTLY

    @property
    def words(self) -> str:
        """One sentence."""
        if not self.steps:
            return f"{HALF}: {self.parts} part{'' if self.parts == 1 else 's'} named, no way in described."
        ways = "the way to every part" if self.ways == self.parts else f"the way to {self.ways} of {self.parts} parts"
        timed = "every step" if self.timed == self.steps else f"{self.timed or 'none'} of {self.steps} steps"
        own = f", {self.own_share * 100:.0f}% of its facts our own" if self.own_share is not None else ""
        return f"{self.level}: {ways} is described to its end, {timed} timed{own}."


def standing_of(teardown: Teardown, depths: Mapping[str, Depth], own_share: float | None) -> Standing:
    """How good a page is.

    Parameters
    ----------
    teardown : the graph · depths : of its positions · own_share : of its facts that somebody here saw, None without facts

    Returns
    -------
    Standing : positions that are not fitted or cannot be seen are not counted
    """
    seen = [key for key, place in teardown.places.items() if place.state not in UNSEEN]
    ways = [key for key in seen if key in depths and depths[key].minutes is not None and not depths[key].least]
    timed = [step for step in teardown.operations.values() if not step.minutes.estimated]
    return Standing(len(seen), len(ways), len(teardown.operations), len(timed), own_share)
