"""One lot of fans that lasts a third as long: what it adds to the log, drawn apart so that all else stays as it was."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta
from random import Random
from typing import Any

from almanac.core.life.outcomes import DEAD_ON_ARRIVAL_DAYS, Finding
from almanac.demo import truth
from almanac.demo.catalog import DemoPosition
from almanac.demo.fleet import Machine
from almanac.demo.history import Happening, HistoryWriter


@dataclass(frozen=True)
class _Fitted:
    """A fan of the lot that was in a machine until the demo's day, and the day it would have worn out."""

    tenure: int
    machine: Machine
    position: DemoPosition
    fitted_on: date
    wears_out: date


def spoil(writer: HistoryWriter, machines: list[Machine], *, seed: int) -> None:
    """Let the lot's fans fail: each after a third of the life it was drawn, replaced by a good one."""
    writer.chance = Random(seed + 2)
    for one in _of_the_lot(writer, machines):
        days = round((one.wears_out - one.fitted_on).days / truth.BAD_LOT_FASTER)
        day = one.fitted_on + timedelta(days=max(days, DEAD_ON_ARRIVAL_DAYS + 1))
        if day < truth.AS_OF - timedelta(days=1):
            _fail(writer, one, day)


def _of_the_lot(writer: HistoryWriter, machines: list[Machine]) -> list[_Fitted]:
    tables, company = writer.company.rows.tables, writer.company
    by_id = {machine.asset_id: machine for machine in machines}
    units = {row["id"]: row for row in tables["unit"] if row["made_on"] == truth.BAD_LOT_MADE}
    found = []
    for row in tables["tenure"]:
        machine = by_id[row["asset_id"]]
        if row["unit_id"] not in units or row["part_id"] != company.parts[truth.BAD_LOT_PART] or row["removed_on"] or machine.retired_on:
            continue
        position = _position(writer, machine, row)
        found.append(_Fitted(row["id"], machine, position, row["fitted_on"], writer.lasting[row["id"]]))
    return found


def _position(writer: HistoryWriter, machine: Machine, row: dict[str, Any]) -> DemoPosition:
    ids = writer.company.positions
    return next(one for one in machine.model.positions if ids[machine.model.name, one.key] == row["position_id"])


def _fail(writer: HistoryWriter, one: _Fitted, day: date) -> None:
    writer.end(one.tenure, day)
    fitted = writer.fit(one.machine, one.position, truth.BAD_LOT_PART, day, recorded=day)
    writer.lasting[one.tenure], writer.lasting[fitted] = day, date.max
    site = writer.company.sites[one.machine.site_on(day).code]
    event = Happening(day, Finding.CONFIRMED)
    writer.record(one.machine, one.position, event, site, one.tenure, fitted, truth.BAD_LOT_PART, truth.BAD_LOT_PART)
