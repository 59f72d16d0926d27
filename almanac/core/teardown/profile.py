"""A serviceability profile for buyers: what it takes to reach each kind of part, and what can never be replaced alone."""

from __future__ import annotations

from dataclasses import dataclass

from almanac.core.parts.declared.kinds import FORECAST_KINDS
from almanac.core.parts.kinds import Kind, Serviceability
from almanac.core.teardown.counts import total
from almanac.core.teardown.depth import Depth
from almanac.core.teardown.operations import Teardown
from almanac.core.teardown.route import plan_route


@dataclass(frozen=True)
class KindAccess:
    """The easiest part of a kind: steps and mean minutes of opening; None where none comes out alone, or no way is known.

    estimated : part of the minutes is · unknown : nobody described how one of the kind comes out, which is not that none does
    """

    kind: Kind
    steps: int | None
    minutes: float | None
    estimated: bool = False
    unknown: bool = False

    @property
    def words(self) -> str:
        """For people: 5.4 min, 3 steps; not alone; way not known."""
        if self.minutes is None:
            return "way not known" if self.unknown else "not alone"
        about = "about " if self.estimated else ""
        return f"{about}{self.minutes:.1f} min, {self.steps} step{'' if self.steps == 1 else 's'}"


@dataclass(frozen=True)
class Profile:
    """What a buyer compares. captive, captive_unknown : of all screws; soldered and escalated : positions by key."""

    access: tuple[KindAccess, ...]
    soldered: tuple[str, ...]
    escalated: tuple[str, ...]
    captive: int
    captive_unknown: int
    fasteners: int
    one_way: tuple[str, ...]
    more: bool = False

    @property
    def screws_words(self) -> str:
        """How many screws stay in their cover; of those nobody looked at, that nothing is known."""
        if not self.fasteners:
            return "no screw is recorded"
        open_ = f", {self.captive_unknown} not known" if self.captive_unknown else ""
        return f"{self.captive} of {'at least ' if self.more else ''}{self.fasteners}{open_}"


def profile_of(teardown: Teardown, depths: dict[str, Depth]) -> Profile:
    """The profile of a page.

    Parameters
    ----------
    teardown : the graph · depths : of all positions

    Returns
    -------
    Profile
    """
    items = [item for step in teardown.operations.values() for item in step.fasteners if item.kind in ("screw", "jack")]
    listed = total(item.count for item in items)
    captive = sum(item.count.number for item in items if item.captive)
    soldered = tuple(key for key, place in teardown.places.items() if place.held == Serviceability.SOLDERED)
    escalated = tuple(key for key, depth in depths.items() if depth.reached != key and key not in soldered)
    return Profile(
        access=tuple(_easiest(teardown, depths, kind) for kind in FORECAST_KINDS if _any(teardown, kind)),
        soldered=soldered,
        escalated=escalated,
        captive=captive,
        captive_unknown=sum(item.count.number for item in items if item.captive is None),
        fasteners=listed.number,
        more=not listed.exact,
        one_way=_one_way(teardown, depths),
    )


def _any(teardown: Teardown, kind: Kind) -> bool:
    return any(place.kind == kind for place in teardown.places.values())


def _easiest(teardown: Teardown, depths: dict[str, Depth], kind: Kind) -> KindAccess:
    ways = [
        depths[key]
        for key, place in teardown.places.items()
        if place.kind == kind and depths[key].minutes is not None and depths[key].reached == key and not depths[key].least
    ]
    if not ways:
        own = [depths[key] for key, place in teardown.places.items() if place.kind == kind]
        return KindAccess(kind, None, None, unknown=any(depth.least or depth.minutes is None for depth in own))
    best = min(ways, key=lambda depth: (depth.minutes or 0.0, depth.steps))
    return KindAccess(kind, best.steps, best.minutes, estimated=best.estimated > 0)


def _one_way(teardown: Teardown, depths: dict[str, Depth]) -> tuple[str, ...]:
    """One-way steps on the default way to any part."""
    found: dict[str, None] = {}
    for key, depth in depths.items():
        if depth.minutes is not None and not depth.least:
            found.update(dict.fromkeys(step.id for step in plan_route(teardown, [key]).one_way))
    return tuple(found)
