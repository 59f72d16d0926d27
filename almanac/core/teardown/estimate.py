"""Minutes that nobody gave, from what a step undoes: marked, and with a wide band, so that no way wins untimed (rule U2)."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from almanac.core.parts.kinds import Kind, Serviceability
from almanac.core.teardown.minutes import WIDE, Minutes
from almanac.core.teardown.operations import UNKNOWN_PLUG, Fasteners, Operation, Place


@dataclass(frozen=True)
class StepTable:
    """Likely minutes of what a step is made of, by kind of fastener, plug, part and way it is held; factor by form of machine.

    start : taking it up · cover : prying off a layer · hidden : more for a fastener under something
    screws, clips : taken for a number nobody knows
    """

    start: float = 0.3
    cover: float = 1.2
    hidden: float = 0.25
    screws: int = 4
    clips: int = 8
    fasteners: Mapping[str, float] = field(
        default_factory=lambda: {"screw": 0.22, "captive": 0.18, "jack": 0.25, "cam": 0.1, "latch": 0.1, "clip": 0.12}
    )
    plugs: Mapping[str, float] = field(
        default_factory=lambda: {"screwed_plate": 0.7, "flip_latch": 0.4, "bail": 0.4, "other": 0.5, UNKNOWN_PLUG: 0.5}
    )
    plug: float = 0.3
    parts: Mapping[str, float] = field(
        default_factory=lambda: {
            Kind.MAINBOARD: 3.0,
            Kind.PALM_REST: 3.0,
            Kind.DISPLAY: 3.0,
            Kind.KEYBOARD: 2.0,
            Kind.HEAT_SINK: 1.0,
            Kind.POWER_UNIT: 1.5,
            Kind.BATTERY: 0.6,
        }
    )
    part: float = 0.3
    held: Mapping[str, float] = field(
        default_factory=lambda: {
            Serviceability.GLUED: 6.0,
            Serviceability.STAKED: 12.0,
            Serviceability.SOLDERED: 30.0,
            Serviceability.TAPED: 1.0,
        }
    )
    forms: Mapping[str, float] = field(default_factory=lambda: {"all_in_one": 1.3, "workstation": 0.9})


TABLE = StepTable()


def estimated_minutes(step: Operation, places: Mapping[str, Place], form: str | None = None, table: StepTable = TABLE) -> Minutes:
    """What a step may take that nobody timed.

    Parameters
    ----------
    step : of a page · places : positions by key · form : of the machine, None if not known · table : minutes by what is undone

    Returns
    -------
    Minutes : all of it estimated, from 0.4 to 2.5 times the likely
    """
    freed = [places[key] for key in step.frees if key in places]
    parts = table.start + (table.cover if step.layer else 0.0)
    parts += sum(_fasteners(item, table) for item in step.fasteners)
    parts += sum(table.plugs.get(plug.kind, table.plug) for plug in step.plugs)
    parts += sum(table.parts.get(place.kind, table.part) + table.held.get(place.held, 0.0) for place in freed)
    likely = parts * table.forms.get(form or "", 1.0)
    return Minutes(likely * WIDE[0], likely, likely * WIDE[1], estimated=likely)


def _fasteners(item: Fasteners, table: StepTable) -> float:
    guess = table.clips if item.kind == "clip" else table.screws
    number = max(item.count.number, guess) if item.count.least else item.count.number
    each = table.fasteners["captive"] if item.captive and item.kind == "screw" else table.fasteners.get(item.kind, table.fasteners["screw"])
    return number * (each + (table.hidden if item.hidden else 0.0))
