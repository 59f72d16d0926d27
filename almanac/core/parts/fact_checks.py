"""What the facts of a page say together that cannot be: grades of another generation, Wh no pack holds, units that slipped."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from typing import Any

from almanac.core.parts.answers import known
from almanac.core.parts.declared.facts import CADDY_BAYS_MM, Subject
from almanac.core.parts.declared.understand import page_faults_of_facts, read_facts
from almanac.core.parts.faults import PageFault, Where
from almanac.core.parts.kinds import Kind
from almanac.core.parts.labels.battery import energy_check, plausible_energy, series_count
from almanac.core.parts.labels.drive import THICKNESSES_MM
from almanac.core.parts.labels.memory import GRADES, repairs_of_grade

SMALLEST_PLAN_MM = 60.0


def fact_faults(page: Mapping[str, Any]) -> list[PageFault]:
    """Every fact of a page that cannot be, by itself or beside the others, with the cure.

    Parameters
    ----------
    page : a page document in its stored form

    Returns
    -------
    list of PageFault
    """
    together = (fault for place, entry in enumerate(page.get("positions") or []) for fault in _position(entry, place))
    return [*_plan(page), *page_faults_of_facts(page), *together]


def faults_of_part(kind: Kind, facts: Mapping[str, Any], where: Where = ("facts",)) -> list[PageFault]:
    """The same of the facts of a stock part."""
    alone = read_facts(facts, where, kind, Subject.PART)
    return list(alone.faults) or list(_together(kind, alone.facts, where))


def _plan(page: Mapping[str, Any]) -> Iterator[PageFault]:
    plan = page.get("plan") or {}
    for name in ("width_mm", "depth_mm"):
        size = plan.get(name)
        if size is not None and size < SMALLEST_PLAN_MM:
            yield PageFault(("plan", name), f"{size:g} mm is smaller than any machine", f"in inches? {size:g} in is {size * 25.4:.0f} mm")


def _position(entry: Mapping[str, Any], place: int) -> Iterator[PageFault]:
    if entry.get("kind") not in list(Kind):
        return
    for subject in (Subject.PLACE, Subject.PART):
        facts, where = entry.get(subject.value) or {}, ("positions", place, subject.value)
        # What a value that cannot be would say beside others is not asked: it says nothing.
        read = read_facts(facts, where, Kind(entry["kind"]), subject)
        if not read.faults:
            yield from _together(Kind(entry["kind"]), read.facts, where)


def _together(kind: Kind, facts: Mapping[str, Any], where: Where) -> Iterator[PageFault]:
    checks: dict[Kind, Callable[[Mapping[str, Any], Where], Iterator[PageFault]]] = {
        Kind.MEMORY: _memory,
        Kind.SSD: _drive,
        Kind.OPTICAL_DRIVE: _drive,
        Kind.BATTERY: _battery,
    }
    if kind in checks:
        yield from checks[kind](facts, where)


def _memory(facts: Mapping[str, Any], where: Where) -> Iterator[PageFault]:
    generation, grade, volts = known(facts, "generation"), known(facts, "grade_mt_s"), known(facts, "voltage_v")
    low = known(facts, "low_voltage")
    if generation is None or not str(generation.value).startswith("DDR"):
        return
    number = int(str(generation.value)[3])
    if grade and grade.value not in GRADES[number]:
        near = repairs_of_grade(number, int(grade.value))
        cure = f"did you mean {' or '.join(map(str, near))}?" if near else f"one of {', '.join(map(str, GRADES[number]))}"
        yield PageFault((*where, "grade_mt_s"), f"{grade.value} MT/s is no grade of {generation.value}", cure)
    for name, said in (("voltage_v", volts), ("low_voltage", low)):
        # Rule M2: only DDR3 comes in two voltages.
        if number > 3 and said is not None and said.value is not False:
            yield PageFault((*where, name), f"{generation.value} has one voltage, so none is stated of it", f"drop {name}")


def _drive(facts: Mapping[str, Any], where: Where) -> Iterator[PageFault]:
    form, thickness = known(facts, "form"), known(facts, "thickness_mm")
    if thickness is None:
        return
    optical = form is not None and form.value == "optical bay"
    there_are = CADDY_BAYS_MM if optical else THICKNESSES_MM
    if thickness.value not in there_are:
        what = "an optical bay" if optical else "a drive or its bay"
        listed = ", ".join(f"{value:g}" for value in there_are)
        yield PageFault((*where, "thickness_mm"), f"{thickness.value:g} mm is no height of {what}", f"measure it: {listed} exist")


def _battery(facts: Mapping[str, Any], where: Where) -> Iterator[PageFault]:
    volts, charge, energy = known(facts, "voltage_v"), known(facts, "capacity_ah"), known(facts, "energy_wh")
    series = series_count(volts.value) if volts and volts.value > 0 else None
    if volts and series is None:
        yield PageFault((*where, "voltage_v"), f"{volts.value:g} V suits no one number of cells in series", "read the voltage again")
    if volts and charge and energy:
        verdict, off = energy_check(volts.value, charge.value, energy.value)
        if verdict == "wrong":
            computed = volts.value * charge.value
            message = f"{volts.value:g} V x {charge.value:g} Ah is {computed:.1f} Wh, not {energy.value:g} ({off:.0%} off)"
            yield PageFault((*where, "energy_wh"), message, "one of the three is misread")
    if energy and series and not any(plausible_energy(energy.value, series * beside) for beside in (1, 2, 3)):
        message = f"{energy.value:g} Wh in {series} cells in series is implausible (8 to 20 Wh a cell)"
        yield PageFault((*where, "energy_wh"), message, "check the unit: Wh, not W or mWh")
