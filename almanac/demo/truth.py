"""The true parameters the demo's log is drawn from, in one place, so that estimates can be held against them.

Ages in years. A class factor speeds up ageing: a part of scale 12 years under a factor of 2 behaves as one of 6 years.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from random import Random

from almanac.core.parts.kinds import Duty, Environment, Kind

SEED = 20261101
AS_OF = date(2026, 11, 1)


@dataclass(frozen=True)
class KindTruth:
    """How parts of a kind die, and what else draws them. Rates are per unit and year."""

    shape: float
    scale_years: float
    duty: dict[Duty, float]
    environment: dict[Environment, float]
    dead_on_arrival: float
    damage_rate: float
    no_fault_rate: float
    upgrade_rate: float


EVEN_DUTY = dict.fromkeys(Duty, 1.0)
EVEN_AIR = dict.fromkeys(Environment, 1.0)

KINDS: dict[Kind, KindTruth] = {
    Kind.MEMORY: KindTruth(0.75, 150.0, EVEN_DUTY, EVEN_AIR, 0.008, 0.0010, 0.0035, 0.006),
    Kind.SSD: KindTruth(1.05, 50.0, {**EVEN_DUTY, Duty.ROUND_THE_CLOCK: 1.3}, EVEN_AIR, 0.006, 0.0012, 0.0040, 0.003),
    Kind.BATTERY: KindTruth(3.0, 5.6, EVEN_DUTY, {**EVEN_AIR, Environment.SALT: 1.1}, 0.010, 0.0030, 0.0050, 0.0),
    Kind.FAN: KindTruth(
        1.9,
        14.0,
        {Duty.OFFICE_HOURS: 1.0, Duty.TWO_SHIFTS: 1.5, Duty.ROUND_THE_CLOCK: 2.2},
        {Environment.OFFICE: 1.0, Environment.SALT: 1.2, Environment.DUST: 1.6},
        0.008,
        0.0015,
        0.0060,
        0.0,
    ),
}

MODEL_SPREAD = 0.25
"""Standard deviation of the log of a model's own factor: pools of a kind differ a little."""

SETTLED_AT_ONCE = 0.45
SETTLING_DAYS = 55.0
"""Share of complaints settled on the day; the others wait, on average this long."""

NEW_PART_STAYS = 0.7
"""Share of no-fault draws where the new part is left in the machine."""

MOVES_A_YEAR = 0.03
"""Chance a year that an asset moves to another harbour."""

BAD_LOT_PART, BAD_LOT_MADE, BAD_LOT_FASTER = "QF-BL-L", date(2025, 7, 1), 3.0
"""A lot of fans that lasts a third as long as its part does, by the day it was made."""

SLOWER_SUPPLIER, SLOWER_SINCE, SLOWER_FACTOR = "Ostrel Spares", date(2026, 9, 1), 1.8
"""A supplier whose boats got slower in autumn: what arrives since that day took so many times as long."""


def lead_days(chance: Random, supplier: str, arrived: date, stated: list[tuple[int, float]]) -> int:
    """Days an order was on its way that arrived on a day: as the supplier states, but for the one that got slower."""
    days = chance.choices([days for days, _ in stated], [weight for _, weight in stated])[0]
    slower = supplier == SLOWER_SUPPLIER and arrived >= SLOWER_SINCE
    return round(days * SLOWER_FACTOR) if slower else days
