"""What a page says about taking a model apart: operations, fasteners, plugs, and the positions they free."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from almanac.core.parts.escalation import Held
from almanac.core.parts.kinds import Kind, Serviceability
from almanac.core.teardown.counts import NONE, Count
from almanac.core.teardown.minutes import Minutes
from almanac.core.teardown.tools import BY_HAND, Tools

Point = tuple[float, float]
UNKNOWN_PLUG = "unknown"
"""Nobody looked how a plug goes; one that was looked at and is none of the known kinds is another."""


@dataclass(frozen=True)
class Box:
    """A rectangle on the plan, mm from the hinge-left corner of the opened base as it lies before the technician."""

    x_mm: float
    y_mm: float
    width_mm: float
    depth_mm: float


@dataclass(frozen=True)
class Fasteners:
    """Fasteners of one kind loosened in one step.

    group : length group, as on tray and mat · bit : system and size, such as PH1 · thread : such as M2.5x8, None if not known
    captive : None if not known · mostly : most of them are captive, which ones is to be looked at · kind : screw, jack, cam, latch, clip
    hidden : what covers them · at : places on the plan · decoys : look-alikes beside them that stay · numbered : tightened in printed order
    """

    group: str
    count: Count
    bit: str | None = None
    thread: str | None = None
    captive: bool | None = None
    kind: str = "screw"
    hidden: str | None = None
    at: tuple[Point, ...] = ()
    decoys: Count = NONE
    numbered: bool = False
    mostly: bool = False

    @property
    def stays(self) -> bool:
        """Whether none of them comes into the tray; captive ones never do (rule F2)."""
        return bool(self.captive) or self.kind in ("cam", "latch", "jack")


@dataclass(frozen=True)
class Plug:
    """A lead taken off: kind of plug, release direction in the user's frame, and where. doubt : why kind or direction may not be so"""

    name: str
    kind: str
    release: str | None = None
    at: Point | None = None
    doubt: str = ""


@dataclass(frozen=True)
class OneWay:
    """Why a step cannot be undone, what it destroys and the skill it asks for."""

    reason: str
    destroys: str | None = None
    skill: str | None = None
    risk_minutes: float = 0.0


@dataclass(frozen=True)
class WayBack:
    """What differs when the step is undone: words, minutes, and steps it must come before or after. `left_out` never goes back."""

    text: str | None = None
    minutes: Minutes | None = None
    before: tuple[str, ...] = ()
    after: tuple[str, ...] = ()
    left_out: bool = False


@dataclass(frozen=True)
class Operation:
    """One step. `needs` are groups of alternatives: of each group at least one step comes first. face : which side is up, None any."""

    id: str
    text: str
    needs: tuple[tuple[str, ...], ...] = ()
    frees: tuple[str, ...] = ()
    exposes: tuple[str, ...] = ()
    tools: Tools = BY_HAND
    aids: tuple[str, ...] = ()
    consumables: tuple[str, ...] = ()
    fasteners: tuple[Fasteners, ...] = ()
    plugs: tuple[Plug, ...] = ()
    minutes: Minutes = field(default_factory=lambda: Minutes(0.0, 0.0, 0.0))
    layer: str | None = None
    live: bool = False
    isolates: bool = False
    outside: bool = False
    bare_board: bool = False
    moves_sink: bool = False
    optional: str | None = None
    one_way: OneWay | None = None
    seal: bool | None = False
    cautions: tuple[str, ...] = ()
    lift_points: tuple[Point, ...] = ()
    keep_out: tuple[Box, ...] = ()
    back: WayBack = field(default_factory=WayBack)
    when: Mapping[str, Any] | None = None
    face: str | None = None
    only_done: tuple[str, ...] = ()
    hearsay: str = ""

    @property
    def tool(self) -> str | None:
        """What is in the hand at the end of the step; None where nothing is, or nobody said."""
        return self.tools.names[-1] if self.tools.names else None


@dataclass(frozen=True)
class Place:
    """A position of the page with its place on the plan."""

    key: str
    label: str
    kind: Kind
    held: Serviceability
    part_of: str | None = None
    orderable: bool | None = None
    box: Box | None = None
    state: str = "present"
    when: Mapping[str, Any] | None = None
    doubt: str = ""

    @property
    def as_held(self) -> Held:
        """What the rules of escalation ask."""
        return Held(self.key, self.kind, self.held, self.part_of, self.orderable, self.doubt)


@dataclass(frozen=True)
class Teardown:
    """A page as a graph: operations and positions in the page's order. form : of the machine

    isolation : steps inside wait for it · options : those whose value is known of the machine
    """

    operations: Mapping[str, Operation]
    places: Mapping[str, Place]
    form: str | None = None
    isolation: bool = True
    options: frozenset[str] = frozenset()

    def freeing(self, position: str) -> tuple[str, ...]:
        """Steps that take a position out; several are alternatives."""
        return tuple(step.id for step in self.operations.values() if position in step.frees)

    def reaching(self, position: str) -> tuple[str, ...]:
        """Steps that take a position out; for a free place, where nothing is to be taken out, those that lay it bare."""
        steps = self.freeing(position)
        if steps or self.places[position].state != "free":
            return steps
        return tuple(step.id for step in self.operations.values() if position in step.exposes)

    def laying_bare(self, position: str) -> tuple[str, ...]:
        """Steps after which a position, or the assembly it sits in, lies bare."""
        seen: set[str] = set()
        above: str | None = position
        while above is not None and above not in seen:
            steps = tuple(step.id for step in self.operations.values() if above in step.exposes)
            if steps:
                return steps
            seen.add(above)
            above = self.places[above].part_of if above in self.places else None
        return ()

    @property
    def isolating(self) -> tuple[str, ...]:
        """Steps that cut the power; one of them is enough."""
        return tuple(step.id for step in self.operations.values() if step.isolates)

    def requirements(self, step: Operation) -> tuple[tuple[str, ...], ...]:
        """What a step needs first, isolation included: all steps inside need it but the live ones (rule G1)."""
        isolating = self.isolating
        if step.live or step.isolates or step.outside or not isolating or not self.isolation:
            return step.needs
        return (*step.needs, isolating)
