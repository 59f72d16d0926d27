"""What is wrong with a page's graph, in plain sentences with the place of each."""

from __future__ import annotations

import difflib
from collections.abc import Collection, Iterable, Iterator, Mapping
from typing import Any

from almanac.core.errors import ContractError, NoEstimate
from almanac.core.parts.faults import PageFault, Where
from almanac.core.parts.variants import conditions
from almanac.core.teardown.closure import cheapest_closure
from almanac.core.teardown.missing import missing
from almanac.core.teardown.operations import Operation, Teardown
from almanac.core.teardown.order import order_steps
from almanac.core.teardown.reassembly import reassemble
from almanac.core.teardown.written import teardown_of


def page_faults(page: Mapping[str, Any]) -> list[PageFault]:
    """All faults of a page's positions and operations that its format alone cannot show.

    Parameters
    ----------
    page : a page document in its stored form

    Returns
    -------
    list of PageFault in the page's order; contradictions and unknown names are faults, what is missing is `open`
    """
    twice = [*_twice(page, "positions", "key"), *_twice(page, "operations", "id")]
    if twice:
        return twice
    try:
        teardown = teardown_of(page)
    except ContractError as error:
        return [PageFault((), str(error), "follow the page format")]
    places = {step.id: index for index, step in enumerate(teardown.operations.values())}
    found = [*_containers(page, teardown), *_conditions(page)]
    keys = {entry["key"] for entry in page.get("positions") or []}
    for step in teardown.operations.values():
        found += _step_faults(teardown, step, places[step.id], keys)
    if any(not fault.open for fault in found):
        return found
    circles = _circles(teardown, places)
    return [*found, *circles, *(missing(page, teardown) if not circles else [])]


def _twice(page: Mapping[str, Any], part: str, name: str) -> Iterator[PageFault]:
    seen: dict[str, int] = {}
    for place, entry in enumerate(page.get(part) or []):
        value = entry.get(name)
        if value in seen:
            yield PageFault((part, place, name), f"{value!r} is used twice, first as {part}[{seen[value]}]", "give each its own name")
        seen.setdefault(value, place)


def _containers(page: Mapping[str, Any], teardown: Teardown) -> Iterator[PageFault]:
    for place, entry in enumerate(page.get("positions") or []):
        parent = entry.get("part_of")
        if parent is not None and parent not in teardown.places:
            yield PageFault(("positions", place, "part_of"), f"no position is called {parent!r}", "name one of the page, or add it")
        seen, above = {entry["key"]}, parent
        while above in teardown.places:
            if above in seen:
                yield PageFault(("positions", place, "part_of"), f"{entry['key']} contains itself", "break the circle of part_of")
                break
            seen.add(above)
            above = teardown.places[above].part_of


def _conditions(page: Mapping[str, Any]) -> Iterator[PageFault]:
    options = {name: option.get("values") or [] for name, option in (page.get("options") or {}).items()}
    for part in ("positions", "operations"):
        for place, entry in enumerate(page.get(part) or []):
            for name, value in (entry.get("when") or {}).items():
                yield from _condition((part, place, "when", name), name, value if isinstance(value, list) else [value], options)
    for where, when in conditions(page):
        for name, value in when.items():
            yield from _condition((*where, name), name, value if isinstance(value, list) else [value], options)


def _condition(where: Where, name: str, wanted: list[str], options: Mapping[str, list[str]]) -> Iterator[PageFault]:
    if name not in options:
        yield PageFault(where, f"no option is called {name!r}", "list it under options")
        return
    for item in wanted:
        if item not in options[name]:
            yield PageFault(where, f"{item!r} is no value of {name}", f"one of {', '.join(options[name])}")


def _step_faults(teardown: Teardown, step: Operation, place: int, keys: set[str]) -> Iterator[PageFault]:
    here: Where = ("operations", place)
    for number, group in enumerate(step.needs):
        if step.id in group:
            yield PageFault((*here, "needs", number), f"{step.id} needs itself", "remove it")
        yield from _unknown((*here, "needs", number), "operation", set(group) - {step.id}, teardown.operations)
    for part in ("frees", "exposes"):
        yield from _unknown((*here, part), "position", getattr(step, part), keys)
    for part in ("before", "after"):
        yield from _unknown((*here, "back", part), "operation", getattr(step.back, part), teardown.operations)
    yield from _contradictions(step, here)


def _unknown(where: Where, what: str, names: Iterable[str], known: Collection[str]) -> Iterator[PageFault]:
    for name in sorted(set(names) - set(known)):
        near = difflib.get_close_matches(name, known, n=1)
        yield PageFault(where, f"no {what} is called {name!r}", f"{near[0]} is meant?" if near else "name one of the page, or add it")


def _contradictions(step: Operation, here: Where) -> Iterator[PageFault]:
    if step.isolates and step.outside and step.live:
        yield PageFault(here, f"{step.id} isolates the power and is marked live", "leave out live")
    both = set(step.back.before) & set(step.back.after)
    if both:
        yield PageFault((*here, "back"), f"{step.id} goes back both before and after {', '.join(sorted(both))}", "keep one of them")
    if step.minutes.low > step.minutes.likely or step.minutes.likely > step.minutes.high:
        yield PageFault((*here, "minutes"), f"{step.id}: low, likely and high minutes are not in order", "low <= likely <= high")


def _circles(teardown: Teardown, places: Mapping[str, int]) -> list[PageFault]:
    """Circles, each named once and not at every step behind it; and exceptions on the way back that contradict."""
    found: list[PageFault] = []
    shut: set[str] = set()
    for step in teardown.operations.values():
        try:
            chosen = cheapest_closure(teardown, ((step.id,),))
        except NoEstimate:
            shut.add(step.id)
            continue
        found += _way_back(teardown, step, chosen, places)
    named = [teardown.operations[name] for name in _one_each(teardown, shut)]
    return [
        *(PageFault(("operations", places[step.id], "needs"), _circle_words(teardown, step), _circle_cure(step)) for step in named),
        *found,
    ]


def _one_each(teardown: Teardown, shut: Collection[str]) -> list[str]:
    """One step of each circle among those no order can reach: the isolation where it stands in it, else the first of the page."""
    needs = {
        name: {other for group in teardown.requirements(teardown.operations[name]) if set(group) <= set(shut) for other in group}
        for name in teardown.operations
        if name in shut
    }
    behind = {name: _behind(name, needs) for name in needs}
    circular = [name for name in needs if name in behind[name]]
    order = sorted(circular, key=lambda name: not teardown.operations[name].isolates)
    found: list[str] = []
    for name in order:
        if not any(name in behind[other] and other in behind[name] for other in found):
            found.append(name)
    return found or list(needs)


def _behind(name: str, needs: Mapping[str, set[str]]) -> set[str]:
    waiting, seen = list(needs[name]), set[str]()
    while waiting:
        other = waiting.pop()
        if other not in seen:
            seen.add(other)
            waiting.extend(needs.get(other, ()))
    return seen


def _circle_words(teardown: Teardown, step: Operation) -> str:
    isolating = teardown.isolating
    if step.isolates:
        live = [name for group in step.needs for name in group if not teardown.operations[name].live]
        if live:
            return f"{step.id} cuts the power but needs {', '.join(live)}, which waits for the power to be cut"
    return f"{step.id} needs steps that need it in turn" + (", or waits for an isolation that does" if isolating else "")


def _circle_cure(step: Operation) -> str:
    return "mark the steps before the isolation as live" if step.isolates else "break the circle of needs"


def _way_back(teardown: Teardown, step: Operation, chosen: frozenset[str], places: Mapping[str, int]) -> Iterator[PageFault]:
    if not (step.back.before or step.back.after):
        return
    try:
        reassemble([teardown.operations[name] for name in order_steps(teardown, chosen).steps])
    except NoEstimate as reason:
        yield PageFault(("operations", places[step.id], "back"), str(reason), "drop one of the exceptions")
