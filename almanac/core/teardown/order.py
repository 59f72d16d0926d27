"""The order of the steps: least tool changes and turns of the machine, power cut as early as it can be."""

from __future__ import annotations

import heapq
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

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


@dataclass(frozen=True)
class Hold:
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
    found = _Search(teardown, {name: groups if name in first else [*groups, *waits] for name, groups in needs.items()}).run(
        held, Hold(first_tool)
    )
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


@dataclass(frozen=True)
class _Next:
    """What may come next: a tool and a side, or one step that takes several tools, the last of them left in the hand."""

    hold: Hold
    step: str | None = None


class _Search:
    """Uniform-cost search over (what is done, what is in the hand, which side is up)."""

    def __init__(self, teardown: Teardown, needs: Mapping[str, list[frozenset[str]]]) -> None:
        self._steps = teardown.operations
        self._needs = needs
        self._place = {name: position for position, name in enumerate(teardown.operations)}

    def run(self, todo: frozenset[str], hold: Hold) -> _Found:
        """The order of some steps; past MOST_STATES what most steps ask for is taken.

        Raises
        ------
        NoEstimate : the steps need one another in a circle
        """
        if not todo:
            return _Found(hold=hold)
        done, hold, steps = self._exhaust(todo, frozenset(), hold)
        queue: list[tuple[int, int, Cost, frozenset[str], Hold, tuple[str, ...]]] = [(0, 0, Cost(), done, hold, steps)]
        seen: set[tuple[frozenset[str], Hold]] = set()
        pushed = 0
        while queue:
            _, _, cost, done, hold, steps = heapq.heappop(queue)
            if todo <= done:
                return _Found(steps, hold, cost, pushed < MOST_STATES)
            if (done, hold) in seen:
                continue
            seen.add((done, hold))
            choices = self._choices(todo, done, hold)
            if not choices:
                raise NoEstimate(f"the steps {', '.join(sorted(todo - done))} need one another in a circle")
            if pushed >= MOST_STATES:
                queue.clear()
                choices = choices[:1]
            for choice in choices:
                more, after = self._take(todo, done, hold, choice)
                pushed += 1
                whole = cost + self._cost(hold, choice)
                heapq.heappush(queue, (whole.total, pushed, whole, done | frozenset(more), after, steps + more))
        raise NoEstimate("no order was found")

    def _take(self, todo: frozenset[str], done: frozenset[str], hold: Hold, choice: _Next) -> tuple[tuple[str, ...], Hold]:
        own = (choice.step,) if choice.step else ()
        after = Hold(choice.hold.tool or hold.tool, choice.hold.face or hold.face)
        _, after, more = self._exhaust(todo, done | frozenset(own), after)
        return (*own, *more), after

    def _cost(self, hold: Hold, choice: _Next) -> Cost:
        """Taking up the first tool and laying the machine down the first time cost nothing."""
        turned = int(None not in (hold.face, choice.hold.face) and hold.face != choice.hold.face)
        if choice.step:
            names = self._steps[choice.step].tools.names
            return Cost(len(names) - 1 + int(hold.tool is not None and hold.tool not in names), turned)
        changed = None not in (hold.tool, choice.hold.tool) and hold.tool != choice.hold.tool
        return Cost(int(changed), turned)

    def _ready(self, name: str, done: frozenset[str] | set[str]) -> bool:
        return all(group & done for group in self._needs[name])

    def _free(self, step: Operation, hold: Hold) -> bool:
        """Whether a step asks for neither another tool nor a turn."""
        return len(step.tools.names) < 2 and step.tool in (None, hold.tool) and step.face in (None, hold.face)

    def _exhaust(self, todo: frozenset[str], done: frozenset[str], hold: Hold) -> tuple[frozenset[str], Hold, tuple[str, ...]]:
        """Do all that can be done as things are, in the page's order."""
        now: set[str] = set(done)
        steps: list[str] = []
        while True:
            ready = [name for name in todo if name not in now and self._free(self._steps[name], hold) and self._ready(name, now)]
            if not ready:
                return frozenset(now), hold, tuple(steps)
            name = min(ready, key=lambda item: (not self._steps[item].outside, self._place[item]))
            now.add(name)
            steps.append(name)

    def _choices(self, todo: frozenset[str], done: frozenset[str], hold: Hold) -> list[_Next]:
        """What some step that is ready asks for, what most of them ask for first."""
        count: dict[_Next, tuple[int, int]] = {}
        for name in sorted(todo - done, key=lambda item: self._place[item]):
            if self._ready(name, done):
                for choice in self._asks(self._steps[name], hold):
                    number, first = count.get(choice, (0, self._place[name]))
                    count[choice] = (number + 1, first)
        return sorted(count, key=lambda choice: (-count[choice][0], count[choice][1]))

    def _asks(self, step: Operation, hold: Hold) -> list[_Next]:
        names, face = step.tools.names, step.face or hold.face
        if len(names) < 2:
            return [_Next(Hold(step.tool or hold.tool, face))]
        last = [name for name in names if name != hold.tool]
        return [_Next(Hold(name, face), step.id) for name in last]
