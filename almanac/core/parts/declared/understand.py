"""What a stated fact means: its name and value as rules read them, or why they cannot be."""

from __future__ import annotations

import difflib
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from almanac.core.parts.declared.facts import BY_KIND, FACTS, SPARE, FactSpec, Subject, spec_of
from almanac.core.parts.declared.values import Impossible, Value, is_unknown, plain
from almanac.core.parts.faults import PageFault, Where
from almanac.core.parts.kinds import Kind


@dataclass(frozen=True)
class Understood:
    """A statement as rules read it; `notes` say what was written otherwise."""

    name: str
    value: Value
    notes: tuple[str, ...] = ()


class NotUnderstood(ValueError):
    """A name no rule knows, or a value that cannot be: what is wrong, and the cure."""

    def __init__(self, message: str, cure: str) -> None:
        super().__init__(message)
        self.message, self.cure = message, cure


def understand(kind: Kind | None, name: str, value: object, subject: Subject | None = None) -> Understood:
    """A statement of a part, its place or a machine.

    Parameters
    ----------
    kind : of the part, None for the machine · name, value : as written · subject : what it is stated of, where that matters

    Returns
    -------
    Understood

    Raises
    ------
    NotUnderstood : no fact has that name, it is not stated of this, or the value cannot be
    """
    spec = _spec(kind, name, subject)
    # A spare fact keeps the name it was given.
    meant = name if spec.name == SPARE else spec.name
    if is_unknown(value):
        return Understood(meant, None)
    try:
        found = spec.type.understood(value)
    except Impossible as impossible:
        raise NotUnderstood(f"{spec.label}: {impossible.wanted} was wanted, got {_short(value)}", impossible.cure) from None
    notes = [f"{name} is read as {meant}"] if meant != name else []
    if found != value:
        notes.append(f"{_short(value)} is read as {said_of(found)}")
    return Understood(meant, found, tuple(notes))


def _spec(kind: Kind | None, name: str, subject: Subject | None) -> FactSpec:
    spec = spec_of(kind, name) or _spelled(kind, name)
    if spec is None:
        raise NotUnderstood(f"no rule reads “{name}” of {_of(kind)}", _nearest(kind, name))
    if subject is not None and subject not in spec.of:
        place = "the part (under fitted)" if subject == Subject.PLACE else "the place (under takes)"
        raise NotUnderstood(f"{spec.label} is stated of {place}", f"move {name} there")
    return spec


def _spelled(kind: Kind | None, name: str) -> FactSpec | None:
    """The fact whose name differs by its case, its punctuation or its unit alone."""
    for spec in BY_KIND[kind].values():
        if plain(name) in {plain(spec.name), plain(spec.label), plain(spec.name.removesuffix(_ending(spec)))}:
            return spec
    return None


def _ending(spec: FactSpec) -> str:
    return "_" + plain(spec.unit.replace("/", "_")) if spec.unit and spec.unit != "MT/s" else "_mt_s" if spec.unit else ""


def _nearest(kind: Kind | None, name: str) -> str:
    names = list(BY_KIND[kind])
    near = difflib.get_close_matches(name.lower(), names, n=1, cutoff=0.6)
    if near:
        return f"did you mean {near[0]}?"
    elsewhere = next((spec for spec in FACTS if spec.name == name), None)
    if elsewhere is not None:
        return f"it is stated of {', '.join(map(str, elsewhere.kinds)) or 'the machine'}"
    return f"known are {', '.join(names)}; a fact no rule reads is written {SPARE}{plain(name) or 'name'}"


def _of(kind: Kind | None) -> str:
    return "a machine" if kind is None else f"a part of the kind {kind.value}"


def _short(value: object) -> str:
    shown = repr(value)
    return shown if len(shown) <= 60 else f"{shown[:57]}..."


def said_of(value: Value) -> str:
    """A value as it is written."""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, list):
        return ", ".join(map(said_of, value))
    if isinstance(value, dict):
        return ", ".join(f"{name}: {one}" for name, one in value.items())
    return "not known" if value is None else f"{value:g}" if isinstance(value, float) else str(value)


Statements = Mapping[str, Any] | Sequence[Mapping[str, Any]]


def statements_of(said: Statements) -> list[dict[str, Any]]:
    """All statements of one fact, one or several."""
    return [dict(said)] if isinstance(said, Mapping) else [dict(one) for one in said]


@dataclass(frozen=True)
class Reading:
    """Facts as rules read them, what was written otherwise, and what cannot be."""

    facts: dict[str, Any]
    notes: tuple[tuple[Where, str], ...]
    faults: tuple[PageFault, ...]


def read_facts(facts: Mapping[str, Any], where: Where, kind: Kind | None, subject: Subject) -> Reading:
    """All statements of a position, a part or a machine; what cannot be stays as it was written, with its fault.

    Parameters
    ----------
    facts : statements {value, grade, ...} or lists of them, by name · where : their place · kind, subject : as in `understand`
    """
    found: dict[str, Any] = {}
    notes: list[tuple[Where, str]] = []
    faults: list[PageFault] = []
    for name, said in facts.items():
        meant, read = name, []
        for statement in statements_of(said):
            try:
                one = understand(kind, name, statement.get("value"), subject)
            except NotUnderstood as unclear:
                faults.append(PageFault((*where, name), unclear.message, unclear.cure))
                read.append(statement)
                continue
            meant = one.name
            notes += [((*where, name), note) for note in one.notes]
            read.append({**statement, "value": one.value})
        kept = [*statements_of(found[meant]), *read] if meant in found else read
        found[meant] = kept[0] if isinstance(said, Mapping) and len(kept) == 1 else kept
    return Reading(found, tuple(notes), tuple(dict.fromkeys(faults)))


def read_page_facts(page: Mapping[str, Any]) -> tuple[dict[str, Any], list[tuple[Where, str]]]:
    """A page with every fact as rules read it, and what was written otherwise; what cannot be is left for the check to name."""
    whole, notes = dict(page), []
    if page.get("facts"):
        machine = read_facts(page["facts"], ("facts",), None, Subject.MACHINE)
        whole["facts"], notes = machine.facts, list(machine.notes)
    positions = []
    for place, entry in enumerate(page.get("positions") or []):
        own = dict(entry)
        for where, part, kind, subject in _parts(entry, place):
            read = read_facts(entry[part], where, kind, subject)
            own[part] = read.facts
            notes += read.notes
        positions.append(own)
    if "positions" in page:
        whole["positions"] = positions
    return whole, notes


def _parts(entry: Mapping[str, Any], place: int) -> Iterator[tuple[Where, str, Kind, Subject]]:
    for subject in (Subject.PLACE, Subject.PART):
        if entry.get(subject.value) and entry.get("kind") in list(Kind):
            yield ("positions", place, subject.value), subject.value, Kind(entry["kind"]), subject


def page_faults_of_facts(page: Mapping[str, Any]) -> Iterator[PageFault]:
    """Every name and value of a page's facts that cannot be."""
    yield from read_facts(page.get("facts") or {}, ("facts",), None, Subject.MACHINE).faults
    for place, entry in enumerate(page.get("positions") or []):
        for where, part, kind, subject in _parts(entry, place):
            yield from read_facts(entry[part], where, kind, subject).faults
