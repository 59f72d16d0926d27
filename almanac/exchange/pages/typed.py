"""Lines typed or scanned while a page is written: a fact, a label, fasteners in shorthand. Read here, in the act that keeps them."""

from __future__ import annotations

import difflib
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from almanac.core.parts.declared.facts import BY_KIND, Subject, spec_of
from almanac.core.parts.declared.understand import NotUnderstood, understand
from almanac.core.parts.faults import PageFault, Where
from almanac.core.parts.kinds import Grade, Kind
from almanac.core.parts.labels.read import read_label
from almanac.core.parts.labels.reading import DERIVED
from almanac.core.parts.proposals import fastener_entry
from almanac.core.parts.statements import with_statement
from almanac.core.teardown.shorthand import read_shorthand
from almanac.exchange.pages.nested.statements import statement_of
from almanac.exchange.pages.yaml_tree import YamlFault, read_yaml

FACT = re.compile(r"^\s*([A-Za-z][\w ]{0,40}?)\s*:\s*(\S.*|)$")
LISTS = {"positions": "key", "operations": "id"}


@dataclass(frozen=True)
class TypedLine:
    """A line and where it was typed: ("positions", key, "takes"), ("operations", id, "fasteners") or ("facts",)."""

    place: tuple[str, ...]
    text: str


@dataclass
class TakenIn:
    """A page with lines read into it. faults : of lines that could not be · asked : what a label leaves open"""

    page: dict[str, Any]
    faults: list[PageFault] = field(default_factory=list)
    asked: list[PageFault] = field(default_factory=list)


def take_in(page: Mapping[str, Any], lines: Sequence[TypedLine]) -> TakenIn:
    """Read lines into a page. Facts get the page's own evidence, those of a label that of a label; what was worked out is inferred.

    Parameters
    ----------
    page : document in its stored form; it is not changed · lines : as they were typed
    """
    found = TakenIn(dict(page))
    for line in lines:
        if line.text.strip():
            _take(found, line)
    return found


def _take(found: TakenIn, line: TypedLine) -> None:
    if line.place == ("facts",):
        found.page["facts"] = _stated(found, line, None, Subject.MACHINE, ("facts",), found.page.get("facts") or {})
        return
    several, name, part = line.place if len(line.place) == 3 else ("", "", "")
    entries = list(found.page.get(several) or [])
    at = next((place for place, entry in enumerate(entries) if entry.get(LISTS.get(several, "")) == name), None)
    if at is None:
        found.faults.append(PageFault((), f"“{line.text}” was typed for {name or 'no place'}", "which is not on the page: type it again"))
        return
    where: Where = (several, at, part)
    entries[at] = (
        _with_fasteners(found, line, entries[at], where) if several == "operations" else _with_facts(found, line, entries[at], where)
    )
    found.page[several] = entries


def _with_fasteners(found: TakenIn, line: TypedLine, step: Mapping[str, Any], where: Where) -> dict[str, Any]:
    read = read_shorthand(line.text)
    if read.unread or not read.groups:
        unread = ", ".join(read.unread) or line.text
        found.faults.append(PageFault(where, f"not understood: {unread}", "write it as 6x PH1 M2.5x4 captive, 1 hidden under label"))
        return dict(step)
    return {**step, "fasteners": [*(step.get("fasteners") or []), *map(fastener_entry, read.groups)]}


def _with_facts(found: TakenIn, line: TypedLine, position: Mapping[str, Any], where: Where) -> dict[str, Any]:
    """Facts where they were typed; of a label what is said of the place goes there and what is said of the part to the part."""
    kind, here = Kind(position["kind"]), Subject(str(where[-1]))
    next_ = dict(position)
    for subject, facts in _read(found, line, kind, here, where).items():
        next_[subject.value] = _merged(position.get(subject.value) or {}, facts)
    return next_


def _stated(found: TakenIn, line: TypedLine, kind: Kind | None, here: Subject, where: Where, said: Mapping[str, Any]) -> dict[str, Any]:
    return _merged(said, _read(found, line, kind, here, where).get(here, {}))


def _merged(said: Mapping[str, Any], new: Mapping[str, Mapping[str, Any]]) -> dict[str, Any]:
    return {**said, **{name: with_statement(said.get(name) or [], statement) for name, statement in new.items()}}


def _read(found: TakenIn, line: TypedLine, kind: Kind | None, here: Subject, where: Where) -> dict[Subject, dict[str, Any]]:
    named = FACT.match(line.text)
    unclear: NotUnderstood | None = None
    if named:
        try:
            return {here: _fact(found, kind, here, named[1], named[2])}
        except NotUnderstood as fault:
            unclear = fault
    # “Model: …” begins a label; “generaton: …” is a fact misspelt.
    label = {} if kind is None or (unclear and named and _nearly_a_fact(kind, named[1])) else _label(found, line, kind, here, where)
    if not label:
        message = unclear.message if unclear else f"“{line.text}” says nothing of this"
        cure = unclear.cure if unclear else "write a fact as its name: value"
        found.faults.append(PageFault(where, message, cure))
    return label


def _fact(found: TakenIn, kind: Kind | None, here: Subject, name: str, text: str) -> dict[str, Any]:
    said = statement_of(text.strip())
    statement = said if isinstance(said, dict) else {"value": _value(text)}
    meant = understand(kind, "_".join(name.lower().split()), statement["value"], here)
    return {meant.name: {**_evidence(found), **statement, "value": meant.value}}


def _nearly_a_fact(kind: Kind, name: str) -> bool:
    return bool(difflib.get_close_matches("_".join(name.lower().split()), list(BY_KIND[kind]), n=1, cutoff=0.8))


def _value(text: str) -> Any:
    """What a word, a figure or a list means; whatever else it is stays text."""
    plain = text.strip()
    if plain in ("", "?"):
        return None
    try:
        return read_yaml(plain.encode()).value
    except YamlFault:
        return plain


def _label(found: TakenIn, line: TypedLine, kind: Kind | None, here: Subject, where: Where) -> dict[Subject, dict[str, Any]]:
    reading = read_label(line.text, kind)
    if any(value is None for value in reading.facts.values()):
        found.asked += [PageFault(where, flag, "write the one that is meant as a fact", open=True) for flag in reading.flags]
    facts: dict[Subject, dict[str, Any]] = {}
    for name, value in reading.facts.items():
        if value is None or name in DERIVED:
            continue
        grade = Grade.INFERRED if name in reading.computed else Grade.LABEL
        facts.setdefault(_subject(kind, name, here), {})[name] = {**_evidence(found), "grade": grade.value, "value": value}
    return facts


def _subject(kind: Kind | None, name: str, here: Subject) -> Subject:
    spec = spec_of(kind, name)
    return here if spec is None or here in spec.of else spec.of[0]


def _evidence(found: TakenIn) -> dict[str, Any]:
    given = found.page.get("evidence") or {}
    return {name: given[name] for name in ("grade", "source", "date") if name in given}
