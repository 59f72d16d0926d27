"""Values of a page that cannot be: lengths and grades that do not exist, Wh no pack holds, units that slipped."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from typing import Any

from almanac.core.parts.answers import known
from almanac.core.parts.fact_shapes import shape_faults
from almanac.core.parts.faults import PageFault, Where
from almanac.core.parts.kinds import Kind
from almanac.core.parts.labels.battery import energy_check, plausible_energy, series_count
from almanac.core.parts.labels.drive import M2_LENGTHS_MM, THICKNESSES_MM
from almanac.core.parts.labels.memory import GRADES

SMALLEST_PLAN_MM = 60.0
CADDY_BAYS_MM = (9.0, 9.5, 12.7)


def fact_faults(page: Mapping[str, Any]) -> list[PageFault]:
    """Every value of a page that its kind rules out, with the cure.

    Parameters
    ----------
    page : a page document in its stored form

    Returns
    -------
    list of PageFault
    """
    machine = shape_faults(page.get("facts") or {}, ("facts",), None)
    positions = (fault for place, entry in enumerate(page.get("positions") or []) for fault in _position(entry, place))
    return [*_plan(page), *machine, *positions]


def _plan(page: Mapping[str, Any]) -> Iterator[PageFault]:
    plan = page.get("plan") or {}
    for name in ("width_mm", "depth_mm"):
        size = plan.get(name)
        if size is not None and size < SMALLEST_PLAN_MM:
            yield PageFault(("plan", name), f"{size:g} mm is smaller than any machine", f"in inches? {size:g} in is {size * 25.4:.0f} mm")


def _position(entry: Mapping[str, Any], place: int) -> Iterator[PageFault]:
    checks: dict[Kind, Callable[[Mapping[str, Any], Where], Iterator[PageFault]]] = {
        Kind.MEMORY: _memory,
        Kind.SSD: _drive,
        Kind.BATTERY: _battery,
    }
    kind = Kind(entry["kind"])
    for part in ("takes", "fitted"):
        facts, where = entry.get(part) or {}, ("positions", place, part)
        misshapen = list(shape_faults(facts, where, kind))
        yield from misshapen
        # What a value of another shape would say is not asked: it says nothing.
        if not misshapen and kind in checks:
            yield from checks[kind](facts, where)


def _memory(facts: Mapping[str, Any], where: Where) -> Iterator[PageFault]:
    generation, grade, size = known(facts, "generation"), known(facts, "grade_mt_s"), known(facts, "maximum_gb")
    if grade and generation and str(generation.value).startswith("DDR"):
        grades = GRADES.get(int(str(generation.value)[3]), ())
        if grade.value not in grades:
            listed = ", ".join(map(str, grades))
            yield PageFault((*where, "grade_mt_s"), f"{grade.value} MT/s is no grade of {generation.value}", f"one of {listed}")
    if size and isinstance(size.value, int | float) and size.value > 256:
        yield PageFault((*where, "maximum_gb"), f"{size.value} GB is above any module", "in MB? divide by 1,024")


def _drive(facts: Mapping[str, Any], where: Where) -> Iterator[PageFault]:
    lengths, length, thickness = known(facts, "lengths_mm"), known(facts, "length_mm"), known(facts, "thickness_mm")
    for name, found in (("lengths_mm", lengths), ("length_mm", length)):
        for value in (found.value if isinstance(found.value, list) else [found.value]) if found else []:
            if value not in M2_LENGTHS_MM:
                cure = f"measure it: {', '.join(map(str, M2_LENGTHS_MM))} exist"
                yield PageFault((*where, name), f"no M.2 drive is {value} mm long", cure)
    if thickness and thickness.value not in (*THICKNESSES_MM, *CADDY_BAYS_MM):
        slip = f"in inches? {thickness.value * 25.4:.1f} mm" if thickness.value < 1 else f"one of {', '.join(map(str, THICKNESSES_MM))}"
        yield PageFault((*where, "thickness_mm"), f"{thickness.value:g} mm is no thickness of a drive bay", slip)


def _battery(facts: Mapping[str, Any], where: Where) -> Iterator[PageFault]:
    volts, charge, energy = known(facts, "voltage_v"), known(facts, "capacity_ah"), known(facts, "energy_wh")
    series = series_count(volts.value) if volts and volts.value > 0 else None
    if volts and series is None:
        yield PageFault((*where, "voltage_v"), f"{volts.value:g} V suits no one number of cells in series", "read the voltage again")
    if charge and charge.value > 100:
        yield PageFault((*where, "capacity_ah"), f"{charge.value:g} Ah is above any pack", f"in mAh? {charge.value / 1000:g} Ah")
        return
    if volts and charge and energy:
        verdict, off = energy_check(volts.value, charge.value, energy.value)
        if verdict == "wrong":
            computed = volts.value * charge.value
            message = f"{volts.value:g} V x {charge.value:g} Ah is {computed:.1f} Wh, not {energy.value:g} ({off:.0%} off)"
            yield PageFault((*where, "energy_wh"), message, "one of the three is misread")
    if energy and series and not any(plausible_energy(energy.value, series * beside) for beside in (1, 2, 3)):
        message = f"{energy.value:g} Wh in {series} cells in series is implausible (8 to 20 Wh a cell)"
        yield PageFault((*where, "energy_wh"), message, "check the unit: Wh, not W or mWh")
