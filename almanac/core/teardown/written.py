"""From a page as it is stored to its graph, for a machine with some options."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from almanac.core.errors import ContractError
from almanac.core.parts.holding import held_of
from almanac.core.parts.stated import HEARSAY, field, said
from almanac.core.teardown.counts import read_count
from almanac.core.teardown.estimate import estimated_minutes
from almanac.core.teardown.minutes import Minutes, stated_minutes
from almanac.core.teardown.operations import (
    UNKNOWN_PLUG,
    Box,
    Fasteners,
    OneWay,
    Operation,
    Place,
    Plug,
    Point,
    Teardown,
    WayBack,
)
from almanac.core.teardown.tools import read_tools

MOSTLY = "mostly"
"""Most of some fasteners are captive: which ones is to be looked at."""


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
    places = {place.key: place for place in map(_place, page.get("positions") or [])}
    for place, entry in enumerate(page.get("operations") or []):
        step = _timed(_operation(entry, place, page.get("evidence")), entry, places, page.get("form"))
        if step.id in operations:
            raise ContractError(f"operations[{place}].id: an id used once was wanted, got {step.id!r}")
        if applies(step.when, actual):
            operations[step.id] = step
    kept = {key: place for key, place in places.items() if applies(place.when, actual)}
    present = set(operations)
    pruned = {key: _without_missing(step, present, page) for key, step in operations.items()}
    return Teardown(pruned, kept, page.get("form"), options=frozenset(actual))


def _without_missing(step: Operation, present: set[str], page: Mapping[str, Any]) -> Operation:
    """Alternatives that the options exclude are dropped; names the page does not hold at all stay, for the checks to find."""
    written = {entry["id"] for entry in page.get("operations") or []}
    needs = tuple(tuple(name for name in group if name in present or name not in written) for group in step.needs)
    return replace(step, needs=tuple(group for group in needs if group))


def _timed(step: Operation, entry: Mapping[str, Any], places: Mapping[str, Place], form: str | None) -> Operation:
    """A step with its minutes: those on the page, or an estimate that says it is one."""
    return step if entry.get("minutes") is not None else replace(step, minutes=estimated_minutes(step, places, form))


def _operation(entry: Mapping[str, Any], place: int, evidence: Mapping[str, Any] | None) -> Operation:
    try:
        fasteners = tuple(fasteners_of(item) for item in entry.get("fasteners") or [])
        return Operation(
            id=entry["id"],
            text=entry["text"],
            needs=tuple(_alternatives(need) for need in entry.get("needs") or []),
            frees=tuple(entry.get("frees") or []),
            exposes=tuple(entry.get("exposes") or []),
            aids=tuple(entry.get("aids") or []),
            consumables=tuple(entry.get("consumables") or []),
            tools=read_tools(entry.get("tool"), (item.bit for item in fasteners)),
            fasteners=fasteners,
            plugs=tuple(_plug(item) for item in entry.get("plugs") or []),
            only_done=_only_done(entry.get("needs") or []),
            hearsay=hearsay_of(entry.get("evidence") or evidence or {}),
            minutes=stated_minutes(entry.get("minutes")) or Minutes(0.0, 0.0, 0.0),
            face=entry.get("face"),
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
    if isinstance(need, str):
        return (need,)
    return (need["done"],) if "done" in need else tuple(need["any"])


def _only_done(needs: Sequence[Any]) -> tuple[str, ...]:
    return tuple(need["done"] for need in needs if isinstance(need, Mapping) and "done" in need and need["done"] not in needs)


def _plug(item: Mapping[str, Any]) -> Plug:
    kind, release = said(item["kind"]), field(item, "release")
    doubts = [f"{what} {one.doubt}" for what, one in (("kind", kind), ("direction", release)) if one.doubt]
    return Plug(item["name"], kind.value or UNKNOWN_PLUG, release.value, _point(item.get("at")), ", ".join(doubts))


def hearsay_of(evidence: Mapping[str, Any]) -> str:
    """What a step rests on where nobody here saw it: only told (the supplier); empty where somebody did."""
    if evidence.get("grade") not in HEARSAY:
        return ""
    return f"only {evidence['grade']}" + (f" ({evidence['source']})" if evidence.get("source") else "")


def _point(value: Any) -> Point | None:
    return (float(value[0]), float(value[1])) if value else None


def _box(value: Mapping[str, Any]) -> Box:
    return Box(value["x_mm"], value["y_mm"], value["width_mm"], value["depth_mm"])


def fasteners_of(item: Mapping[str, Any]) -> Fasteners:
    """One group of fasteners as a page holds it.

    Raises
    ------
    ContractError : a count that is none
    """
    return Fasteners(
        group=item["group"],
        count=read_count(item["count"]),
        bit=item.get("bit"),
        thread=item.get("thread"),
        captive=None if item.get("captive") == MOSTLY else item.get("captive"),
        mostly=item.get("captive") == MOSTLY,
        kind=item.get("kind") or "screw",
        hidden=item.get("hidden"),
        at=tuple((float(x), float(y)) for x, y in item.get("at") or []),
        decoys=read_count(item.get("decoys") or 0),
        numbered=bool(item.get("numbered")),
    )


def _back(entry: Mapping[str, Any]) -> WayBack:
    return WayBack(
        text=entry.get("text"),
        minutes=stated_minutes(entry.get("minutes")),
        before=tuple(entry.get("before") or []),
        after=tuple(entry.get("after") or []),
        left_out=bool(entry.get("left_out")),
    )


def _place(entry: Mapping[str, Any]) -> Place:
    rules = held_of(entry)
    return Place(
        key=rules.key,
        label=entry.get("label") or rules.key,
        kind=rules.kind,
        held=rules.held,
        part_of=rules.part_of,
        orderable=rules.orderable,
        doubt=rules.doubt,
        box=_box(entry["place"]) if entry.get("place") else None,
        state=entry.get("state") or "present",
        when=entry.get("when"),
    )
