"""What a page says about taking a model apart: operations, fasteners, plugs, and the positions they free."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from almanac.core.errors import ContractError
from almanac.core.parts.escalation import Held
from almanac.core.parts.kinds import Kind, Serviceability

Point = tuple[float, float]


@dataclass(frozen=True)
class Minutes:
    """Low, likely and high minutes of one step."""

    low: float
    likely: float
    high: float

    @property
    def mean(self) -> float:
        """(a + 4m + b) / 6, as in the three-point estimate."""
        return (self.low + 4 * self.likely + self.high) / 6


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
    captive : None if not known · kind : screw, jack, cam, latch, clip · hidden : what covers them · at : places on the plan
    decoys : look-alikes beside them that stay · numbered : tightened in printed order
    """

    group: str
    count: int
    bit: str | None = None
    thread: str | None = None
    captive: bool | None = None
    kind: str = "screw"
    hidden: str | None = None
    at: tuple[Point, ...] = ()
    decoys: int = 0
    numbered: bool = False

    @property
    def loose(self) -> int:
        """Screws expected in the tray; captive ones never are (rule F2)."""
        return 0 if self.captive or self.kind in ("cam", "latch", "jack") else self.count


@dataclass(frozen=True)
class Plug:
    """A lead taken off: kind of plug, release direction in the user's frame, and where."""

    name: str
    kind: str
    release: str | None = None
    at: Point | None = None


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
    """One step. `needs` are groups of alternatives: of each group at least one step comes first."""

    id: str
    text: str
    needs: tuple[tuple[str, ...], ...] = ()
    frees: tuple[str, ...] = ()
    exposes: tuple[str, ...] = ()
    tool: str | None = None
    aids: tuple[str, ...] = ()
    consumables: tuple[str, ...] = ()
    fasteners: tuple[Fasteners, ...] = ()
    plugs: tuple[Plug, ...] = ()
    minutes: Minutes = field(default_factory=lambda: Minutes(0, 0, 0))
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

    @property
    def as_held(self) -> Held:
        """What the rules of escalation ask."""
        return Held(self.key, self.kind, self.held, self.part_of, self.orderable)


@dataclass(frozen=True)
class Teardown:
    """A page as a graph: operations and positions in the page's order."""

    operations: Mapping[str, Operation]
    places: Mapping[str, Place]

    def freeing(self, position: str) -> tuple[str, ...]:
        """Steps that take a position out; several are alternatives."""
        return tuple(step.id for step in self.operations.values() if position in step.frees)

    def reaching(self, position: str) -> tuple[str, ...]:
        """Steps that take a position out; for a free place, where nothing is to be taken out, those that lay it bare."""
        steps = self.freeing(position)
        if steps or self.places[position].state != "free":
            return steps
        return tuple(step.id for step in self.operations.values() if position in step.exposes)

    @property
    def isolating(self) -> tuple[str, ...]:
        """Steps that cut the power; one of them is enough."""
        return tuple(step.id for step in self.operations.values() if step.isolates)

    def requirements(self, step: Operation) -> tuple[tuple[str, ...], ...]:
        """What a step needs first, isolation included: all steps inside need it but the live ones (rule G1)."""
        isolating = self.isolating
        if step.live or step.isolates or step.outside or not isolating:
            return step.needs
        return (*step.needs, isolating)


def applies(when: Mapping[str, Any] | None, options: Mapping[str, str]) -> bool:
    """Whether a condition on options may hold; an option nobody knows leaves it open, which counts as yes."""
    if not when:
        return True
    return all(name not in options or options[name] in (value if isinstance(value, list) else [value]) for name, value in when.items())


def teardown_of(page: Mapping[str, Any], options: Mapping[str, str] | None = None) -> Teardown:
    """The graph of a page document, for a machine with the options given.

    Parameters
    ----------
    page : a page document in its stored form · options : actual values by option; others are unknown

    Returns
    -------
    Teardown : what another option excludes is left out

    Raises
    ------
    ContractError : an operation used twice, or an entry that does not follow the page format
    """
    actual = options or {}
    operations: dict[str, Operation] = {}
    for place, entry in enumerate(page.get("operations") or []):
        step = _operation(entry, place)
        if step.id in operations:
            raise ContractError(f"operations[{place}].id: an id used once was wanted, got {step.id!r}")
        if applies(step.when, actual):
            operations[step.id] = step
    places = [_place(entry) for entry in page.get("positions") or []]
    kept = {place.key: place for place in places if applies(place.when, actual)}
    present = set(operations)
    pruned = {key: _without_missing(step, present, page) for key, step in operations.items()}
    return Teardown(pruned, kept)


def _without_missing(step: Operation, present: set[str], page: Mapping[str, Any]) -> Operation:
    """Alternatives that the options exclude are dropped; names the page does not hold at all stay, for the checks to find."""
    written = {entry["id"] for entry in page.get("operations") or []}
    needs = tuple(tuple(name for name in group if name in present or name not in written) for group in step.needs)
    return replace(step, needs=tuple(group for group in needs if group))


def _operation(entry: Mapping[str, Any], place: int) -> Operation:
    try:
        return Operation(
            id=entry["id"],
            text=entry["text"],
            needs=tuple(_alternatives(need) for need in entry.get("needs") or []),
            frees=tuple(entry.get("frees") or []),
            exposes=tuple(entry.get("exposes") or []),
            tool=entry.get("tool"),
            aids=tuple(entry.get("aids") or []),
            consumables=tuple(entry.get("consumables") or []),
            fasteners=tuple(_fasteners(item) for item in entry.get("fasteners") or []),
            plugs=tuple(Plug(item["name"], item["kind"], item.get("release"), _point(item.get("at"))) for item in entry.get("plugs") or []),
            minutes=_minutes(entry.get("minutes")) or Minutes(0, 0, 0),
            layer=entry.get("layer"),
            one_way=OneWay(**entry["one_way"]) if entry.get("one_way") else None,
            seal=entry.get("seal", False),
            optional=entry.get("optional"),
            cautions=tuple(entry.get("cautions") or []),
            lift_points=tuple((x, y) for x, y in entry.get("lift_points") or []),
            keep_out=tuple(_box(item) for item in entry.get("keep_out") or []),
            back=_back(entry.get("back") or {}),
            when=entry.get("when"),
            **{flag: bool(entry.get(flag)) for flag in ("live", "isolates", "outside", "bare_board", "moves_sink")},
        )
    except (KeyError, TypeError, ValueError) as error:
        raise ContractError(f"operations[{place}]: does not follow the page format: {error}") from error


def _alternatives(need: Any) -> tuple[str, ...]:
    return (need,) if isinstance(need, str) else tuple(need["any"])


def _point(value: Any) -> Point | None:
    return (float(value[0]), float(value[1])) if value else None


def _minutes(value: Any) -> Minutes | None:
    return Minutes(value["low"], value["likely"], value["high"]) if value else None


def _box(value: Mapping[str, Any]) -> Box:
    return Box(value["x_mm"], value["y_mm"], value["width_mm"], value["depth_mm"])


def _fasteners(item: Mapping[str, Any]) -> Fasteners:
    return Fasteners(
        group=item["group"],
        count=item["count"],
        bit=item.get("bit"),
        thread=item.get("thread"),
        captive=item.get("captive"),
        kind=item.get("kind") or "screw",
        hidden=item.get("hidden"),
        at=tuple((float(x), float(y)) for x, y in item.get("at") or []),
        decoys=item.get("decoys") or 0,
        numbered=bool(item.get("numbered")),
    )


def _back(entry: Mapping[str, Any]) -> WayBack:
    return WayBack(
        text=entry.get("text"),
        minutes=_minutes(entry.get("minutes")),
        before=tuple(entry.get("before") or []),
        after=tuple(entry.get("after") or []),
        left_out=bool(entry.get("left_out")),
    )


def _place(entry: Mapping[str, Any]) -> Place:
    return Place(
        key=entry["key"],
        label=entry.get("label") or entry["key"],
        kind=Kind(entry["kind"]),
        held=Serviceability(entry.get("serviceability") or "unknown"),
        part_of=entry.get("part_of") or entry.get("ordered_unit"),
        orderable=entry.get("orderable"),
        box=_box(entry["place"]) if entry.get("place") else None,
        state=entry.get("state") or "present",
        when=entry.get("when"),
    )
