"""Recording and correcting incidents: everything changes together, units are conserved, and bad input changes nothing."""

from __future__ import annotations

from datetime import date, timedelta

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.core.life.outcomes import REMOVED_TO, Finding
from almanac.core.triage.confirm import Evidence
from almanac.services.clock import Clock
from almanac.services.errors import NeedsConfirmation, NotFound, Refused, Stale
from almanac.services.ledger.correct import CorrectionRequest, correct_incident
from almanac.services.ledger.read import read_card, read_history, read_page
from almanac.services.ledger.record import LineRequest, record_incident
from almanac.store.incidents import LogFilter
from tests.services.helpers import PROVEN, TODAY, WATCHED, Bench, bench, in_bucket, incident, site_of, units, watch_days


@pytest.fixture
def at_once(session: Session) -> None:
    """A company that watches no days: these tests are of what follows."""
    watch_days(session, 0)


def correction(**changes: object) -> CorrectionRequest:
    values: dict[str, object] = {
        "expected_number": 1,
        "occurred_on": TODAY,
        "reason": "as before",
        "finding": "confirmed",
        "minutes": 20,
        "note": "",
        "evidence": PROVEN,
    }
    return CorrectionRequest(**(values | changes))  # type: ignore[arg-type]


def test_a_replacement_ends_a_tenure_begins_another_and_moves_stock(session: Session, clock: Clock) -> None:
    where, before = bench(session), units(session)
    on_hand, quarantine = in_bucket(session, where.part, "on_hand"), in_bucket(session, where.part, "quarantine")
    number = record_incident(session, incident(where), clock=clock, author_id=2)
    card = read_card(session, where.tag, today=TODAY)
    held = next(held for position, held, _ in card.positions if position.id == where.position_id)
    assert held is not None
    assert held[0].fitted_on == TODAY
    assert in_bucket(session, where.part, "on_hand") == on_hand - 1
    assert in_bucket(session, where.part, "quarantine") == quarantine + 1
    assert units(session) == before
    entry = read_history(session, number)[0]
    assert (entry.finding, entry.author, entry.lines[0].fitted_part) == ("open", "R. Pell", where.part)
    assert entry.lines[0].age_days is not None
    assert entry.lines[0].age_days > 90


@pytest.mark.usefixtures("at_once")
@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    st.sampled_from(["replaced", "removed", "kept"]),
    st.lists(st.sampled_from(list(Finding)), min_size=1, max_size=4),
    st.sampled_from(["fan", "ssd"]),
)
def test_units_are_conserved_whatever_is_found(session: Session, clock: Clock, action: str, found: list[Finding], kind: str) -> None:
    """Fitted + on hand + harvested + quarantined + scrapped + returned is the same before and after, through all revisions."""
    nested = session.begin_nested()
    where, before = bench(session, kind), units(session)
    if Finding.DEAD_ON_ARRIVAL in found:  # only a part fitted lately can be
        session.execute(
            text("""UPDATE tenure SET fitted_on = :day, observed_from = :day
                    WHERE removed_on IS NULL AND position_id = :p AND asset_id = (SELECT id FROM asset WHERE tag = :t)"""),
            {"day": WATCHED, "p": where.position_id, "t": where.tag},
        )
    number = record_incident(session, incident(where, action=action, finding=found[0].value), clock=clock, author_id=2)
    for place, finding in enumerate(found[1:], start=1):
        correct_incident(session, number, correction(expected_number=place, finding=finding.value), clock=clock, author_id=2)
    assert units(session) == before
    if action != "kept":
        moved = session.execute(
            text("SELECT bucket, sum(quantity) FROM stock_move WHERE incident_id = :i AND bucket <> 'on_hand' GROUP BY 1"), {"i": number}
        )
        assert {bucket: int(quantity) for bucket, quantity in moved if quantity} == {REMOVED_TO[found[-1]].value: 1}
    nested.rollback()


@pytest.mark.usefixtures("at_once")
def test_a_correction_is_a_new_revision_and_nothing_is_erased(session: Session, clock: Clock) -> None:
    where = bench(session)
    number = record_incident(session, incident(where), clock=clock, author_id=2)
    assert correct_incident(session, number, correction(note="held for five starts"), clock=clock, author_id=1) == 2
    first, second = read_history(session, number)
    assert (first.finding, second.finding) == ("open", "confirmed")
    assert (first.author, second.author) == ("R. Pell", "M. Quay")
    assert second.lines[0].finding == "confirmed"
    assert in_bucket(session, where.part, "scrapped") > 0


@pytest.mark.usefixtures("at_once")
@pytest.mark.parametrize("days", [-3, -40, 0])
def test_a_corrected_day_moves_the_tenures(session: Session, clock: Clock, days: int) -> None:
    where = bench(session)
    start = TODAY - timedelta(days=20)
    number = record_incident(session, incident(where, occurred_on=start), clock=clock, author_id=2)
    day = start + timedelta(days=days)
    correct_incident(session, number, correction(occurred_on=day), clock=clock, author_id=2)
    rows = session.execute(
        text("""SELECT old.removed_on, new.fitted_on, new.observed_from FROM event_line l JOIN event_revision r ON r.id = l.revision_id AND r.number = 2
                JOIN tenure old ON old.id = l.removed_tenure_id JOIN tenure new ON new.id = l.fitted_tenure_id WHERE r.incident_id = :i"""),
        {"i": number},
    ).one()
    assert rows == (day, day, day)


@pytest.mark.usefixtures("at_once")
def test_a_day_moved_forward_does_not_collide_with_itself(session: Session, clock: Clock) -> None:
    where = bench(session)
    number = record_incident(session, incident(where, occurred_on=TODAY - timedelta(days=20)), clock=clock, author_id=2)
    assert correct_incident(session, number, correction(occurred_on=TODAY - timedelta(days=2)), clock=clock, author_id=2) == 2


@pytest.mark.usefixtures("at_once")
def test_a_stale_correction_is_refused(session: Session, clock: Clock) -> None:
    number = record_incident(session, incident(bench(session)), clock=clock, author_id=2)
    correct_incident(session, number, correction(), clock=clock, author_id=2)
    with pytest.raises(Stale, match="revision 2"):
        correct_incident(session, number, correction(finding="damage"), clock=clock, author_id=1)


def test_an_incident_that_does_not_exist(session: Session, clock: Clock) -> None:
    with pytest.raises(NotFound, match="999999"):
        correct_incident(session, 999999, correction(), clock=clock, author_id=1)
    with pytest.raises(NotFound):
        read_history(session, 999999)


@pytest.mark.usefixtures("at_once")
def test_a_spill_is_one_incident_with_several_parts(session: Session, clock: Clock) -> None:
    where = bench(session)
    other = session.execute(
        text("""SELECT t.position_id FROM tenure t JOIN asset a ON a.id = t.asset_id
                WHERE a.tag = :tag AND t.removed_on IS NULL AND t.position_id <> :p LIMIT 1"""),
        {"tag": where.tag, "p": where.position_id},
    ).scalar_one()
    lines = [*incident(where).lines, LineRequest(other, "removed", finding="preventive")]
    number = record_incident(session, incident(where, lines=lines, finding="damage"), clock=clock, author_id=2)
    entry = read_history(session, number)[0]
    assert [line.finding for line in entry.lines] == ["damage", "preventive"]
    correct_incident(session, number, correction(finding="confirmed"), clock=clock, author_id=2)
    assert [line.finding for line in read_history(session, number)[1].lines] == ["confirmed", "preventive"]


def _faults(session: Session, clock: Clock, **changes: object) -> dict[str, str]:
    with pytest.raises(Refused) as caught:
        record_incident(session, incident(bench(session), **changes), clock=clock, author_id=2)  # type: ignore[arg-type]
    return {fault.field: fault.message for fault in caught.value.faults}


class TestBadInput:
    """Each fault is named at its place, and nothing is half saved."""

    @pytest.fixture(autouse=True)
    def _nothing_saved(self, session: Session) -> object:
        def state() -> tuple[int, ...]:
            tables = ("incident", "event_revision", "event_line", "tenure", "unit", "stock_move")
            return tuple(session.scalar(text(f"SELECT count(*) FROM {table}")) or 0 for table in tables)

        before = state()
        yield
        assert state() == before

    def test_unknown_tag(self, session: Session, clock: Clock) -> None:
        assert "no asset has the tag SK-9999" in _faults(session, clock, tag="SK-9999")["tag"]

    def test_future_date(self, session: Session, clock: Clock) -> None:
        assert "is in the future" in _faults(session, clock, occurred_on=TODAY + timedelta(days=1))["occurred_on"]

    def test_before_the_machine_was_in_service(self, session: Session, clock: Clock) -> None:
        assert "went into service" in _faults(session, clock, occurred_on=date(2012, 2, 29))["occurred_on"]

    def test_nothing_noticed_and_no_line(self, session: Session, clock: Clock) -> None:
        assert set(_faults(session, clock, reason="  ", lines=[])) == {"reason", "lines"}

    def test_removal_before_fitting(self, session: Session, clock: Clock) -> None:
        where, fitted = bench(session), date(2026, 10, 20)
        session.execute(
            text("""UPDATE tenure SET fitted_on = :day, observed_from = :day
                    WHERE removed_on IS NULL AND position_id = :p AND asset_id = (SELECT id FROM asset WHERE tag = :t)"""),
            {"day": fitted, "p": where.position_id, "t": where.tag},
        )
        with pytest.raises(Refused, match="was fitted on 20 Oct 2026: it cannot come out before"):
            record_incident(session, incident(where, occurred_on=fitted - timedelta(days=1)), clock=clock, author_id=2)

    def test_a_part_that_does_not_fit(self, session: Session, clock: Clock) -> None:
        where = bench(session, "memory")
        line = LineRequest(where.position_id, "replaced", "LM-16548", "ELD")
        with pytest.raises(Refused, match=r"LM-16548 does not fit .*: the slot takes DDR4, this is DDR5"):
            record_incident(session, incident(where, lines=[line]), clock=clock, author_id=2)

    def test_a_part_of_another_kind(self, session: Session, clock: Clock) -> None:
        where = bench(session, "memory")
        line = LineRequest(where.position_id, "replaced", "OF-P14", "ELD")
        with pytest.raises(Refused, match="is a part of kind fan"):
            record_incident(session, incident(where, lines=[line]), clock=clock, author_id=2)

    def test_a_part_nobody_listed_asks(self, session: Session, clock: Clock) -> None:
        where = bench(session, "ssd")
        session.execute(text("DELETE FROM fits WHERE position_id = :p"), {"p": where.position_id})
        with pytest.raises(NeedsConfirmation) as caught:
            record_incident(session, incident(where), clock=clock, author_id=2)
        assert caught.value.question == "fit"

    def test_an_unknown_part_and_no_shelf(self, session: Session, clock: Clock) -> None:
        line = LineRequest(bench(session).position_id, "replaced", "XX-1", None)
        assert set(_faults(session, clock, lines=[line])) == {"lines.0.part_number", "lines.0.shelf_site"}

    def test_a_position_of_another_model_or_named_twice(self, session: Session, clock: Clock) -> None:
        where = bench(session)
        twice = [LineRequest(where.position_id, "kept"), LineRequest(where.position_id, "kept"), LineRequest(10**6, "kept")]
        found = _faults(session, clock, lines=twice)
        assert "named twice" in found["lines.1.position_id"]
        assert "is not a position" in found["lines.2.position_id"]

    def test_more_issued_than_on_hand(self, session: Session, clock: Clock) -> None:
        where = bench(session, stocked=False)
        with pytest.raises(Refused, match="holds 0 of"):
            record_incident(session, incident(where), clock=clock, author_id=2)


def test_a_duplicate_asks_and_is_recorded_when_confirmed(session: Session, clock: Clock) -> None:
    where = bench(session)
    record_incident(session, incident(where), clock=clock, author_id=2)
    with pytest.raises(NeedsConfirmation) as caught:
        record_incident(session, incident(where, action="kept"), clock=clock, author_id=2)
    assert caught.value.question == "duplicate"
    record_incident(session, incident(where, action="kept", confirmed=frozenset({"duplicate"})), clock=clock, author_id=2)


@pytest.mark.usefixtures("at_once")
def test_a_unit_replaced_twice_in_a_month(session: Session, clock: Clock) -> None:
    where = bench(session, "fan")
    session.execute(
        text("""INSERT INTO stock_move (shelf_id, bucket, quantity, cause, moved_on, recorded_at)
                SELECT h.id, 'on_hand', 2, 'counted', '2026-10-31', now() FROM shelf h JOIN part p ON p.id = h.part_id JOIN site s ON s.id = h.site_id
                WHERE p.number = :part AND s.code = :site"""),
        {"part": where.part, "site": where.site},
    )
    record_incident(session, incident(where, occurred_on=TODAY - timedelta(days=9), finding="confirmed"), clock=clock, author_id=2)
    number = record_incident(session, incident(where, finding="dead_on_arrival"), clock=clock, author_id=2)
    assert read_history(session, number)[0].lines[0].age_days == 9
    with pytest.raises(Refused, match="record incidents in order of day"):
        record_incident(session, incident(where, occurred_on=TODAY - timedelta(days=5)), clock=clock, author_id=2)


def test_pages_of_the_ledger_start_with_what_is_to_settle(session: Session) -> None:
    page = read_page(session, LogFilter(), after=None, limit=50)
    assert page.total == 1483
    assert page.entries[0].finding == "open"
    again = read_page(session, LogFilter(), after=page.next_key, limit=50)
    assert again.total is None
    assert not {entry.incident_id for entry in page.entries} & {entry.incident_id for entry in again.entries}
    with pytest.raises(Refused, match="start again"):
        read_page(session, LogFilter(), after="nonsense", limit=5)


def test_a_card_leaves_out_what_the_option_rules_out(session: Session) -> None:
    tag, option = session.execute(
        text("SELECT tag, options->>'battery' FROM asset WHERE options ? 'battery' AND retired_on IS NULL LIMIT 1")
    ).one()
    keys = {position.key for position, _, _ in read_card(session, tag, today=TODAY).positions}
    assert ("battery_small" in keys) == (option == "56 Wh")
    session.execute(text("UPDATE asset SET options = '{}' WHERE tag = :tag"), {"tag": tag})
    assert {"battery_small", "battery_large"} <= {position.key for position, _, _ in read_card(session, tag, today=TODAY).positions}


def test_confirmed_is_earned_by_watching_and_by_the_old_part(session: Session, clock: Clock) -> None:
    where = bench(session, "fan")
    with pytest.raises(Refused, match="not confirmed yet: still to watch: 14 days; leave it open until then"):
        record_incident(session, incident(where, finding="confirmed"), clock=clock, author_id=2)
    number = record_incident(session, incident(where, occurred_on=WATCHED), clock=clock, author_id=2)
    unproven = correction(occurred_on=WATCHED, evidence=Evidence(cold_starts=5))
    with pytest.raises(Refused, match="nobody tried the old part elsewhere"):
        correct_incident(session, number, unproven, clock=clock, author_id=2)
    works = correction(occurred_on=WATCHED, evidence=Evidence(cold_starts=5, fails_elsewhere=False))
    with pytest.raises(Refused, match="no fault found in it"):
        correct_incident(session, number, works, clock=clock, author_id=2)
    assert correct_incident(session, number, correction(occurred_on=WATCHED), clock=clock, author_id=2) == 2


def test_dead_on_arrival_is_within_a_fortnight(session: Session, clock: Clock) -> None:
    assert "dead on arrival is within 14 days" in _faults(session, clock, finding="dead_on_arrival")["finding"]


def _recover(session: Session, clock: Clock, where: Bench, **line: object) -> None:
    taken = LineRequest(where.position_id, "removed", removed_to="harvested", **line)  # type: ignore[arg-type]
    record_incident(
        session,
        incident(where, finding="preventive", occurred_on=WATCHED, lines=[taken], confirmed=frozenset({"serial"})),
        clock=clock,
        author_id=2,
    )


def test_a_recovered_part_is_stock_only_after_its_test_and_keeps_its_age(session: Session, clock: Clock) -> None:
    where = bench(session, "ssd")
    site = site_of(session, where.tag)
    again = LineRequest(where.position_id, "replaced", where.part, site, source="harvested")
    session.execute(
        text("""UPDATE tenure t SET age_span_days = 40, observed_from = GREATEST(observed_from, fitted_on + 40) FROM asset a
                WHERE a.id = t.asset_id AND a.tag = :tag AND position_id = :p AND removed_on IS NULL"""),
        {"tag": where.tag, "p": where.position_id},
    )
    _recover(session, clock, where, removed_serial="S-77")
    with pytest.raises(Refused, match="holds 0 tested recovered of"):
        record_incident(session, incident(where, lines=[again]), clock=clock, author_id=2)
    session.execute(text("UPDATE unit SET tested_on = '2026-10-30', tested_as = 'good' WHERE serial = 'S-77'"))
    before = units(session)
    record_incident(session, incident(where, lines=[again], finding="upgrade"), clock=clock, author_id=2)
    age, span, serial = session.execute(
        text("""SELECT t.age_at_fitting_days, t.age_span_days, u.serial FROM tenure t JOIN unit u ON u.id = t.unit_id JOIN asset a ON a.id = t.asset_id
                WHERE a.tag = :tag AND t.position_id = :p AND t.removed_on IS NULL"""),
        {"tag": where.tag, "p": where.position_id},
    ).one()
    assert serial == "S-77"
    assert age > 60
    assert span == 40, "what nobody knew of its age, nobody knows now"
    assert units(session) == before


def test_recovered_packs_are_never_stock_and_odd_buckets_are_refused(session: Session, clock: Clock) -> None:
    where = bench(session)
    lines = [LineRequest(where.position_id, "replaced", where.part, where.site, source="harvested", removed_to="on_hand", tested="good")]
    assert set(_faults(session, clock, lines=lines)) == {"lines.0.source", "lines.0.removed_to", "lines.0.tested"}


def test_another_serial_than_the_recorded_one_asks_first(session: Session, clock: Clock) -> None:
    where = bench(session, "ssd")
    session.execute(
        text("""UPDATE unit SET serial = 'S-1' WHERE id = (SELECT t.unit_id FROM tenure t JOIN asset a ON a.id = t.asset_id
                WHERE a.tag = :tag AND t.position_id = :p AND t.removed_on IS NULL)"""),
        {"tag": where.tag, "p": where.position_id},
    )
    line = LineRequest(where.position_id, "removed", removed_serial="S-2")
    with pytest.raises(NeedsConfirmation, match="should hold serial S-1, read was S-2"):
        record_incident(session, incident(where, lines=[line]), clock=clock, author_id=2)
    record_incident(session, incident(where, lines=[line], confirmed=frozenset({"serial"})), clock=clock, author_id=2)


def test_a_bucket_chosen_at_the_bench_is_what_a_later_finding_moves_from(session: Session, clock: Clock) -> None:
    where, before = bench(session, "fan"), units(session)
    line = LineRequest(where.position_id, "removed", removed_to="returned")
    number = record_incident(session, incident(where, lines=[line], occurred_on=WATCHED), clock=clock, author_id=2)
    correct_incident(session, number, correction(occurred_on=WATCHED, finding="no_fault_found"), clock=clock, author_id=2)
    moved = session.execute(text("SELECT bucket, sum(quantity) FROM stock_move WHERE incident_id = :i GROUP BY 1"), {"i": number})
    assert {bucket: int(quantity) for bucket, quantity in moved if quantity} == {"harvested": 1}
    assert units(session) == before


def test_a_finding_cannot_move_a_part_that_is_in_another_machine(session: Session, clock: Clock) -> None:
    where = bench(session, "fan")
    harvested = in_bucket(session, where.part, "harvested")
    first = record_incident(
        session,
        incident(where, lines=[LineRequest(where.position_id, "removed", removed_to="harvested", tested="good")]),
        clock=clock,
        author_id=2,
    )
    site = session.scalar(text("SELECT s.code FROM incident i JOIN site s ON s.id = i.site_id WHERE i.id = :i"), {"i": first}) or ""
    other = session.execute(
        text("""SELECT a.tag, t.position_id FROM tenure t JOIN asset a ON a.id = t.asset_id JOIN part p ON p.id = t.part_id
                WHERE t.removed_on IS NULL AND p.number = :part AND a.tag <> :tag AND a.retired_on IS NULL ORDER BY a.id LIMIT 1"""),
        {"part": where.part, "tag": where.tag},
    ).one()
    again = LineRequest(other.position_id, "replaced", where.part, site, source="harvested")
    record_incident(session, incident(where, tag=other.tag, lines=[again]), clock=clock, author_id=2)
    before, moves = units(session), session.scalar(text("SELECT count(*) FROM stock_move"))
    with pytest.raises(Refused, match=f"was recovered and fitted into {other.tag} on 1 Nov 2026") as caught:
        correct_incident(session, first, correction(finding="damage"), clock=clock, author_id=1)
    assert [fault.field for fault in caught.value.faults] == ["finding"]
    assert units(session) == before
    assert session.scalar(text("SELECT count(*) FROM stock_move")) == moves
    assert in_bucket(session, where.part, "harvested") == harvested
    correct_incident(session, first, correction(finding="open", note="words alone move nothing"), clock=clock, author_id=1)
