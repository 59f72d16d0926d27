"""What a page leaves open, as questions ranked by what their answer would change; one cause is one line (rule U5)."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from almanac.core.parts.answers import known
from almanac.core.parts.claims import orderable_code
from almanac.core.parts.declared.facts import label_of
from almanac.core.parts.declared.words import plain_words
from almanac.core.parts.escalation import Held, ordered_unit
from almanac.core.parts.facts import prevailing
from almanac.core.parts.faults import PageFault, Stake, path_words
from almanac.core.parts.holding import held_of
from almanac.core.parts.kinds import Kind, Serviceability, Verdict
from almanac.core.parts.stated import HEARSAY, differing, field

VISIT = 3
"""So many are asked at a visit, not thirty."""
LISTED = 4
"""So many names of one cause are listed, the rest counted."""


@dataclass(frozen=True)
class OpenQuestion:
    """Something still to settle.

    where : place in the page, or a position · text : what is open · cure : how it is settled · stake : what the answer changes
    size : how much of it, machines or minutes · worth : that in words, empty where it changes the record only
    fact : name of the fact of that position it asks for, where it is one
    """

    where: str
    text: str
    cure: str
    stake: Stake = Stake.RECORD
    size: float = 0.0
    worth: str = ""
    fact: str | None = None


def ranked(questions: Iterable[OpenQuestion]) -> list[OpenQuestion]:
    """Danger first, then what would flip a verdict or an order, then minutes, then the record; of alike ones the larger first."""
    return sorted(questions, key=lambda question: (question.stake, -question.size))


def questions_of(faults: Sequence[PageFault], whole: Mapping[str, Any]) -> list[OpenQuestion]:
    """What a page leaves open: wrong entries, what is missing, conflicts, hearsay, facts nobody knows.

    Parameters
    ----------
    faults : of the page · whole : with what it takes over

    Returns
    -------
    list of OpenQuestion, ranked by what the page alone tells
    """
    wrong = [OpenQuestion(path_words(fault.where), fault.message, fault.cure, Stake.DECISION) for fault in faults if not fault.open]
    missing = [fault for fault in faults if fault.open and not fault.noted]
    return ranked([*wrong, *_by_cause(missing), *_doubts(whole)])


def _by_cause(faults: Sequence[PageFault]) -> Iterator[OpenQuestion]:
    """One line a cause: steps nobody timed are one question, not one each."""
    causes: dict[tuple[str, Stake], list[PageFault]] = {}
    for fault in faults:
        causes.setdefault((fault.cause.plural or path_words(fault.where), fault.cause.stake), []).append(fault)
    for (plural, stake), alike in causes.items():
        first, size = alike[0], sum(fault.cause.size for fault in alike)
        worth = f"{size:.1f} min of the ways in rest on it" if stake == Stake.MINUTES and size else ""
        text, where = first.message, path_words(first.where)
        if len(alike) > 1:
            text, where = f"{plural.format(n=len(alike))}: {_listed([fault.cause.name for fault in alike])}", str(first.where[0])
        yield OpenQuestion(where, text, first.cure, stake, size, worth)


def _listed(names: Sequence[str]) -> str:
    more = f" and {len(names) - LISTED} more" if len(names) > LISTED else ""
    return ", ".join(names[:LISTED]) + more


def _doubts(page: Mapping[str, Any]) -> Iterator[OpenQuestion]:
    held = {entry["key"]: held_of(entry) for entry in page.get("positions") or []}
    for entry in page.get("positions") or []:
        yield from _of_position(entry, held)
    for name, facts in (page.get("facts") or {}).items():
        yield from _of_fact(label_of(name), "facts", facts, (None, name))


def _of_position(entry: Mapping[str, Any], held: Mapping[str, Held]) -> Iterator[OpenQuestion]:
    key, kind, label = entry["key"], Kind(entry["kind"]), entry.get("label") or entry["key"]
    takes = entry.get("takes") or {}
    if held[key].held == Serviceability.UNKNOWN and entry.get("state") not in ("not_fitted",):
        both = [unit for unit in ordered_unit(key, held).units if unit != key]
        worth = f"decides whether it or the {both[0].replace('_', ' ')} is ordered" if both else "decides what is ordered"
        yield OpenQuestion(key, f"how {label} is held is not known", "look when it is visible", Stake.DECISION, 0, worth)
    yield from _of_ordering(entry, label)
    for name, facts in [*takes.items(), *(entry.get("fitted") or {}).items()]:
        yield from _of_fact(f"{label}, {label_of(name, kind)}", key, facts, (kind, name))
    code = orderable_code(entry.get("strings") or {})
    if code.verdict == Verdict.UNKNOWN:
        yield OpenQuestion(
            key, f"{label}: {code.reason}", "find out which of them the supplier takes", Stake.DECISION, 0, "decides what is ordered"
        )
    if kind == Kind.FAN and "ordered" not in takes:
        cure = "ask the supplier; both are forecast"
        yield OpenQuestion(
            key, f"{label}: alone or with its heat sink is not known", cure, Stake.DECISION, 0, "decides what is ordered", "ordered"
        )
    if kind == Kind.SSD and "double_sided" not in takes and _is_stick(entry):
        cure = "measure it before fitting a double-sided one"
        yield OpenQuestion(key, f"{label}: the height under the drive is not known", cure, fact="double_sided")


def _of_ordering(entry: Mapping[str, Any], label: str) -> Iterator[OpenQuestion]:
    """How it is held and what is ordered for it, where that is hearsay or sources differ."""
    asked = {"serviceability": "how {} is held", "orderable": "whether {} is ordered alone", "ordered_unit": "what is ordered for {}"}
    for name, words in asked.items():
        what = words.format(label)
        if doubt := field(entry, name).doubt:
            cure = "look when it is visible" if name == "serviceability" else "ask the supplier"
            yield OpenQuestion(entry["key"], f"{what}: {doubt}", cure, Stake.DECISION, 0, "decides what is ordered")


def _is_stick(entry: Mapping[str, Any]) -> bool:
    form = known(entry.get("takes") or {}, "form")
    return form is not None and form.value == "M.2"


def _of_fact(label: str, where: str, facts: Any, said: tuple[Kind | None, str]) -> Iterator[OpenQuestion]:
    cure = "look at the next opening"
    if words := [plain_words(*said, value) for value in differing(facts)]:
        both = "sources differ; the stronger holds until somebody looks"
        yield OpenQuestion(where, f"{label}: {' or '.join(dict.fromkeys(words))}", both, fact=said[1])
        return
    holds = prevailing(facts)
    if holds["value"] is None:
        yield OpenQuestion(where, f"{label} is not known", cure, fact=said[1])
    elif holds["grade"] in HEARSAY:
        yield OpenQuestion(where, f"{label}: {plain_words(*said, holds['value'])}, only {holds['grade']}", cure, fact=said[1])
