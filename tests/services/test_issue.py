"""Parts in a job's hands: handed out, fitted, given back; and a job that waits for a part."""

from __future__ import annotations

from typing import Any

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.services.errors import NotFound, Refused
from almanac.services.fleet_plans import withdraw
from almanac.services.outlook.summary import read_builder
from almanac.services.stores.acts import MoveRequest, Recorded, do, undo
from almanac.services.stores.counts import CountRequest, count_shelf
from almanac.services.stores.issue import IssueRequest, give_back, issue
from almanac.services.stores.waits import PromiseRequest, promise
from almanac.services.workbench.after import AbandonRequest, abandon_job
from almanac.services.workbench.read import read_job
from almanac.store import stores
from almanac.store.books import breaks
from tests.services.helpers import in_bucket, units
from tests.services.jobs import machine, opened, replaced


def promised(session: Session, part: str, site: str) -> list[tuple[int, str | None, bool]]:
    ids = session.execute(text("SELECT p.id, s.id FROM part p, site s WHERE p.number = :p AND s.code = :s"), {"p": part, "s": site}).one()
    return [(row.quantity, row.tag, row.reserved) for row in stores.promised_of(session, *ids)]


class TestIssue:
    def test_what_is_handed_out_is_fitted_and_counted_once(self, session: Session, clock: Clock, technician: Recorded) -> None:
        where, key = machine(session, "fan")
        everything, on_hand = units(session), in_bucket(session, where.part, "on_hand")
        worker = opened(session, clock, where.tag, key)
        issue(session, worker.job_id, IssueRequest(where.part, where.site), technician)
        assert (in_bucket(session, where.part, "on_hand"), in_bucket(session, where.part, "issued")) == (on_hand - 1, 1)
        assert [(row.part_number, row.quantity) for row in worker.job.issued] == [(where.part, 1)]
        worker.finishes(where.part)
        worker.closes(replaced(key, where))
        assert (in_bucket(session, where.part, "on_hand"), in_bucket(session, where.part, "issued")) == (on_hand - 1, 0)
        assert units(session) == everything
        assert breaks(session) == []
        assert read_job(session, worker.job_id, clock=clock).issued == []

    def test_what_is_not_used_keeps_the_job_open_until_it_is_back(self, session: Session, clock: Clock, technician: Recorded) -> None:
        where, key = machine(session, "fan")
        on_hand = in_bucket(session, where.part, "on_hand")
        worker = opened(session, clock, where.tag, key)
        issue(session, worker.job_id, IssueRequest(where.part, where.site, 2), technician)
        worker.finishes(where.part)
        with pytest.raises(Refused, match=r"1 part .* in the job's hands: fit or give back"):
            worker.closes(replaced(key, where))
        with pytest.raises(Refused, match="the job has 2"):
            give_back(session, worker.job_id, IssueRequest(where.part, where.site, 3), technician)
        give_back(session, worker.job_id, IssueRequest(where.part, where.site), technician)
        worker.closes(replaced(key, where))
        assert in_bucket(session, where.part, "on_hand") == on_hand - 1
        assert breaks(session) == []

    def test_a_job_that_is_given_up_gives_back_first_and_waits_no_more(self, session: Session, clock: Clock, technician: Recorded) -> None:
        where, key = machine(session, "fan")
        worker = opened(session, clock, where.tag, key)
        issue(session, worker.job_id, IssueRequest(where.part, where.site), technician)
        promise(session, PromiseRequest(where.part, where.site, 1, where.tag), technician)
        with pytest.raises(Refused, match="in the job's hands"):
            abandon_job(session, worker.job_id, AbandonRequest("sold"), device=worker.device, clock=clock)
        give_back(session, worker.job_id, IssueRequest(where.part, where.site), technician)
        abandon_job(session, worker.job_id, AbandonRequest("sold"), device=worker.device, clock=clock)
        assert where.tag not in {tag for _, tag, _ in promised(session, where.part, where.site)}
        with pytest.raises(Refused, match="is abandoned: parts go to jobs in hand"):
            issue(session, worker.job_id, IssueRequest(where.part, where.site), technician)

    def test_an_issue_is_undone_by_giving_back_alone(self, session: Session, clock: Clock, technician: Recorded) -> None:
        """Counter-moves know nothing of the job: they would take what another job has in its hands."""
        where, key = machine(session, "fan")
        worker = opened(session, clock, where.tag, key)
        act = issue(session, worker.job_id, IssueRequest(where.part, where.site), technician)
        with pytest.raises(Refused, match="at the job"):
            undo(session, act, "the wrong one", technician)
        back = give_back(session, worker.job_id, IssueRequest(where.part, where.site), technician)
        with pytest.raises(Refused, match="at the job"):
            undo(session, back, "the right one after all", technician)
        assert breaks(session) == []

    def test_what_is_kept_for_its_machine_is_handed_out_first(self, session: Session, clock: Clock, technician: Recorded) -> None:
        where, key = machine(session, "fan")
        free = in_bucket(session, where.part, "on_hand", site=where.site)
        promise(session, PromiseRequest(where.part, where.site, free, where.tag), technician)
        worker = opened(session, clock, where.tag, key)
        issue(session, worker.job_id, IssueRequest(where.part, where.site), technician)
        assert sum(quantity for quantity, tag, _ in promised(session, where.part, where.site) if tag == where.tag) == free - 1

    def test_others_parts_are_not_handed_out(self, session: Session, clock: Clock, technician: Recorded) -> None:
        where, key = machine(session, "fan")
        worker = opened(session, clock, where.tag, key)
        free = in_bucket(session, where.part, "on_hand", site=where.site)
        promise(session, PromiseRequest(where.part, where.site, free), technician)
        with pytest.raises(Refused, match="none lies free"):
            issue(session, worker.job_id, IssueRequest(where.part, where.site), technician)
        with pytest.raises(NotFound):
            issue(session, 10**6, IssueRequest(where.part, where.site), technician)
        with pytest.raises(Refused, match="the job has none"):
            give_back(session, worker.job_id, IssueRequest(where.part, where.site), technician)


class TestWaiting:
    def test_a_job_that_waits_is_served_in_turn_and_its_promise_ends_with_the_fitting(
        self, session: Session, clock: Clock, technician: Recorded, lead: Recorded
    ) -> None:
        where, key = machine(session, "fan")
        worker = opened(session, clock, where.tag, key)
        site = worker.job.row.site_code
        held = in_bucket(session, where.part, "on_hand", site=site)
        if held:
            do(session, MoveRequest(where.part, site, "scrap", held, "cleared"), lead)
        worker.says("wait", **{"for": "part", "part_number": where.part})
        waited = worker.job.waited
        assert waited is not None
        assert (waited.part_number, waited.kept) == (where.part, False)
        assert (1, where.tag, False) in promised(session, where.part, site)
        do(session, MoveRequest(where.part, site, "found", 1, "in the drawer"), technician)
        assert worker.job.waited is not None
        assert worker.job.waited.kept
        worker.says("resume")
        assert worker.job.waited is None
        worker.finishes(where.part)
        where_here = type(where)(where.tag, where.position_id, where.part, site)
        worker.closes(replaced(key, where_here))
        assert where.tag not in {tag for _, tag, _ in promised(session, where.part, site)}
        assert breaks(session) == []

    def test_said_again_it_waits_once_and_nobody_knows_is_an_answer(self, session: Session, clock: Clock) -> None:
        where, key = machine(session, "fan")
        worker = opened(session, clock, where.tag, key)
        site = worker.job.row.site_code
        for _ in range(2):
            worker.says("wait", **{"for": "part", "part_number": where.part})
            worker.says("resume")
        assert sum(tag == where.tag for _, tag, _ in promised(session, where.part, site)) == 1
        worker.says("wait", **{"for": "part"})
        assert worker.job.waited is None
        worker.says("resume")
        data: dict[str, Any] = {"for": "part", "part_number": "NO-1"}
        taken = worker.sends("wait", **data)
        assert taken.reasons == ["no part has the number NO-1"]


class TestPromisesThatNothingStandsBehind:
    def test_a_count_below_what_is_promised_puts_the_last_come_back_in_line(
        self, session: Session, technician: Recorded, lead: Recorded
    ) -> None:
        part, site = "OF-P14", "ELD"
        held = in_bucket(session, part, "on_hand", site=site)
        tags = session.scalars(text("SELECT tag FROM asset WHERE retired_on IS NULL ORDER BY id LIMIT 2")).all()
        promise(session, PromiseRequest(part, site, held - 1, tags[0]), technician)
        promise(session, PromiseRequest(part, site, 1, tags[1]), technician)
        count_shelf(session, CountRequest(part, site, held - 2, "two are gone"), lead)
        assert sorted(promised(session, part, site)) == sorted([(held - 2, tags[0], True), (1, tags[0], False), (1, tags[1], False)])
        assert breaks(session) == []
        do(session, MoveRequest(part, site, "found", 2, "behind the box"), technician)
        assert sum(quantity for quantity, _, kept in promised(session, part, site) if kept) == held

    def test_who_was_promised_one_first_is_served_before_who_asked_since(
        self, session: Session, technician: Recorded, lead: Recorded
    ) -> None:
        part, site = "OF-P14", "ELD"
        held = in_bucket(session, part, "on_hand", site=site)
        first, second = session.scalars(text("SELECT tag FROM asset WHERE retired_on IS NULL ORDER BY id LIMIT 2"))
        promise(session, PromiseRequest(part, site, held, first), technician)
        session.execute(text("UPDATE reservation SET reserved_on = '2026-10-20' WHERE released_on IS NULL"))
        session.expire_all()
        promise(session, PromiseRequest(part, site, 1, second), technician)
        count_shelf(session, CountRequest(part, site, held - 1, "one is gone"), lead)
        do(session, MoveRequest(part, site, "found", 1, "behind the box"), technician)
        kept = {(tag, quantity) for quantity, tag, kept in promised(session, part, site) if kept}
        assert kept == {(first, held - 1), (first, 1)} or kept == {(first, held)}

    def test_a_part_that_was_kept_for_another_machine_and_fitted_all_the_same_is_waited_for_again(
        self, session: Session, clock: Clock, technician: Recorded
    ) -> None:
        where, key = machine(session, "fan")
        free = in_bucket(session, where.part, "on_hand", site=where.site)
        other = session.scalar(text("SELECT tag FROM asset WHERE retired_on IS NULL AND tag <> :t ORDER BY id LIMIT 1"), {"t": where.tag})
        promise(session, PromiseRequest(where.part, where.site, free, str(other)), technician)
        worker = opened(session, clock, where.tag, key)
        worker.finishes(where.part)
        worker.closes(replaced(key, where))
        own = [(quantity, kept) for quantity, tag, kept in promised(session, where.part, where.site) if tag == other]
        assert sorted(own) == sorted([(free - 1, True), (1, False)] if free > 1 else [(1, False)])
        assert breaks(session) == []

    def test_a_machine_that_got_its_part_is_promised_none(self, session: Session, clock: Clock, technician: Recorded) -> None:
        where, key = machine(session, "fan")
        promise(session, PromiseRequest(where.part, where.site, 2, where.tag), technician)
        before = [row for row in promised(session, where.part, where.site) if row[1] == where.tag]
        worker = opened(session, clock, where.tag, key)
        worker.finishes(where.part)
        worker.closes(replaced(key, where))
        after = [row for row in promised(session, where.part, where.site) if row[1] == where.tag]
        assert sum(row[0] for row in after) == sum(row[0] for row in before) - 1


class TestPlannedSwaps:
    def swap(self, session: Session) -> tuple[int, str, str]:
        row = session.execute(
            text("""SELECT f.id, p.number, s.code FROM fleet_plan f JOIN part p ON p.id = f.part_id JOIN site s ON s.id = f.site_id
                    WHERE f.action = 'swap'""")
        ).one()
        session.execute(text("UPDATE reservation SET released_on = '2026-11-01' WHERE plan_id = :p"), {"p": row.id})
        session.execute(text("UPDATE backorder SET filled_on = '2026-11-01' WHERE plan_id = :p"), {"p": row.id})
        return row.id, row.number, row.code

    def position(self, session: Session, part: str) -> int | None:
        plan = next(row.plan for row in read_builder(session).rows() if row.part.number == part)
        return plan.position if plan else None

    def test_what_is_kept_for_a_swap_is_not_counted_twice(self, session: Session, technician: Recorded) -> None:
        """Demand counts the swap on its day: kept parts still count towards it, those kept for a machine do not."""
        plan, part, site = self.swap(session)
        before = self.position(session, part)
        assert before is not None
        promise(session, PromiseRequest(part, site, 2, plan_id=plan), technician)
        assert self.position(session, part) == before
        promise(session, PromiseRequest(part, site, 1), technician)
        assert self.position(session, part) == before - 1

    def test_no_more_than_it_takes_and_for_one_of_the_two(self, session: Session, technician: Recorded) -> None:
        plan, part, site = self.swap(session)
        promise(session, PromiseRequest(part, site, 8, plan_id=plan), technician)
        with pytest.raises(Refused, match="the swap takes 10, 8 are kept already: name up to 2"):
            promise(session, PromiseRequest(part, site, 3, plan_id=plan), technician)
        with pytest.raises(Refused, match="one of the two"):
            promise(session, PromiseRequest(part, site, 1, "SK-0001", plan_id=plan), technician)
        with pytest.raises(Refused, match="no swap of OF-P14 at"):
            promise(session, PromiseRequest("OF-P14", site, 1, plan_id=plan), technician)

    def test_a_plan_that_is_withdrawn_keeps_nothing(self, session: Session, clock: Clock, technician: Recorded) -> None:
        plan, part, site = self.swap(session)
        promise(session, PromiseRequest(part, site, 5, plan_id=plan), technician)
        assert promised(session, part, site)
        withdraw(session, plan, clock=clock, author_id=1)
        assert [row for row in promised(session, part, site) if row[1] is None] == []
