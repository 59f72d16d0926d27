"""A scenario beside the plan: which parts' demand, order-by day and quantity would be others."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy.orm import Session

from almanac.core.demand.unrecorded import Spread
from almanac.services.answers.ask import ask
from almanac.services.outlook.builder import OutlookBuilder
from almanac.services.outlook.inputs import read_inputs
from almanac.services.outlook.order_plans import Row
from almanac.services.outlook.plate import Plate, open_lines_of, plate_question
from almanac.services.scenarios.changes import Change, with_changes

SAME = 0.05
"""Parts whose year differs by less, and whose order stays, are not named."""


@dataclass(frozen=True)
class Pair:
    """One stock part as planned and in the scenario."""

    planned: Row
    scenario: Row

    @property
    def more(self) -> float | None:
        """Parts of the coming year more than planned; None where one of both cannot be said."""
        planned, scenario = self.planned.year_total, self.scenario.year_total
        return None if planned is None or scenario is None else scenario - planned

    @property
    def differs(self) -> bool:
        if self.more is None:
            return self.planned.said != self.scenario.said
        return abs(self.more) >= SAME or _order(self.planned) != _order(self.scenario)


def _order(line: Row) -> tuple[int | None, int]:
    return (line.plan.order_at if line.plan else None), line.quantity


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
    return OutlookBuilder(session, inputs), OutlookBuilder(session, with_changes(session, inputs, changes))


def look(session: Session, changes: list[Change], *, site_code: str | None = None) -> Look:
    """Every part that would be another, those that move most first.

    Raises
    ------
    NotFound : no site has that code · Refused : a change that cannot be done
    """
    planned, scenario = builders(session, changes, site_code=site_code)
    pairs = [Pair(one, other) for one, other in zip(planned.rows(), scenario.rows(), strict=True)]
    return Look(planned, scenario, sorted(pairs, key=lambda pair: -abs(pair.more or 0.0)))


def plates(session: Session, changes: list[Change], part_number: str, *, site_code: str | None = None) -> tuple[Plate, Plate]:
    """One part as planned and in the scenario.

    Raises
    ------
    NotFound : no site has that code, or no part that number · Refused : a change that cannot be done
    """
    planned, scenario = builders(session, changes, site_code=site_code)
    return _plate(session, planned, part_number), _plate(session, scenario, part_number)


def _plate(session: Session, builder: OutlookBuilder, part_number: str) -> Plate:
    part = builder.inputs.part(part_number)
    row = builder.row(part)
    made = ask(session, plate_question(builder, part, row, unrecorded=Spread()))
    return Plate(row, open_lines_of(builder, part), Spread(), made)
