"""Readings of packs: written down, followed, and taken by the forecast in place of age alone."""

from __future__ import annotations

from datetime import date, timedelta

import numpy as np
import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.core.demand.wear_law import WearLaw
from almanac.services.clock import read_clock
from almanac.services.errors import Refused
from almanac.services.outlook.builder import OutlookBuilder
from almanac.services.outlook.wear import wear_of
from almanac.services.readings import ReadingRequest, add_reading
from tests.services.looks import builder_of

PACK = "OB-P13-45"


def law_of(builder: OutlookBuilder, number: str) -> WearLaw:
    part = next(part for part in builder.inputs.parts if part.number == number)
    law = builder.book(part.kind).part_law(part.id)
    assert law is not None
    assert isinstance(law.law, WearLaw)
    return law.law


def a_tag(session: Session, *, read: bool) -> str:
    """A machine with this pack in service, with readings or without."""
    wanted = "" if read else "NOT "
    return str(
        session.scalar(
            text(f"""SELECT a.tag FROM tenure t JOIN asset a ON a.id = t.asset_id JOIN part p ON p.id = t.part_id
                     WHERE p.number = :pack AND t.removed_on IS NULL AND a.retired_on IS NULL AND t.fitted_on < '2024-01-01'
                     AND {wanted}EXISTS (SELECT 1 FROM reading r WHERE r.tenure_id = t.id) ORDER BY a.tag LIMIT 1"""),
            {"pack": PACK},
        )
    )


def test_followed_units_take_the_place_of_as_many_by_age(session: Session) -> None:
    builder = builder_of(session)
    wear, law = wear_of(builder, PACK), law_of(builder, PACK)
    assert wear.usable > 40
    assert law.wear.followed is not None
    assert law.wear.followed.pool.size == wear.usable
    part = next(part for part in builder.inputs.parts if part.number == PACK)
    today = law.wear.positions.enter <= 0
    in_service = sum(builder.inputs.life[number].fleet.content.served.units.sum() for number in builder.inputs.members(part.id))
    assert law.wear.positions.units[today].sum() + wear.usable == pytest.approx(in_service)
    assert wear.by_readings is not None
    assert wear.by_age is not None
    assert 0 < wear.by_readings < wear.usable
    assert [row.fades is None for row in wear.units] == sorted(row.fades is None for row in wear.units)
    for row in wear.units:
        assert (row.crosses is None) == bool(row.unit.reason)
    assert wear.faded is not None
    assert wear.faded.curves is not None
    assert not wear.faded.curves.together
    assert sum(wear.faded.curves.learnt.weight.values()) == pytest.approx(1.0)


def test_parts_without_readings_are_as_before(session: Session) -> None:
    builder = builder_of(session)
    assert law_of(builder, "OB-P14-60").wear.followed is None
    assert wear_of(builder, "OB-P14-60").units == []
    assert wear_of(builder, "LD-80512").by_readings is None


def test_a_pack_read_far_down_is_expected_soon(session: Session) -> None:
    clock, tag = read_clock(session), a_tag(session, read=False)
    before = wear_of(builder_of(session), PACK)
    for days, full in ((240, 40.0), (160, 37.0), (80, 34.6), (1, 32.0)):
        day = clock.today - timedelta(days=days)
        add_reading(session, ReadingRequest(tag.lower(), "battery", day, full, 45.0), clock=clock, author_id=1)
    after = wear_of(builder_of(session), PACK)
    assert after.usable == before.usable + 1
    row = next(row for row in after.units if row.unit.followed.row.tag == tag)
    assert row.crosses is not None
    assert abs((row.crosses.day - clock.today).days) < 60
    assert row.crosses.low < row.crosses.day
    assert before.by_readings is not None
    assert after.by_readings is not None
    assert row.unit.days is not None
    assert (row.unit.days <= 365).mean() > 0.9
    # Its group learns from its early readings as well, and of the others a little less or more is expected.
    assert before.by_readings + 0.3 < after.by_readings < before.by_readings + 5


def test_a_second_reading_of_a_day_takes_the_place_of_the_first(session: Session) -> None:
    clock, tag = read_clock(session), a_tag(session, read=False)
    for full in (20.0, 41.0):
        add_reading(session, ReadingRequest(tag, "battery", date(2026, 9, 1), full, 45.0), clock=clock, author_id=1)
    row = next(row for row in wear_of(builder_of(session), PACK).units if row.unit.followed.row.tag == tag)
    assert [reading.share for reading in row.unit.followed.readings] == pytest.approx([41.0 / 45.0])
    assert row.crosses is None
    assert "1 readings" in row.unit.reason


def test_a_drive_nearly_spent_is_expected_beside_what_its_age_says(session: Session) -> None:
    clock, drive = read_clock(session), "LD-80512"
    tag = str(
        session.scalar(
            text("""SELECT a.tag FROM tenure t JOIN asset a ON a.id = t.asset_id JOIN part p ON p.id = t.part_id
                    JOIN position o ON o.id = t.position_id WHERE p.number = :drive AND o.key = 'drive' AND t.removed_on IS NULL
                    AND a.retired_on IS NULL AND t.fitted_on < '2025-01-01' ORDER BY a.tag LIMIT 1"""),
            {"drive": drive},
        )
    )
    part = next(part.id for part in builder_of(session).inputs.parts if part.number == drive)
    before = builder_of(session).book("ssd").part_law(part)
    for days, left in ((300, 34.0), (200, 26.0), (100, 19.0), (1, 11.5)):
        add_reading(session, ReadingRequest(tag, "drive", clock.today - timedelta(days=days), left, 100.0), clock=clock, author_id=1)
    builder = builder_of(session)
    wear, after = wear_of(builder, drive), builder.book("ssd").part_law(part)
    assert wear.beside
    assert (wear.usable, wear.threshold) == (1, 0.10)
    assert wear.by_readings == pytest.approx(1.0, abs=0.02)
    assert wear.by_age is not None
    assert 0 < wear.by_age < 0.3
    assert before is not None
    assert after is not None
    year = np.array([0]), np.array([365])
    assert after.law.wear_means(*year).sum() == pytest.approx(before.law.wear_means(*year).sum() + wear.by_readings, rel=2e-2)
    assert not wear_of(builder, PACK).beside


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"read_on": date(2027, 1, 1)}, "read_on"),
        ({"design": 0.0}, "design"),
        ({"full": 100.0}, "full"),
        ({"full": -1.0}, "full"),
        ({"tag": "NOBODY"}, "tag"),
        ({"position": "keyboard"}, "tag"),
        ({"read_on": date(2001, 1, 1)}, "tag"),
    ],
)
def test_a_wrong_reading_is_refused_and_nothing_kept(session: Session, change: dict[str, object], field: str) -> None:
    clock = read_clock(session)
    right: dict[str, object] = {
        "tag": a_tag(session, read=True),
        "position": "battery",
        "read_on": clock.today,
        "full": 40.0,
        "design": 45.0,
    }
    before = session.scalar(text("SELECT count(*) FROM reading"))
    with pytest.raises(Refused) as refused:
        add_reading(session, ReadingRequest(**(right | change)), clock=clock, author_id=1)  # type: ignore[arg-type]
    assert field in [fault.field for fault in refused.value.faults]
    assert session.scalar(text("SELECT count(*) FROM reading")) == before


def test_readings_count_at_one_constant_rate_too(session: Session) -> None:
    session.execute(
        text("""INSERT INTO setting (scope, scope_key, key, number, value, from_on, recorded_at)
                VALUES ('kind', 'battery', 'school', 1, '"constant"', '2020-01-01', now())""")
    )
    builder = builder_of(session)
    law, wear = law_of(builder, PACK), wear_of(builder, PACK)
    assert law.wear.followed is not None
    assert set(law.wear.kind.nodes.shape) == {1.0}
    assert wear.by_readings is not None
    assert wear.by_age is not None
    alone = law.wear_means(np.array([0]), np.array([365])).sum() - wear.by_readings
    plain = builder.book("battery").part_law(next(part.id for part in builder.inputs.parts if part.number == "OB-P14-60"))
    assert plain is not None
    assert not isinstance(plain.law, WearLaw)
    # The rest of the fleet at the rates of its pools, as the law without readings has it; what replaces worn packs may fail as well.
    part = next(part for part in builder.inputs.parts if part.number == PACK)
    book = builder.book("battery")
    mean = book._constant(part.id, book.pools_of[part.id], builder.inputs.site_ids)
    assert alone + wear.by_age == pytest.approx(mean.wear_means(np.array([0]), np.array([365])).sum(), rel=0.08)
