"""Whether the machine reports what was planned: memory, drive, pack and fan after the swap (rules M9, B1, B5)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from almanac.core.parts.answers import Answer, no, unknown, yes

MEMORY_TOLERANCE_GB = 0.5
DRIVE_TOLERANCE = 0.01
PACK_TOLERANCE = 0.05
LEAST_USABLE = 0.85


@dataclass(frozen=True)
class Planned:
    """What the machine should report; None where it was not touched or nobody knows."""

    memory_gb: float | None = None
    drives_gb: tuple[float, ...] = ()
    pack_wh: float | None = None
    fans: int = 0


@dataclass(frozen=True)
class Reported:
    """What it reports. usable_gb : memory the system can use · fans_rpm : one a fan · None where it says nothing."""

    memory_gb: float | None = None
    usable_gb: float | None = None
    drives_gb: tuple[float, ...] = ()
    pack_design_wh: float | None = None
    pack_full_wh: float | None = None
    charging: bool | None = None
    fans_rpm: tuple[float, ...] = ()
    memory_prompts: int = 0


@dataclass(frozen=True)
class Comparison:
    """One figure against plan."""

    what: str
    planned: str
    reported: str
    answer: Answer


def compare(planned: Planned, reported: Reported) -> list[Comparison]:
    """Every figure that was planned against what the machine says.

    Parameters
    ----------
    planned : after the swap · reported : by the machine

    Returns
    -------
    list of Comparison : memory, drives, pack, fans, as far as planned
    """
    found = []
    if planned.memory_gb is not None:
        found.append(_memory(planned.memory_gb, reported))
    found += _drives(planned.drives_gb, reported.drives_gb)
    if planned.pack_wh is not None:
        found.append(_pack(planned.pack_wh, reported))
    if planned.fans:
        found.append(_fans(planned.fans, reported.fans_rpm))
    return found


def _memory(planned: float, reported: Reported) -> Comparison:
    words = f"{reported.memory_gb:g} GB" if reported.memory_gb is not None else "nothing"
    return Comparison("memory", f"{planned:g} GB", words, memory_accepted(planned, reported))


def memory_accepted(planned_gb: float, reported: Reported) -> Answer:
    """Memory: within half a GB; usable a little below installed is normal, below 85% is asked; a repeated prompt fails (rule M9)."""
    if reported.memory_gb is None:
        return unknown("the machine says nothing about its memory: read it in its settings")
    if abs(reported.memory_gb - planned_gb) >= MEMORY_TOLERANCE_GB:
        return no(f"{reported.memory_gb:g} GB reported, {planned_gb:g} GB planned: reseat the module, then the other slot")
    if reported.memory_prompts > 1:
        return no('the prompt "memory changed" came again: a module or its contact is bad')
    if reported.usable_gb is not None and reported.usable_gb < LEAST_USABLE * reported.memory_gb:
        return unknown(f"only {reported.usable_gb:g} of {reported.memory_gb:g} GB usable: is memory reserved for the display?")
    return yes("within half a GB of what was planned")


def _drives(planned: Sequence[float], reported: Sequence[float]) -> list[Comparison]:
    """Each planned drive against the nearest reported one that is not taken yet."""
    left = list(reported)
    found = []
    for size in sorted(planned, reverse=True):
        nearest = min(left, key=lambda other: abs(other - size), default=None)
        if nearest is not None:
            left.remove(nearest)
        words = f"{nearest:g} GB" if nearest is not None else "nothing"
        found.append(Comparison("drive", f"{size:g} GB", words, drive_accepted(size, nearest)))
    return found


def drive_accepted(planned_gb: float, reported_gb: float | None) -> Answer:
    """Drive: its size within 1%. A drive that is not seen may be of the wrong bus: it goes in and is not detected (rule S3)."""
    if reported_gb is None:
        return no("no drive is seen: check its seat, then its bus; a wrong bus goes in and is not detected")
    if abs(reported_gb - planned_gb) > DRIVE_TOLERANCE * planned_gb:
        return no(f"{reported_gb:g} GB reported, {planned_gb:g} GB planned: is it the drive you fitted?")
    return yes("within 1% of what was planned")


def _pack(planned: float, reported: Reported) -> Comparison:
    words = f"{reported.pack_design_wh:g} Wh" if reported.pack_design_wh is not None else "nothing"
    return Comparison("pack", f"{planned:g} Wh", words, pack_accepted(planned, reported))


def pack_accepted(planned_wh: float, reported: Reported) -> Answer:
    """Pack: design energy within 5%, and charging seen after a swap (rule B5)."""
    if reported.pack_design_wh is None:
        return unknown("the machine says nothing about its pack: is its plug seated?")
    if abs(reported.pack_design_wh - planned_wh) > PACK_TOLERANCE * planned_wh:
        return no(f"{reported.pack_design_wh:g} Wh reported, {planned_wh:g} Wh planned: is it the pack you fitted?")
    if reported.charging is None:
        return unknown("charging was not seen yet: connect the charger and look")
    return yes("within 5% of what was planned, and charging") if reported.charging else no("it does not charge: check plug and charger")


def _fans(count: int, speeds: Sequence[float]) -> Comparison:
    turning = sum(speed > 0 for speed in speeds)
    words = ", ".join(f"{speed:g} rpm" for speed in speeds) or "nothing"
    if not speeds:
        answer = unknown("no fan speed is reported: listen at the vent under load")
    elif turning < count:
        answer = no(f"{turning} of {count} turning: is its plug seated?")
    else:
        answer = yes("every fan turns")
    return Comparison("fan", f"{count} turning", words, answer)


def report_of(document: Mapping[str, object]) -> Reported:
    """A report from the entry of a journal."""
    values = {key: tuple(value) if isinstance(value, list) else value for key, value in document.items()}
    fields = Reported.__dataclass_fields__
    return Reported(**{key: value for key, value in values.items() if key in fields})  # type: ignore[arg-type]
