"""Machines without a record: found, counted by site, and what they may hold is spread by machines of their model."""

from __future__ import annotations

import json

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.core.demand.unrecorded import Spread
from almanac.services.outlook.inputs import read_inputs
from almanac.services.outlook.pools import units_in_service
from almanac.services.outlook.summary import read_outlook
from almanac.services.outlook.unrecorded import Unrecorded, read_unrecorded
from almanac.services.outlook.working import WorkingRow
from almanac.services.rates.data_check import KINDS, data_check, left_out
from tests.services.looks import builder_of, plate_of, working_of

PART, MODEL = "OB-P14-60", "Packet 14"
ADDED = """
    WITH machine AS (
        INSERT INTO asset (tag, model_id, options, duty, in_service_on)
        SELECT 'NEW-' || n, m.id, CAST(:options AS jsonb), 'office_hours', date '2026-01-05'
        FROM device_model m, generate_series(:first, :first + :machines - 1) n WHERE m.name = :model
        RETURNING id)
    INSERT INTO asset_stay (asset_id, site_id, from_on)
    SELECT machine.id, s.id, date '2026-01-05' FROM machine, site s WHERE s.is_depot
"""
CONDITION = """
    UPDATE position SET option_condition = '{"cooling": "fan"}'
    WHERE kind = 'fan' AND model_id = (SELECT id FROM device_model WHERE name = :model)
"""


def adds(session: Session, machines: int, *, first: int = 1, model: str = MODEL, **options: str) -> None:
    """Machines at the depot in which nobody recorded anything."""
    session.execute(text(ADDED), {"machines": machines, "first": first, "model": model, "options": json.dumps(options)})


def now(session: Session) -> Unrecorded:
    return read_unrecorded(session, read_inputs(session))


def units_of(session: Session, number: str) -> Spread:
    found: Spread = plate_of(session, number).unrecorded
    return found


def rows_of(session: Session, number: str) -> dict[str, WorkingRow]:
    return {row.label: row for section in working_of(session, number) for row in section.rows}


def kind_units(session: Session, kind: str) -> Spread:
    """What machines without a record may hold of a kind."""
    inputs = read_inputs(session)
    parts = {part.id for part in inputs.parts if part.kind == kind}
    return sum((spread for (part, _), spread in now(session).units.items() if part in parts), Spread())


def test_the_demo_has_a_record_of_every_machine(session: Session) -> None:
    # Machines whose memory is soldered may well have no module besides: they lack nothing.
    found = now(session)
    assert (found.machines, found.units) == ({}, {})
    assert read_outlook(session).unrecorded == 0
    assert "Units in machines without a record" not in rows_of(session, PART)


def test_what_nobody_recorded_is_spread_by_machines_of_the_model(session: Session) -> None:
    before = plate_of(session, PART)
    adds(session, 6)
    plate, builder = plate_of(session, PART), builder_of(session)
    depot = next(site.id for site in builder.inputs.sites if site.is_depot)
    found = now(session)
    assert found.machines == {depot: 6}
    assert found.machines_at(set()) == 0
    assert kind_units(session, "battery").expected == pytest.approx(6.0)  # one pack a machine, whichever it is
    assert plate.unrecorded.low <= plate.unrecorded.expected <= plate.unrecorded.high == 6.0
    assert (plate.line.in_service, plate.line.year) == (before.line.in_service, before.line.year)
    assert read_outlook(session).unrecorded == 6


def test_the_working_says_what_they_may_want(session: Session) -> None:
    adds(session, 200)
    plate, rows = plate_of(session, PART), rows_of(session, PART)
    held, wanted = rows["Units in machines without a record"], rows["Parts these may want besides"]
    assert held.note.endswith("in no figure above")
    assert float(held.value) == pytest.approx(plate.unrecorded.expected, abs=0.05)
    year, line = plate.line.year, plate.line
    assert year is not None
    # Per unit in service now, where the working divides by the unit-years of the year ahead: retirements and purchases tell them apart.
    assert float(wanted.value) == pytest.approx(plate.unrecorded.expected * (year.total - year.planned) / line.in_service, rel=0.3)


def test_another_site_has_none_of_them(session: Session) -> None:
    adds(session, 3)
    elsewhere = next(site.code for site in read_inputs(session).sites if not site.is_depot)
    assert read_outlook(session, site_code=elsewhere).unrecorded == 0
    assert plate_of(session, PART, elsewhere).unrecorded == Spread()


def test_the_data_check_names_machine_and_kind(session: Session) -> None:
    lives = left_out(session, "fan")
    adds(session, 3)
    found = next(found for found in data_check(session) if found.check.key == "unrecorded")
    assert {row.tag for row in found.rows} == {"NEW-1", "NEW-2", "NEW-3"}
    assert {row.kind for row in found.rows} >= {"battery", "fan", "ssd"}
    assert found.count == len(found.rows) == 3 * len({row.kind for row in found.rows})
    assert all(row.part == "" and row.incident_id is None for row in found.rows)
    assert left_out(session, "fan") == lives + 3


def test_memory_beside_a_soldered_one_is_missed_only_where_all_is(session: Session) -> None:
    inputs, model = read_inputs(session), MODEL
    memory = inputs.of_kind("memory")
    units = units_in_service(memory.fleets, memory.grouping)
    held = sum(unit.units for unit in units if inputs.models[unit.pool.model_id].name == model)
    machines = session.scalar(
        text("SELECT count(*) FROM asset a JOIN device_model m ON m.id = a.model_id WHERE m.name = :m AND a.retired_on IS NULL"),
        {"m": model},
    )
    assert machines
    adds(session, 10)
    found = kind_units(session, "memory")
    assert 0 < held < 2 * machines
    assert found.low == 0.0 < found.high
    assert found.expected == pytest.approx(10 * held / machines)


def test_kinds_one_by_one_leave_out_what_all_of_them_do(session: Session) -> None:
    # A machine with a soldered module and an empty slot lacks nothing: that somebody looked inside shows in its other parts.
    def whole() -> int:
        return sum(found.count for found in data_check(session) if found.check.left_out)

    assert sum(left_out(session, kind) for kind in KINDS) == whole()
    adds(session, 2)
    assert sum(left_out(session, kind) for kind in KINDS) == whole()


def test_a_part_once_recorded_is_no_gap(session: Session) -> None:
    adds(session, 1)
    session.execute(
        text("""WITH fitted AS (INSERT INTO unit (part_id, condition, received_on) SELECT id, 'unknown', date '2026-01-05'
                                FROM part WHERE number = :part RETURNING id, part_id)
                INSERT INTO tenure (unit_id, part_id, asset_id, model_id, position_id, fitted_on, removed_on, age_at_fitting_days,
                                    age_span_days, as_delivered, observed_from, recorded_at, removal_recorded_at)
                SELECT f.id, f.part_id, a.id, a.model_id, p.id, date '2026-01-05', date '2026-03-01', 0, 0, false, date '2026-01-05', now(),
                       now()
                FROM fitted f, asset a JOIN position p ON p.model_id = a.model_id AND p.kind = 'battery' WHERE a.tag = 'NEW-1'"""),
        {"part": PART},
    )
    found = next(found for found in data_check(session) if found.check.key == "unrecorded")
    assert "battery" not in {row.kind for row in found.rows}
    assert units_of(session, PART) == Spread()


def test_options_known_to_rule_a_part_out_lack_nothing(session: Session) -> None:
    session.execute(text(CONDITION), {"model": MODEL})
    adds(session, 3)
    adds(session, 2, first=4, cooling="none")
    fans = kind_units(session, "fan")
    # Of the machines whose options are known none has a fan; of those nobody knows, each may.
    assert (fans.low, fans.expected) == (0.0, 0.0)
    assert fans.high > 0
    adds(session, 6, first=6, cooling="fan")
    surely = kind_units(session, "fan")
    each = surely.low / 6
    assert each >= 1.0
    assert surely.expected == pytest.approx(each * (6 + 3 * 6 / 8))


def test_a_model_without_any_record_is_taken_as_its_page_lists_it(session: Session) -> None:
    session.execute(
        text("UPDATE asset SET retired_on = in_service_on + 1 WHERE model_id = (SELECT id FROM device_model WHERE name = :model)"),
        {"model": MODEL},
    )
    adds(session, 4)
    packs = kind_units(session, "battery")
    assert packs == Spread(0.0, 4.0, 4.0)


def test_a_company_without_parts_lacks_nothing(empty_session: Session) -> None:
    assert read_unrecorded(empty_session, read_inputs(empty_session)).machines == {}
