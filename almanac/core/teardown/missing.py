"""What a page leaves open: parts no step takes out, an isolation nobody recorded, screws nobody counted."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any

from almanac.core.errors import NoEstimate
from almanac.core.parts.faults import PageFault, Where
from almanac.core.teardown.operations import Fasteners, Operation, Teardown
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
        yield PageFault(("operations",), "no operation cuts the power", "mark the step that isolates the battery or the mains", True)
    for number, step in enumerate(teardown.operations.values()):
        yield from _step(step, number)


def _position(teardown: Teardown, key: str, place: int, shown: set[str]) -> Iterator[PageFault]:
    label, above = teardown.places[key].label, teardown.places[key].part_of
    if key not in shown and above not in shown:
        yield PageFault(("positions", place), f"no operation exposes {label}", "name it under exposes or frees of a step", True)
    elif not _has_way(key, teardown):
        yield PageFault(("positions", place), f"no operation takes out {label}", "name it under frees of a step", True)


def _has_way(key: str, teardown: Teardown) -> bool:
    try:
        plan_route(teardown, [key])
    except NoEstimate:
        return False
    return True


def _step(step: Operation, number: int) -> Iterator[PageFault]:
    if step.minutes.high <= 0:
        yield PageFault(("operations", number, "minutes"), f"{step.id} has no minutes", "estimate low, likely and high", True)
    for place, item in enumerate(step.fasteners):
        yield from _fasteners(step, item, ("operations", number, "fasteners", place))


def _fasteners(step: Operation, item: Fasteners, where: Where) -> Iterator[PageFault]:
    if item.captive is None and item.kind == "screw":
        what = f"{step.id}: captive or loose is not known of {item.count} x {item.group}"
        yield PageFault((*where, "captive"), what, "ask at the next opening", True)
    if item.at and len(item.at) != item.count:
        cure = "give one place for each, or none"
        yield PageFault((*where, "at"), f"{step.id}: {item.count} fasteners, {len(item.at)} places", cure, True)
