"""Putting it back: the same steps in reverse, but for the exceptions a page records, with sets that must be equal."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from almanac.core.errors import NoEstimate
from almanac.core.teardown.cautions import back_cautions
from almanac.core.teardown.fasteners import TrayGroup, tray_groups
from almanac.core.teardown.minutes import Minutes
from almanac.core.teardown.operations import Operation
from almanac.core.teardown.wayback import way_back


@dataclass(frozen=True)
class BackStep:
    """One step of closing: the operation it undoes, its words, minutes and cautions, what goes back."""

    operation: str
    text: str
    minutes: Minutes
    left_out: bool
    leads: tuple[str, ...]
    screws: tuple[TrayGroup, ...]
    numbered: bool
    cautions: tuple[str, ...] = ()


@dataclass(frozen=True)
class Reassembly:
    """Steps of closing and the sets to reconcile: loose screws by group and leads, out and back alike."""

    steps: tuple[BackStep, ...]
    tray: tuple[TrayGroup, ...]
    leads: tuple[str, ...]


def reassemble(opened: Sequence[Operation], labels: Mapping[str, str] | None = None) -> Reassembly:
    """The way back from steps done in this order.

    Parameters
    ----------
    opened : in the order they were done · labels : of positions by key, for the words

    Returns
    -------
    Reassembly : covers the same operations

    Raises
    ------
    NoEstimate : the recorded exceptions contradict one another
    """
    order = _closing_order(opened)
    steps = tuple(_back(step, labels or {}) for step in order)
    leads = tuple(dict.fromkeys(plug.name for step in opened for plug in step.plugs))
    return Reassembly(steps, tray_groups(opened), leads)


def _closing_order(opened: Sequence[Operation]) -> list[Operation]:
    """Reverse order, moved as little as the exceptions ask: of what may go back now, the one taken off last."""
    reverse = list(reversed(opened))
    after = _precedence(reverse)
    order: list[Operation] = []
    done: set[str] = set()
    while len(order) < len(reverse):
        ready = next((step for step in reverse if step.id not in done and after[step.id] <= done), None)
        if ready is None:
            left = ", ".join(step.id for step in reverse if step.id not in done)
            raise NoEstimate(f"the exceptions on the way back contradict one another: {left}")
        order.append(ready)
        done.add(ready.id)
    return order


def _precedence(reverse: Sequence[Operation]) -> dict[str, set[str]]:
    """What must be back before each step: exceptions, and the reverse of the needs they do not overrule."""
    ids = {step.id for step in reverse}
    exceptions: set[tuple[str, str]] = set()
    for step in reverse:
        exceptions |= {(step.id, other) for other in step.back.before if other in ids}
        exceptions |= {(other, step.id) for other in step.back.after if other in ids}
    before: dict[str, set[str]] = {step.id: set() for step in reverse}
    for first, then in exceptions:
        before[then].add(first)
    for step in reverse:
        for need in (name for group in step.needs for name in group if name in ids):
            if (need, step.id) not in exceptions and not _leads_to(need, step.id, before):
                before[need].add(step.id)
    return before


def _leads_to(first: str, then: str, before: Mapping[str, set[str]]) -> bool:
    """Whether `first` must already come before `then`."""
    waiting, seen = [then], set()
    while waiting:
        name = waiting.pop()
        if name == first:
            return True
        if name not in seen:
            seen.add(name)
            waiting.extend(before[name])
    return False


def _back(step: Operation, labels: Mapping[str, str]) -> BackStep:
    left_out = step.back.left_out
    return BackStep(
        operation=step.id,
        text=way_back(step, labels),
        minutes=Minutes(0.0, 0.0, 0.0) if left_out else (step.back.minutes or step.minutes),
        left_out=left_out,
        leads=() if left_out else tuple(plug.name for plug in step.plugs),
        screws=tray_groups([step]),
        numbered=any(item.numbered for item in step.fasteners),
        cautions=() if left_out else back_cautions(step),
    )
