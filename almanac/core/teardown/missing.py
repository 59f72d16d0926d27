"""What a page leaves open: parts no step takes out, an isolation nobody recorded, screws nobody counted."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any

from almanac.core.errors import NoEstimate
from almanac.core.parts.declared.kinds import FORECAST_KINDS
from almanac.core.parts.faults import Cause, PageFault, Stake, Where
from almanac.core.teardown.bits import undriven
from almanac.core.teardown.doubts import spared_minutes
from almanac.core.teardown.operations import UNKNOWN_PLUG, Fasteners, Operation, Teardown
from almanac.core.teardown.route import plan_route

UNSEEN = ("not_fitted", "not_visible")


def missing(page: Mapping[str, Any], teardown: Teardown) -> Iterator[PageFault]:
    """Everything a page of sound form does not say yet.

    Parameters
    ----------
    page : a page document · teardown : its graph, without circles

    Returns
    -------
    iterator of PageFault, all `open`
    """
    shown = {key for step in teardown.operations.values() for key in (*step.exposes, *step.frees)}
    for place, entry in enumerate(page.get("positions") or []):
        if entry["key"] in teardown.places and entry.get("state") not in UNSEEN:
            yield from _position(teardown, entry["key"], place, shown)
    if teardown.operations and not teardown.isolating:
        cure = "mark the step that isolates the battery or the mains"
        yield PageFault(("operations",), "no operation cuts the power", cure, True, cause=Cause(stake=Stake.DANGER))
    for number, step in enumerate(teardown.operations.values()):
        yield from _step(step, number)
        yield from _hearsay(step, number, teardown)


def _hearsay(step: Operation, number: int, teardown: Teardown) -> Iterator[PageFault]:
    """What was done before a step and may not be needed, and plugs nobody looked at."""
    here: Where = ("operations", number)
    for name in step.only_done:
        if name in teardown.operations:
            spared = spared_minutes(step, name, teardown)
            said = f"{step.id}: it was done after {name}; whether it needs that is not known"
            cause = Cause("{n} steps that may not need what was done before", step.id, Stake.MINUTES if spared else Stake.RECORD, spared)
            yield PageFault((*here, "needs"), said, "look at the next opening whether it goes without", True, cause=cause)
    for place, plug in enumerate(step.plugs):
        if plug.kind == UNKNOWN_PLUG or plug.doubt:
            said = f"{step.id}: how the {plug.name} goes is {'not known' if plug.kind == UNKNOWN_PLUG else f'not sure, {plug.doubt}'}"
            cause = Cause("{n} plugs nobody looked at", plug.name, Stake.DANGER if step.isolates else Stake.RECORD)
            yield PageFault((*here, "plugs", place, "kind"), said, "look before it is pulled, and write it down", True, cause=cause)


def _position(teardown: Teardown, key: str, place: int, shown: set[str]) -> Iterator[PageFault]:
    label, above = teardown.places[key].label, teardown.places[key].part_of
    if key not in shown and above not in shown:
        cure = "name it under exposes or frees of a step"
        yield PageFault(
            ("positions", place), f"no operation exposes {label}", cure, True, cause=_unseen(teardown, key, "{n} parts no step lays bare")
        )
    elif not _has_way(key, teardown):
        cure = "name it under frees of a step"
        yield PageFault(
            ("positions", place), f"no operation takes out {label}", cure, True, cause=_unseen(teardown, key, "{n} parts no step takes out")
        )


def _unseen(teardown: Teardown, key: str, plural: str) -> Cause:
    """A forecast part without a way cannot be planned for: that is a decision that waits."""
    stake = Stake.DECISION if teardown.places[key].kind in FORECAST_KINDS else Stake.RECORD
    return Cause(plural, teardown.places[key].label, stake)


def _has_way(key: str, teardown: Teardown) -> bool:
    try:
        plan_route(teardown, [key])
    except NoEstimate:
        return False
    return True


def _step(step: Operation, number: int) -> Iterator[PageFault]:
    if step.minutes.estimated:
        guess = f"{step.id}: nobody timed it, about {step.minutes.likely:.1f} min are estimated"
        cause = Cause("{n} steps nobody timed", step.id, Stake.MINUTES, step.minutes.likely)
        yield PageFault(("operations", number, "minutes"), guess, "time it at the next opening", True, cause=cause)
    if not step.tools.known:
        cause = Cause("{n} steps of which nobody said the tool", step.id)
        yield PageFault(("operations", number, "tool"), f"{step.id}: nobody said the tool", "name it, or hands", True, cause=cause)
    if step.seal is None:
        cause = Cause("{n} steps that may break a seal", step.id, Stake.DANGER)
        said = f"{step.id}: whether it breaks a seal is not known"
        yield PageFault(("operations", number, "seal"), said, "look before it is opened", True, cause=cause)
    for place, item in enumerate(step.fasteners):
        if item.bit and (why := undriven(step.tools, item.bit)):
            said = f"{step.id}: {step.tools.words} does not drive {item.count.words} x {item.group}: {why}"
            yield PageFault(("operations", number, "tool"), said, "look which bit seats", True, cause=Cause(stake=Stake.DECISION))
        yield from _fasteners(step, item, ("operations", number, "fasteners", place))


def _fasteners(step: Operation, item: Fasteners, where: Where) -> Iterator[PageFault]:
    if item.captive is None and item.kind == "screw":
        what = f"{step.id}: captive or loose is not known of {item.count.words} x {item.group}"
        cause = Cause("{n} groups of screws, captive or loose not known", f"{step.id} {item.group}")
        yield PageFault((*where, "captive"), what, "ask at the next opening", True, cause=cause)
    if not item.count.exact:
        what = f"{step.id}: {item.count.words} of {item.group}"
        cause = Cause("{n} groups of fasteners nobody counted", f"{step.id} {item.group}")
        yield PageFault((*where, "count"), what, "count them at the next opening", True, cause=cause)
    elif item.at and len(item.at) != item.count.number:
        cure = "give one place for each, or none"
        yield PageFault((*where, "at"), f"{step.id}: {item.count.words} fasteners, {len(item.at)} places", cure, True)
