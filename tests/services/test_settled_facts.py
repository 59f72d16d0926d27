"""Facts settled while a machine stood open: written beside what was said before, or kept with the job where a page refuses them."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.core.workbench.journal import Standing
from almanac.services.clock import Clock
from almanac.services.pages.library import ModelPage, read_library
from almanac.services.workbench.facts import settle_on_page, with_facts
from almanac.store import pages
from almanac.store.models import Job
from tests.services.jobs import machine, opened

HEIR, POSITION = ("Brindwell", "Counter 24"), "memory_a"


def heir(session: Session) -> ModelPage:
    page = next((page for page in read_library(session).pages.values() if (page.whole["maker"], page.whole["name"]) == HEIR), None)
    assert page is not None
    return page


def settled(**item: Any) -> Standing:
    return Standing(settled=({"field": "takes", "grade": "measured", **item},))


def stated(page: dict[str, Any], key: str) -> dict[str, Any]:
    return next(entry for entry in page["positions"] if entry["key"] == key)


def test_a_fact_stands_beside_what_was_said_before(session: Session) -> None:
    page = heir(session)
    (before,) = stated(dict(page.own), POSITION)["takes"]["maximum_gb"]
    found = with_facts(page, settled(position=POSITION, name="maximum_gb", value=64), source="job 7", day="2026-11-01")
    first, second = stated(found, POSITION)["takes"]["maximum_gb"]
    assert first == before
    assert second == {"value": 64, "grade": "measured", "source": "job 7", "date": "2026-11-01"}
    assert stated(dict(page.own), POSITION)["takes"]["maximum_gb"] == [before]  # the page that holds is left as it was


def test_a_value_nobody_knew_is_answered(session: Session) -> None:
    found = with_facts(heir(session), settled(position="drive", name="thickness_mm", value=2.2), source="job 7", day="2026-11-01")
    assert [fact["value"] for fact in stated(found, "drive")["takes"]["thickness_mm"]] == [2.2]


def test_how_a_part_is_held_replaces_what_the_page_said(session: Session) -> None:
    found = with_facts(
        heir(session), settled(position="drive", field="serviceability", name="serviceability", value="clipped"), source="", day=""
    )
    before, now = stated(found, "drive")["serviceability"]
    assert (now["value"], now["grade"]) == ("clipped", "measured")
    assert before["value"] != "clipped"
    unknown = {**heir(session).written, "positions": [{"key": "drive", "label": "Drive", "kind": "ssd", "serviceability": "unknown"}]}
    page = replace(heir(session), written=unknown)
    found = with_facts(page, settled(position="drive", field="serviceability", name="serviceability", value="clipped"), source="", day="")
    assert [fact["value"] for fact in stated(found, "drive")["serviceability"]] == ["clipped"]


def test_whether_a_step_needs_another_is_answered_by_who_has_just_done_it(session: Session) -> None:
    page = heir(session)
    step = page.whole["operations"][-1]
    needs = [*(step.get("needs") or []), {"done": "glue_off"}]
    given = replace(page, written={**page.written, "operations": [{"id": step["id"], "text": step["text"], "needs": needs}]})
    asked: dict[str, Any] = {"position": step["id"], "field": "needs", "name": "glue_off"}
    for value, told in ((True, [*(step.get("needs") or []), "glue_off"]), (False, step.get("needs") or [])):
        found = with_facts(given, settled(**asked, value=value), source="", day="")
        assert found["operations"][0]["needs"] == told
    inherited = with_facts(page, settled(**asked, value=True), source="", day="")  # it states the one step's needs anew
    own = next(entry for entry in inherited["operations"] if entry["id"] == step["id"])
    assert own["needs"] == [*(step.get("needs") or []), "glue_off"]


def test_a_page_that_inherits_a_position_states_the_one_difference(session: Session) -> None:
    page = heir(session)
    own = {entry["key"] for entry in page.own["positions"]}
    inherited = next(entry for entry in page.whole["positions"] if entry["key"] not in own)
    found = with_facts(page, settled(position=inherited["key"], name="mount", value="C24"), source="job 7", day="2026-11-01")
    entry = stated(found, inherited["key"])
    assert set(entry) == {"key", "label", "kind", "takes"}
    assert entry["kind"] == inherited["kind"]
    assert entry["takes"]["mount"][0]["source"] == "job 7"


def test_a_fact_the_page_refuses_stays_in_the_journal(session: Session, clock: Clock) -> None:
    where, key = machine(session, "fan")
    worker = opened(session, clock, where.tag, key)
    job = session.get(Job, worker.job_id)
    assert job is not None
    impossible = settled(position=key, field="serviceability", name="serviceability", value="nailed down")
    assert settle_on_page(session, job, impossible, clock=clock, author_id=2) is None
    words = session.execute(
        text("SELECT data ->> 'words' FROM job_entry WHERE job_id = :job AND kind = 'note' ORDER BY number DESC LIMIT 1"), {"job": job.id}
    ).scalar_one()
    assert words.startswith("facts not written to the page: ")
    assert settle_on_page(session, job, Standing(), clock=clock, author_id=2) is None


def test_a_measurement_contradicted_at_the_bench_waits_as_a_draft_for_a_second_person(session: Session, clock: Clock) -> None:
    page = read_library(session).named("Ostrel Packet 15")
    assert page is not None
    where, key = machine(session, "battery", "Packet 15")
    job = session.get(Job, opened(session, clock, where.tag, key).job_id)
    assert job is not None
    before = page.position("optical")["takes"]["caddy_mm"]
    number = settle_on_page(session, job, settled(position="optical", name="caddy_mm", value=12.7), clock=clock, author_id=2)
    held = read_library(session).named("Ostrel Packet 15")
    assert number is not None
    assert held is not None
    assert held.position("optical")["takes"]["caddy_mm"] == before
    draft = pages.revision(session, page.model_id, number)
    assert draft is not None
    assert draft.draft
    assert [fact["value"] for fact in stated(draft.page, "optical")["takes"]["caddy_mm"]] == [9.5, 12.7]


def test_what_cannot_be_is_refused_where_it_is_settled(session: Session, clock: Clock) -> None:
    where, key = machine(session, "fan")
    worker = opened(session, clock, where.tag, key)
    worker.until(f"swap:{key}")
    refused = worker.sends("settle", position=key, field="takes", name="ordered", value="banana", grade="measured").reasons
    assert "one of alone, with sink, alone after tape was wanted, got 'banana'" in refused[0]
    held = worker.sends("settle", position=key, field="serviceability", name="serviceability", value="nailed", grade="measured").reasons
    assert "one of socketed, screwed" in held[0]
    need = worker.sends("settle", position="x", field="needs", name="y", value="perhaps", grade="measured").reasons
    assert "yes or no was wanted" in need[0]
    nowhere = worker.sends("settle", position="x", field="needs", name="y", value=True, grade="measured").reasons
    assert "the page does not say that this step was only done after that one" in nowhere[0]
    worker.says("settle", position=key, field="takes", name="ordered", value="With its sink", grade="measured")
    assert worker.job.standing.settled[-1]["value"] == "with sink"
