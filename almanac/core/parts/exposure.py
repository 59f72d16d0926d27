"""How many units of a part are in service where the options of some machines are not known (rules N1, C2, C3)."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from almanac.core import checks
from almanac.core.errors import ContractError


@dataclass(frozen=True)
class UnitsInService:
    """Units known to be there, units expected once the unknown machines are spread, and the range they leave."""

    known: int
    expected: float
    low: int
    high: int


def spread_units(machines: Mapping[str, int], unknown: int, units_each: Mapping[str, int]) -> UnitsInService:
    """Units of a part over machines by option; machines nobody looked at are spread by the known shares.

    Parameters
    ----------
    machines : machines in service by value of the option, >= 0 · unknown : machines whose value is not known, >= 0
    units_each : units of the part in a machine by value; a value not named holds none

    Returns
    -------
    UnitsInService : without any known machine every value is as likely as another

    Raises
    ------
    ContractError : a negative count, or no value at all
    """
    if not machines or min(machines.values()) < 0 or unknown < 0:
        raise ContractError(f"machines: counts of at least 0 by value were wanted, got {dict(machines)} and {unknown} unknown")
    each = {value: units_each.get(value, 0) for value in machines}
    total = sum(machines.values())
    shares = {value: count / total if total else 1 / len(machines) for value, count in machines.items()}
    known = sum(machines[value] * each[value] for value in machines)
    expected = known + unknown * sum(shares[value] * each[value] for value in machines)
    return UnitsInService(known, expected, known + unknown * min(each.values()), known + unknown * max(each.values()))


def exposure_years(units: UnitsInService, years_in_service: float) -> tuple[float, float, float]:
    """Low, expected and high unit-years of a part over machines of equal time in service.

    Raises
    ------
    ContractError : a negative time
    """
    years = checks.number("years_in_service", years_in_service, low=0)
    return units.low * years, units.expected * years, units.high * years
