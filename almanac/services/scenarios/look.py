"""A scenario beside the plan: which parts' demand, order-by day and quantity would be others."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy.orm import Session

from almanac.services.outlook.inputs import read_inputs
from almanac.services.outlook.lines import Line, OutlookBuilder
from almanac.services.outlook.plate import Plate, build_plate
from almanac.services.scenarios.changes import Change, with_changes

SAME = 0.05
"""Parts whose year differs by less, and whose order stays, are not named."""


@dataclass(frozen=True)
class Pair:
    """One stock part as planned and in the scenario."""

    planned: Line
    scenario: Line

    @property
    def more(self) -> float:
        """Parts of the coming year more than planned."""
        return _year(self.scenario) - _year(self.planned)

    @property
    def differs(self) -> bool:
        return abs(self.more) >= SAME or _order(self.planned) != _order(self.scenario)


def _year(line: Line) -> float:
    return line.year.total if line.year else 0.0


def _order(line: Line) -> tuple[int | None, int]:
    return (line.plan.order_day if line.plan else None), line.quantity


@dataclass(frozen=True)
class Look:
    """All parts, those that move most first, and both builders."""

    planned: OutlookBuilder
    scenario: OutlookBuilder
    pairs: list[Pair]


def builders(session: Session, changes: list[Change], *, site_code: str | None = None) -> tuple[OutlookBuilder, OutlookBuilder]:
    """The outlook as planned, and with the changes done.

    Raises
    ------
    NotFound : no site has that code · Refused : a change that cannot be done
    """
    inputs = read_inputs(session, site_code=site_code)
    return OutlookBuilder(inputs), OutlookBuilder(with_changes(session, inputs, changes))


def look(session: Session, changes: list[Change], *, site_code: str | None = None) -> Look:
    """Every part that would be another, those that move most first.

    Raises
    ------
    NotFound : no site has that code · Refused : a change that cannot be done
    """
    planned, scenario = builders(session, changes, site_code=site_code)
    # Lines of all parts at once: what is new is worked out together.
    pairs = [Pair(one, other) for one, other in zip(planned.lines(), scenario.lines(), strict=True)]
    return Look(planned, scenario, sorted(pairs, key=lambda pair: -abs(pair.more)))


def plates(session: Session, changes: list[Change], part_number: str, *, site_code: str | None = None) -> tuple[Plate, Plate]:
    """One part as planned and in the scenario.

    Raises
    ------
    NotFound : no site has that code, or no part that number · Refused : a change that cannot be done
    """
    planned, scenario = builders(session, changes, site_code=site_code)
    return build_plate(planned, part_number), build_plate(scenario, part_number)
