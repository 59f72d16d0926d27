"""Counting fasteners and leads: what belongs in the tray and what must go back (rules F1 to F7)."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from almanac.core.parts.answers import Answer, no, unknown, yes
from almanac.core.teardown.counts import Count, total
from almanac.core.teardown.operations import Fasteners, Operation


@dataclass(frozen=True)
class TrayGroup:
    """One compartment of the tray: loose screws expected, captive ones, and those nobody has looked at.

    least, about : how the page has their number, rule U1: there may be more, nobody counted them
    """

    group: str
    loose: int
    captive: int
    unknown: int
    least: bool = False
    about: bool = False

    @property
    def counted(self) -> bool:
        """Whether the page holds a number that somebody counted."""
        return not (self.least or self.about)

    def expected(self, *, stays: bool = False) -> Count:
        """What should lie in the tray. stays : those nobody had looked at turned out captive"""
        return Count(self.loose + (0 if stays else self.unknown), self.least, self.about)


def tray_groups(steps: Iterable[Operation]) -> tuple[TrayGroup, ...]:
    """Fasteners by length group, loose and captive apart (rule F2).

    Parameters
    ----------
    steps : in any order

    Returns
    -------
    tuple of TrayGroup, in the order the groups first appear
    """
    loose: dict[str, list[Count]] = defaultdict(list)
    captive: dict[str, list[Count]] = defaultdict(list)
    open_: dict[str, list[Count]] = defaultdict(list)
    order: dict[str, None] = {}
    for step in steps:
        for item in step.fasteners:
            order.setdefault(item.group)
            where = captive if item.stays else open_ if item.captive is None else loose
            where[item.group].append(item.count)
    return tuple(_compartment(group, loose[group], captive[group], open_[group]) for group in order)


def _compartment(group: str, loose: list[Count], captive: list[Count], open_: list[Count]) -> TrayGroup:
    tray = total([*loose, *open_])
    return TrayGroup(group, total(loose).number, total(captive).number, total(open_).number, tray.least, tray.about)


def total_agrees(groups: Sequence[Fasteners], counted: int | None) -> Answer:
    """Whether a counted total is the sum of the groups; a difference is a question, not a correction (rule F1)."""
    listed = total(group.count for group in groups)
    if counted is None:
        return unknown(f"the groups add up to {listed.words}; nobody counted the whole")
    if not listed.agrees(counted):
        return unknown(f"the groups add up to {listed.words}, counted were {counted}: which is it?")
    if not listed.exact:
        return unknown(f"{counted} counted, the groups add up to {listed.words}: count each group")
    return yes(f"{counted} counted and listed")


def refit_complete(out: Mapping[str, int], back: Mapping[str, int]) -> Answer:
    """Whether every group has as many back as came out, so that the tray is empty (rule F3)."""
    groups = dict.fromkeys([*out, *back])
    different = [
        f"{group}: {out.get(group, 0)} out, {back.get(group, 0)} back" for group in groups if out.get(group, 0) != back.get(group, 0)
    ]
    return no("; ".join(different)) if different else yes("the tray is empty and every group is equal")


def leads_back(out: Iterable[str], back: Iterable[str]) -> Answer:
    """Whether the leads back are the leads out, as sets; every difference is named and blocks closing (rule F7)."""
    off, on = set(out), set(back)
    missing, foreign = sorted(off - on), sorted(on - off)
    words = [f"still off: {', '.join(missing)}"] * bool(missing) + [f"never taken off: {', '.join(foreign)}"] * bool(foreign)
    return no("; ".join(words)) if words else yes(f"all {len(off)} leads are back")


def gap_expected(item: Fasteners, *, driven: bool) -> Answer:
    """Whether a gap at a jack screw is normal: until it is driven, then it must vanish (rule F5)."""
    if item.kind != "jack":
        return no("no jack screw here: a gap is a fault")
    return no("the jack screw is driven: the gap must be gone") if driven else yes("the jack screw still lifts the panel")


CLOSING_ORDER = ("clip", "jack", "screw", "cam", "latch")
"""Clips first, then jack screws, then the rest (rule F5)."""


def closing_order(items: Iterable[Fasteners]) -> list[Fasteners]:
    """Fasteners of one cover in the order they are closed."""
    return sorted(items, key=lambda item: CLOSING_ORDER.index(item.kind) if item.kind in CLOSING_ORDER else 2)


def may_close(states: Mapping[str, str]) -> Answer:
    """Whether cams and latches are retracted before closing (rule F6).

    Parameters
    ----------
    states : name to "retracted", "engaged" or "unknown"
    """
    engaged = [name for name, state in states.items() if state == "engaged"]
    open_ = [name for name, state in states.items() if state not in ("engaged", "retracted")]
    if engaged:
        return no(f"still engaged: {', '.join(engaged)}")
    return unknown(f"look at {', '.join(open_)}") if open_ else yes("all retracted")
