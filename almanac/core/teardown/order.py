"""Putting a set of steps in order with the fewest tool changes, power cut as early as it can be."""

from __future__ import annotations

import heapq
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from almanac.core.errors import NoEstimate
from almanac.core.teardown.operations import Teardown

MOST_STATES = 20_000


@dataclass(frozen=True)
class Order:
    """Steps in order, how often the tool in the hand changes, and whether fewer changes are proven impossible."""

    steps: tuple[str, ...]
    tool_changes: int
    exact: bool


def order_steps(teardown: Teardown, chosen: Iterable[str], *, first_tool: str | None = None) -> Order:
    """A valid order of a closed set of steps with the fewest tool changes.

    What the isolation needs comes first, then the isolation, then the rest (rule G1). Steps done by hand change no tool. A step
    whose tool is in the hand is done as soon as it can be: putting it off never saves a change, so only the next tool is a choice.

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
    start = _fewest_changes(teardown, first, needs, (), first_tool) if first else Order((), 0, True)
    in_hand = _last_tool(teardown, start.steps, first_tool)
    rest = _fewest_changes(teardown, held - first, needs, start.steps, in_hand)
    return Order((*start.steps, *rest.steps), start.tool_changes + rest.tool_changes, start.exact and rest.exact)


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


def _last_tool(teardown: Teardown, steps: Iterable[str], first: str | None) -> str | None:
    tool = first
    for name in steps:
        tool = teardown.operations[name].tool or tool
    return tool


def _fewest_changes(
    teardown: Teardown, todo: frozenset[str], needs: Mapping[str, list[frozenset[str]]], before: tuple[str, ...], tool: str | None
) -> Order:
    """Uniform-cost search over (what is done, tool in the hand); past MOST_STATES the tool with most work is taken."""
    place = {name: position for position, name in enumerate(teardown.operations)}
    done, steps = _exhaust(teardown, todo, needs, frozenset(before), tool, place)
    queue: list[tuple[int, int, frozenset[str], str | None, tuple[str, ...]]] = [(0, 0, done, tool, steps)]
    seen: set[tuple[frozenset[str], str | None]] = set()
    pushed = 0
    while queue:
        changes, _, done, hand, steps = heapq.heappop(queue)
        if todo <= done:
            return Order(steps, changes, pushed < MOST_STATES)
        if (done, hand) in seen:
            continue
        seen.add((done, hand))
        choices = _next_tools(teardown, todo, needs, done, place)
        if not choices:
            raise NoEstimate(f"the steps {', '.join(sorted(todo - done))} need one another in a circle")
        if pushed >= MOST_STATES:
            queue.clear()
            choices = choices[:1]
        for choice in choices:
            after, more = _exhaust(teardown, todo, needs, done, choice, place)
            pushed += 1
            heapq.heappush(queue, (changes + (hand is not None), pushed, after, choice, steps + more))
    raise NoEstimate("no order was found")


def _ready(name: str, needs: Mapping[str, list[frozenset[str]]], done: frozenset[str] | set[str]) -> bool:
    return all(group & done for group in needs[name])


def _exhaust(
    teardown: Teardown,
    todo: frozenset[str],
    needs: Mapping[str, list[frozenset[str]]],
    done: frozenset[str],
    tool: str | None,
    place: Mapping[str, int],
) -> tuple[frozenset[str], tuple[str, ...]]:
    """Do all that can be done by hand or with this tool, in the page's order."""
    now: set[str] = set(done)
    steps: list[str] = []
    while True:
        ready = [name for name in todo if name not in now and teardown.operations[name].tool in (None, tool) and _ready(name, needs, now)]
        if not ready:
            return frozenset(now), tuple(steps)
        name = min(ready, key=lambda item: (not teardown.operations[item].outside, place[item]))
        now.add(name)
        steps.append(name)


def _next_tools(
    teardown: Teardown, todo: frozenset[str], needs: Mapping[str, list[frozenset[str]]], done: frozenset[str], place: Mapping[str, int]
) -> list[str]:
    """Tools some step that is ready asks for, the one with most such steps first."""
    count: dict[str, tuple[int, int]] = {}
    for name in sorted(todo - done, key=lambda item: place[item]):
        tool = teardown.operations[name].tool
        if tool is not None and _ready(name, needs, done):
            number, first = count.get(tool, (0, place[name]))
            count[tool] = (number + 1, first)
    return sorted(count, key=lambda tool: (-count[tool][0], count[tool][1]))
