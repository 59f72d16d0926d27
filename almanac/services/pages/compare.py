"""Two to four models beside one another: only what differs matters, and parts they share stand out."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy.orm import Session

from almanac.core.parts.answers import known
from almanac.core.parts.declared.facts import label_of
from almanac.core.parts.declared.kinds import FORECAST_KINDS, kind_name
from almanac.core.parts.declared.words import in_order, plain_words, takes_words
from almanac.core.parts.holding import held_as
from almanac.core.parts.stated import field
from almanac.services.errors import Fault, Refused
from almanac.services.pages.library import ModelPage, read_library
from almanac.services.pages.read import own_evidence_share, part_names
from almanac.store import pages
from almanac.store.models import Part

MOST_COMPARED = 4


@dataclass(frozen=True)
class ComparedRow:
    """One line of a comparison: what is compared, and each model's value; `differs` where they are not all equal."""

    group: str
    label: str
    values: list[str]
    differs: bool


@dataclass(frozen=True)
class Comparison:
    """Two to four models beside one another, and parts that go into more than one of them."""

    pages: list[ModelPage]
    rows: list[ComparedRow]
    shared: list[tuple[Part, list[int]]]


def compare_models(session: Session, model_ids: Sequence[int]) -> Comparison:
    """Compare models by identity, serviceability and positions.

    Raises
    ------
    NotFound : no such model
    Refused : fewer than two or more than four models
    """
    chosen = list(dict.fromkeys(model_ids))
    if not 2 <= len(chosen) <= MOST_COMPARED:
        raise Refused(Fault("models", f"two to {MOST_COMPARED} models can be compared, got {len(chosen)}"))
    library = read_library(session)
    compared = [library.page(identifier) for identifier in chosen]
    parts = part_names(session)
    shared = [
        (parts[part], [model for model in chosen if model in models])
        for part, models in sorted(pages.listed_for(session).items())
        if sum(1 for model in chosen if model in models) > 1
    ]
    return Comparison(compared, [*_whole_rows(compared), *_tell_rows(compared), *_access_rows(compared), *_position_rows(compared)], shared)


def _row(group: str, label: str, values: Iterable[str]) -> ComparedRow:
    shown = list(values)
    return ComparedRow(group, label, shown, len(set(shown)) > 1)


def _whole_rows(compared: Sequence[ModelPage]) -> list[ComparedRow]:
    def size(page: ModelPage) -> str:
        plan = page.whole.get("plan")
        return f"{plan['width_mm']:g} x {plan['depth_mm']:g} mm" if plan else "not measured"

    names = dict.fromkeys(name for page in compared for name in page.whole.get("facts") or {})
    rows = [
        _row("Machine", "Form", (page.whole["form"].replace("_", "-") for page in compared)),
        _row("Machine", "Size", (size(page) for page in compared)),
        _row("Machine", "Own evidence", (_percent(own_evidence_share(page.whole)) for page in compared)),
    ]
    facts = (
        _row("Machine", _capital(label_of(name)), (_fact(page.whole.get("facts") or {}, name) for page in compared))
        for name in in_order(names)
    )
    return [*rows, *facts]


def _tell_rows(compared: Sequence[ModelPage]) -> list[ComparedRow]:
    """What tells the models apart, by the question; what can be answered with the machine closed comes first."""
    tells = [(page.whole.get("identity") or {}).get("tells") or {} for page in compared]
    asked = {key: tell for one in tells for key, tell in one.items()}
    rows = [
        _row("Telling apart", f"{tell['ask']}{' (once open)' if tell.get('opened') else ''}", (_told(one.get(key)) for one in tells))
        for key, tell in sorted(asked.items(), key=lambda item: bool(item[1].get("opened")))
    ]
    labels = [known(page.whole.get("identity") or {}, "label") for page in compared]
    return [
        *([_row("Telling apart", "Its label", (str(label.value) if label else "not known" for label in labels))] if any(labels) else []),
        *rows,
    ]


def _told(tell: Mapping[str, Any] | None) -> str:
    found = known(tell, "value") if tell else None
    return plain_words(None, "", found.value) if found else "not known"


def _access_rows(compared: Sequence[ModelPage]) -> list[ComparedRow]:
    """The serviceability profile: minutes and steps to the easiest part of each kind, and what stands in the way."""
    rows = []
    for kind in FORECAST_KINDS:
        found = [{access.kind: access for access in page.profile.access}.get(kind) for page in compared]
        if any(found):
            words = [item.words if item else "-" for item in found]
            rows.append(_row("Access", f"To the {kind_name(kind)}", words))
    rows.append(_row("Access", "Captive screws", (page.profile.screws_words for page in compared)))
    rows.append(_row("Access", "Soldered", (_labels(page, page.profile.soldered) for page in compared)))
    rows.append(_row("Access", "Only with its assembly", (_labels(page, page.profile.escalated) for page in compared)))
    rows.append(_row("Access", "One-way steps", (str(len(page.profile.one_way)) for page in compared)))
    return rows


def _position_rows(compared: Sequence[ModelPage]) -> list[ComparedRow]:
    keys = list(dict.fromkeys(entry["key"] for page in compared for entry in page.whole.get("positions") or []))
    rows = []
    for key in keys:
        entries = [next((item for item in page.whole.get("positions") or [] if item["key"] == key), None) for page in compared]
        label = next(entry.get("label") or key for entry in entries if entry)
        rows.append(_row("Positions", label, (_entry_words(entry) for entry in entries)))
    return rows


def _entry_words(entry: Mapping[str, Any] | None) -> str:
    if entry is None:
        return "none"
    takes = {name: fact.value for name in entry.get("takes") or {} if (fact := known(entry["takes"], name)) and name != "mount"}
    doubt = field(entry, "serviceability").doubt
    held = held_as(entry).value.replace("_", " ") + (f" ({doubt})" if doubt else "")
    return ", ".join([held, *takes_words(entry["kind"], takes)])


def _fact(facts: Mapping[str, Any], name: str) -> str:
    found = known(facts, name)
    return plain_words(None, name, found.value) if found else "-"


def _capital(words: str) -> str:
    return words[0].upper() + words[1:]


def _labels(page: ModelPage, keys: Sequence[str]) -> str:
    return ", ".join(page.teardown.places[key].label for key in keys) or "none"


def _percent(share: float | None) -> str:
    return "-" if share is None else f"{share:.0%}"
