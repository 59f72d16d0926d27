"""Draws the demo company and copies it into an empty database in one transaction."""

from __future__ import annotations

from random import Random
from typing import Any

from sqlalchemy import Connection, Engine, text

from almanac.demo import truth
from almanac.demo.bad_lot import spoil
from almanac.demo.company import Company, build_company
from almanac.demo.fleet import build_fleet
from almanac.demo.history import HistoryWriter
from almanac.demo.open_work import leave_open
from almanac.demo.readings import take_readings
from almanac.demo.stores import fill_shelves
from almanac.store.bulk import copy_rows
from almanac.store.models import Base


def draw(*, seed: int = truth.SEED, scale: float = 1.0, ageing: float = 1.0, password_hashes: dict[str, str] | None = None) -> Company:
    """A whole company from a seed; without hashes it has no users. `scale` is the fleet's size, `ageing` how fast parts wear."""
    company = build_company(with_users=password_hashes is not None, password_hashes=password_hashes)
    chance = Random(seed)
    machines = build_fleet(company, chance, scale=scale)
    history = HistoryWriter(company, chance, ageing=ageing)
    usage = history.write(machines)
    if password_hashes is not None:
        spoil(history, machines, seed=seed)
    fill_shelves(company, usage)
    _drop_forgotten(company)
    if password_hashes is not None:
        leave_open(company)
    take_readings(company, history.lasting, seed=seed)
    return company


def _drop_forgotten(company: Company) -> None:
    """Tenures that ended before the log began leave no row, and neither do their units."""
    tables = company.rows.tables
    lost = {row["unit_id"] for row in tables["tenure"] if row.get("forgotten")}
    tables["tenure"] = [row for row in tables["tenure"] if row["unit_id"] not in lost]
    tables["unit"] = [row for row in tables["unit"] if row["id"] not in lost]


def load(engine: Engine, company: Company, *, check_references: bool = True) -> None:
    """Copy all rows, parents before children, and move the identity sequences past them.

    Generated fleets of a hundred thousand machines are loaded without looking up every reference again.
    """
    with engine.begin() as connection:
        if not check_references:
            connection.execute(text("SET LOCAL session_replication_role = replica"))
        for table in Base.metadata.sorted_tables:
            rows = company.rows.tables.get(table.name)
            if rows:
                _copy(connection, table.name, rows)
        if not check_references:  # triggers slept, too: the balances they keep are added up at once
            connection.execute(text("INSERT INTO shelf_balance SELECT shelf_id, bucket, sum(quantity) FROM stock_move GROUP BY 1, 2"))
        connection.execute(text("ANALYZE"))


def _copy(connection: Connection, name: str, rows: list[dict[str, Any]]) -> None:
    table = Base.metadata.tables[name]
    copy_rows(connection, table, rows)
    if "id" in table.columns and "id" in rows[0]:
        connection.execute(text(f"SELECT setval(pg_get_serial_sequence('\"{name}\"', 'id'), (SELECT max(id) FROM \"{name}\"))"))
