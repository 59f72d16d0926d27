"""Workers: what is asked behind the page is computed once, by whoever is there; a killed worker's work is taken up again."""

from __future__ import annotations

import asyncio
import json
import os
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import pytest
from flask import Flask
from sqlalchemy import Engine, create_engine, text
from sqlalchemy.orm import Session

from almanac.jobs import tasks
from almanac.jobs.tasks import Ended, GaveWay, compute, refresh
from almanac.jobs.worker import queue_app, work
from almanac.launch.cluster import Cluster
from almanac.launch.databases import administer
from almanac.services.answers.cache import FRONT
from almanac.services.answers.progress import tell
from almanac.services.errors import NotFound
from almanac.store import queue
from almanac.store.engine import connect
from almanac.web.api import KEPT
from almanac.web.app import create_app
from almanac.web.kept import AHEAD, NEWER, URGENT
from tests.web.conftest import Client

MODELS: dict[str, Any] = {"path": {}, "given": None}


@pytest.fixture
def engine(cluster: Cluster, demo_template: str) -> Iterator[Engine]:
    administer(cluster, "DROP DATABASE IF EXISTS queued WITH (FORCE)", f"CREATE DATABASE queued TEMPLATE {demo_template}")
    found = connect(cluster.url("queued"))
    FRONT.clear()
    yield found
    found.dispose()


@pytest.fixture
def app(engine: Engine) -> Flask:
    return create_app(engine, secret_key="test", workers=True)


@pytest.fixture
def lead(app: Flask) -> Client:
    from tests.conftest import PASSWORDS

    client = Client(app)
    assert client.sign_in("quay", PASSWORDS["quay"]).status_code == 200
    return client


@pytest.fixture(autouse=True)
def _nothing_beside(monkeypatch: pytest.MonkeyPatch) -> None:
    """Nothing is computed that the test did not ask for."""
    monkeypatch.setattr(tasks, "ALWAYS", ())


@pytest.fixture
def quick(monkeypatch: pytest.MonkeyPatch) -> list[str]:
    """The line-up as a view that takes no time: what it was made of, in order."""
    made: list[str] = []

    def part_names() -> Any:
        from pydantic import BaseModel

        from almanac.web.database import session

        class Names(BaseModel):
            names: list[str]

        tell("names of parts", 0, 2)
        names = list(session().scalars(text("SELECT name FROM part ORDER BY id LIMIT 2")))
        made.append(names[0])
        return Names(names=names)

    view = KEPT["line_up"]
    monkeypatch.setitem(KEPT, "line_up", type(view)(view.name, part_names, None, "dear"))
    return made


def url_of(engine: Engine) -> str:
    return engine.url.render_as_string(hide_password=False)


def work_once(engine: Engine, app: Flask) -> None:
    """A worker in this process that ends when nothing waits; in a thread, for a browser's loop may run in this one."""
    with ThreadPoolExecutor(max_workers=1) as aside:
        aside.submit(lambda: asyncio.run(work(queue_app(url_of(engine), app), until_done=True))).result()


def jobs(engine: Engine) -> list[tuple[str, str]]:
    with Session(engine) as session:
        return [(one.task, one.status) for one in queue.listed(session)]


def ask_line_up(engine: Engine, app: Flask, *, priority: int = 0) -> None:
    from almanac.web.kept import ask_for, reading_of

    with app.app_context(), Session(engine) as session:
        ask_for(session, KEPT["line_up"], MODELS, reading_of(KEPT["line_up"], MODELS).asked, wanted=priority)
        session.commit()
    assert app.config["WORKERS"]


def test_what_is_asked_twice_is_done_once(engine: Engine, app: Flask, quick: list[str]) -> None:
    ask_line_up(engine, app)
    ask_line_up(engine, app)  # asked twice, waiting once
    assert jobs(engine) == [("compute", "todo")]
    work_once(engine, app)
    assert quick == quick[:1] != []
    assert [job for job in jobs(engine) if job[0] == "compute"] == []


def test_a_write_is_kept_where_its_wish_waits_already(engine: Engine, lead: Client) -> None:
    """The second of two writes finds the wish of the first in the queue; refused there, it must not take the write with it."""
    for number, name in enumerate(("Once", "Twice")):
        with Session(engine) as session:
            session.execute(text("UPDATE part SET name = :name WHERE id = (SELECT min(id) FROM part)"), {"name": name})
            assert queue.enqueue(session, queue.REFRESH, {}, lock=queue.REFRESH, priority=20, anew=True) is (number == 0)
            session.commit()
        with Session(engine) as session:
            assert session.scalar(text("SELECT name FROM part ORDER BY id LIMIT 1")) == name
    edit = {"fields": {"name": "Skerry Line II", "currency": "EUR", "time_zone": "UTC"}, "expected_changes": 0}
    assert lead.post("/api/v1/company", edit).status_code == 201
    assert lead.get("/api/v1/company").get_json()["fields"]["name"] == "Skerry Line II"


def test_the_index_of_models_is_computed_where_it_is_asked_for(lead: Client) -> None:
    reply = lead.get("/api/v1/models")
    assert (reply.status_code, reply.headers.get(NEWER)) == (200, None)


def test_an_outlook_that_is_not_known_yet_says_so_and_how_far_it_is(engine: Engine, lead: Client) -> None:
    reply = lead.get("/api/v1/outlook")
    assert reply.status_code == 202
    assert reply.get_json() == {"words": "waiting for a worker", "done": 0, "of": 0, "waiting": 1}
    assert lead.get("/api/v1/outlook").status_code == 202
    assert jobs(engine) == [("compute", "todo")]


def test_a_write_brings_its_wish_with_it_and_a_refused_one_does_not(engine: Engine, lead: Client) -> None:
    refused = lead.post("/api/v1/orders", {"part_number": "NOPE", "quantity": 1})
    assert refused.status_code == 422
    assert jobs(engine) == []
    placed = lead.post("/api/v1/orders", {"part_number": "OF-P14", "quantity": 4})
    assert placed.status_code == 201
    assert jobs(engine) == [("refresh", "todo")]
    assert lead.post("/api/v1/orders", {"part_number": "OF-P13", "quantity": 4}).status_code == 201
    assert jobs(engine) == [("refresh", "todo")]


def test_signing_in_is_no_write_that_answers_rest_on(engine: Engine, lead: Client) -> None:
    assert lead.get("/api/v1/session").status_code == 200
    assert jobs(engine) == []


def test_the_reply_that_is_known_goes_out_until_the_newer_one_is_there(engine: Engine, app: Flask, quick: list[str]) -> None:
    assert compute(app, "line_up", MODELS, job_id=None)
    assert not compute(app, "line_up", MODELS, job_id=None)  # it holds
    with Session(engine) as session:
        session.execute(text("UPDATE part SET name = 'renamed' WHERE id = (SELECT min(id) FROM part)"))
        session.commit()
    assert compute(app, "line_up", MODELS, job_id=None)
    assert quick[-1] == "renamed"
    assert len(quick) == 2


def test_after_a_write_what_was_looked_at_is_asked_for_again(engine: Engine, app: Flask, quick: list[str]) -> None:
    compute(app, "line_up", MODELS, job_id=None)
    assert refresh(app) == 0
    with Session(engine) as session:
        session.execute(text("UPDATE part SET name = 'again' WHERE id = (SELECT min(id) FROM part)"))
        session.commit()
    assert refresh(app) == 1
    assert refresh(app) == 0  # it waits already
    work_once(engine, app)
    assert quick[-1] == "again"


def test_work_is_said_cancelled_and_tried_again(engine: Engine, app: Flask, lead: Client, quick: list[str]) -> None:
    ask_line_up(engine, app)
    (job,) = lead.get("/api/v1/work").get_json()["work"]
    assert (job["what"], job["status"], job["can_cancel"]) == ("Line-up", "waits", True)
    assert lead.post(f"/api/v1/work/{job['id']}/cancel").status_code == 200
    assert lead.post(f"/api/v1/work/{job['id']}/cancel").status_code == 404
    work_once(engine, app)
    assert quick == []
    with Session(engine) as session:
        session.execute(text("UPDATE procrastinate_jobs SET status = 'failed', abort_requested = false WHERE id = :i"), {"i": job["id"]})
        session.commit()
    assert lead.get("/api/v1/work").get_json()["work"][0]["can_retry"]
    assert lead.post(f"/api/v1/work/{job['id']}/retry").status_code == 200
    work_once(engine, app)
    assert len(quick) == 1


def test_only_leads_see_the_work(app: Flask) -> None:
    from tests.conftest import PASSWORDS

    client = Client(app)
    client.sign_in("pell", PASSWORDS["pell"])
    assert client.get("/api/v1/work").status_code == 403


def test_what_runs_ends_when_it_is_told_to(engine: Engine, app: Flask, quick: list[str]) -> None:
    ask_line_up(engine, app)
    with Session(engine) as session:
        job = session.scalar(text("UPDATE procrastinate_jobs SET status = 'doing', abort_requested = true RETURNING id"))
        session.commit()
    with pytest.raises(Ended):
        compute(app, "line_up", MODELS, job_id=job)
    assert quick == []


def test_slow_work_gives_way_to_what_somebody_waits_for(engine: Engine, app: Flask, quick: list[str]) -> None:
    ask_line_up(engine, app)
    with Session(engine) as session:
        job = session.scalar(text("UPDATE procrastinate_jobs SET status = 'doing', priority = -8 RETURNING id"))
        queue.enqueue(session, "compute", {"view": "outlook", "arguments": MODELS}, lock="urgent", priority=10)
        session.execute(text("INSERT INTO procrastinate_workers DEFAULT VALUES"))
        session.commit()
    with app.app_context(), pytest.raises(GaveWay), tasks._saying(app, job):
        tell("something", 0, 1)
    assert compute(app, "line_up", MODELS, job_id=job, priority=-8)
    assert quick == []
    with Session(engine) as session:
        again = session.scalar(text("SELECT priority FROM procrastinate_jobs WHERE status = 'todo' AND args ->> 'view' = 'line_up'"))
    assert again == -8
    assert sorted(jobs(engine)) == [("compute", "doing"), ("compute", "todo"), ("compute", "todo")]


@pytest.mark.usefixtures("quick")
def test_how_far_work_is_can_be_read(engine: Engine, app: Flask) -> None:
    ask_line_up(engine, app)
    with Session(engine) as session:
        job, lock = session.execute(text("UPDATE procrastinate_jobs SET status = 'doing' RETURNING id, lock")).one()
        session.commit()
        compute(app, "line_up", MODELS, job_id=job)
        assert queue.progress(session, lock) == ("names of parts", 0, 2)
        session.execute(text("DELETE FROM procrastinate_jobs"))
        queue.tidy(session)
        assert session.scalar(text("SELECT count(*) FROM work_progress")) == 0


def test_what_cannot_be_answered_is_refused_with_its_reason_all_the_same(engine: Engine, app: Flask, lead: Client) -> None:
    path = "/api/v1/outlook/parts/NOPE"
    assert lead.get(path).status_code == 202
    work_once(engine, app)
    assert jobs(engine) == [("compute", "failed")]
    refused = lead.get(path)
    assert (refused.status_code, "NOPE" in refused.get_json()["detail"]) == (404, True)
    assert jobs(engine) == []


def test_what_has_nothing_to_say_is_no_failure_while_nobody_waits(app: Flask) -> None:
    """An empty company has no rates: computed ahead that is an answer, and who asks is told why."""
    nothing = {"path": {"kind": "keyboard"}, "given": None}
    assert tasks.compute(app, "kind_rates", nothing, job_id=None, priority=AHEAD) is False
    with pytest.raises(NotFound, match="keyboard is none of them"):
        tasks.compute(app, "kind_rates", nothing, job_id=None, priority=URGENT)


def until(condition: Callable[[], bool], seconds: float = 120.0) -> None:
    deadline = time.monotonic() + seconds
    while not condition():
        assert time.monotonic() < deadline, "it did not happen"
        time.sleep(0.1)


def test_a_kind_that_another_worker_has_is_joined_and_what_it_computes_waited_for(engine: Engine, app: Flask) -> None:
    from almanac.jobs import shares

    waited: list[str] = []

    def awaited(app: Flask, name: str) -> None:
        waited.append(name)
        if name == "asked fan":
            let_go.set()
        _await(app, name)

    _await, taken, let_go = shares._await, threading.Event(), threading.Event()

    def other() -> None:
        """Has fans, and the first of their portions under way."""
        with app.app_context(), shares._held(app, "asked fan") as free, shares._held(app, "asked fan 0") as first:
            assert free
            assert first
            taken.set()
            let_go.wait(60)

    beside = threading.Thread(target=other)
    beside.start()
    assert taken.wait(30)
    with pytest.MonkeyPatch.context() as patch, app.app_context():
        patch.setattr(shares, "_await", awaited)
        shares.share_out(app, "asked", None, priority=0)
    beside.join(30)
    assert waited == ["asked fan fit", "asked fan"]
    assert [job for job in jobs(engine) if job[0] == "share"] == []  # what nobody took is withdrawn
    with Session(engine) as session:
        kept = session.scalar(text("SELECT count(*) FROM answer WHERE name = 'outlook of a part'"))
        parts = session.scalar(text("SELECT count(*) FROM part WHERE kind IN ('memory', 'ssd', 'battery', 'fan')"))
    assert kept == parts - 5  # a portion of the fans, one in four, is the other worker's


def test_one_worker_alone_does_all_kinds_itself(engine: Engine, app: Flask) -> None:
    from almanac.jobs.shares import share_out

    with app.app_context():
        share_out(app, "asked", None, priority=0)
    assert jobs(engine) == []
    with Session(engine) as session:
        kinds = session.scalar(text("SELECT count(*) FROM answer WHERE name = 'fitted model'"))
    assert kinds == 4


def test_work_goes_on_when_the_database_was_restarted(engine: Engine, tmp_path: Path, lead: Client) -> None:
    """Every connection ends while the outlook is computed; the launcher starts a worker that ended for it, as here."""

    def doing() -> int:
        with Session(engine) as session:
            return (
                session.scalar(text("SELECT count(*) FROM procrastinate_jobs WHERE status = 'doing' AND args ->> 'view' = 'outlook'")) or 0
            )

    assert lead.get("/api/v1/outlook").status_code == 202
    workers = [start_worker(engine, tmp_path / "first.log")]
    try:
        until(lambda: doing() > 0)
        time.sleep(0.5)
        administered = create_engine(engine.url.set(database="postgres"), isolation_level="AUTOCOMMIT")
        with administered.connect() as connection:
            connection.execute(text("SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = 'queued'"))
        administered.dispose()
        engine.dispose()

        def known() -> bool:
            if workers[-1].poll() is not None:
                workers.append(start_worker(engine, tmp_path / f"{len(workers)}.log"))
            found: int = lead.get("/api/v1/outlook").status_code
            return found == 200

        until(known)
    finally:
        for worker in workers:
            worker.kill()
            worker.wait(10)


def start_worker(engine: Engine, log: Path) -> subprocess.Popen[bytes]:
    process = subprocess.Popen([sys.executable, "-m", "almanac.launch.work", "--log", str(log)], stdin=subprocess.PIPE)
    assert process.stdin is not None
    process.stdin.write(f"{json.dumps({'database': url_of(engine), 'secret': 'test'})}\n".encode())
    process.stdin.close()
    return process


def test_a_killed_workers_work_is_taken_up_by_another(engine: Engine, tmp_path: Path, lead: Client) -> None:
    def done_by() -> int | None:
        """The worker that computes the outlook."""
        with Session(engine) as session:
            found: int | None = session.scalar(
                text("SELECT worker_id FROM procrastinate_jobs WHERE status = 'doing' AND args ->> 'view' = 'outlook'")
            )
            return found

    assert lead.get("/api/v1/outlook").status_code == 202
    workers = [start_worker(engine, tmp_path / "first.log")]
    try:
        until(lambda: done_by() is not None)
        before = done_by()
        os.kill(workers[0].pid, signal.SIGKILL)
        workers[0].wait(10)
        assert done_by() == before  # nobody knows yet
        workers.append(start_worker(engine, tmp_path / "second.log"))
        until(lambda: done_by() not in (None, before))
    finally:
        for worker in workers:
            worker.kill()
            worker.wait(10)
    assert "taken up again" in (tmp_path / "second.log").read_text()


def test_a_machines_report_wakes_no_worker(engine: Engine, app: Flask, lead: Client) -> None:
    """One of thousands in a night: what rests on it is worked out when somebody looks."""
    key = lead.post("/api/v1/tokens", {"name": "night", "scope": "report", "days": 1}).get_json()["token"]
    with Session(engine) as session:
        session.execute(text("DELETE FROM procrastinate_jobs"))
        session.commit()
    taken = app.test_client().post(
        "/api/v1/reports?tag=SK-0001", data='{"machine_report": 1}', content_type="text/plain", headers={"Authorization": f"Bearer {key}"}
    )
    assert taken.status_code == 201
    assert jobs(engine) == []
