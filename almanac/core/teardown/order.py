"""The order of the steps: least tool changes and turns of the machine, power cut as early as it can be."""

from __future__ import annotations

import heapq
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import NamedTuple

from almanac.core.errors import NoEstimate
from almanac.core.teardown.operations import Operation, Teardown

MOST_STATES = 20_000


@dataclass(frozen=True)
class Order:
    """Steps in order, how often the tool in the hand changes and the machine is turned, and whether fewer are proven impossible."""

    steps: tuple[str, ...]
    tool_changes: int
    exact: bool
    turns: int = 0


class Hold(NamedTuple):
    """What is in the hand, and which side of the machine is up; None where nothing was taken up or turned yet."""

    tool: str | None = None
    face: str | None = None

    def after(self, step: Operation, tool: str | None) -> Hold:
        """After a step that leaves a tool in the hand."""
        return Hold(tool or self.tool, step.face or self.face)


@dataclass(frozen=True)
class Cost:
    """Changes of tool and turns of the machine; both count alike."""

    changes: int = 0
    turns: int = 0

    @property
    def total(self) -> int:
        return self.changes + self.turns

    def __add__(self, other: Cost) -> Cost:
        return Cost(self.changes + other.changes, self.turns + other.turns)


def order_steps(teardown: Teardown, chosen: Iterable[str], *, first_tool: str | None = None) -> Order:
    """A valid order of a closed set of steps with the fewest tool changes and turns of the machine.

    What the isolation needs comes first, then the isolation, then the rest (rule G1). Steps done by hand change no tool, steps that
    name no side turn nothing. A step that asks for neither a change nor a turn is done as soon as it can be: putting it off never
    saves one, so only what comes next is a choice.

    Parameters
    ----------
    teardown : the graph · chosen : steps that hold all they need · first_tool : in the hand at the start

    Returns
    -------
    Order

    Raises
    ------
    NoEstimate : the steps need one another in a circle
    """
    held = frozenset(chosen)
    needs = _needs_within(teardown, held)
    first = _before_power(teardown, needs, held)
    # One search for both stretches: which tool the first leaves in the hand matters to the second.
    waits = [frozenset((name,)) for name in sorted(first)]
    waiting = {name: groups if name in first else [*groups, *waits] for name, groups in needs.items()}
    found = _Search(teardown, waiting).run(Hold(first_tool))
    return Order(found.steps, found.cost.changes, found.exact, found.cost.turns)


def _needs_within(teardown: Teardown, held: frozenset[str]) -> dict[str, list[frozenset[str]]]:
    return {
        name: [frozenset(group) & held for group in teardown.requirements(step) if frozenset(group) & held]
        for name, step in teardown.operations.items()
        if name in held
    }


def _before_power(teardown: Teardown, needs: Mapping[str, list[frozenset[str]]], held: frozenset[str]) -> frozenset[str]:
    """The first isolation chosen and all it needs."""
    waiting, found = [name for name in teardown.isolating if name in held][:1], set()
    while waiting:
        name = waiting.pop()
        if name not in found:
            found.add(name)
            waiting.extend(other for group in needs[name] for other in group)
    return frozenset(found)


@dataclass(frozen=True)
class _Found:
    steps: tuple[str, ...] = ()
    hold: Hold = field(default_factory=Hold)
    cost: Cost = field(default_factory=Cost)
    exact: bool = True


class _Next(NamedTuple):
    """What may come next: a tool and a side, or one step (its number) that takes several tools, the last of them left in the hand."""

    hold: Hold
    step: int | None = None


class _Search:
    """Uniform-cost search over (what is done, what is in the hand, which side is up).

    What is done is a number with a bit for each step, those outside first and then in the page's order: that is the order in which
    steps are done that ask for nothing.
    """

    def __init__(self, teardown: Teardown, needs: Mapping[str, list[frozenset[str]]]) -> None:
        place = {name: position for position, name in enumerate(teardown.operations)}
        names = sorted(needs, key=lambda name: (not teardown.operations[name].outside, place[name]))
        bit = {name: 1 << number for number, name in enumerate(names)}
        self._steps = [teardown.operations[name] for name in names]
        self._needs = [[sum(bit[name] for name in group) for group in needs[name]] for name in names]
        self._place = [place[name] for name in names]
        self._all = (1 << len(names)) - 1
        self._freely: dict[Hold, list[int]] = {}

    def run(self, hold: Hold) -> _Found:
        """The order of the steps; past MOST_STATES what most steps ask for is taken.

        Raises
        ------
        NoEstimate : the steps need one another in a circle
        """
        if not self._all:
            return _Found(hold=hold)
        done, steps = self._exhaust(0, hold)
        queue: list[tuple[int, int, Cost, int, Hold, tuple[int, ...]]] = [(0, 0, Cost(), done, hold, steps)]
        seen: set[tuple[int, Hold]] = set()
        pushed = 0
        while queue:
            _, _, cost, done, hold, steps = heapq.heappop(queue)
            if done == self._all:
                return _Found(tuple(self._steps[number].id for number in steps), hold, cost, pushed < MOST_STATES)
            if (done, hold) in seen:
                continue
            seen.add((done, hold))
            choices = self._choices(done, hold)
            if not choices:
                left = sorted(step.id for number, step in enumerate(self._steps) if not done >> number & 1)
                raise NoEstimate(f"the steps {', '.join(left)} need one another in a circle")
            if pushed >= MOST_STATES:
                queue.clear()
                choices = choices[:1]
            for choice in choices:
                after = Hold(choice.hold.tool or hold.tool, choice.hold.face or hold.face)
                own = () if choice.step is None else (choice.step,)
                now, more = self._exhaust(done | sum(1 << number for number in own), after)
                pushed += 1
                whole = cost + self._cost(hold, choice)
                heapq.heappush(queue, (whole.total, pushed, whole, now, after, (*steps, *own, *more)))
        raise NoEstimate("no order was found")

    def _cost(self, hold: Hold, choice: _Next) -> Cost:
        """Taking up the first tool and laying the machine down the first time cost nothing."""
        turned = int(None not in (hold.face, choice.hold.face) and hold.face != choice.hold.face)
        if choice.step is not None:
            names = self._steps[choice.step].tools.names
            return Cost(len(names) - 1 + int(hold.tool is not None and hold.tool not in names), turned)
        changed = None not in (hold.tool, choice.hold.tool) and hold.tool != choice.hold.tool
        return Cost(int(changed), turned)

    def _ready(self, number: int, done: int) -> bool:
        return all(group & done for group in self._needs[number])

    def _free(self, hold: Hold) -> list[int]:
        """Steps that ask for neither another tool nor a turn."""
        if hold not in self._freely:
            self._freely[hold] = [
                number
                for number, step in enumerate(self._steps)
                if len(step.tools.names) < 2 and step.tool in (None, hold.tool) and step.face in (None, hold.face)
            ]
        return self._freely[hold]

    def _exhaust(self, done: int, hold: Hold) -> tuple[int, tuple[int, ...]]:
        """Do all that can be done as things are, the first that can be each time."""
        waiting = [number for number in self._free(hold) if not done >> number & 1]
        steps: list[int] = []
        while True:
            number = next((number for number in waiting if self._ready(number, done)), None)
            if number is None:
                return done, tuple(steps)
            done |= 1 << number
            waiting.remove(number)
            steps.append(number)

    def _choices(self, done: int, hold: Hold) -> list[_Next]:
        """What some step that is ready asks for, what most of them ask for first."""
        count: dict[_Next, tuple[int, int]] = {}
        ready = [number for number in range(len(self._steps)) if not done >> number & 1 and self._ready(number, done)]
        for number in sorted(ready, key=self._place.__getitem__):
            for choice in self._asks(number, hold):
                times, first = count.get(choice, (0, self._place[number]))
                count[choice] = (times + 1, first)
        return sorted(count, key=lambda choice: (-count[choice][0], count[choice][1]))

    def _asks(self, number: int, hold: Hold) -> list[_Next]:
        step = self._steps[number]
        names, face = step.tools.names, step.face or hold.face
        if len(names) < 2:
            return [_Next(Hold(step.tool or hold.tool, face))]
        return [_Next(Hold(name, face), number) for name in names if name != hold.tool]
