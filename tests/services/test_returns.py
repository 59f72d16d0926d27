"""A machine that comes back: what the first job found out stays, and what was replaced is off the suspects (rule D4)."""

from __future__ import annotations

from datetime import timedelta

import pytest
from sqlalchemy import update
from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.services.ledger.read import read_history
from almanac.services.workbench.after import SettleRequest, reopen_job, settle_job
from almanac.services.workbench.diagnose import Diagnosis, diagnose
from almanac.store.models import Tenure
from tests.services.jobs import Worker, machine, opened, replaced

HEARD = {"symptom": "loud_fan", "test": "listen", "outcome": "grinds or ticks"}


def _closed(session: Session, clock: Clock) -> tuple[Worker, int]:
    """A fan that ticked, was replaced and is watched."""
    where, key = machine(session, "fan")
    worker = opened(session, clock, where.tag, key)
    worker.says("test", **HEARD)
    worker.finishes(where.part)
    done = worker.closes(replaced(key, where), watch=True)
    assert done.incident_id is not None
    return worker, done.incident_id


def _settled(session: Session, clock: Clock, worker: Worker, **said: str) -> None:
    for _ in range(5):
        worker.says("cold_start", good=True)
    later = Clock(clock.today + timedelta(days=14), clock.now + timedelta(days=14))
    settle_job(session, worker.job_id, SettleRequest("confirmed", **said), clock=later, author_id=2)  # type: ignore[arg-type]


def _share(found: Diagnosis, name: str) -> tuple[float, float]:
    return next((row.weight, row.posterior) for row in found.rows if row.hypothesis.id == name)


def test_a_return_keeps_the_first_jobs_results_as_evidence(session: Session, clock: Clock) -> None:
    worker, _ = _closed(session, clock)
    first = diagnose(session, worker.job_id, "loud_fan", clock=clock)
    again = reopen_job(session, worker.job_id, "loud again", clock=clock, author_id=2)
    found = diagnose(session, again, "loud_fan", clock=clock)
    assert [(one.test, one.outcome, one.job) for one in found.results] == [("listen", "grinds or ticks", worker.job_id)]
    assert list(found.returns) == [worker.job_id]
    assert "listen" in [item.test.id for item in found.advice], "what was heard then may be listened to again"
    assert list(found.new) == ["fan"], "a new fan may be bad from the start"
    assert _share(found, "fan") == pytest.approx(_share(first, "fan"))


def test_what_was_replaced_by_a_part_that_proved_itself_is_off_the_suspects(session: Session, clock: Clock) -> None:
    worker, _ = _closed(session, clock)
    again = reopen_job(session, worker.job_id, "loud again", clock=clock, author_id=2)
    suspect = diagnose(session, again, "loud_fan", clock=clock)
    asset = worker.job.row.job.asset_id
    fitted = update(Tenure).where(Tenure.asset_id == asset, Tenure.removed_on.is_(None), Tenure.fitted_on == clock.today)
    session.execute(fitted.values(age_at_fitting_days=400))
    session.expire_all()
    found = diagnose(session, again, "loud_fan", clock=clock)
    assert found.replaced == {"fan": 1.0}
    assert _share(found, "fan")[0] == pytest.approx(0.05 * _share(suspect, "fan")[0], rel=0.01)
    assert _share(found, "fan")[1] < _share(suspect, "fan")[1]


def test_a_later_answer_stands_for_the_first_jobs(session: Session, clock: Clock) -> None:
    worker, _ = _closed(session, clock)
    again = reopen_job(session, worker.job_id, "loud again", clock=clock, author_id=2)
    second = Worker(session, clock, again, device=worker.device.key)
    second.says("test", **{**HEARD, "outcome": "even rush"})
    found = diagnose(session, again, "loud_fan", clock=clock)
    assert [(one.outcome, one.job) for one in found.results] == [("even rush", None)]
    assert found.against == []


def test_answers_that_contradict_each_other_count_for_neither_and_are_taken_back(session: Session, clock: Clock) -> None:
    where, key = machine(session, "fan")
    worker = opened(session, clock, where.tag, key)
    before = diagnose(session, worker.job_id, "loud_fan", clock=clock)
    worker.says("test", **HEARD)
    once = diagnose(session, worker.job_id, "loud_fan", clock=clock)
    worker.says("test", **{**HEARD, "outcome": "even rush"})
    found = diagnose(session, worker.job_id, "loud_fan", clock=clock)
    assert _share(found, "fan") == _share(before, "fan")
    assert [words for words in found.against if "counts for neither" in words]
    assert [one.outcome for one in found.results] == ["grinds or ticks", "even rush"]
    worker.says("untest", **{**HEARD, "outcome": "even rush"})
    assert _share(diagnose(session, worker.job_id, "loud_fan", clock=clock), "fan") == _share(once, "fan")
    taken = worker.sends("untest", symptom="loud_fan", test="listen", outcome="even rush")
    assert taken.reasons == ["no such result is on record: there is nothing to take back"]


@pytest.mark.parametrize(
    ("changed", "why"),
    [
        ({"symptom": "haunted"}, "there is no symptom haunted"),
        ({"test": "pray"}, "there is no test pray"),
        ({"outcome": "maybe"}, "the outcome is one of grinds or ticks, even rush"),
    ],
)
def test_results_nobody_knows_are_refused(session: Session, clock: Clock, changed: dict[str, str], why: str) -> None:
    where, key = machine(session, "fan")
    worker = opened(session, clock, where.tag, key)
    said = HEARD | changed
    taken = worker.sends("test", symptom=said["symptom"], test=said["test"], outcome=said["outcome"])
    assert why in taken.reasons[0]
    assert worker.job.standing.tests == ()


def test_a_return_opens_the_finding_again(session: Session, clock: Clock) -> None:
    worker, incident = _closed(session, clock)
    _settled(session, clock, worker, fails_elsewhere=True)  # type: ignore[arg-type]
    assert read_history(session, incident)[-1].finding == "confirmed"
    reopen_job(session, worker.job_id, "loud again", clock=clock, author_id=2)
    assert read_history(session, incident)[-1].finding == "open"


@pytest.mark.parametrize("proof", ["swollen", "broken", "burnt"])
def test_what_a_part_shows_by_itself_is_not_undone_by_a_return(session: Session, clock: Clock, proof: str) -> None:
    worker, incident = _closed(session, clock)
    _settled(session, clock, worker, proof=proof)
    reopen_job(session, worker.job_id, "loud again", clock=clock, author_id=2)
    assert read_history(session, incident)[-1].finding == "confirmed"
