"""Batteries: alternates, condition, comparison (rules B2 to B7)."""

from __future__ import annotations

from dataclasses import dataclass

from almanac.core import checks
from almanac.core.parts.answers import Answer, Facts, Known, all_of, known, no, unknown, yes
from almanac.core.parts.labels.battery import series_count

KEEP_ABOVE, REPLACE_BELOW = 0.80, 0.60


def series_of(facts: Facts) -> Known | None:
    """Cells in series as stated, or from the voltage (rule B2)."""
    stated = known(facts, "series")
    if stated is not None:
        return stated
    volts = known(facts, "voltage_v")
    count = series_count(volts.value) if volts else None
    return Known(count, volts.grade) if volts and count else None


def fit_battery(takes: Facts, pack: Facts) -> Answer:
    """Whether a pack may take the place of the listed one (rule B6).

    Parameters
    ----------
    takes : facts of the bay: series or voltage_v, plug, mount, lead_stays, revision, energy_wh
    pack : facts of the part: series or voltage_v, plug, mount, revision, energy_wh

    Returns
    -------
    Answer : a different Wh is allowed and named as practice
    """
    return all_of([_series(takes, pack), _plug(takes, pack), _mount(takes, pack), _revision(takes, pack), _energy(takes, pack)])


def _series(takes: Facts, pack: Facts) -> Answer:
    bay, part = series_of(takes), series_of(pack)
    if bay is None or part is None:
        return unknown(f"the cells in series of the {'bay' if bay is None else 'pack'} are not known", bay, part)
    if bay.value != part.value:
        return no(f"{part.value} cells in series, the machine wants {bay.value}", bay, part)
    return yes(f"{bay.value} cells in series on both", bay, part)


def _plug(takes: Facts, pack: Facts) -> Answer:
    bay, part, stays = known(takes, "plug"), known(pack, "plug"), known(takes, "lead_carries_over")
    if stays is not None and stays.value:
        return yes("the lead carries over from the old pack", stays)
    if bay is None or part is None:
        return unknown(f"the plug of the {'machine' if bay is None else 'pack'} is not known", bay, part)
    if bay.value != part.value:
        return no(f"plug {part.value}, the machine has {bay.value}", bay, part)
    return yes("plug and lead fit", bay, part)


def _mount(takes: Facts, pack: Facts) -> Answer:
    bay, part = known(takes, "mount"), known(pack, "mount")
    if bay is None or part is None:
        return unknown(f"screws and room of the {'bay' if bay is None else 'pack'} are not known", bay, part)
    mounts = bay.value if isinstance(bay.value, list) else [bay.value]
    if part.value not in mounts:
        return no(f"the pack is built for bay {part.value}, this is {' or '.join(mounts)}", bay, part)
    return yes("screws and room fit", bay, part)


def _revision(takes: Facts, pack: Facts) -> Answer:
    bay, part = known(takes, "revision"), known(pack, "revision")
    if bay is not None and part is not None and bay.value != part.value:
        return unknown(f"revision {part.value}, fitted is {bay.value}: ask whether they are interchangeable", bay, part)
    return yes("no other revision")


def _energy(takes: Facts, pack: Facts) -> Answer:
    bay, part = known(takes, "energy_wh"), known(pack, "energy_wh")
    if bay is None or part is None or bay.value == part.value:
        return yes("energy as fitted" if bay and part else "energy not compared", bay, part)
    return yes("energy differs, which is allowed", bay, part, practice=f"{part.value:g} Wh instead of {bay.value:g} Wh")


def larger_pack(first: Facts, second: Facts) -> Answer:
    """Whether the second pack holds more: by Wh; mAh only at equal series count (rule B3).

    Parameters
    ----------
    first, second : facts energy_wh, capacity_ah, series or voltage_v

    Returns
    -------
    Answer
    """
    one, other = known(first, "energy_wh"), known(second, "energy_wh")
    if one and other:
        answer = yes if other.value > one.value else no
        return answer(f"{other.value:g} Wh against {one.value:g} Wh", one, other)
    charge_one, charge_other = known(first, "capacity_ah"), known(second, "capacity_ah")
    in_series, beside = series_of(first), series_of(second)
    if not (charge_one and charge_other and in_series and beside) or in_series.value != beside.value:
        return unknown("mAh compare only at an equal number of cells in series: find the Wh", charge_one, charge_other)
    answer = yes if charge_other.value > charge_one.value else no
    return answer(f"{charge_other.value:g} Ah against {charge_one.value:g} Ah at {beside.value} in series", charge_one, charge_other)


@dataclass(frozen=True)
class Health:
    """Full over design charge, and what the company does at that."""

    share: float
    advice: str
    cycles: int | None


def battery_health(
    full: float, design: float, cycles: int | None = None, *, keep: float = KEEP_ABOVE, replace: float = REPLACE_BELOW
) -> Health:
    """Keep above 80%, watch from 60 to 80%, replace below 60% of design (rule B5); unknown cycles stay unknown.

    Parameters
    ----------
    full, design : in one unit, > 0 · keep, replace : shares the company sets

    Returns
    -------
    Health

    Raises
    ------
    ContractError : a value that is not positive
    """
    share = checks.positive("full", full) / checks.positive("design", design)
    advice = "keep" if share > keep else "watch" if share >= replace else "replace"
    return Health(share, advice, cycles)


def next_top_up(days_on_shelf: int, *, every_days: int = 180) -> int:
    """Days until a pack on the shelf is due for its next charge top-up; 0 when it is due today (rule B7).

    Parameters
    ----------
    days_on_shelf : since it was received or last charged, >= 0 · every_days : what the company sets, > 0

    Returns
    -------
    int : days

    Raises
    ------
    ContractError : a count outside its range
    """
    waited = checks.number("days_on_shelf", days_on_shelf, low=0)
    every = checks.positive("every_days", every_days)
    return max(int(every - waited), 0)


def counts_as_stock(*, harvested: bool, damaged: bool) -> Answer:
    """Whether a pack on the shelf is stock: harvested and damaged ones never are (rule B7)."""
    if damaged:
        return no("damaged: it goes to quarantine, and no transfer is offered")
    return no("a harvested pack never counts as stock") if harvested else yes("a new pack")
