"""A page in brief: what the index shows of it and what it says in short sentences, for pages that nobody reads whole."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, ClassVar

from sqlalchemy.orm import Session

from almanac.core.answers.question import Named, Question
from almanac.core.parts.answers import known as known_fact
from almanac.core.parts.declared.words import takes_words
from almanac.core.parts.holding import held_as
from almanac.core.parts.questions import questions_of
from almanac.core.teardown.depth import Depth
from almanac.core.teardown.operations import Operation
from almanac.core.teardown.written import teardown_of
from almanac.services.answers.ask import computed, known
from almanac.services.pages.library import Library
from almanac.services.pages.profile import PageProfile, inherited
from almanac.store.pages import PageHead


@dataclass(frozen=True)
class PageSummary:
    """takes : what the filters of the index ask · statements : the page in short sentences, as people ask for them"""

    takes: tuple[str, ...]
    deepest_minutes: float
    open_facts: int
    unverified: str | None
    statements: tuple[str, ...]


@dataclass(frozen=True)
class Summary(Question[PageSummary]):
    """A page as written, and the siblings it inherits from, nearest first."""

    NAME: ClassVar[str] = "page summary"
    VERSION: ClassVar[int] = 3
    own: Named
    siblings: tuple[Named, ...] = ()

    def compute(self) -> PageSummary:
        made = PageProfile(self.own, self.siblings).compute()
        whole = _whole(self.own, self.siblings)
        minutes = [depth.minutes for depth in made.depths.values() if depth.minutes is not None]
        return PageSummary(
            takes=tuple(_takes(whole)),
            deepest_minutes=max(minutes, default=0.0),
            open_facts=len(questions_of(made.faults, whole)),
            unverified=whole.get("unverified"),
            statements=tuple(_statements(whole, made.depths)),
        )


def _whole(own: Named, siblings: Sequence[Named]) -> Mapping[str, Any]:
    whole = inherited((own, *siblings))
    assert whole is not None
    return whole


def summaries(session: Session, library: Library) -> dict[int, PageSummary]:
    """Every page in brief, by model; only pages that were never summed up are read."""
    chains = {head.model_id: library.chain(head) for head in library.heads()}
    keys = {model: _question(chain).key for model, chain in chains.items()}
    found = known(session, dict.fromkeys(keys.values(), Summary))
    missing = [chains[model] for model, key in keys.items() if key not in found]
    documents = library.documents({head for chain in missing for head in chain})
    for chain in missing:
        key = keys[chain[0].model_id]
        if key not in found:
            found[key] = computed(session, key, _question(chain, documents))
    return {model: found[key] for model, key in keys.items()}


def _question(chain: Sequence[PageHead], documents: Mapping[int, Mapping[str, Any]] | None = None) -> Summary:
    own, *above = (Named(head.page_key, documents[head.revision_id] if documents else None) for head in chain)
    return Summary(own, tuple(above))


def _takes(whole: Mapping[str, Any]) -> list[str]:
    """Technology of memory, form of drive, kinds of part, how they are held."""
    found: dict[str, None] = {}
    for entry in whole.get("positions") or []:
        found.setdefault(entry["kind"])
        name = {"memory": "generation", "ssd": "form"}.get(entry["kind"])
        fact = known_fact(entry.get("takes") or {}, name) if name else None
        if fact:
            found.setdefault(str(fact.value))
        found.setdefault(held_as(entry).value.replace("_", " "))
    return list(found)


def _statements(whole: Mapping[str, Any], depths: Mapping[str, Depth]) -> Iterator[str]:
    yield from _identity(whole)
    for entry in whole.get("positions") or []:
        yield from _position(entry, depths.get(entry["key"]))
    for step in teardown_of(whole).operations.values():
        yield from _step(step)


def _identity(whole: Mapping[str, Any]) -> Iterator[str]:
    identity = whole.get("identity") or {}
    label = known_fact(identity, "label")
    if label:
        yield f"Label reads {label.value}"
    for other in identity.get("looks_like") or []:
        yield f"Looks like {other['model']}"
    if whole.get("unverified"):
        yield f"Unverified: {whole['unverified']}"


def _step(step: Operation) -> Iterator[str]:
    if step.one_way:
        yield f"One way: {step.one_way.reason}"
    for item in step.fasteners:
        hidden = f", hidden under {item.hidden}" if item.hidden else ""
        yield f"{item.count.words} x {item.group}{hidden}{' captive' if item.captive and 'captive' not in item.group else ''}"


def _position(entry: Mapping[str, Any], depth: Depth | None) -> Iterator[str]:
    label, held = entry.get("label") or entry["key"], held_as(entry).value.replace("_", " ")
    takes = {name: known_fact(entry.get("takes") or {}, name) for name in entry.get("takes") or {}}
    values = ", ".join(takes_words(entry["kind"], {name: fact.value for name, fact in takes.items() if fact}))
    yield f"{label} {entry['kind']}: {held}" + (f", takes {values}" if values else "")
    if depth and depth.layer not in ("outside", "unknown"):
        yield f"{label} {entry['kind']} lies under the {depth.layer}, deep behind it"
    if depth and depth.reached != entry["key"]:
        yield f"{label} {entry['kind']} is ordered as {depth.reached.replace('_', ' ')}"
    if entry.get("state") == "free":
        yield f"{label}: free {entry['kind']} place, not fitted"
