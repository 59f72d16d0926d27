"""What is said before a step that can hurt a person or a part. It defers to the maker, the site and local codes."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass

from almanac.core.parts.kinds import Kind
from almanac.core.teardown.operations import UNKNOWN_PLUG, Operation

PLUG_WORDS = {
    "flip_latch": "a flip latch has no spare: lift it with a nail, never pull the ribbon against it",
    "antenna": "an antenna plug goes off and on straight, never at an angle; note which colour sits on which post",
    "press_fit": "lift at the plug, evenly, never by the wires",
    "bail": "swing the bail over before the plug moves",
    "slide": "slide the plug by its body, never by the wires",
    "tab": "pull at the tab, in line with the socket",
    "screwed_plate": "loosen the plate first, then lift the lead straight up",
}
LOOK = "look for a bail, a latch or a tab before it moves"
STRAP = "wrist strap on: from here a bare board is open, until the last cover is back"


INSIDE: Mapping[Kind, str] = {
    Kind.HEAT_SINK: "a sink is hot after work: let it cool before it is touched",
    Kind.PROCESSOR: "a processor and its sink are hot after work: let them cool before they are touched",
    Kind.DISPLAY: "glass, sharp edges, and hinges under spring load that snap: both hands, eyes away from the edge",
    Kind.BATTERY: "no metal and no prying at a pack, neither bent nor pressed; glued, it is freed by its tabs or as its maker says, never "
    "by a blade; a swollen, dented, hot or leaking one stops the job: quarantine it and call the site's fire and safety officer",
    Kind.POWER_UNIT: "a power unit is changed whole and never opened: what is inside is work for a licensed electrician",
    Kind.SETTINGS_CELL: "a coin cell is swallowed easily: out of reach of children, and at once to the collection point",
}
"""Said before a step that reaches a part of a kind, whether or not the page's author wrote it."""
HEATED = ("heat gun", "heated", "heat mat", "hot air", "heating")
DISSOLVING = ("solvent", "alcohol", "isopropanol", "remover", "cleaner")
HEAT = "heat: gently, never on or beside a pack, and mind the burn"
SOLVENT = "solvent: only on a cold machine without power, air the room, no spark or flame, gloves, as its label says"


CONNECTED = "the battery is still connected: no metal near the board, and touch nothing but what this step names"


@dataclass(frozen=True)
class Caution:
    """A caution and the step before which it stands."""

    operation: str
    text: str


def cautions_before(step: Operation) -> list[Caution]:
    """The page's own cautions and those the rules add (G2, G4, G5, G7, C4).

    Parameters
    ----------
    step : of a route

    Returns
    -------
    list of Caution, the page's own first
    """
    words = [*step.cautions, *_approvals(step), *_plugs(step), *_lifting(step)]
    return [Caution(step.id, text) for text in dict.fromkeys(words)]


def _approvals(step: Operation) -> list[str]:
    words = []
    if step.seal:
        words.append("this breaks a seal: stop until approval is recorded")
    elif step.seal is None:
        words.append("a seal may be here, nobody recorded it: look first")
    if step.one_way:
        spare = f"; have the spare in the kit ({step.one_way.destroys})" if step.one_way.destroys else ""
        words.append(f"no way back: {step.one_way.reason}; needs approval{spare}")
    return words


def _plugs(step: Operation) -> list[str]:
    known = [PLUG_WORDS[plug.kind] for plug in step.plugs if plug.kind in PLUG_WORDS]
    unseen = [f"how the {plug.name} goes, nobody wrote down: {LOOK}" for plug in step.plugs if plug.kind == UNKNOWN_PLUG]
    doubted = [f"{plug.name}: {plug.doubt}: {LOOK}" for plug in step.plugs if plug.doubt]
    return list(dict.fromkeys([*known, *unseen, *doubted]))


def _lifting(step: Operation) -> list[str]:
    words = []
    if step.live:
        words.append(CONNECTED)
    if step.layer and step.plugs:
        words.append("lift two centimetres, look, then unplug")
    if step.lift_points:
        words.append("lift at the marked points, never by the ports")
    if step.keep_out:
        words.append("keep levers out of the hatched zones")
    if step.bare_board:
        words.append(STRAP)
    if any(item.numbered for item in step.fasteners):
        words.append("the screws are numbered: tighten them in that order, in turns")
    return words


def back_cautions(operation: Operation) -> tuple[str, ...]:
    """What is said before a step is undone: antennas, ribbons, printed orders, lengths, jack screws, the machine not turned yet."""
    fasteners = operation.fasteners
    loose = [item for item in fasteners if not item.stays]
    said = (
        (any(plug.kind == "antenna" for plug in operation.plugs), "an antenna plug goes on straight; each colour on its own post"),
        (
            any(plug.kind in ("flip_latch", "bail") for plug in operation.plugs),
            "look that no wire is pinched and every latch is down before anything lies over it",
        ),
        (any(item.numbered for item in fasteners), "tighten in the printed order, in turns"),
        (len(fasteners) > 1 and bool(loose), "a long screw never goes into a short hole: one group at a time"),
        (any(item.kind == "jack" for item in fasteners), "clips first, then the jack screws: the gap must vanish once they are driven"),
        (bool(operation.layer) and bool(loose), "the machine is not turned until the tray count closes"),
    )
    return tuple(words for so, words in said if so)


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
