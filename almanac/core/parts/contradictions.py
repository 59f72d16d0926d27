"""Measured facts that a changed page would contradict: that takes a second person (rule G1c)."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any

from almanac.core.parts.answers import Known, known
from almanac.core.parts.declared.facts import Subject, label_of
from almanac.core.parts.declared.words import plain_words
from almanac.core.parts.kinds import Grade, Kind
from almanac.core.parts.stated import field


def contradicted(before: Mapping[str, Any], after: Mapping[str, Any]) -> list[str]:
    """What was measured and holds on one page, and holds no longer on the other, in words.

    Parameters
    ----------
    before, after : whole pages in their stored form

    Returns
    -------
    list of str : nothing where no measurement is contradicted; one that is only taken out is, too, but not one of a position that
        goes as a whole
    """
    held = {entry["key"]: entry for entry in after.get("positions") or []}
    found = list(_changed("", None, before.get("facts") or {}, after.get("facts") or {}))
    for entry in before.get("positions") or []:
        now = held.get(entry["key"])
        if now is None:
            continue
        found += _held_otherwise(entry, now)
        for subject in (Subject.PLACE, Subject.PART):
            label = f"{entry.get('label') or entry['key']}, "
            found += _changed(label, Kind(entry["kind"]), entry.get(subject.value) or {}, now.get(subject.value) or {})
    return found


def _held_otherwise(was: Mapping[str, Any], now: Mapping[str, Any]) -> Iterator[str]:
    before, after = field(was, "serviceability"), field(now, "serviceability").value or "unknown"
    if before.grade == Grade.MEASURED and after != before.value:
        yield f"{was.get('label') or was['key']} was seen to be {before.value}, now it is {after}".replace("_", " ")


def _changed(of: str, kind: Kind | None, before: Mapping[str, Any], after: Mapping[str, Any]) -> Iterator[str]:
    for name in before:
        was, now = known(before, name), known(after, name)
        if was is not None and was.grade == Grade.MEASURED and (now is None or now.value != was.value):
            yield f"{of}{label_of(name, kind)} was measured as {plain_words(kind, name, was.value)}, {_now(kind, name, now)}"


def _now(kind: Kind | None, name: str, now: Known | None) -> str:
    return f"now {plain_words(kind, name, now.value)}" if now is not None else "now nothing holds"
