"""One entrance to the fit rules of all kinds."""

from __future__ import annotations

from almanac.core.parts.answers import Answer, Facts, no
from almanac.core.parts.fits.battery import fit_battery
from almanac.core.parts.fits.drive import fit_drive
from almanac.core.parts.fits.memory import fit_memory
from almanac.core.parts.fits.others import fit_by_chassis, fit_fan, fit_radio
from almanac.core.parts.kinds import Kind, Serviceability

RULES = {Kind.MEMORY: fit_memory, Kind.SSD: fit_drive, Kind.BATTERY: fit_battery, Kind.FAN: fit_fan}


def fit(kind: Kind, takes: Facts, part_kind: Kind, part: Facts, *, held: Serviceability) -> Answer:
    """Whether a stock part fits a position, with the reason and the weakest evidence it rests on.

    Parameters
    ----------
    kind, takes, held : of the position · part_kind, part : of the stock part

    Returns
    -------
    Answer
    """
    if kind != part_kind:
        return no(f"the position takes {kind.value.replace('_', ' ')}, this is {part_kind.value.replace('_', ' ')}")
    if kind == Kind.RADIO:
        return fit_radio(takes, part, held)
    if held == Serviceability.SOLDERED:
        return no("soldered: nothing fits here alone, the mainboard is ordered")
    return RULES.get(kind, fit_by_chassis)(takes, part)
