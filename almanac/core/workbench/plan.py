"""A route turned into the steps of a job: the way in, the swap, the power test, the way back."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum
from typing import Any

from almanac.core.parts.kinds import Kind
from almanac.core.teardown.cautions import CONNECTED, cautions_before, reaching_cautions
from almanac.core.teardown.doubts import step_doubts
from almanac.core.teardown.fasteners import TrayGroup, tray_groups
from almanac.core.teardown.minutes import Minutes, summed
from almanac.core.teardown.operations import Operation, Teardown
from almanac.core.teardown.reassembly import BackStep, reassemble
from almanac.core.teardown.route import MAINS_FORMS, Power, Route
from almanac.core.workbench.cautions import settings_cautions, swap_cautions
from almanac.core.workbench.closing_checks import Closed, closing_checks

TESTED_BEFORE_CLOSING = frozenset({Kind.DISPLAY, Kind.KEYBOARD, Kind.PALM_REST, Kind.FAN, Kind.MEMORY})
"""Parts whose fault shows at once and costs a second opening if found after closing."""
MAINS_INSIDE = frozenset({"all_in_one"})
TEST, ISOLATE = "test", "isolate"


class Phase(StrEnum):
    """Where a job is."""

    OPENING = "opening"
    SWAP = "swap"
    TEST = "test"
    CLOSING = "closing"


@dataclass(frozen=True)
class Lead:
    """A lead that goes off or on: kind of plug and release direction in the user's frame."""

    name: str
    kind: str
    release: str | None = None


@dataclass(frozen=True)
class JobStep:
    """One step at the bench.

    id : unique within the job · operation : of the page, None for a swap or a test · position : what a swap changes
    screws : what comes out (opening) or goes back (closing), by group · leads : likewise
    shut : the machine must be isolated · bare : static protection is needed · touches : kinds of the parts this step frees
    frees, exposes : positions · one_way, destroys, seal : what an approval is asked for; seal None is not known
    aside : what else is to be minded at it
    """

    id: str
    phase: Phase
    text: str
    minutes: Minutes
    operation: str | None = None
    position: str | None = None
    tool: str | None = None
    cautions: tuple[str, ...] = ()
    screws: tuple[TrayGroup, ...] = ()
    leads: tuple[Lead, ...] = ()
    shut: bool = False
    live: bool = False
    isolates: bool = False
    bare: bool = False
    numbered: bool = False
    left_out: bool = False
    frees: tuple[str, ...] = ()
    exposes: tuple[str, ...] = ()
    touches: tuple[str, ...] = ()
    one_way: str | None = None
    destroys: str | None = None
    seal: bool | None = False
    aside: tuple[str, ...] = ()


@dataclass(frozen=True)
class JobPlan:
    """All steps of a job in order, for which targets, on what form of machine.

    wait_minutes : the maker's waiting time after the mains is out, None where nobody stated it
    cuts_power : whether a step of the page isolates · settings_cells, packs : positions that hold the settings, or a battery
    test_reason : why it is tested before closing, or not · consumables, kit : what is used up, what must lie ready
    plain : nobody described the way in, its steps are typed as they are done · wanted : what it is to reach · typed : those steps, as
    a page holds them; their minutes are not known · checks : of the closed machine, by key; none in plans of before
    powered : the short way, on which the power stays connected: only a waiver opens the isolation gate
    """

    form: str
    targets: tuple[str, ...]
    steps: tuple[JobStep, ...]
    wait_minutes: float | None = None
    cuts_power: bool = False
    settings_cells: tuple[str, ...] = ()
    packs: tuple[str, ...] = ()
    test_reason: str = ""
    consumables: tuple[str, ...] = ()
    kit: tuple[str, ...] = ()
    plain: bool = False
    wanted: tuple[str, ...] = ()
    typed: tuple[Mapping[str, Any], ...] = ()
    checks: tuple[tuple[str, str], ...] = ()
    powered: bool = False

    def step(self, name: str) -> JobStep | None:
        """A step by its id."""
        return next((step for step in self.steps if step.id == name), None)

    @property
    def minutes(self) -> Minutes:
        """Low, likely and high minutes of the whole."""
        return summed(step.minutes for step in self.steps)

    @property
    def mains(self) -> bool:
        """Whether the machine lives on mains (rule G1)."""
        return self.form in MAINS_FORMS


SWAP_MINUTES: Mapping[str, Minutes] = {
    Kind.MEMORY: Minutes(0.5, 1, 2),
    Kind.SSD: Minutes(1, 2, 4),
    Kind.BATTERY: Minutes(0.5, 1, 3),
    Kind.FAN: Minutes(1, 2, 5),
}
OTHER_SWAP = Minutes(2, 5, 12)
TEST_MINUTES, ISOLATE_MINUTES = Minutes(2, 3, 6), Minutes(0.6, 1, 2)


@dataclass(frozen=True)
class Machine:
    """What a plan asks of the machine beside its page: form, the maker's waiting time, where the settings are kept.

    carries_over, energy_wh, bus : by position, as far as known · aside : what is to be minded, by operation
    closed : what the page knows of the closed machine
    """

    form: str
    wait_minutes: float | None = None
    settings_cells: tuple[str, ...] = ()
    carries_over: Mapping[str, Sequence[str]] = field(default_factory=dict)
    energy_wh: Mapping[str, float] = field(default_factory=dict)
    bus: Mapping[str, str] = field(default_factory=dict)
    closed: Closed = field(default_factory=Closed)
    aside: Mapping[str, tuple[str, ...]] = field(default_factory=dict)


def job_plan(teardown: Teardown, route: Route, machine: Machine, *, test_first: bool | None = None, done: Sequence[str] = ()) -> JobPlan:
    """The steps of a job from its route.

    Parameters
    ----------
    teardown : the graph of the page · route : planned on it · machine : its form and what is known of its power
    test_first : whether to test before closing; None decides by what was touched · done : operations already done, kept in their order

    Returns
    -------
    JobPlan

    Raises
    ------
    NoEstimate : the recorded exceptions on the way back contradict one another
    """
    opened = _in_order(route.steps, done)
    reached = _reached(route)
    freed = {key for step in opened for key in step.frees}
    kinds = {teardown.places[key].kind for key in freed if key in teardown.places}
    test, why = _test_due(kinds, machine.form, test_first)
    isolating = [step for step in opened if step.isolates]
    steps = [*_opening(opened, teardown, machine)]
    steps += [_swap(key, teardown, machine, shut=route.power is not Power.OUTSIDE) for key in reached]
    if test:
        steps += _test(isolating)
    steps += _closing(opened, teardown)
    return JobPlan(
        form=machine.form,
        targets=route.targets,
        steps=tuple(steps),
        wait_minutes=machine.wait_minutes,
        cuts_power=bool(isolating),
        settings_cells=machine.settings_cells,
        packs=tuple(key for key, place in teardown.places.items() if place.kind == Kind.BATTERY),
        test_reason=why,
        consumables=route.kit.consumables,
        kit=(*route.kit.tools, *route.kit.aids, *route.kit.spares),
        checks=closing_checks(opened, machine.closed, kinds),
    )


def connected(plan: JobPlan) -> JobPlan:
    """The plan of the short way: the pack stays connected, which is said before every step inside."""
    steps = (replace(step, cautions=(CONNECTED, *step.cautions)) if step.shut else step for step in plan.steps)
    return replace(plan, steps=tuple(steps), powered=True)


def _in_order(steps: Sequence[Operation], done: Sequence[str]) -> tuple[Operation, ...]:
    """Steps already done stay first, as they were done; the route's order holds for the rest."""
    by_id = {step.id: step for step in steps}
    first = [by_id[name] for name in done if name in by_id]
    return (*first, *(step for step in steps if step.id not in set(done)))


def _reached(route: Route) -> tuple[str, ...]:
    """What is swapped: the targets, or the units they are ordered as."""
    instead = {item.target: item.reached for item in route.escalations}
    return tuple(dict.fromkeys(instead.get(target, target) for target in route.targets))


def _test_due(kinds: Collection[Kind], form: str, asked: bool | None) -> tuple[bool, str]:
    touched = sorted(kind.value.replace("_", " ") for kind in kinds & TESTED_BEFORE_CLOSING) if isinstance(kinds, set) else []
    if form in MAINS_INSIDE:
        return False, "mains inside: it is tested after the cover is back, never open"
    if asked is not None:
        return asked, "asked for" if asked else "left until it is closed, as asked"
    return bool(touched), f"touched: {', '.join(touched)}" if touched else "nothing was touched that a test before closing would show"


def _opening(opened: Sequence[Operation], teardown: Teardown, machine: Machine) -> list[JobStep]:
    steps = []
    for step in opened:
        steps.append(
            JobStep(
                id=f"open:{step.id}",
                phase=Phase.OPENING,
                text=step.text,
                minutes=step.minutes,
                operation=step.id,
                tool=step.tools.words,
                cautions=_cautions(step, teardown, machine.settings_cells),
                aside=machine.aside.get(step.id, ()),
                screws=tray_groups([step]),
                leads=tuple(Lead(plug.name, plug.kind, plug.release) for plug in step.plugs),
                shut=not (step.live or step.outside or step.isolates),
                live=step.live,
                isolates=step.isolates,
                bare=step.bare_board,
                numbered=any(item.numbered for item in step.fasteners),
                frees=step.frees,
                exposes=step.exposes,
                touches=tuple(teardown.places[key].kind.value for key in step.frees if key in teardown.places),
                one_way=step.one_way.reason if step.one_way else None,
                destroys=step.one_way.destroys if step.one_way else None,
                seal=step.seal,
            )
        )
    return steps


def _cautions(step: Operation, teardown: Teardown, cells: Sequence[str]) -> tuple[str, ...]:
    """The page's own words first, then the tool's, by what the step reaches."""
    kinds = {teardown.places[key].kind for key in step.frees if key in teardown.places}
    said = [*(item.text for item in cautions_before(step)), *settings_cautions(step.frees, cells), *reaching_cautions(step, kinds)]
    return tuple(dict.fromkeys([*said, *step_doubts(step, teardown)]))


def _swap(key: str, teardown: Teardown, machine: Machine, *, shut: bool) -> JobStep:
    place = teardown.places[key]
    carried = machine.carries_over.get(key) or ()
    moves = f"; move over from the old one: {', '.join(carried)}" if carried else ""
    fit = "Fit a part" if place.state == "free" else "Fit the new part"
    return JobStep(
        id=f"swap:{key}",
        phase=Phase.SWAP,
        text=f"{fit} at {place.label} and read its label{moves}",
        minutes=SWAP_MINUTES.get(place.kind, OTHER_SWAP),
        position=key,
        shut=shut,
        bare=shut and place.kind != Kind.BATTERY,
        touches=(place.kind.value,),
        cautions=swap_cautions(place.kind, energy_wh=machine.energy_wh.get(key), bus=machine.bus.get(key)),
    )


def _test(isolating: Sequence[Operation]) -> list[JobStep]:
    plugs = [plug for step in isolating for plug in step.plugs]
    power = f"Connect {', '.join(plug.name for plug in plugs)}" if plugs else "Give the machine power"
    again = "; ".join(step.text[0].lower() + step.text[1:] for step in isolating) or "cut the power as before"
    return [
        JobStep(
            id=TEST,
            phase=Phase.TEST,
            text=f"{power} and the leads the test needs, start, and look: picture, keys, memory total, fan",
            minutes=TEST_MINUTES,
            cautions=(
                "the machine is open and live: nothing metal near it, hands off the board",
                "check the charge first: a flat battery looks like a dark screen",
            ),
        ),
        JobStep(
            id=ISOLATE,
            phase=Phase.TEST,
            text=f"Isolate again: shut down, outside power off, then {again}",
            minutes=ISOLATE_MINUTES,
            isolates=True,
        ),
    ]


def _closing(opened: Sequence[Operation], teardown: Teardown) -> list[JobStep]:
    by_id = {step.id: step for step in opened}
    back = reassemble(opened, {key: place.label for key, place in teardown.places.items()})
    powered = False
    steps = []
    for item in back.steps:
        operation = by_id[item.operation]
        powered = powered or operation.isolates
        steps.append(_back(item, operation, shut=not (powered or operation.outside or operation.live)))
    return steps


def _back(item: BackStep, operation: Operation, *, shut: bool) -> JobStep:
    leads = tuple(Lead(plug.name, plug.kind, plug.release) for plug in operation.plugs if plug.name in item.leads)
    return JobStep(
        id=f"close:{item.operation}",
        phase=Phase.CLOSING,
        text=item.text,
        minutes=item.minutes,
        operation=item.operation,
        tool=None if item.left_out else operation.tools.words,
        cautions=item.cautions,
        screws=() if item.left_out else item.screws,
        leads=leads,
        shut=shut,
        bare=operation.bare_board,
        numbered=item.numbered,
        left_out=item.left_out,
        isolates=operation.isolates,
        frees=operation.frees,
    )
