"""Repair, replace or harvest: the three costed side by side, as options and not a verdict (rule D2b)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from almanac.core import checks

TALK_RATIO = 0.5


@dataclass(frozen=True)
class Costs:
    """What the company decided: labour per hour, price of a machine, years it is written off over, minutes to set a new one up.

    age_penalty : share of its price a harvested part loses a year · talk_ratio : from here on, repair is a reason to talk
    assumed : names of figures the company has not said
    """

    labour_per_hour: float
    machine_price: float
    machine_years: float
    setup_minutes: float
    age_penalty: float = 0.15
    talk_ratio: float = TALK_RATIO
    assumed: tuple[str, ...] = ()


@dataclass(frozen=True)
class Line:
    """One amount of an option, in the company's currency; what comes back is negative, None is what nobody knows."""

    words: str
    amount: float | None


@dataclass(frozen=True)
class Choice:
    """An option with its lines."""

    name: str
    lines: tuple[Line, ...]

    @property
    def total(self) -> float | None:
        """Sum of the lines; None as long as one of them is not known."""
        known = [line.amount for line in self.lines if line.amount is not None]
        return sum(known) if len(known) == len(self.lines) else None

    @property
    def least(self) -> float:
        """Sum of what is known: with a line that nobody knows it costs at least this."""
        return sum(line.amount for line in self.lines if line.amount is not None)


@dataclass(frozen=True)
class Options:
    """The three options, the remaining value, and the repair ratio with what it is a reason for. Data are counted apart.

    ratio : None where nothing remains of the machine's value, or where a price of the repair is not known
    talk : whether the ratio is a reason to talk; None where nobody can say yet · unpriced : parts whose price is missing
    """

    repair: Choice
    replace: Choice
    harvest: Choice
    remaining_value: float
    ratio: float | None
    talk: bool | None
    unpriced: tuple[str, ...] = ()
    assumed: tuple[str, ...] = ()


@dataclass(frozen=True)
class GoodPart:
    """A part of the machine that could be harvested: its name, price new and its age in years."""

    name: str
    price: float
    age_years: float


def remaining_value(price: float, age_years: float, life_years: float) -> float:
    """Straight-line value of a machine, never below 0.

    Parameters
    ----------
    price : new · age_years : >= 0 · life_years : above 0

    Returns
    -------
    float : in the currency of the price

    Raises
    ------
    ContractError : an argument outside these ranges
    """
    new = checks.number("price", price, low=0.0)
    age = checks.number("age_years", age_years, low=0.0)
    return new * max(0.0, 1.0 - age / checks.positive("life_years", life_years))


def weigh(
    costs: Costs,
    *,
    parts_price: float | None,
    minutes: float,
    risk_minutes: float,
    age_years: float,
    good_parts: Sequence[GoodPart] = (),
    unpriced: Sequence[str] = (),
) -> Options:
    """Repair, replace and harvest with the company's settings.

    Parameters
    ----------
    costs : the company's · parts_price : of what the repair takes, None where a price is missing (`unpriced`)
    minutes, risk_minutes : at the bench, expected
    age_years : of the machine · good_parts : what could be harvested from it

    Returns
    -------
    Options : ratio is (parts + labour + risk) / remaining value. What is known may be a reason to talk before all of it is

    Raises
    ------
    ContractError : an amount below 0
    """
    labour = checks.number("minutes", minutes, low=0.0) / 60 * costs.labour_per_hour
    risk = checks.number("risk_minutes", risk_minutes, low=0.0) / 60 * costs.labour_per_hour
    price = None if parts_price is None else checks.number("parts_price", parts_price, low=0.0)
    value = remaining_value(costs.machine_price, age_years, costs.machine_years)
    repair = Choice("repair", (Line("parts", price), Line("labour", labour), Line("risk of one-way steps", risk)))
    setup = costs.setup_minutes / 60 * costs.labour_per_hour
    replace = Choice("replace", (Line("a machine", costs.machine_price), Line("setting it up", setup)))
    recovered = [Line(f"{part.name} recovered", -harvest_value(part, costs.age_penalty)) for part in good_parts]
    harvest = Choice("harvest", (*replace.lines, *recovered))
    ratio = repair.total / value if value > 0 and repair.total is not None else None
    enough = value <= 0 or repair.least / value >= costs.talk_ratio
    return Options(
        repair, replace, harvest, value, ratio, enough or (None if repair.total is None else False), tuple(unpriced), costs.assumed
    )


def harvest_value(part: GoodPart, penalty: float) -> float:
    """What a harvested part is worth: its price less a share a year (rule N7); packs are never stock (rule B7).

    Parameters
    ----------
    part : good · penalty : share of the price lost a year, in [0, 1]

    Returns
    -------
    float : at least 0

    Raises
    ------
    ContractError : a penalty outside its range
    """
    share = checks.number("penalty", penalty, low=0.0, high=1.0)
    return max(0.0, part.price * (1.0 - share * part.age_years))
