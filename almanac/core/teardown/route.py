"""The way in to one or several parts, and back: the shortest set of steps, in order, with all it takes."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from almanac.core.errors import ContractError, NoEstimate
from almanac.core.parts.escalation import OrderedUnit, moves_over, ordered_unit
from almanac.core.parts.kinds import Kind
from almanac.core.teardown.cautions import STRAP, Caution, cautions_before, reaching_cautions
from almanac.core.teardown.closure import Groups, cheapest_closure, weights_of
from almanac.core.teardown.fasteners import TrayGroup, tray_groups
from almanac.core.teardown.kit import Kit, kit_for
from almanac.core.teardown.minutes import Minutes, summed
from almanac.core.teardown.operations import Operation, Teardown
from almanac.core.teardown.order import order_steps
from almanac.core.teardown.reassembly import Reassembly, reassemble

MAINS_FORMS = frozenset({"all_in_one", "mini_pc"})
"""Machines that live on mains: their power is always cut (rule G1a)."""
DEAR_MINUTES = 3.0
"""Cutting the power is dear where it takes so many minutes more, open and close."""


@dataclass(frozen=True)
class Escalation:
    """A target that is reached as another unit, why, and what comes along."""

    target: str
    unit: OrderedUnit
    reached: str


@dataclass(frozen=True)
class OptionalStep:
    """A step the route does without, what it would be good for, and its minutes out and back."""

    operation: str
    reason: str
    minutes: float


class Power(StrEnum):
    """What a route does about the power: cut on the way, not needed because nothing inside is touched, or nobody knows how to cut it."""

    CUT = "cut"
    OUTSIDE = "outside"
    UNKNOWN = "unknown"


@dataclass(frozen=True)
class ShortWay:
    """The way without cutting the power, where cutting it is dear: only ever under a waiver of the bench.

    steps : it takes · leaves_out : those it does without · saves : mean minutes, open and close
    """

    steps: tuple[str, ...]
    leaves_out: tuple[str, ...]
    saves: float


@dataclass(frozen=True)
class Route:
    """The plan of one opening.

    targets : asked for · escalations : those reached as another unit · steps : in order · tool_changes, turns, exact : of that order
    minutes_open, minutes_close : sums of low, likely and high · power : whether a step cuts it
    ends : targets nobody described the last of, with what is known; minutes are "at least" then · short : where isolating is dear
    depends : options of the machine nobody knows that this way takes for granted
    moves : parts taken off what is replaced, for what comes in its place
    """

    targets: tuple[str, ...]
    escalations: tuple[Escalation, ...]
    steps: tuple[Operation, ...]
    tool_changes: int
    exact: bool
    minutes_open: Minutes
    minutes_close: Minutes
    kit: Kit
    tray: tuple[TrayGroup, ...]
    cautions: tuple[Caution, ...]
    reassembly: Reassembly
    optional: tuple[OptionalStep, ...]
    power: Power
    turns: int = 0
    ends: tuple[tuple[str, str], ...] = ()
    short: ShortWay | None = None
    depends: tuple[str, ...] = ()
    moves: tuple[str, ...] = ()

    @property
    def minutes(self) -> float:
        """Mean minutes, open and close; at least so many where the way is not known to its end."""
        return self.minutes_open.mean + self.minutes_close.mean

    @property
    def estimated(self) -> float:
        """Likely minutes of it, open and close, that nobody gave (rule U2)."""
        return self.minutes_open.estimated + self.minutes_close.estimated

    @property
    def one_way(self) -> tuple[Operation, ...]:
        return tuple(step for step in self.steps if step.one_way)

    @property
    def isolated(self) -> bool:
        """Whether a step cuts the power."""
        return self.power is Power.CUT


def plan_route(
    teardown: Teardown,
    targets: Sequence[str],
    *,
    direct: Collection[str] = (),
    include: Collection[str] = (),
    lift_pack_out: bool = False,
    as_far: bool = False,
) -> Route:
    """Least minutes to all the targets at once.

    A part that is not ordered alone is reached as its assembly, unless `direct` names it (rule E1). The power is cut on the way
    wherever the page knows how and something inside is touched, a free place that is only laid bare among it (rule G1). A step that
    destroys something is on the way only where there is no other, whatever its minutes.

    Parameters
    ----------
    teardown : the graph · targets : positions, at least one · direct : targets to take out themselves, rivets and all
    include : optional steps to do as well · lift_pack_out : the pack leaves the machine before other work
    as_far : a target merely seen is reached as far as the page knows, rule U4; else that is no way

    Returns
    -------
    Route

    Raises
    ------
    ContractError : no target, or one the page does not hold
    NoEstimate : no step frees a target (as_far: nor lays it bare), or the steps need one another in a circle
    """
    if not targets:
        raise ContractError("targets: at least one position was wanted, got none")
    wanted, escalations, ends = _wanted(teardown, targets, direct, as_far=as_far)
    moves = _moving(teardown, targets, direct, escalations)
    wanted += [teardown.freeing(key) for key in moves]
    wanted += [(name,) for name in include]
    if lift_pack_out:
        wanted += _packs(teardown)
    chosen = _with_power_cut(teardown, tuple(wanted))
    order = order_steps(teardown, chosen)
    steps = tuple(teardown.operations[name] for name in order.steps)
    back = reassemble(steps, {key: place.label for key, place in teardown.places.items()})
    return Route(
        targets=tuple(dict.fromkeys(targets)),
        escalations=tuple(escalations),
        steps=steps,
        tool_changes=order.tool_changes,
        exact=order.exact,
        minutes_open=summed([step.minutes for step in steps]),
        minutes_close=summed([step.minutes for step in back.steps]),
        kit=kit_for(steps),
        tray=tray_groups(steps),
        cautions=_cautions(steps, teardown),
        reassembly=back,
        optional=_optional(teardown, chosen),
        power=_power(teardown, wanted, chosen),
        turns=order.turns,
        ends=tuple(ends),
        short=_short_way(teardown, tuple(wanted), chosen),
        depends=tuple(dict.fromkeys(name for step in steps for name in step.when or {} if name not in teardown.options)),
        moves=moves,
    )


def route_as_typed(teardown: Teardown, targets: Sequence[str], names: Sequence[str]) -> Route:
    """A way in that somebody types while going it: its steps as they were typed, of the targets those they free.

    Parameters
    ----------
    teardown : of the typed steps · targets : asked for · names : steps, in their order

    Returns
    -------
    Route : not searched for, so nothing is said of a shorter one

    Raises
    ------
    ContractError : a step that was not typed
    """
    if strange := [name for name in names if name not in teardown.operations]:
        raise ContractError(f"steps: not typed: {', '.join(strange)}")
    steps = tuple(teardown.operations[name] for name in names)
    back = reassemble(steps, {key: place.label for key, place in teardown.places.items()})
    freed = {key for step in steps for key in step.frees}
    inside = Power.OUTSIDE if all(step.outside for step in steps) else Power.UNKNOWN
    return Route(
        targets=tuple(target for target in dict.fromkeys(targets) if target in freed),
        escalations=(),
        steps=steps,
        tool_changes=0,
        exact=False,
        minutes_open=summed([step.minutes for step in steps]),
        minutes_close=summed([step.minutes for step in back.steps]),
        kit=kit_for(steps),
        tray=tray_groups(steps),
        cautions=_cautions(steps, teardown),
        reassembly=back,
        optional=(),
        power=Power.CUT if any(step.isolates for step in steps) else inside,
    )


def _with_power_cut(teardown: Teardown, wanted: Groups) -> frozenset[str]:
    """The cheapest steps; where they work inside without cutting the power, the cheapest that do cut it."""
    chosen = cheapest_closure(teardown, wanted)
    if not teardown.isolation or not teardown.isolating or _cuts(teardown, chosen) or not _works_inside(teardown, wanted, chosen):
        return chosen
    return cheapest_closure(teardown, (*wanted, teardown.isolating))


def _short_way(teardown: Teardown, wanted: Groups, chosen: frozenset[str]) -> ShortWay | None:
    """The same without cutting the power, where that lies on a way of its own; never where the machine lives on mains."""
    if teardown.form in MAINS_FORMS or not _cuts(teardown, chosen):
        return None
    live = replace(teardown, isolation=False)
    short = cheapest_closure(live, wanted)
    left_out = chosen - short
    weights = weights_of(teardown)
    saves = sum(weights[name] for name in chosen) - sum(weights[name] for name in short)
    if _cuts(teardown, short) or saves < DEAR_MINUTES:
        return None
    return ShortWay(order_steps(live, short).steps, tuple(name for name in teardown.operations if name in left_out), saves)


def _cuts(teardown: Teardown, chosen: Collection[str]) -> bool:
    return any(teardown.operations[name].isolates for name in chosen)


def _power(teardown: Teardown, wanted: Sequence[tuple[str, ...]], chosen: Collection[str]) -> Power:
    if _cuts(teardown, chosen):
        return Power.CUT
    return Power.UNKNOWN if _works_inside(teardown, wanted, chosen) else Power.OUTSIDE


def _works_inside(teardown: Teardown, wanted: Sequence[tuple[str, ...]], chosen: Collection[str]) -> bool:
    """Whether a step is inside, or a place that a door lays bare is: only what an outside step takes out is outside itself."""
    if not all(teardown.operations[name].outside for name in chosen):
        return True
    laid_bare = {key for group in wanted for name in group if name in chosen for key in teardown.operations[name].exposes}
    return any(teardown.places[key].kind != Kind.BATTERY for key in laid_bare if key in teardown.places)


def _cautions(steps: Sequence[Operation], teardown: Teardown) -> tuple[Caution, ...]:
    """Before each step, by its page and by what it reaches; static protection once, from the first bare board (rule G2)."""
    found: list[Caution] = []
    for step in steps:
        strapped = any(caution.text == STRAP for caution in found)
        found += [caution for caution in cautions_before(step) if not (strapped and caution.text == STRAP)]
        kinds = {teardown.places[key].kind for key in step.frees if key in teardown.places}
        found += [Caution(step.id, words) for words in reaching_cautions(step, kinds)]
    return tuple(dict.fromkeys(found))


Wanted = tuple[list[tuple[str, ...]], list[Escalation], list[tuple[str, str]]]


def _wanted(teardown: Teardown, targets: Sequence[str], direct: Collection[str], *, as_far: bool) -> Wanted:
    """Groups of steps that reach the targets, those reached as another unit, and those the page does not lead to the end of."""
    wanted: list[tuple[str, ...]] = []
    escalations: list[Escalation] = []
    ends: list[tuple[str, str]] = []
    held = {key: place.as_held for key, place in teardown.places.items()}
    for target in dict.fromkeys(targets):
        if target not in teardown.places:
            raise ContractError(f"position: one of {', '.join(teardown.places)} was wanted, got {target!r}")
        unit = ordered_unit(target, held)
        reached = (
            target if target in direct else next((key for key in unit.units if key in teardown.places and teardown.reaching(key)), target)
        )
        if reached != target:
            escalations.append(Escalation(target, unit, reached))
        steps = teardown.reaching(reached)
        if not steps and as_far:
            steps = teardown.laying_bare(reached)
            ends.append((target, _known_to(teardown, target, unit)))
        if not steps:
            raise NoEstimate(f"no step of the page takes out {teardown.places[target].label}: describe how it comes out")
        wanted.append(steps)
    return wanted, escalations, ends


def _moving(teardown: Teardown, targets: Sequence[str], direct: Collection[str], escalations: Sequence[Escalation]) -> tuple[str, ...]:
    """Parts that move from what is replaced to what comes in its place, as far as the page tells how they come off."""
    held = {key: place.as_held for key, place in teardown.places.items()}
    units = [*(item.reached for item in escalations), *(key for key in targets if key in direct or ordered_unit(key, held).units == (key,))]
    moved = [key for unit in units for key in moves_over(unit, held)]
    return tuple(
        key for key in dict.fromkeys(moved) if key not in targets and teardown.places[key].state == "present" and teardown.freeing(key)
    )


def _known_to(teardown: Teardown, target: str, unit: OrderedUnit) -> str:
    """Where the page ends before a part is out, and what is ordered in its place where that is another (rule U4)."""
    label = teardown.places[target].label
    instead = [teardown.places[key].label if key in teardown.places else key for key in unit.units if key != target]
    ordered = f"; {' or '.join(instead).lower()} is ordered in its place, and how that comes out is not on the page" if instead else ""
    return f"{label}: to here known, from here nobody has looked{ordered}"


def _packs(teardown: Teardown) -> Groups:
    """The school that lifts the pack out, where the page says how."""
    packs = [key for key, place in teardown.places.items() if place.kind == "battery" and teardown.freeing(key)]
    return tuple(teardown.freeing(key) for key in packs)


def _optional(teardown: Teardown, chosen: frozenset[str]) -> tuple[OptionalStep, ...]:
    """Optional steps that could be done on this way, priced."""
    weights = weights_of(teardown)
    return tuple(
        OptionalStep(step.id, step.optional, weights[step.id])
        for step in teardown.operations.values()
        if step.optional and step.id not in chosen and all(set(group) & chosen for group in teardown.requirements(step))
    )


def saved_minutes(teardown: Teardown, targets: Sequence[str], together: Route) -> float:
    """Minutes saved by one opening for several parts against one visit each; never below 0.

    Parameters
    ----------
    teardown : the graph · targets : as planned together · together : their common route

    Returns
    -------
    float : minutes
    """
    apart = sum(plan_route(teardown, [target], as_far=True).minutes for target in dict.fromkeys(targets))
    return max(apart - together.minutes, 0.0)


@dataclass(frozen=True)
class WhileOpen:
    """Another part within reach: minutes more now, and what an own visit would take."""

    position: str
    more_now: float
    alone: float


def while_open(teardown: Teardown, route: Route) -> tuple[WhileOpen, ...]:
    """What else could be done while the machine is open, cheapest first.

    Parameters
    ----------
    teardown : the graph · route : planned

    Returns
    -------
    tuple of WhileOpen : parts ordered as themselves, not yet on the route
    """
    found = []
    done = {key for step in route.steps for key in step.frees}
    held = {key: place.as_held for key, place in teardown.places.items()}
    for key in teardown.places:
        if key in done or key in route.targets or not teardown.freeing(key) or ordered_unit(key, held).units != (key,):
            continue
        joint = plan_route(teardown, [*route.targets, key], as_far=True).minutes
        found.append(WhileOpen(key, max(joint - route.minutes, 0.0), plan_route(teardown, [key]).minutes))
    return tuple(sorted(found, key=lambda item: item.more_now))
