"""Cautions that stand before the swap and on the way back; they defer to the maker, the site and local codes (rules G7, F5, S8, B7)."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence

from almanac.core import checks
from almanac.core.parts.kinds import Kind
from almanac.core.teardown.operations import Operation

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


INSIDE: Mapping[Kind, str] = {
    Kind.HEAT_SINK: "a sink is hot after work: let it cool before it is touched",
    Kind.PROCESSOR: "a processor and its sink are hot after work: let them cool before they are touched",
    Kind.DISPLAY: "glass, sharp edges, and hinges under spring load that snap: both hands, eyes away from the edge",
    Kind.BATTERY: "no metal and no prying at a pack; glued, it is freed by its tabs or as its maker says, never by a blade",
    Kind.POWER_UNIT: "a power unit is changed whole and never opened: what is inside is work for a licensed electrician",
    Kind.SETTINGS_CELL: "a coin cell is swallowed easily: out of reach of children, and at once to the collection point",
}
"""Said before a step that reaches a part of a kind, whether or not the page's author wrote it."""
HEATED = ("heat gun", "heated", "heat mat", "hot air", "heating")
DISSOLVING = ("solvent", "alcohol", "isopropanol", "remover", "cleaner")
HEAT = "heat: gently, never on or beside a pack, and mind the burn"
SOLVENT = "solvent: only on a cold machine without power, air the room, no spark or flame, gloves, as its label says"


def reaching_cautions(step: Operation, kinds: Collection[Kind]) -> tuple[str, ...]:
    """What is said before a step by the parts it reaches and the aids it takes, whoever wrote the page.

    Parameters
    ----------
    step : of the way in · kinds : of the parts it frees or lays bare

    Returns
    -------
    tuple of str
    """
    used = " ".join((*step.aids, *step.consumables, *step.tools.names, step.text)).lower()
    sink = step.moves_sink and Kind.HEAT_SINK not in kinds
    said = [
        *((INSIDE[Kind.HEAT_SINK],) if sink else ()),
        *(words for kind, words in INSIDE.items() if kind in kinds),
        *((HEAT,) if any(word in used for word in HEATED) else ()),
        *((SOLVENT,) if any(word in used for word in DISSOLVING) else ()),
    ]
    return tuple(said)


def settings_cautions(frees: Sequence[str], cells: Collection[str]) -> tuple[str, ...]:
    """What is said before a settings cell comes out."""
    if not set(frees) & set(cells):
        return ()
    return ("note the settings first; a password is reset for a proven owner only",)
