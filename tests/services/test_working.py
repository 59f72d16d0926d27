"""The working of every stock part: its steps are there, their figures are those of the outlook, and nothing is left unsaid."""

from __future__ import annotations

import re

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.core.parts.declared.kinds import FORECAST_KINDS
from almanac.demo.catalog import PARTS
from almanac.services.outlook.working import WorkingRow
from tests.services.looks import rows_of as outlook_rows
from tests.services.looks import working_of

NUMBERS = [part.number for part in PARTS if part.kind in FORECAST_KINDS]


def rows_of(session: Session, number: str, site: str | None = None) -> dict[str, WorkingRow]:
    return {row.label: row for section in working_of(session, number, site) for row in section.rows}


def figure(value: str) -> float:
    """The number at the start of a value."""
    found = re.match(r"[\d,.]+", value)
    assert found, value
    return float(found[0].replace(",", ""))


@pytest.mark.parametrize("number", NUMBERS)
def test_the_streams_add_up_to_the_parts_wanted(session: Session, number: str) -> None:
    rows = rows_of(session, number)
    streams = ("Wear-out failures", "Damage", "Draws without a fault found", "Planned swaps", "Dead on arrival")
    total = sum(figure(rows[name].value) for name in streams)
    assert total == pytest.approx(figure(rows["Parts wanted in 365 days"].value), abs=0.03)


@pytest.mark.parametrize("number", NUMBERS[::5])
def test_figures_of_the_working_are_those_of_the_table(session: Session, number: str) -> None:
    rows = rows_of(session, number)
    line = next(line for line in outlook_rows(session) if line.part.number == number)
    assert line.rate is not None
    assert figure(rows["Annualised failure rate, per 100 units a year"].value) == pytest.approx(line.rate.rate * 100, abs=0.051)
    assert figure(rows["Units in service now"].value) == line.in_service
    assert (figure(rows["On the shelf"].value), figure(rows["Coming"].value)) == (line.on_hand, line.on_order)
    assert line.plan is not None
    assert figure(rows["Position"].value) == line.plan.position
    assert figure(rows["Order at"].value) == line.plan.order_at
    if line.plan.size:
        assert figure(rows["Order today"].value) == line.quantity
        assert figure(rows["Order today"].note.removeprefix("EUR ")) == pytest.approx(float(line.cost))


def test_open_findings_show_the_range_they_leave(session: Session) -> None:
    rows = rows_of(session, "OB-P14-60")
    low, high = (figure(piece) for piece in re.findall(r"\d[\d,.]*", rows["Wear-out failures, D"].note))
    used = figure(rows["Wear-out failures, D"].value)
    assert low < used < high
    assert figure(rows["Confirmed failures"].value) == low


def test_the_supplier_at_the_depot_and_the_boat_at_an_outpost(session: Session) -> None:
    supplier = rows_of(session, "OB-P14-60")["Lead time"]
    assert "50 days" in supplier.value
    assert "deliveries on record weighed against what Ostrel Spares states: 18 days 25%" in supplier.note
    outpost = rows_of(session, "OB-P14-60", "TER")["Lead time"]
    assert (outpost.value, outpost.note) == ("11 days 100%", "the lane's days")


def test_a_shelf_life_shows_its_cap_and_scrap_its_cost(session: Session) -> None:
    session.execute(text("UPDATE part SET shelf_life_days = 540 WHERE number = 'QB-D15-90'"))
    assert "Shelf-life cap" in rows_of(session, "QB-D15-90")
    assert "Shelf-life cap" not in rows_of(session, "OF-P14")
    session.execute(text("UPDATE part SET pack = 40, minimum_order = 40, shelf_life_days = 30 WHERE number = 'QB-D16-94'"))
    rows = rows_of(session, "QB-D16-94")
    assert figure(rows["Order today"].value) == 40
    assert "of scrap" in rows["Over the cap"].value


def test_the_rule_of_thumb_shows_the_risk_it_really_carries(session: Session) -> None:
    thumb = rows_of(session, "OB-P14-60")["2.0% of the fleet"]
    assert thumb.value == "keep 13"
    assert thumb.note.startswith("suffices over lead time and review with")
    session.execute(
        text(
            "INSERT INTO setting (scope, scope_key, key, number, value, from_on, recorded_at) VALUES ('part', 'OB-P14-60', 'fixed_share', 1, '0.5', '2026-01-01', now())"
        )
    )
    assert rows_of(session, "OB-P14-60")["50% of the fleet"].value == "keep 306"


def test_nothing_due_within_a_year_says_so(session: Session) -> None:
    session.execute(
        text("""INSERT INTO stock_move (shelf_id, bucket, quantity, cause, moved_on, recorded_at)
                SELECT h.id, 'on_hand', 500, 'counted', '2026-10-31', now() FROM shelf h JOIN part p ON p.id = h.part_id WHERE p.number = 'OF-P14' LIMIT 1""")
    )
    sections = working_of(session, "OF-P14")
    rows = {row.label: row for section in sections for row in section.rows}
    assert rows["Likely next order"].value == "not within a year"
