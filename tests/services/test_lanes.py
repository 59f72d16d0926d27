"""How sites are supplied: a lead changes it, and levels, loading days and dues follow."""

from __future__ import annotations

from datetime import date

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.core.stock.timetable import Timetable
from almanac.services.errors import Refused
from almanac.services.outlook.summary import read_builder, read_outlook
from almanac.services.stores.lanes import change_lane
from almanac.services.stores.read import read_tally


def levels(session: Session, site: str) -> int:
    """Parts kept at a site in all."""
    tally = read_tally(session)
    place = [one.code for one in tally.sites].index(site)
    return sum(row.cells[place].level or 0 for row in tally.rows)


def test_a_lane_that_leaves_less_often_asks_for_more_at_its_site_and_nowhere_else(session: Session) -> None:
    before = levels(session, "GUL"), levels(session, "WID")
    change_lane(session, "gul", Timetable(4, every_days=28))
    session.expire_all()
    assert levels(session, "GUL") > before[0]
    assert abs(levels(session, "WID") - before[1]) <= 2  # the depot's rule may move a part


def test_weekdays_count_by_their_longest_gap(session: Session) -> None:
    change_lane(session, "GUL", Timetable(4, weekdays=(0, 1), carrier="van"))
    session.expire_all()
    builder = read_builder(session)
    site = next(site.id for site in builder.inputs.sites if site.code == "GUL")
    assert (builder.inputs.gaps[site], builder.inputs.lanes[site]) == (6, 4)
    assert builder.inputs.leaves[site] == date(2026, 11, 2)
    words = {one.code: one.lane.words for one in read_tally(session).sites if one.lane}
    assert words["GUL"] == "Mon and Tue by van, 4 days"


def test_what_is_to_load_stands_on_the_day_it_leaves(session: Session) -> None:
    loads = {item.words.split(",")[0].removeprefix("load "): item.on for item in read_tally(session).week if item.words.startswith("load ")}
    assert loads
    leaves = {one.name: one.lane.next_on(read_tally(session).as_of) for one in read_tally(session).sites if one.lane}
    assert all(day == leaves[name] for name, day in loads.items())


def test_a_site_without_a_lane_gets_one_both_ways(session: Session) -> None:
    session.execute(text("DELETE FROM lane WHERE to_site_id = (SELECT id FROM site WHERE code = 'TER')"))
    change_lane(session, "TER", Timetable(9))
    both = "SELECT count(*) FROM lane WHERE (SELECT id FROM site WHERE code = 'TER') IN (from_site_id, to_site_id) AND days = 9"
    assert session.scalar(text(both)) == 2


@pytest.mark.parametrize(
    ("site", "wanted", "field"),
    [
        ("XXX", Timetable(4), "site"),
        ("ELD", Timetable(4), "site"),
        ("GUL", Timetable(-1), "days"),
        ("GUL", Timetable(366), "days"),
        ("GUL", Timetable(4, every_days=0), "every_days"),
        ("GUL", Timetable(4, every_days=61), "every_days"),
        ("GUL", Timetable(4, every_days=5, weekdays=(1,)), "every_days"),
        ("GUL", Timetable(4, weekdays=(7,)), "weekdays"),
        ("GUL", Timetable(4, carrier=" "), "carrier"),
    ],
)
def test_what_cannot_be_names_its_place(session: Session, site: str, wanted: Timetable, field: str) -> None:
    with pytest.raises(Refused) as caught:
        change_lane(session, site, wanted)
    assert field in {fault.field for fault in caught.value.faults}


def test_a_site_whose_lane_nobody_knows_is_worked_out_as_for_the_slowest_and_that_is_said(session: Session) -> None:
    known = levels(session, "GUL")
    assert read_outlook(session).unsaid == []
    session.execute(text("DELETE FROM lane WHERE to_site_id = (SELECT id FROM site WHERE code = 'GUL')"))
    session.expire_all()
    outlook = read_outlook(session)
    (unsaid,) = outlook.unsaid
    assert (unsaid.parts, unsaid.what) == (len(outlook.rows), "how long parts take to Gullskerry")
    assert "11 days" in unsaid.why
    assert "Stores" in unsaid.cure
    assert levels(session, "GUL") > known
    assert [item.what for item in read_outlook(session, site_code="GUL").unsaid] == [unsaid.what]
    assert read_outlook(session, site_code="TER").unsaid == []
