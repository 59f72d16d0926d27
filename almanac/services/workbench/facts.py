"""Facts settled at the bench go to the model page, with grade, author and the job they come from."""

from __future__ import annotations

import copy
from collections.abc import Mapping, Sequence
from typing import Any

from sqlalchemy.orm import Session

from almanac.core.parts.contradictions import contradicted
from almanac.core.parts.declared.facts import Subject
from almanac.core.parts.declared.understand import NotUnderstood, understand
from almanac.core.parts.inheritance import whole_page
from almanac.core.parts.kinds import Kind, Serviceability
from almanac.core.workbench.journal import Standing
from almanac.core.workbench.settling import NEEDS
from almanac.services.clock import Clock
from almanac.services.errors import Fault, NotFound, Refused
from almanac.services.pages.library import ModelPage, read_library
from almanac.services.pages.save import PageChange, save_page
from almanac.services.workbench.lease import write_entry
from almanac.services.workbench.planning import restored
from almanac.store import pages
from almanac.store.models import Job

WAIT = "mains_wait_minutes"


def settle_on_page(session: Session, job: Job, standing: Standing, *, clock: Clock, author_id: int) -> int | None:
    """Write a job's settled facts into the page that holds; returns the revision's number, None where nothing was settled.

    What contradicts a measurement becomes a draft that a second person makes hold (rule G1c). A fact the page refuses stays in the
    journal with the reason: the job is not held up by it.
    """
    typed = restored(job.plan).typed
    if not standing.settled and standing.maker_wait is None and not typed:
        return None
    try:
        page = read_library(session).page(job.model_id)
    except NotFound:
        return None
    document = with_facts(page, standing, source=f"job {job.id}", day=clock.today.isoformat())
    add_steps(document, typed, job.id)
    number = pages.last_number(session, job.model_id)
    doubted = contradicted(page.whole, whole_page(document, page.sibling))
    reason = f"Typed at the bench at job {job.id}" if typed else f"Settled while open at job {job.id}"
    change = PageChange(document, reason, number, draft=page.draft or bool(doubted) or bool(typed))
    if doubted:
        words = f"saved as a draft, for a second person to make it hold: {'; '.join(doubted)}"
        write_entry(session, job, "note", {"words": words}, clock=clock, author_id=author_id)
    try:
        with session.begin_nested():
            return save_page(session, change, clock=clock, author_id=author_id).number
    except Refused as refused:
        words = "; ".join(fault.message for fault in refused.faults)
        write_entry(session, job, "note", {"words": f"facts not written to the page: {words}"}, clock=clock, author_id=author_id)
        return None


def settled_as_read(session: Session, job: Job, data: Mapping[str, Any]) -> dict[str, Any]:
    """A fact settled at the bench as rules read it.

    Raises
    ------
    Refused : no fact has that name, or the value cannot be
    """
    page = read_library(session).get(job.model_id)
    if data.get("field") == "serviceability":
        if data["value"] not in list(Serviceability):
            raise Refused(Fault("value", f"how it is held: one of {', '.join(Serviceability)} was wanted"))
        return dict(data)
    if page is None:
        return dict(data)
    if data.get("field") == NEEDS:
        return _need_as_read(page, data)
    try:
        kind = Kind(page.position(str(data["position"]))["kind"])
        read = understand(kind, str(data["name"]), data["value"], Subject.PLACE)
    except NotFound as unknown:
        raise Refused(Fault("position", str(unknown))) from unknown
    except NotUnderstood as unclear:
        raise Refused(Fault("value", f"{unclear.message}: {unclear.cure}")) from unclear
    return {**data, "name": read.name, "value": read.value}


def _need_as_read(page: ModelPage, data: Mapping[str, Any]) -> dict[str, Any]:
    if not isinstance(data["value"], bool):
        raise Refused(Fault("value", "yes or no was wanted: does it need that step first?"))
    steps = (entry for entry in page.whole.get("operations") or [] if entry["id"] == data["position"])
    if not any({"done": data["name"]} in (step.get("needs") or []) for step in steps):
        raise Refused(Fault("position", "the page does not say that this step was only done after that one: read the job again"))
    return dict(data)


def with_facts(page: ModelPage, standing: Standing, *, source: str, day: str) -> dict[str, Any]:
    """The page as written, with the settled facts added beside what was said before: a conflict keeps both."""
    document = copy.deepcopy(dict(page.own))
    for item in standing.settled:
        if item.get("field") == NEEDS:
            settle_need(_own_step(document, page, str(item["position"])), str(item["name"]), needed=bool(item["value"]))
            continue
        entry = _own_entry(document, page, str(item["position"]))
        fact = {"value": item["value"], "grade": item.get("grade") or "measured", "source": source, "date": day}
        if item.get("field") == "serviceability":
            entry["serviceability"] = [*_held_before(document, entry), fact]
            continue
        facts = entry.setdefault("takes", {})
        facts[item["name"]] = [*_said(facts.get(item["name"])), fact]
    if standing.maker_wait is not None:
        minutes, where = standing.maker_wait
        facts = document.setdefault("facts", {})
        fact = {"value": minutes, "grade": "document", "source": f"{where} ({source})", "date": day}
        facts[WAIT] = [*_said(facts.get(WAIT)), fact]
    return document


def add_steps(document: dict[str, Any], typed: Sequence[Mapping[str, Any]], job_id: int) -> None:
    """Add what was typed at the bench to a page, under names of its own: somebody who knows better makes one way of it."""
    renamed = {str(step["id"]): f"job_{job_id}_{step['id']}" for step in typed}
    for step in typed:
        own = {**step, "id": renamed[str(step["id"])], "needs": [renamed[str(need)] for need in step["needs"]]}
        kept = {name: value for name, value in own.items() if name == "seal" or value not in ([], False, None)}
        document.setdefault("operations", []).append(kept)


def _said(statements: Any) -> list[dict[str, Any]]:
    """What was said before of a fact; a value nobody knew is answered, not kept beside the answer."""
    listed = statements if isinstance(statements, list) else [statements] if statements else []
    return [fact for fact in listed if fact.get("value") is not None]


def _held_before(document: Mapping[str, Any], entry: Mapping[str, Any]) -> list[dict[str, Any]]:
    """What was said before of how a part is held, under the evidence it was said with."""
    said, evidence = entry.get("serviceability"), entry.get("evidence") or document.get("evidence") or {}
    if isinstance(said, list):
        return _said(said)
    return [{"value": said, **evidence}] if said not in (None, "unknown") and {"grade", "source"} <= set(evidence) else []


def settle_need(step: dict[str, Any], done: str, *, needed: bool) -> None:
    """Say of a step that was only done after another whether it needs it."""
    needs = [need for need in step.get("needs") or [] if need != {"done": done}]
    step["needs"] = [*needs, done] if needed else needs


def _own_step(document: dict[str, Any], page: ModelPage, name: str) -> dict[str, Any]:
    """The step's entry of the own page; a page that inherits it states its needs anew."""
    for entry in document.setdefault("operations", []):
        if entry["id"] == name:
            found: dict[str, Any] = entry
            return found
    whole = next(entry for entry in page.whole.get("operations") or [] if entry["id"] == name)
    stated = {"id": name, "text": whole["text"], "needs": copy.deepcopy(list(whole.get("needs") or []))}
    document["operations"].append(stated)
    return stated


def _own_entry(document: dict[str, Any], page: ModelPage, key: str) -> dict[str, Any]:
    """The position's entry of the own page; a page that inherits it states this one difference."""
    for entry in document.setdefault("positions", []):
        if entry["key"] == key:
            found: dict[str, Any] = entry
            return found
    whole: Mapping[str, Any] = page.position(key)
    stated = {"key": key, "label": whole.get("label") or key, "kind": whole["kind"]}
    document["positions"].append(stated)
    return stated
