"""Reading battery labels and checking their arithmetic (rules B1, B2, B3)."""

from __future__ import annotations

import re
from collections.abc import Mapping

from almanac.core import checks
from almanac.core.parts.kinds import Kind
from almanac.core.parts.labels.reading import Reading, clean

SERIES_LOW_V, SERIES_HIGH_V = 3.6, 3.95
GOOD, LOOK = 0.03, 0.07
CELL_LOW_WH, CELL_HIGH_WH = 8.0, 20.0
MOST_IN_SERIES = 8


def series_count(voltage_v: float) -> int | None:
    """Cells in series s with 3.6 <= V/s <= 3.95; none or two answers are unknown (rule B2).

    Parameters
    ----------
    voltage_v : nominal V, > 0

    Returns
    -------
    int or None

    Raises
    ------
    ContractError : a voltage that is not positive
    """
    volts = checks.positive("voltage_v", voltage_v)
    slack = 1e-9
    fitting = [s for s in range(1, MOST_IN_SERIES + 1) if SERIES_LOW_V - slack <= volts / s <= SERIES_HIGH_V + slack]
    return fitting[0] if len(fitting) == 1 else None


def energy_check(voltage_v: float, capacity_ah: float, energy_wh: float) -> tuple[str, float]:
    """How well three stated values agree: good to 3%, look to 7%, wrong above (rule B1).

    Parameters
    ----------
    voltage_v, capacity_ah, energy_wh : > 0

    Returns
    -------
    ("good", "look" or "wrong", relative difference of stated and computed Wh)

    Raises
    ------
    ContractError : a value that is not positive
    """
    computed = checks.positive("voltage_v", voltage_v) * checks.positive("capacity_ah", capacity_ah)
    off = abs(checks.positive("energy_wh", energy_wh) - computed) / computed
    return ("good" if off <= GOOD else "look" if off <= LOOK else "wrong"), off


def plausible_energy(energy_wh: float, cells: int) -> bool:
    """Whether a pack's Wh suit its cells: 8 to 20 Wh a cell (rule B3).

    Parameters
    ----------
    energy_wh : > 0 · cells : all cells of the pack, >= 1

    Returns
    -------
    bool

    Raises
    ------
    ContractError : an energy or count that is not positive
    """
    per_cell = checks.positive("energy_wh", energy_wh) / checks.positive("cells", cells)
    return CELL_LOW_WH <= per_cell <= CELL_HIGH_WH


def read_battery(text: str) -> Reading:
    """Voltage, charge, energy, cells and pack number of a battery's label.

    Parameters
    ----------
    text : the label as read, such as "15.2V 3950mAh 60Wh"

    Returns
    -------
    Reading : kind battery with facts voltage_v, capacity_ah, energy_wh, series, cells
    """
    line, reading = clean(text), Reading(Kind.BATTERY)
    volts = _number(r"V(?:DC)?\b", line)
    amp_hours, milliamp_hours = _number(r"Ah\b", line), _number(r"mAh\b", line)
    watt_hours, watts = _number(r"Wh\b", line), _number(r"W\b", line)
    if watt_hours is None and watts is not None:
        watt_hours = watts
        reading.ask("W said of a pack is taken for Wh")
    charge = milliamp_hours / 1000 if milliamp_hours is not None else amp_hours
    if charge is not None and charge > 100:
        reading.ask(f"{charge:g} Ah is a unit slip: taken for mAh")
        charge /= 1000
    _energy({"voltage_v": volts, "capacity_ah": charge, "energy_wh": watt_hours}, reading)
    _cells(line, reading)
    return reading


def _number(unit: str, line: str) -> float | None:
    # A zero is no reading.
    found = re.search(rf"(?<![\d.])(\d+(?:\.\d+)?)\s*{unit}", line, re.IGNORECASE if unit != r"Ah\b" else 0)
    return float(found[1]) or None if found else None


def _energy(stated: Mapping[str, float | None], reading: Reading) -> None:
    """Rule B1: two of the three give the third, all three are held against one another."""
    reading.facts.update({name: value for name, value in stated.items() if value is not None})
    volts, charge, energy = (stated[name] for name in ("voltage_v", "capacity_ah", "energy_wh"))
    if volts and charge and energy:
        verdict, off = energy_check(volts, charge, energy)
        reading.facts["agreement"] = verdict
        if verdict != "good":
            meaning = "rated against typical values?" if verdict == "look" else "one of the three is misread"
            reading.ask(f"{volts:g} V x {charge:g} Ah is {volts * charge:.2f} Wh, {off:.1%} off {energy:g} Wh: {meaning}")
    elif volts and charge:
        reading.work_out("energy_wh", round(volts * charge, 2), f"Wh computed: {volts:g} V x {charge:g} Ah")
    elif volts and energy:
        reading.work_out("capacity_ah", round(energy / volts, 3), f"Ah computed: {energy:g} Wh / {volts:g} V")
    elif charge and energy:
        reading.work_out("voltage_v", round(energy / charge, 2), f"V computed: {energy:g} Wh / {charge:g} Ah")
    else:
        reading.ask("two of V, Ah and Wh are needed")


def _cells(line: str, reading: Reading) -> None:
    layout = re.search(r"\b(\d)S(\d)P\b", line, re.IGNORECASE)
    counted = re.search(r"\b(\d{1,2})[- ]cells?\b", line, re.IGNORECASE)
    volts, energy = reading.facts.get("voltage_v"), reading.facts.get("energy_wh")
    series = series_count(volts) if volts else None
    if volts:
        reading.facts["series"] = series
        if series is None:
            reading.ask(f"{volts:g} V suits no one number of cells in series: read the voltage again")
    if layout:
        reading.facts["cells"] = int(layout[1]) * int(layout[2])
        if series and series != int(layout[1]):
            reading.ask(f"the label says {layout[1]} in series, {volts:g} V says {series}")
    elif counted:
        reading.facts["cells"] = int(counted[1])
        if series and int(counted[1]) % series:
            reading.ask(
                f"{counted[1]} cells at {volts:g} V are doubted: that voltage is {series} in series, so {series} or {2 * series} cells"
            )
    _plausible(energy, series, reading)


def _plausible(energy: float | None, series: int | None, reading: Reading) -> None:
    cells = reading.facts.get("cells")
    tried = [cells] if cells else [series * beside for beside in (1, 2, 3)] if series else []
    if energy and tried and not any(plausible_energy(energy, count) for count in tried):
        reading.ask(f"{energy:g} Wh in {tried[0]} cells is implausible (8 to 20 Wh a cell): check the unit")
