"""Rows and plates of the outlook, their parts side by side: what a test looks at without caring which answer holds it."""

from __future__ import annotations

from typing import Any

from sqlalchemy.orm import Session

from almanac.services.outlook.builder import OutlookBuilder
from almanac.services.outlook.inputs import Inputs, read_inputs
from almanac.services.outlook.order_plans import Row
from almanac.services.outlook.plate import Plate
from almanac.services.outlook.summary import read_outlook, read_plate
from almanac.services.outlook.working import WorkingSection


def year_of(row: Row) -> float:
    """Parts wanted in the coming year, of a row that says it."""
    assert row.year_total is not None
    return row.year_total


class Flat:
    """A row with the fields of its shelf and its projection, and the law they come from."""

    def __init__(self, row: Row, builder: OutlookBuilder) -> None:
        self.row, self.builder = row, builder

    def __getattr__(self, name: str) -> Any:
        for holder in (self.row, self.row.projection, self.row.shelf):
            if hasattr(holder, name):
                return getattr(holder, name)
        raise AttributeError(name)

    @property
    def on_order(self) -> int:
        return self.row.shelf.holding.on_order

    @property
    def law(self) -> Any:
        return self.builder.book(self.row.part.kind).part_law(self.row.part.id)


class FlatPlate:
    """A plate with what was made for it."""

    def __init__(self, plate: Plate, builder: OutlookBuilder) -> None:
        self.plate, self.line = plate, Flat(plate.row, builder)

    def __getattr__(self, name: str) -> Any:
        return getattr(self.plate if hasattr(self.plate, name) else self.plate.made, name)


def builder_of(session: Session, site: str | None = None) -> OutlookBuilder:
    return OutlookBuilder(session, read_inputs(session, site_code=site))


def rows_of(session: Session, site: str | None = None) -> list[Any]:
    """Every row."""
    outlook = read_outlook(session, site_code=site)
    return [Flat(row, outlook.builder) for row in outlook.rows]


def rows_under(session: Session, inputs: Inputs) -> list[Any]:
    """Every row of some inputs."""
    builder = OutlookBuilder(session, inputs)
    return [Flat(row, builder) for row in builder.rows()]


def plate_of(session: Session, number: str, site: str | None = None) -> Any:
    """One plate."""
    return FlatPlate(*read_plate(session, number, site_code=site))


def working_of(session: Session, number: str, site: str | None = None) -> list[WorkingSection]:
    """The working of one plate."""
    return read_plate(session, number, site_code=site)[0].made.working
