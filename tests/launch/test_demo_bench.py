"""What lies on the demo's bench goes through the rules of any job."""

from __future__ import annotations

from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.demo.truth import AS_OF
from almanac.launch.demo_bench import lay_on_the_bench
from almanac.services.clock import read_clock
from almanac.services.workbench.exceptions import read_exceptions
from almanac.services.workbench.read import read_job, read_jobs
from almanac.store.jobs import open_approvals


def test_the_demo_has_jobs_in_every_state_and_something_for_a_lead(session: Session) -> None:
    lay_on_the_bench(session)
    rows = [*read_jobs(session, ended=False), *read_jobs(session, ended=True)]
    assert sorted(row.job.state for row in rows) == ["abandoned", "open", "parked", "running", "stopped", "waiting"]
    clock = read_clock(session)
    assert clock.today == AS_OF
    whats = sorted(one.what for one in read_exceptions(session, clock=clock))
    assert whats == ["quarantine", "waived"]
    assert [item.row.kind for item in open_approvals(session)] == ["waive"]
    running = next(row for row in rows if row.job.state == "running")
    at_five = read_job(session, running.job.id, clock=clock)
    assert len(at_five.standing.done) == 4
    assert "static" not in at_five.standing.truly_passed


def test_without_its_users_nothing_is_laid_down(session: Session) -> None:
    session.execute(text("UPDATE \"user\" SET role = 'reader'"))
    lay_on_the_bench(session)
    assert read_jobs(session, ended=False) == []
