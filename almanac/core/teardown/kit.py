"""The kit list of a route: tools, aids, what is used up, and spares for what the route destroys."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from almanac.core.parts.fits.others import sink_consumables
from almanac.core.teardown.operations import Operation


@dataclass(frozen=True)
class Kit:
    """What must lie ready: drivers and hand tools, aids, consumables, spares. unsaid : steps of which nobody said the tool"""

    tools: tuple[str, ...]
    aids: tuple[str, ...]
    consumables: tuple[str, ...]
    spares: tuple[str, ...]
    unsaid: int = 0


def kit_for(steps: Iterable[Operation]) -> Kit:
    """Everything the steps ask for, each once, in the order first needed.

    Parameters
    ----------
    steps : of a route

    Returns
    -------
    Kit : with a tray where screws come loose, a wrist strap where a board is bare, paste and pads where a sink moves (rule C4)
    """
    done = list(steps)
    tools = tuple(dict.fromkeys(name for step in done for name in step.tools.names))
    aids = [aid for step in done for aid in step.aids]
    if any(not item.stays for step in done for item in step.fasteners):
        aids.append("screw tray")
    if any(step.bare_board for step in done):
        aids.append("wrist strap and mat")
    used = [item for step in done for item in step.consumables]
    used += sink_consumables(sink_moved=any(step.moves_sink for step in done))
    spares = tuple(dict.fromkeys(step.one_way.destroys for step in done if step.one_way and step.one_way.destroys))
    return Kit(tools, tuple(dict.fromkeys(aids)), tuple(dict.fromkeys(used)), spares, sum(not step.tools.known for step in done))
