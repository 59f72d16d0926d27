"""Does a memory module fit a slot, and what does it risk (rules M1, M2, M5, M6, M7, M9)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from almanac.core import checks
from almanac.core.errors import ContractError
from almanac.core.parts.answers import Answer, Facts, all_of, known, no, unknown, yes

LOW_V, STANDARD_V = 1.35, 1.5


def fit_memory(takes: Facts, module: Facts) -> Answer:
    """Whether a module goes into a slot and works: form, technology, voltage and size.

    Parameters
    ----------
    takes : facts of the slot: form, generation, voltage_v, grade_mt_s, maximum_gb
    module : facts of the part: form, generation, low_voltage, grade_mt_s, capacity_gb

    Returns
    -------
    Answer
    """
    return all_of([_form(takes, module), _technology(takes, module), _size(takes, module), _grade(takes, module)])


def _form(takes: Facts, module: Facts) -> Answer:
    slot, part = known(takes, "form"), known(module, "form")
    if slot is None or part is None:
        return unknown(f"the form of the {'slot' if slot is None else 'module'} is not known", slot, part)
    if slot.value != part.value:
        return no(f"the slot takes {slot.value}, this is {part.value}", slot, part)
    return yes(f"{slot.value} in a {slot.value} slot", slot, part)


def _technology(takes: Facts, module: Facts) -> Answer:
    """Rules M1 and M2."""
    slot, part = known(takes, "generation"), known(module, "generation")
    if slot is None or part is None:
        return unknown(f"the technology of the {'slot' if slot is None else 'module'} is not known", slot, part)
    wanted, given = str(slot.value), str(part.value)
    if given.startswith("LPDDR") and known(module, "form") is None:
        return unknown("LPDDR is soldered unless it is a compression module: ask", slot, part)
    if wanted.rstrip("L") == "DDR3" and given.rstrip("L") == "DDR3":
        return _ddr3(takes, module)
    if wanted != given:
        return no(f"the slot takes {wanted}, this is {given}", slot, part)
    return yes(f"{given} in a {wanted} slot", slot, part)


def _ddr3(takes: Facts, module: Facts) -> Answer:
    """Rule M2: a 1.35 V slot takes only the low-voltage kind, a 1.5 V slot takes DDR3 and dual-voltage DDR3L."""
    slot, part, volts, low = (
        known(takes, "generation"),
        known(module, "generation"),
        known(takes, "voltage_v"),
        known(module, "low_voltage"),
    )
    module_low = True if part and part.value == "DDR3L" else (low.value if low else None)
    slot_volts = LOW_V if slot and slot.value == "DDR3L" else (volts.value if volts else None)
    if module_low:
        return yes("dual-voltage DDR3L runs at 1.35 V and at 1.5 V", slot, part, volts, low)
    if slot_volts is None:
        return unknown("the voltage the slot gives is not known: 1.35 V takes the low-voltage kind only", slot, part)
    if slot_volts == STANDARD_V:
        return yes("a 1.5 V slot takes DDR3", slot, part, volts)
    if module_low is None:
        return unknown("the label says DDR3 without L and the slot gives 1.35 V: find the module's voltage", slot, part, volts)
    return no("the slot gives 1.35 V, this DDR3 needs 1.5 V", slot, part, volts, low)


def _size(takes: Facts, module: Facts) -> Answer:
    """Rule M5: a documented maximum is a hard stop; without one a size is untested, not refused."""
    most, size = known(takes, "maximum_gb"), known(module, "capacity_gb")
    if size is None:
        return unknown("the size of the module is not known")
    if most is None:
        return yes(f"{size.value} GB", size, practice="no documented maximum for this slot: the size is untested")
    if size.value > most.value:
        return no(f"{size.value} GB is above the documented {most.value} GB of this slot", size, most)
    return yes(f"{size.value} GB, to {most.value} GB documented", size, most)


def _grade(takes: Facts, module: Facts) -> Answer:
    """Rules M6 and N2: the slower of the two decides the speed; it never refuses."""
    slot, part = known(takes, "grade_mt_s"), known(module, "grade_mt_s")
    if slot is None or part is None:
        return yes("speed not compared")
    runs = min(slot.value, part.value)
    risk = f"runs at {runs} MT/s, below the slot's {slot.value}" if part.value < slot.value else None
    return yes(f"runs at {runs} MT/s", slot, part, practice=risk)


def mixed_grade(modules: Sequence[Facts]) -> Answer:
    """What mixing modules does: it works at the lowest grade present, with a risk where they differ (rule M6).

    Parameters
    ----------
    modules : facts of each: grade_mt_s, ranks, maker; at least one

    Returns
    -------
    Answer : yes or unknown, with the practice risk

    Raises
    ------
    ContractError : no module
    """
    if not modules:
        raise ContractError("modules: at least one was wanted, got none")
    grades = [known(module, "grade_mt_s") for module in modules]
    if any(grade is None for grade in grades):
        return unknown("the grade of a module is not known: together they run at the lowest", *grades)
    differing = [
        name
        for key, name in (("grade_mt_s", "grade"), ("ranks", "rank"), ("maker", "maker"))
        if len({value.value for module in modules if (value := known(module, key))}) > 1
    ]
    lowest = min(grade.value for grade in grades if grade)
    risk = f"{', '.join(differing)} differ: such pairs work in principle and fail more often in practice" if differing else None
    return yes(f"together they run at {lowest} MT/s", *grades, practice=risk)


def free_slots(seen: Mapping[str, bool | None]) -> Answer:
    """How many slots are free: from sight or the machine's report, never from the capacity (rule M4).

    Parameters
    ----------
    seen : by slot, whether it is free; None where nobody looked and nothing was reported

    Returns
    -------
    Answer : yes names the free ones, unknown the slots to look at
    """
    open_ = [slot for slot, free in seen.items() if free is None]
    free = [slot for slot, is_free in seen.items() if is_free]
    if open_:
        return unknown(f"look at {', '.join(open_)}: the capacity does not say how many slots are free")
    return yes(f"free: {', '.join(free)}") if free else no("no slot is free")


def dual_channel_gb(channel_a_gb: float, channel_b_gb: float) -> float:
    """The part of memory that runs on two channels: twice the smaller channel (rule M7).

    Parameters
    ----------
    channel_a_gb, channel_b_gb : GB, >= 0

    Returns
    -------
    float : GB

    Raises
    ------
    ContractError : a negative size
    """
    return 2 * min(checks.number("channel_a_gb", channel_a_gb, low=0), checks.number("channel_b_gb", channel_b_gb, low=0))
