"""The outlook from the database: figures that add up, answers that change with what they rest on, and nothing else."""

from __future__ import annotations

from datetime import date, timedelta
from typing import Any

import numpy as np
import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.core.demand import counts
from almanac.core.life.record import Stream
from almanac.core.stock.shelf import Risk, ToDo
from almanac.services.buying_list import BUYING_COLUMNS, LOADING_COLUMNS, buying_rows, loading_rows
from almanac.services.clock import Clock
from almanac.services.errors import NotFound
from almanac.services.ledger.record import record_incident
from almanac.services.orders.arrivals import ReceiptRequest, receive
from almanac.services.orders.sending import OrderRequest, place_order
from almanac.services.outlook.summary import read_entries, read_outlook, read_plate
from tests.services.helpers import WATCHED, bench, incident
from tests.services.looks import builder_of, plate_of, rows_of, working_of

PART = "OB-P14-60"


def line_of(session: Session, number: str, site: str | None = None) -> Any:
    return next(line for line in rows_of(session, site) if line.part.number == number)


def test_every_stock_part_of_the_four_kinds_has_a_line(session: Session) -> None:
    outlook = read_outlook(session)
    assert {line.part.kind for line in outlook.rows} == {"memory", "ssd", "battery", "fan"}
    assert len(outlook.rows) == 38
    for line in rows_of(session):
        assert line.rate is not None
        assert 0 < line.rate.low < line.rate.rate < line.rate.high < 1
        assert [point.low <= point.median <= point.high for point in line.path] == [True] * 13
        assert line.path[0].median == line.on_hand - line.promised


def test_the_sentence_adds_up(session: Session) -> None:
    outlook = read_outlook(session)
    assert outlook.failing_soon == pytest.approx(sum(line.soon.failing for line in rows_of(session) if line.soon))
    assert outlook.soon_until == date(2027, 1, 30)
    assert {line.part.number for line in outlook.to_order} == {row.part.number for row in outlook.rows if row.todo is ToDo.ORDER}
    assert {row.part.number for row in outlook.rows if row.todo is ToDo.LOAD} <= {row.part.number for row in outlook.to_load}
    assert outlook.thin == sum(row.risk is Risk.THIN for row in outlook.rows)
    assert outlook.next_order_on == date(2026, 11, 1)
    assert 0 < len(outlook.to_order) < len(outlook.rows) / 2


def test_demand_of_the_sites_adds_up_to_the_company(session: Session) -> None:
    whole = line_of(session, PART)
    sites = [line_of(session, PART, code) for code in ("ELD", "GUL", "BRA", "WID", "MAR", "TER")]
    assert sum(line.in_service for line in sites) == whole.in_service
    assert sum(line.year.total for line in sites) == pytest.approx(whole.year.total, rel=1e-9)
    assert sum(line.on_hand for line in sites) == whole.on_hand
    assert {line.rate.rate for line in sites} != {whole.rate.rate}  # other mix of pools, same pool rates


def test_one_site_waits_for_its_boat_and_all_sites_for_the_supplier(session: Session) -> None:
    assert line_of(session, PART, "TER").policy.lead.days.tolist() == [11]
    learnt = line_of(session, PART).policy.lead
    assert {18, 21, 28, 42} <= set(learnt.days.tolist())  # what the supplier states, and what its deliveries taught beside it
    assert learnt.mean_days > 25
    assert line_of(session, PART, "ELD").policy.lead.days.tolist() == learnt.days.tolist()
    with pytest.raises(NotFound, match="ATL"):
        read_outlook(session, site_code="ATL")


def test_a_site_is_told_what_the_company_is_told_of_it(session: Session) -> None:
    """Level, load and risk of a site are the same from the company's page and from its own."""
    whole = read_outlook(session)
    site = next(one for one in whole.inputs.sites if one.code == "GUL")
    own = {row.part.number: row for row in read_outlook(session, site_code="GUL").rows}
    loads = 0
    for row in whole.rows:
        if row.plan is None:
            continue
        there = next(one for one in row.plan.sites if one.site_id == site.id)
        seen = own[row.part.number].plan
        assert seen is not None
        assert (seen.most, seen.position, seen.loads) == (there.level, there.free + there.coming, there.load)
        assert (seen.risk == Risk.FINE) == (there.risk == Risk.FINE)
        loads += there.load
    assert loads > 0
    assert not read_outlook(session, site_code="GUL").to_order


def test_a_plate_agrees_with_itself(session: Session) -> None:
    plate, builder = plate_of(session, PART), builder_of(session)
    line: Any = plate.line
    assert sum(expected for _, expected in plate.by_model) == pytest.approx(line.year.total, rel=1e-9)
    assert sum(pool.units for pool in plate.pools) == line.in_service
    assert sum(month.expected for month in plate.months) == pytest.approx(line.law.law.means(0, 364).total, rel=1e-4)
    pmf = line.law.law.pmf([0], [builder.steps[0].to_day])
    assert plate.line.path[1].median == line.holding.available - counts.quantile(pmf, 0.5)[0]
    played = plate.played
    assert played is not None
    assert [point.day for point in played.path] == [point.day for point in line.path]
    assert played.path[-1].median > line.path[-1].median
    # Played for a year, the rule neither runs dry nor piles up: what it promises is what is seen.
    assert played.fill.value == pytest.approx(line.plan.fill, abs=0.03)
    assert all(0 <= point.median <= line.plan.most + 8 for point in played.path)
    assert played.parts.median == pytest.approx(line.year.total, rel=0.25)


def test_the_working_names_every_step(session: Session) -> None:
    sections = working_of(session, PART)
    assert [section.title for section in sections] == [
        "Failure rate",
        "Demand",
        "Position",
        "Reorder point",
        "To do and risk",
        "Other schools",
    ]
    rows = {row.label: row for section in sections for row in section.rows}
    assert (
        rows["Tenures on record"].value
        == f"{session.scalar(text('SELECT count(*) FROM tenure t JOIN part p ON p.id = t.part_id WHERE p.number = :n'), {'n': PART}):,}"
    )
    assert rows["On the shelf"].value == str(line_of(session, PART).on_hand)
    assert rows["Confirmed failures"].entries == "confirmed"


@pytest.mark.parametrize("stream", [Stream.CONFIRMED, Stream.OPEN, Stream.DEAD_ON_ARRIVAL, Stream.DAMAGE, Stream.NO_FAULT_DRAW])
def test_the_entries_behind_a_figure_are_as_many_as_it_says(session: Session, stream: Stream) -> None:
    line = line_of(session, PART)
    behind = read_entries(session, PART, stream)
    assert len(behind) == sum(record.count(stream) for record in line.law.records)
    assert [entry.occurred_on for entry in behind] == sorted((entry.occurred_on for entry in behind), reverse=True)


def test_an_incident_changes_the_outlook_at_once_and_only_its_kind(session: Session, clock: Clock) -> None:
    where = bench(session)
    before: dict[str, Any] = {line.part.number: line for line in rows_of(session)}
    record_incident(session, incident(where, finding="confirmed", occurred_on=WATCHED), clock=clock, author_id=2)
    after: dict[str, Any] = {line.part.number: line for line in rows_of(session)}
    assert after[where.part].on_hand == before[where.part].on_hand - 1
    assert after[where.part].rate.rate > before[where.part].rate.rate
    for number, line in after.items():
        moved = line.rate != before[number].rate
        assert moved == (line.part.kind == "battery")


def test_an_order_and_its_receipt_move_the_path(session: Session, clock: Clock) -> None:
    before = line_of(session, PART)
    placed = place_order(session, OrderRequest(PART, 8), clock=clock, author_id=1)
    ordered = line_of(session, PART)
    assert placed.expected_on == clock.today + timedelta(days=21)
    assert (ordered.on_order, ordered.on_hand) == (before.on_order + 8, before.on_hand)
    assert ordered.path[-1].median == before.path[-1].median + 8
    receive(session, placed.id, ReceiptRequest(3, clock.today, 1), clock=clock, author_id=2)
    received = line_of(session, PART)
    assert (received.on_order, received.on_hand) == (before.on_order + 5, before.on_hand + 3)


def test_an_overdue_delivery_is_taken_to_need_one_more_review(session: Session) -> None:
    overdue = [line for line in rows_of(session) if line.overdue]
    assert overdue
    assert all(arrival.day == 14 for line in overdue for arrival in line.holding.arrivals)


def test_fleet_plans_move_the_units_in_service(session: Session) -> None:
    def years(number: str) -> float:
        law = line_of(session, number).law.law
        return float(law.window_exposure(np.array([0]), np.array([365]))[0].sum())

    packet_15, packet_14b, fans = years("OB-P15-48"), years("LM-16548"), years("QF-BL-R")
    swaps = line_of(session, "LM-16320").year.planned
    session.execute(
        text("DELETE FROM reservation WHERE plan_id IS NOT NULL; DELETE FROM backorder WHERE plan_id IS NOT NULL; DELETE FROM fleet_plan")
    )
    assert years("OB-P15-48") > packet_15
    assert years("LM-16548") < packet_14b
    assert years("QF-BL-R") < fans
    assert (swaps, line_of(session, "LM-16320").year.planned) == (10.0, 0.0)


def test_a_purchase_of_a_model_nobody_has_yet_comes_with_the_first_part_listed(session: Session) -> None:
    before = line_of(session, PART).year.total
    session.execute(text("INSERT INTO device_model (maker, name, family, form) VALUES ('Ostrel', 'Packet 16', 'Packet', 'notebook')"))
    model = session.scalar(text("SELECT max(id) FROM device_model"))
    session.execute(
        text(
            """INSERT INTO position (model_id, revision_id, key, label, kind, serviceability) VALUES (:m, 1, 'battery', 'Battery', 'battery', 'screwed');"""
        ),
        {"m": model},
    )
    session.execute(
        text("""INSERT INTO fits (part_id, position_id, verdict, reason, origin) SELECT p.id, (SELECT max(id) FROM position), 'yes', 'listed', 'listed'
                FROM part p WHERE p.number = :n"""),
        {"n": PART},
    )
    session.execute(
        text("""INSERT INTO fleet_plan (action, model_id, site_id, duty, planned_on, quantity, note)
                VALUES ('purchase', :m, 1, 'office_hours', '2026-12-01', 200, '')"""),
        {"m": model},
    )
    assert line_of(session, PART).year.total > before + 4


def test_two_way_equivalents_share_one_line(session: Session) -> None:
    first, second = line_of(session, "OF-H14-L"), line_of(session, "OF-H14-R")
    session.execute(
        text("""INSERT INTO interchange (part_id, serves_as_id, reason)
                SELECT a.id, b.id, 'measured alike' FROM part a, part b WHERE (a.number, b.number) IN (('OF-H14-L', 'OF-H14-R'), ('OF-H14-R', 'OF-H14-L'))""")
    )
    lines: dict[str, Any] = {line.part.number: line for line in rows_of(session)}
    assert "OF-H14-R" not in lines
    pooled = lines["OF-H14-L"]
    assert pooled.equivalents == ("OF-H14-R",)
    assert pooled.in_service == first.in_service + second.in_service
    assert pooled.on_hand == first.on_hand + second.on_hand
    assert pooled.law.law.failures.sum() == pytest.approx(first.law.law.failures.sum() + second.law.law.failures.sum())


def test_a_higher_target_orders_at_more(session: Session) -> None:
    def points() -> list[int]:
        return [line.plan.order_at if line.plan else 0 for line in rows_of(session)]

    before = points()
    session.execute(
        text(
            "INSERT INTO setting (scope, scope_key, key, number, value, from_on, recorded_at) VALUES ('company', '', 'target', 2, '0.995', '2026-11-01', now())"
        )
    )
    after = points()
    assert all(later >= earlier for later, earlier in zip(after, before, strict=True))
    assert sum(after) > sum(before)


def test_a_reserved_part_is_not_free(session: Session) -> None:
    before = line_of(session, PART)
    session.execute(
        text(
            "INSERT INTO reservation (shelf_id, quantity, reserved_on) SELECT h.id, 2, '2026-10-30' FROM shelf h JOIN part p ON p.id = h.part_id WHERE p.number = :n LIMIT 1"
        ),
        {"n": PART},
    )
    after = line_of(session, PART)
    assert (after.promised, after.on_hand) == (2, before.on_hand)
    assert after.path[0].median == before.path[0].median - 2


def test_the_buying_list_is_what_the_outlook_says(session: Session) -> None:
    outlook = read_outlook(session)
    rows = buying_rows(outlook)
    assert len(rows) == sum(line.quantity > 0 for line in outlook.rows)
    assert {row[0] for row in rows} == {"order"}
    loading = loading_rows(outlook)
    assert sum(int(str(row[LOADING_COLUMNS.index("quantity")])) for row in loading) == sum(
        row.plan.loads for row in outlook.to_load if row.plan
    )
    quantity, price, cost = (BUYING_COLUMNS.index(name) for name in ("quantity", "unit_price", "cost"))
    assert all(row[cost] == row[quantity] * row[price] for row in rows)  # type: ignore[operator]


def test_an_unknown_part_has_no_plate(session: Session) -> None:
    with pytest.raises(NotFound, match="NOPE"):
        read_plate(session, "NOPE")
    with pytest.raises(NotFound, match="NOPE"):
        read_entries(session, "NOPE", Stream.OPEN)


def test_an_empty_company_has_an_empty_outlook(empty_session: Session) -> None:
    outlook = read_outlook(empty_session)
    assert (outlook.rows, outlook.failing_soon, outlook.next_order_on) == ([], None, None)


def test_a_part_without_any_record_says_so(empty_session: Session) -> None:
    empty_session.execute(text("INSERT INTO supplier (name, lead_time) VALUES ('S', '[{\"days\": 5, \"weight\": 1}]')"))
    empty_session.execute(
        text(
            "INSERT INTO part (number, name, kind, facts, supplier_id, price, pack, minimum_order) SELECT 'N-1', 'New', 'fan', '{}', id, 9, 1, 1 FROM supplier"
        )
    )
    outlook = read_outlook(empty_session)
    assert outlook.rows[0].plan is None
    assert "No tenure" in working_of(empty_session, "N-1")[0].formula


def test_an_empty_log_gives_no_all_clear(session: Session) -> None:
    before = read_outlook(session)
    assert before.unsaid == []
    session.execute(text("ALTER TABLE event_line DISABLE TRIGGER append_only; ALTER TABLE event_revision DISABLE TRIGGER append_only"))
    session.execute(text("ALTER TABLE stock_move DISABLE TRIGGER append_only"))
    session.execute(text("UPDATE stock_move SET incident_id = NULL; DELETE FROM event_line"))
    session.execute(text("SET CONSTRAINTS ALL DEFERRED; DELETE FROM job_entry; DELETE FROM custody_line; DELETE FROM job"))
    session.execute(text("DELETE FROM event_revision; DELETE FROM incident"))
    silent = read_outlook(session)
    assert silent.failing_soon is None
    assert (silent.to_order, silent.next_order_on) == ([], None)
    assert {(row.todo, row.risk) for row in silent.rows} == {(None, None)}
    assert all(row.plan is None and row.projection.rate is None and row.projection.path == [] for row in silent.rows)
    assert [item.parts for item in silent.unsaid] == [len(silent.rows)]
    assert "no incident is on record" in silent.unsaid[0].why
    assert "import the old log" in silent.unsaid[0].cure


def test_nothing_is_planned_after_the_end_of_supply(session: Session) -> None:
    number = next(line.part.number for line in rows_of(session) if line.plan and line.plan.quantity)
    session.execute(text("UPDATE part SET end_of_supply_on = '2026-10-31' WHERE number = :n"), {"n": number})
    plate, builder = plate_of(session, number), builder_of(session)
    assert plate.line.quantity == 0
    assert plate.line.due_after_supply(builder.inputs.clock.today) is not None
