"""One entrance to the fit rules of all kinds."""

from __future__ import annotations

from almanac.core.parts.answers import Answer, Facts, no
from almanac.core.parts.declared.kinds import SPECS, kind_name
from almanac.core.parts.kinds import Kind, Serviceability


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
        return no(f"the position takes {kind_name(kind)}, this is {kind_name(part_kind)}")
    if held == Serviceability.SOLDERED:
        return no("soldered: nothing fits here alone, the mainboard is ordered")
    return SPECS[kind].fit(takes, part)
