"""Cautions that stand before the swap and on the way back; they defer to the maker, the site and local codes (rules G7, F5, S8, B7)."""

from __future__ import annotations

from collections.abc import Collection, Sequence

from almanac.core import checks
from almanac.core.parts.kinds import Kind

WASTE = "the old one goes the local e-waste route, by local waste law"
BY_KIND = {
    Kind.BATTERY: ("a used or damaged pack: no pressing, no prying, no charging before it was looked at",),
    Kind.DISPLAY: ("glass, sharp edges, hinges under spring load: both hands; clean with the maker's approved cloth only", WASTE),
    Kind.MAINBOARD: ("lift at the marked points, never by the ports", WASTE),
}


def transport_class(energy_wh: float) -> str:
    """Which class of energy a pack falls into for transport; this is no permission.

    Parameters
    ----------
    energy_wh : design energy, > 0

    Returns
    -------
    str : to 100 Wh, to 160 Wh, or above 160 Wh

    Raises
    ------
    ContractError : an energy that is not above 0
    """
    energy = checks.positive("energy_wh", energy_wh)
    return "to 100 Wh" if energy <= 100 else "to 160 Wh" if energy <= 160 else "above 160 Wh"


def swap_cautions(kind: Kind, *, energy_wh: float | None = None, bus: str | None = None) -> tuple[str, ...]:
    """What is said before a part of a kind is changed.

    Parameters
    ----------
    kind : of the part · energy_wh : of a pack, None if not known · bus : of a drive, None if not known

    Returns
    -------
    tuple of str
    """
    words = list(BY_KIND.get(kind, ()))
    if kind == Kind.BATTERY:
        named = transport_class(energy_wh) if energy_wh else "class not known"
        words.append(f"transport and disposal of the old pack: {named}; carrier, dangerous-goods rules and local waste law decide")
    if kind == Kind.SSD:
        adapter = f"an adapter for {bus}" if bus else "an adapter for its bus"
        words.append(f"a dead machine: data first, read through {adapter}; drives are never mixed, and each has its line of custody")
    return tuple(words)


def settings_cautions(frees: Sequence[str], cells: Collection[str]) -> tuple[str, ...]:
    """What is said before a settings cell comes out."""
    if not set(frees) & set(cells):
        return ()
    return ("note the settings first; a password is reset for a proven owner only",)
