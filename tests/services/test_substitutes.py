"""What may be fitted in place of a part, what suppliers still stand for, and what retiring machines would give."""

from __future__ import annotations

from datetime import timedelta

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.services.errors import NotFound, Refused
from almanac.services.outlook.summary import read_builder
from almanac.services.stores.read import read_shelf
from almanac.services.stores.substitutes import Substitute, drop_substitute, set_substitute
from almanac.store import claims


def instead(session: Session, part: str, site: str = "ELD") -> list[Substitute]:
    return read_shelf(session, part, site, is_lead=True).instead


def test_a_one_way_substitute_is_offered_with_what_lies_free(session: Session) -> None:
    (found,) = instead(session, "LM-8266")
    assert (found.number, found.two_way) == ("LM-8320", False)
    assert instead(session, "LM-8320") == []
    held = session.scalar(
        text("""SELECT sum(b.quantity) FROM shelf_balance b JOIN shelf h ON h.id = b.shelf_id JOIN part p ON p.id = h.part_id
                WHERE p.number = 'LM-8320' AND b.bucket = 'on_hand'""")
    )
    assert found.here + found.elsewhere == held


def test_two_ways_share_one_reorder_point_and_one_way_keeps_its_own(session: Session) -> None:
    before = {part.number for part in read_builder(session).inputs.parts}
    assert {"LM-8320", "LM-8266"} <= before
    session.execute(text("UPDATE fits SET verdict = 'yes' WHERE part_id IN (SELECT id FROM part WHERE number IN ('LM-8320', 'LM-8266'))"))
    set_substitute(session, "LM-8266", "LM-8320", two_way=True, reason="the same but for the label")
    assert len({"LM-8320", "LM-8266"} & {part.number for part in read_builder(session).inputs.parts}) == 1
    assert instead(session, "LM-8320")[0].two_way
    set_substitute(session, "LM-8266", "LM-8320", two_way=False, reason="faster")
    assert {"LM-8320", "LM-8266"} <= {part.number for part in read_builder(session).inputs.parts}


def test_a_machine_that_refuses_it_is_named(session: Session) -> None:
    with pytest.raises(Refused, match="takes OF-P14 and not OF-P13"):
        set_substitute(session, "OF-P14", "OF-P13", two_way=False, reason="looks alike")
    assert instead(session, "OF-P14") == []


@pytest.mark.parametrize(
    ("part", "other", "reason", "message"),
    [
        ("LM-8320", "LM-8320", "same", "no substitute of itself"),
        ("LM-8320", "OF-P14", "no", "is of another kind"),
        ("LM-8320", "NO-1", "no", "no part has the number NO-1"),
        ("LM-8266", "LM-8320", "  ", "say why"),
    ],
)
def test_what_cannot_stand_in(session: Session, part: str, other: str, reason: str, message: str) -> None:
    with pytest.raises(Refused, match=message):
        set_substitute(session, part, other, two_way=False, reason=reason)


def test_it_can_be_taken_back_once(session: Session) -> None:
    drop_substitute(session, "LM-8266", "LM-8320")
    assert instead(session, "LM-8266") == []
    with pytest.raises(NotFound, match="is no substitute of"):
        drop_substitute(session, "LM-8266", "LM-8320")


def test_claims_are_failures_within_their_warranty(session: Session, clock: Clock) -> None:
    found = claims.claims(session, since=clock.today)
    assert found
    assert all(row.occurred_on <= row.until_on and row.until_on >= clock.today for row in found)
    assert [row.until_on for row in found] == sorted(row.until_on for row in found)
    assert {row.finding for row in found} <= {"confirmed", "dead_on_arrival", "open"}
    session.execute(text("UPDATE part SET warranty_days = NULL"))
    assert claims.claims(session, since=clock.today) == []  # nobody said how long: nothing is claimed


def test_retiring_machines_give_no_packs(session: Session, clock: Clock) -> None:
    until = clock.today + timedelta(days=92)
    found = claims.retiring(session, today=clock.today, until=until, never=["battery"])
    assert found
    assert "battery" not in {row.kind for row in found}
    assert all(row.retire_on <= until for row in found)
