"""Long lists: a worker looks at them, applies and undoes them; each is done once, all of it or nothing, and can be stopped."""

from __future__ import annotations

import io
import json
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from flask import Flask
from sqlalchemy import Engine, text
from sqlalchemy.orm import Session

from almanac.jobs import tasks
from almanac.jobs.tasks import Ended, work_on_list
from almanac.services.answers import progress
from almanac.services.errors import Fault, Refused
from almanac.store import list_work, queue
from almanac.store.models import ListWork
from almanac.web import long_lists
from almanac.web.app import create_app
from tests.jobs.test_worker import app, engine, lead, work_once  # noqa: F401 -- fixtures
from tests.web.conftest import Client

MANY = 1200
SAID = {"list_on": "2026-11-01", "source": "Register", "settled": {"gone": "leave", "names": {"strangers": {"": "+"}}}}


@pytest.fixture(autouse=True)
def _nothing_beside(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(tasks, "ALWAYS", ())


def machines(many: int = MANY) -> bytes:
    rows = [f"ZZ-{number:05d};Ostrel Packet 14;Gullskerry;0{1 + number % 9}.03.2024" for number in range(many)]
    return "\n".join(["Asset tag;Model;Site;In service since", *rows]).encode()


def send(client: Client, what: str, content: bytes, **said: Any) -> dict[str, Any]:
    data = {"file": (io.BytesIO(content), "register.csv"), "what": what, "said": json.dumps({**SAID, **said})}
    reply = client.http.post("/api/v1/lists/long", data=data, headers={"X-CSRF-Token": client.token})
    assert reply.status_code == 201, reply.get_json()
    return dict(reply.get_json())


def stands(client: Client, work: dict[str, Any]) -> dict[str, Any]:
    return dict(client.get(f"/api/v1/lists/long/{work['id']}").get_json())


def counted(engine: Engine) -> int:  # noqa: F811
    with Session(engine) as session:
        return int(session.scalar(text("SELECT count(*) FROM asset WHERE tag LIKE 'ZZ-%'")) or 0)


def test_a_worker_looks_applies_and_undoes(engine: Engine, app: Flask, lead: Client) -> None:  # noqa: F811
    asked = send(lead, "look", machines())
    assert (asked["ended"], asked["words"]) == (False, "waiting for a worker")
    work_once(engine, app)
    looked = stands(lead, asked)
    assert looked["ended"]
    found = looked["look"]
    assert {group["group"]: group["count"] for group in found["groups"]} == {"new": MANY}
    assert found["open"] == 0
    applied = send(lead, "apply", machines(), digest=found["digest"])
    assert [one["id"] for one in lead.get("/api/v1/lists").get_json()["under_way"]] == [applied["id"]]
    assert counted(engine) == 0
    work_once(engine, app)
    done = stands(lead, applied)
    assert (done["ended"], done["problem"], counted(engine)) == (True, None, MANY)
    lists = lead.get("/api/v1/lists").get_json()
    assert (lists["under_way"], lists["lists"][0]["id"]) == ([], done["applied"])
    again = lead.post(f"/api/v1/lists/long/undoing/{done['applied']}", {}).get_json()
    work_once(engine, app)
    assert stands(lead, again)["undone"] == {"changes": MANY, "stays": []}
    assert counted(engine) == 0
    with Session(engine) as session:
        assert not session.scalar(text("SELECT count(*) FROM list_work WHERE content IS NOT NULL")), "files are let go"


def test_what_a_list_is_refused_for_is_told_as_a_request_would_have_been(engine: Engine, app: Flask, lead: Client) -> None:  # noqa: F811
    asked = send(lead, "look", b"no;list\n1;2\n")
    stale = send(lead, "apply", machines(), digest="0" * 32)
    work_once(engine, app)
    assert "names columns" in stands(lead, asked)["problem"]["faults"][0]["message"]
    assert stands(lead, stale)["problem"]["question"] == "stale"
    assert counted(engine) == 0


def test_a_list_that_is_refused_half_way_leaves_nothing(
    engine: Engine,  # noqa: F811
    app: Flask,  # noqa: F811
    lead: Client,  # noqa: F811
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    def half(session: Session, *_: Any, **__: Any) -> int:
        session.execute(text("UPDATE part SET name = 'half'"))
        raise Refused(Fault("settled", "something is still to be settled"))

    monkeypatch.setattr(long_lists, "apply_list", half)
    asked = send(lead, "apply", machines(), digest="0" * 32)
    work_once(engine, app)
    assert stands(lead, asked)["problem"]["faults"][0]["message"] == "something is still to be settled"
    with Session(engine) as session:
        assert session.scalar(text("SELECT count(*) FROM part WHERE name = 'half'")) == 0


def stopping(word: str) -> Callable[..., None]:
    """A listener that ends the work when it comes to a word."""

    def told(words: str, done: int, of: int) -> None:  # noqa: ARG001
        if word in words:
            raise Ended("stopped")

    return told


@pytest.mark.parametrize("word", ["reading its rows", "holding it", "writing where they stand", "writing their parts"])
def test_a_list_that_is_stopped_leaves_nothing(engine: Engine, app: Flask, lead: Client, word: str) -> None:  # noqa: F811
    settled = {**SAID["settled"], "delivered": True}  # type: ignore[dict-item]
    work_once(engine, app) if (asked := send(lead, "look", machines(), settled=settled)) else None
    applied = send(lead, "apply", machines(), digest=stands(lead, asked)["look"]["digest"], settled=settled)
    with pytest.raises(Ended), progress.listening(stopping(word)):
        work_on_list(app, applied["id"], job_id=None)
    found = stands(lead, applied)
    assert (found["ended"], found["problem"]["title"], counted(engine)) == (True, "Stopped", 0)
    work_on_list(app, applied["id"], job_id=None)
    assert counted(engine) == 0, "a stopped list is not taken up again"


def test_a_list_that_waits_is_stopped_at_once_and_never_begun(engine: Engine, app: Flask, lead: Client) -> None:  # noqa: F811
    asked = send(lead, "look", machines())
    assert lead.post(f"/api/v1/lists/long/{asked['id']}/cancel", {}).status_code == 200
    assert stands(lead, asked)["problem"]["title"] == "Stopped"
    work_once(engine, app)
    assert stands(lead, asked)["look"] is None


def test_a_list_whose_worker_failed_says_so(engine: Engine, lead: Client) -> None:  # noqa: F811
    asked = send(lead, "apply", machines(), digest="0" * 32)
    with Session(engine) as session:
        session.execute(
            text("UPDATE procrastinate_jobs SET status = 'failed' WHERE lock = :lock"), {"lock": list_work.lock_of(asked["id"])}
        )
        session.commit()
    found = stands(lead, asked)
    assert (found["ended"], found["problem"]["title"]) == (True, "It was not finished")


def test_a_list_is_carried_out_once_however_often_it_is_taken_up(engine: Engine, app: Flask, lead: Client) -> None:  # noqa: F811
    asked = send(lead, "look", machines())
    work_once(engine, app)
    applied = send(lead, "apply", machines(), digest=stands(lead, asked)["look"]["digest"])
    for _ in range(2):
        work_on_list(app, applied["id"], job_id=None)
    assert counted(engine) == MANY
    assert stands(lead, applied)["problem"] is None


def test_without_workers_it_is_done_in_the_request(engine: Engine) -> None:  # noqa: F811
    from tests.conftest import PASSWORDS

    client = Client(create_app(engine, secret_key="test"))
    client.sign_in("quay", PASSWORDS["quay"])
    asked = send(client, "look", machines(5))
    assert asked["look"]["groups"][0]["count"] == 5
    assert "names columns" in send(client, "look", b"no;list\n1;2\n")["problem"]["faults"][0]["message"]
    assert send(client, "apply", machines(5), digest=asked["look"]["digest"])["applied"] > 0
    with Session(engine) as session:
        assert queue.waiting(session) == 0


def test_lists_are_forgotten_after_a_day(engine: Engine, lead: Client) -> None:  # noqa: F811
    asked = send(lead, "look", machines(5))
    with Session(engine) as session:
        row = session.get_one(ListWork, asked["id"])
        row.asked_at = datetime.now(UTC) - list_work.KEPT - timedelta(minutes=1)
        session.commit()
    send(lead, "look", machines(5))
    assert lead.get(f"/api/v1/lists/long/{asked['id']}").status_code == 404
