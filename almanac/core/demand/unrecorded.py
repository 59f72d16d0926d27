"""Units that machines without a record may hold, spread by what is known of machines alike."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from almanac.core import checks
from almanac.core.errors import ContractError


@dataclass(frozen=True)
class Spread:
    """Fewest, expected and most units (or whatever they are multiplied to)."""

    low: float = 0.0
    expected: float = 0.0
    high: float = 0.0

    def __add__(self, other: Spread) -> Spread:
        return Spread(self.low + other.low, self.expected + other.expected, self.high + other.high)

    def times(self, factor: float) -> Spread:
        """All three by a factor of zero or more."""
        return Spread(self.low * factor, self.expected * factor, self.high * factor)


def spread_units(machines: int, held: Mapping[int, int], of_machines: int, *, share: float = 1.0, sure: bool = True) -> Spread:
    """Units of one part in machines nobody recorded, by the shares of machines that were; between the fewest and the most seen.

    Each may hold as much as any machine with a record does, and as little: none, where some hold none or where it is not sure that
    they take the part at all.

    Parameters
    ----------
    machines : machines without a record · held : machines with a record by units of the part they hold (one or more)
    of_machines : machines with a record of the kind, those without this part included
    share : of the machines without a record, those taken to have the option at all, 0 to 1
    sure : False where options nobody knows, or a page instead of machines, say what is inside

    Raises
    ------
    ContractError : fewer machines with a record than hold the part, negative counts, or a share outside 0 to 1
    """
    holding = sum(held.values())
    if machines < 0 or of_machines < holding or min([*held, *held.values()], default=1) < 1:
        raise ContractError("machines, held: counts of one or more were wanted, and no more machines that hold a part than are on record")
    checks.number("share", share, low=0.0, high=1.0)
    if not held:
        return Spread()
    mean = sum(units * count for units, count in held.items()) / of_machines
    everywhere = sure and holding == of_machines
    return Spread(float(machines * min(held)) if everywhere else 0.0, machines * share * mean, float(machines * max(held)))
