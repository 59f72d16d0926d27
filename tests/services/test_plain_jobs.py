"""A job on a model nobody described: its steps are typed as they are done, and every rule holds as strictly."""

from __future__ import annotations

from typing import Any

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.services.errors import Refused
from almanac.services.pages.library import read_library
from almanac.services.workbench.open import change_targets
from almanac.services.workbench.plain import TypedStep, add_step
from almanac.services.workbench.planning import PlanRequest
from almanac.store import pages
from almanac.store.models import ModelRevision
from tests.services.helpers import Bench
from tests.services.jobs import Worker, machine, opened, replaced


def undescribed(session: Session, clock: Clock, kind: str = "fan", model: str = "Packet 14", *, unlisted: str = "") -> tuple[Bench, str]:
    """A machine whose page lost its steps, as one that was imported has none."""
    where, key = machine(session, kind, model)
    model_id = int(session.scalar(text("SELECT model_id FROM asset WHERE tag = :tag"), {"tag": where.tag}) or 0)
    page = read_library(session).page(model_id)
    bare = {name: value for name, value in page.own.items() if name in ("page_format", "maker", "name", "family", "form", "positions")}
    bare["positions"] = [entry for entry in bare["positions"] if entry["kind"] != unlisted]
    number = pages.last_number(session, model_id) + 1
    session.add(ModelRevision(model_id=model_id, number=number, page=bare, author_id=1, reason="Imported", recorded_at=clock.now))
    session.flush()
    return where, key


def types(worker: Worker, **said: Any) -> None:
    add_step(worker.session, worker.job_id, TypedStep(**said), device=worker.device, clock=worker.clock)


def test_a_machine_nobody_described_is_repaired_on_day_one(session: Session, clock: Clock) -> None:
    where, key = undescribed(session, clock)
    with pytest.raises(Refused, match="no step of the page takes out"):
        opened(session, clock, where.tag, key)
    worker = opened(session, clock, where.tag, plan=PlanRequest([key], plain=True))
    assert worker.job.next_step is None
    types(worker, text="lift the base cover", fasteners="3x PH1 M2.5x8 loose, 5x PH1 M2.5x4 captive", tool="PH1", live=True)
    assert [gate.id for gate in worker.job.gates] == ["power"]
    worker.does()
    assert worker.job.standing.tray_out == {"PH1 M2.5x8": 3}
    types(worker, text="slide the battery plug out", leads=["battery lead"], isolates=True)
    assert [gate.id for gate in worker.job.gates] == ["pack"]  # nobody knows whether the cover laid it bare
    worker.does()
    types(worker, text="undo the fan", fasteners="2x PH0 M2x5 loose", leads=["fan lead"], frees=[key])
    assert [gate.id for gate in worker.job.gates] == ["isolation", "static"]
    worker.finishes(where.part)
    assert worker.job.mismatches == []
    done = worker.closes(replaced(key, where))
    assert done.incident_id is not None
    assert done.page_number is not None
    model_id = worker.job.row.job.model_id
    draft = pages.draft_of(session, model_id)
    assert draft is not None
    assert [step["text"] for step in draft.page["operations"]] == ["lift the base cover", "slide the battery plug out", "undo the fan"]
    assert draft.page["operations"][0]["seal"] is None  # nobody said, so it is not no
    assert all("exposes" not in step for step in draft.page["operations"])  # nor what the cover lays bare
    assert read_library(session).page(model_id).own.get("operations") is None  # a draft, for somebody to make hold


def test_a_forgotten_lead_blocks_a_plain_job_as_any_other(session: Session, clock: Clock) -> None:
    where, key = undescribed(session, clock)
    worker = opened(session, clock, where.tag, plan=PlanRequest([key], plain=True))
    types(worker, text="cover off", fasteners="4x PH1 M2.5x8 loose", live=True)
    types(worker, text="plug out", leads=["battery lead"], isolates=True)
    types(worker, text="fan out", leads=["fan lead"], frees=[key])
    while not worker.job.beneath:
        step = worker.job.next_step
        assert step is not None
        worker.does(where.part, **({"leads": []} if step.phase == "closing" else {}))
    with pytest.raises(Refused, match="the way back has begun"):
        types(worker, text="one more")
    worker.passes_gates()
    coming = worker.job.next_step
    assert coming is not None
    assert worker.sends("step", step=coming.id).reasons == ["fan lead beneath this is still off"]


def test_mains_inside_waits_for_the_makers_minutes_in_a_plain_job_too(session: Session, clock: Clock) -> None:
    where, key = undescribed(session, clock, "memory", "Counter 24")
    worker = opened(session, clock, where.tag, plan=PlanRequest([key], plain=True))
    types(worker, text="undo the door", fasteners="2x PH1 M3x6 captive", outside=True)
    worker.does()
    types(worker, text="module out", frees=[key])
    assert [gate.id for gate in worker.job.gates] == ["isolation", "static"]
    [isolation, _] = worker.job.gates
    assert not isolation.waivable
    assert "maker_minutes" in [ask.key for ask in isolation.asks]


def test_what_cannot_be_read_of_a_step_is_named_and_nothing_is_kept(session: Session, clock: Clock) -> None:
    where, key = undescribed(session, clock)
    worker = opened(session, clock, where.tag, plan=PlanRequest([key], plain=True))
    with pytest.raises(Refused) as caught:
        types(worker, text=" ", fasteners="some blue ones", frees=["ghost"], live=True, isolates=True)
    assert {fault.field for fault in caught.value.faults} == {"text", "fasteners", "frees", "live"}
    assert worker.job.plan.typed == ()
    with pytest.raises(Refused, match="no position ghost"):
        opened(session, clock, where.tag, plan=PlanRequest(["ghost"], plain=True), confirmed=frozenset({"second_job"}))
    with pytest.raises(Refused, match="no work for a lay user"):
        change_targets(
            session, worker.job_id, PlanRequest([key], remote=True), reason="from afar", device=worker.device, clock=clock
        )  # fmt: skip


def test_a_plain_job_grows_by_targets_and_keeps_its_steps(session: Session, clock: Clock) -> None:
    where, key = undescribed(session, clock)
    worker = opened(session, clock, where.tag, plan=PlanRequest([key], plain=True))
    types(worker, text="cover off", live=True)
    worker.does()
    with pytest.raises(Refused, match="say why"):
        change_targets(session, worker.job_id, PlanRequest([key, "drive"]), reason=" ", device=worker.device, clock=clock)
    change_targets(session, worker.job_id, PlanRequest([key, "drive"]), reason="it clicks", device=worker.device, clock=clock)
    assert worker.job.plan.wanted == (key, "drive")
    assert worker.job.standing.done == ("open:typed_1",)
    types(worker, text="drive out", frees=["drive"])
    assert worker.job.plan.targets == ("drive",)


def test_a_described_way_is_not_typed_over(session: Session, clock: Clock) -> None:
    where, key = machine(session, "fan")
    worker = opened(session, clock, where.tag, key)
    with pytest.raises(Refused, match="the way in is described"):
        types(worker, text="another way")


def test_a_pack_that_no_page_lists_is_looked_at_once_the_machine_is_open(session: Session, clock: Clock) -> None:
    where, key = undescribed(session, clock, unlisted="battery")
    worker = opened(session, clock, where.tag, plan=PlanRequest([key], plain=True))
    types(worker, text="cover off", live=True)
    worker.does()
    types(worker, text="fan out", frees=[key])
    assert worker.job.plan.packs == ()
    assert "pack" in [gate.id for gate in worker.job.gates]
