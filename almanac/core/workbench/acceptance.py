"""Whether the machine reports what was planned: memory, drive, pack and fan after the swap (rules M9, B1, B5)."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from almanac.core.parts.answers import Answer, no, unknown, yes
from almanac.core.parts.labels.memory import grade_of_report
from almanac.core.workbench.reported import ModuleSeen, Reported

MEMORY_TOLERANCE_GB = 0.5
DRIVE_TOLERANCE = 0.01
PACK_TOLERANCE = 0.05
LEAST_USABLE = 0.85
WARMER_C = 5.0
"""By so much a reading moves with the load of the moment."""


@dataclass(frozen=True)
class ModulePlanned:
    """A module that was agreed; None and empty where nobody knows."""

    gb: float | None = None
    generation: str = ""
    mt_s: float | None = None


@dataclass(frozen=True)
class Otherwise:
    """Another part was fitted than was agreed. differs : the figures in which it does, in words; none where it is as good"""

    label: str
    agreed: str
    fitted: str
    differs: tuple[str, ...] = ()


@dataclass(frozen=True)
class Planned:
    """What the machine should report, by what was agreed; None where it was not touched or nobody knows.

    modules : in slots; none where one of them is not known · buses : of the drives, in their order, empty where not known
    """

    memory_gb: float | None = None
    modules: tuple[ModulePlanned, ...] = ()
    buses: tuple[str, ...] = ()
    otherwise: tuple[Otherwise, ...] = ()
    drives_gb: tuple[float, ...] = ()
    pack_wh: float | None = None
    fans: int = 0


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
    found = fitted_otherwise(planned)
    if planned.memory_gb is not None:
        found.append(_memory(planned.memory_gb, reported))
    if planned.modules and reported.modules:
        found.append(_modules(planned.modules, reported))
    found += _drives(planned, reported)
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
    return yes("within half a GB")


def fitted_otherwise(planned: Planned) -> list[Comparison]:
    """Parts that went in in place of the agreed ones: known without any report."""
    return [
        Comparison(
            item.label,
            item.agreed,
            item.fitted,
            no(f"agreed was another one: {'; '.join(item.differs)}") if item.differs else yes("another part of the same figures"),
        )
        for item in planned.otherwise
    ]


def cooler(before_c: float, after_c: float) -> Comparison:
    """The hottest processor reading before a swap and after it: a sink that was off shows here. Both under the load that was there."""
    answer = (
        yes("no hotter than before") if after_c <= before_c + WARMER_C else unknown("hotter than before: paste and screws of the sink?")
    )
    return Comparison("processor", f"{before_c:g} °C before", f"{after_c:g} °C", answer)


def _modules(planned: Sequence[ModulePlanned], reported: Reported) -> Comparison:
    return Comparison("modules", _sizes(planned), _sizes(reported.modules), modules_accepted(planned, reported.modules))


def _sizes(modules: Sequence[ModulePlanned] | Sequence[ModuleSeen]) -> str:
    words = Counter(f"{module.gb:g} GB {module.generation}".strip() if module.gb else "a module" for module in modules)
    return " + ".join(f"{count} × {what}" if count > 1 else what for what, count in words.items())


def modules_accepted(planned: Sequence[ModulePlanned], reported: Sequence[ModuleSeen]) -> Answer:
    """Modules: as many as agreed at least, since soldered memory may show as modules too, of the generation and the grade agreed."""
    if len(reported) < len(planned):
        return no(f"{len(reported)} of {len(planned)} modules seen: reseat the missing one, then the other slot")
    wanted = {module.generation for module in planned if module.generation}
    strange = sorted({module.generation for module in reported if module.generation} - wanted)
    if wanted and strange and not any(name.startswith("LP") for name in strange):
        return no(f"{', '.join(strange)} reported, {', '.join(sorted(wanted))} wanted: is it the right module?")
    grade = min((module.mt_s for module in planned if module.mt_s), default=None)
    for module in reported if grade else ():
        seen, question = _grade(module)
        if seen is not None and grade and seen < grade:
            return no(f"a module made for {seen:g} MT/s, {grade:g} MT/s wanted: is it the right module?")
        if seen is None and question:
            return unknown(question)
    return yes("as many, of the generation and grade wanted" if grade else "as many as wanted")


def _grade(module: ModuleSeen) -> tuple[float | None, str | None]:
    """The grade of a module, of whom a machine may say its clock, half of it (rule M3); or a question where it may be either."""
    generation = module.generation.removeprefix("LP").removeprefix("DDR")[:1]
    if module.mt_s is None or generation not in ("3", "4", "5"):
        return module.mt_s, None
    grade, question = grade_of_report(int(generation), round(module.mt_s))
    return (float(grade), None) if grade is not None else (None, question)


def _drives(planned: Planned, reported: Reported) -> list[Comparison]:
    """Each planned drive against the nearest reported one that is not taken yet, and what is there besides."""
    seen = {place: drive.bus for place, drive in enumerate(drive for drive in reported.drives if drive.gb is not None)}
    left = dict(enumerate(reported.drives_gb))
    buses = dict(enumerate(planned.buses))
    found = []
    for place, size in sorted(enumerate(planned.drives_gb), key=lambda item: -item[1]):
        nearest = min(left, key=lambda other: abs(left[other] - size), default=None)
        got = left.pop(nearest) if nearest is not None else None
        bus, wanted = seen.get(nearest, "") if nearest is not None else "", buses.get(place, "")
        answer = drive_accepted(size, got)
        if answer.verdict == "yes" and bus and wanted and bus not in wanted.split(" or "):
            answer = no(f"a {bus} drive reported, {wanted} wanted: is it the right drive?")
        words = f"{got:.4g} GB {bus}".strip() if got is not None else "nothing"
        found.append(Comparison("drive", f"{size:g} GB {wanted}".strip(), words, answer))
    more = [f"{size:.4g} GB" for size in left.values()]
    if planned.drives_gb and more:
        found.append(
            Comparison("drive", "none", " and ".join(more), unknown("a drive more than agreed: whose is it, and is its data safe?"))
        )
    return found


def drive_accepted(planned_gb: float, reported_gb: float | None) -> Answer:
    """Drive: its size within 1%. A drive that is not seen may be of the wrong bus: it goes in and is not detected (rule S3)."""
    if reported_gb is None:
        return no("no drive is seen: check its seat, then its bus; a wrong bus goes in and is not detected")
    if abs(reported_gb - planned_gb) > DRIVE_TOLERANCE * planned_gb:
        return no(f"{reported_gb:g} GB reported, {planned_gb:g} GB planned: is it the drive you fitted?")
    return yes("within 1%")


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
    return yes("within 5%, and charging") if reported.charging else no("it does not charge: check plug and charger")


def _fans(count: int, speeds: Sequence[float]) -> Comparison:
    turning = sum(speed > 0 for speed in speeds)
    words = ", ".join(f"{speed:g} rpm" for speed in speeds) or "nothing"
    if not speeds:
        answer = unknown("no fan speed is reported: listen at the vent under load")
    elif turning < count:
        answer = no(f"{turning} of {count} turning: is its plug seated?")
    else:
        still = len(speeds) - turning
        answer = yes("every fan turns" if still == 0 else f"as many turn as there are fans; {still} of the sensors says nought")
    return Comparison("fan", f"{count} turning", words, answer)
