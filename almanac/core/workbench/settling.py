"""Facts a page leaves open, asked when the part they are about is visible: "settle while open"."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from almanac.core.parts.answers import Known, known
from almanac.core.parts.declared.facts import BY_KIND, label_of, spec_of
from almanac.core.parts.declared.understand import said_of
from almanac.core.parts.holding import held_as
from almanac.core.parts.kinds import Kind, Serviceability
from almanac.core.parts.stated import field
from almanac.core.workbench.plan import JobPlan, Phase

NEEDS = "needs"
"""Field of a question whether a step has to wait for another."""
WEAK = frozenset({"inferred", "told", "assumed"})


@dataclass(frozen=True)
class OpenFact:
    """One fact to settle: where it is written, the question, what the page says now, and after which step it is visible."""

    position: str
    field: str
    name: str
    question: str
    now: str | None
    after_step: str


def open_facts(page: Mapping[str, Any], plan: JobPlan) -> list[OpenFact]:
    """Facts still open of everything this job lays bare.

    Parameters
    ----------
    page : the whole page · plan : of the job

    Returns
    -------
    list of OpenFact, in the order they become visible
    """
    entries = {entry["key"]: entry for entry in page.get("positions") or []}
    found: list[OpenFact] = []
    seen: set[str] = set()
    written = {entry["id"]: entry for entry in page.get("operations") or []}
    for step in plan.steps:
        if step.phase != Phase.OPENING:
            continue
        found += _of_step(written.get(step.operation or "") or {}, written, step.id)
        for key in (*step.exposes, *step.frees):
            if key in entries and key not in seen:
                seen.add(key)
                found += _of_position(entries[key], step.id)
    return found


def _of_step(entry: Mapping[str, Any], written: Mapping[str, Mapping[str, Any]], step: str) -> Iterator[OpenFact]:
    """Whether a step needs what it was done after so far: seen best by whoever has just done it."""
    for name in (need["done"] for need in entry.get("needs") or [] if isinstance(need, Mapping) and "done" in need):
        before = written[name]["text"] if name in written else name
        yield OpenFact(entry["id"], NEEDS, name, f"“{entry['text']}”: does it need “{before}” first?", "it was done after it", step)


def _of_position(entry: Mapping[str, Any], step: str) -> Iterator[OpenFact]:
    held = field(entry, "serviceability")
    if held.doubt or (held.value or "unknown") == "unknown":
        now = f"{held.value}, {held.doubt}".replace("_", " ") if held.value and held.doubt else None
        yield OpenFact(entry["key"], "serviceability", "serviceability", f"{_label(entry)}: how is it held?", now, step)
    kind, takes = Kind(entry["kind"]), entry.get("takes") or {}
    asked = set()
    for name in takes:
        fact = known(takes, name)
        if fact is None or fact.grade.value in WEAK:
            asked.add(name)
            spec = spec_of(kind, name)
            question = (spec.asked if spec else "") or f"{label_of(name, kind)}?"
            yield OpenFact(entry["key"], "takes", name, f"{_label(entry)}: {question}", _said(fact), step)
    if held_as(entry) == Serviceability.SOLDERED:
        return
    form = known(takes, "form")
    for name, question in ((spec.name, spec.asked) for spec in BY_KIND[kind].values() if spec.asked):
        flat = name == "double_sided" and (form is None or form.value != "M.2")
        if name not in takes and name not in asked and not flat:
            yield OpenFact(entry["key"], "takes", name, f"{_label(entry)}: {question}", None, step)


def _said(fact: Known | None) -> str | None:
    if fact is None:
        return None
    return f"{said_of(fact.value)} ({fact.grade.value})"


def _label(entry: Mapping[str, Any]) -> str:
    return str(entry.get("label") or entry["key"])
