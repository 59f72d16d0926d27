"""What lies on the demo's bench goes through the rules of any job."""

from __future__ import annotations

from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.demo.truth import AS_OF
from almanac.launch.demo_bench import lay_on_the_bench
from almanac.services.clock import read_clock
from almanac.services.workbench.diagnose import diagnose
from almanac.services.workbench.exceptions import read_exceptions
from almanac.services.workbench.read import read_job, read_jobs
from almanac.store.jobs import open_approvals


def test_the_demo_has_jobs_in_every_state_and_something_for_a_lead(session: Session) -> None:
    lay_on_the_bench(session)
    rows = [*read_jobs(session, ended=False), *read_jobs(session, ended=True)]
    ended = ["abandoned", "abandoned", "closed", "closed", "closed", "closed"]
    assert sorted(row.job.state for row in rows) == [*ended, "open", "parked", "running", "stopped", "waiting"]
    clock = read_clock(session)
    assert clock.today == AS_OF
    whats = sorted(one.what for one in read_exceptions(session, clock=clock))
    assert whats == ["came back", "quarantine", "waived"]
    assert [item.row.kind for item in open_approvals(session)] == ["waive"]
    running = next(row for row in rows if row.job.state == "running")
    at_five = read_job(session, running.job.id, clock=clock)
    assert len(at_five.standing.done) == 4
    assert "static" not in at_five.standing.truly_passed


def test_what_ended_left_the_log_and_the_parts_alone_and_a_draft_of_a_page(session: Session) -> None:
    counts = text("SELECT (SELECT count(*) FROM incident), (SELECT count(*) FROM tenure), (SELECT count(*) FROM stock_move)")
    before = session.execute(counts).one()
    drafts = text(
        "SELECT m.name, r.reason FROM model_revision r JOIN device_model m ON m.id = r.model_id WHERE r.draft AND r.reason LIKE 'Typed%'"
    )
    assert session.execute(drafts).all() == []
    lay_on_the_bench(session)
    assert session.execute(counts).one() == before
    ((name, reason),) = session.execute(drafts).all()
    assert name == "Packet 15"
    assert reason.startswith("Typed at the bench at job")
    clock = read_clock(session)
    back = next(row for row in read_jobs(session, ended=True) if row.job.reopens_id is not None)
    found = diagnose(session, back.job.id, "short_runtime", clock=clock)
    assert [(one.outcome, one.job is None) for one in found.results] == [("charges", False), ("a limit is set", True)]


def test_without_its_users_nothing_is_laid_down(session: Session) -> None:
    session.execute(text("UPDATE \"user\" SET role = 'reader'"))
    lay_on_the_bench(session)
    assert read_jobs(session, ended=False) == []
