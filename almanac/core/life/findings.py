"""How findings that are not settled yet, and fittings that died at once, enter the rates."""

from __future__ import annotations

from dataclasses import dataclass

from almanac.core import checks


@dataclass(frozen=True)
class SettledShare:
    """Share of complaints of a kind that settle as confirmed, and the counts it rests on."""

    share: float
    confirmed: float
    settled: float


def settled_share(confirmed: float, settled: float) -> SettledShare:
    """Confirmed share of the settled complaints of a kind, with half a complaint added on each side.

    Parameters
    ----------
    confirmed : complaints settled as confirmed, in [0, settled]
    settled : complaints settled in any way, >= 0

    Returns
    -------
    SettledShare : share in (0, 1); 0.5 when nothing is settled

    Raises
    ------
    ContractError : an argument is outside the ranges above

    References
    ----------
    Jeffreys' interval for a binomial share: Brown, Cai & DasGupta (2001), Statistical Science 16.
    """
    total = checks.number("settled", settled, low=0.0)
    good = checks.number("confirmed", confirmed, low=0.0, high=total)
    return SettledShare((good + 0.5) / (total + 1.0), good, total)


def dead_on_arrival_probability(dead: float, fittings: float) -> float:
    """Probability that a part is dead within days of its fitting: (d + 1/2) / (n + 1).

    Parameters
    ----------
    dead : fittings that died at once, in [0, fittings]
    fittings : new parts fitted while the log was kept, >= 0

    Returns
    -------
    float : in (0, 1); 0.5 per cent when there was no fitting to learn from

    Raises
    ------
    ContractError : an argument is outside the ranges above

    References
    ----------
    Jeffreys' prior for a binomial share: Brown, Cai & DasGupta (2001), Statistical Science 16.
    """
    total = checks.number("fittings", fittings, low=0.0)
    lost = checks.number("dead", dead, low=0.0, high=total)
    if total == 0.0:
        return 0.005
    return (lost + 0.5) / (total + 1.0)
