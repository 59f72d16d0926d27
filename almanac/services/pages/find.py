"""Finding models by anything: a reading of the label, a part or pack number, or a property said in words."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from sqlalchemy.orm import Session

from almanac.core.parts.answers import known
from almanac.core.teardown.operations import Operation
from almanac.services.pages.library import Library, ModelPage, read_library
from almanac.services.pages.read import part_names, shared_with
from almanac.services.pages.words import takes_words
from almanac.store.models import Part

IGNORED = frozenset(
    [
        "a",
        "an",
        "the",
        "in",
        "on",
        "of",
        "with",
        "and",
        "takes",
        "take",
        "has",
        "have",
        "is",
        "it",
        "its",
        "that",
        "which",
        "model",
        "models",
        "for",
        "to",
        "at",
        "other",
    ]
)
NUMBER_WORDS = {"no": "0", "one": "1", "two": "2", "three": "3", "four": "4", "five": "5", "six": "6"}
WORD = re.compile(r"[a-z0-9][a-z0-9.+-]*")
MOST_REASONS = 3


@dataclass(frozen=True)
class Match:
    """A model that answers the words, and the statements of its page that hold them."""

    model_id: int
    reasons: tuple[str, ...]


def find_models(session: Session, words: str, library: Library | None = None) -> list[Match]:
    """Models whose page holds all the words in one statement, or between them.

    Parameters
    ----------
    words : as typed, such as "takes low-voltage DDR3" or "drive under the mainboard"

    Returns
    -------
    list of Match : pages that say the words in order in one statement; else in any order; else between several statements
    """
    library = library or read_library(session)
    wanted = wanted_words(words)
    if not wanted:
        return [Match(identifier, ()) for identifier in library.pages]
    parts, shared = part_names(session), shared_with(session, library)
    tiers: tuple[list[Match], ...] = ([], [], [])
    for identifier, page in library.pages.items():
        statements = list(statements_of(page, library, parts, shared))
        ordered = [text for text in statements if _in_order(text, wanted)]
        whole = [text for text in statements if _holds(text, wanted)]
        if ordered:
            tiers[0].append(Match(identifier, tuple(ordered[:MOST_REASONS])))
        elif whole:
            tiers[1].append(Match(identifier, tuple(whole[:MOST_REASONS])))
        elif _holds(" ".join(statements), wanted):
            tiers[2].append(Match(identifier, ()))
    return next((tier for tier in tiers if tier), [])


def wanted_words(words: str) -> list[str]:
    """The words that count: small letters, number words as figures, fillers left out."""
    plain = [NUMBER_WORDS.get(word, word) for word in WORD.findall(words.lower().replace("low voltage", "low-voltage"))]
    return [word for word in plain if word not in IGNORED]


def _says(word: str, part: str) -> bool:
    """A figure is meant whole; a word by its beginning, or as part of a code."""
    if part.isdigit():
        return word == part
    return word.startswith(part) or (len(part) > 2 and part in word)


def _holds(text: str, wanted: list[str]) -> bool:
    held = WORD.findall(text.lower())
    return all(any(_says(word, part) for word in held) for part in wanted)


def _in_order(text: str, wanted: list[str]) -> bool:
    """All words, one after the other: "drive under the mainboard" is not "mainboard under the drive tray"."""
    held = iter(WORD.findall(text.lower()))
    return all(any(_says(word, part) for word in held) for part in wanted)


def statements_of(page: ModelPage, library: Library, parts: Mapping[int, Part], shared: Mapping[int, list[int]]) -> Iterator[str]:
    """A page said in short sentences, as people ask for them."""
    model = library.models[page.model_id]
    yield f"{page.name}, {model.family}, {model.form.replace('_', '-')}"
    yield from _identity(page)
    for entry in page.whole.get("positions") or []:
        yield from _position(page, entry)
    for step in page.teardown.operations.values():
        yield from _step(step)
    for part_id, models in shared.items():
        if page.model_id in models:
            yield _shared(parts[part_id], len(models) - 1)


def _identity(page: ModelPage) -> Iterator[str]:
    identity = page.whole.get("identity") or {}
    label = known(identity, "label")
    if label:
        yield f"Label reads {label.value}"
    for other in identity.get("looks_like") or []:
        yield f"Looks like {other['model']}"
    if page.whole.get("unverified"):
        yield f"Unverified: {page.whole['unverified']}"


def _step(step: Operation) -> Iterator[str]:
    if step.one_way:
        yield f"One way: {step.one_way.reason}"
    for item in step.fasteners:
        hidden = f", hidden under {item.hidden}" if item.hidden else ""
        yield f"{item.count} x {item.group}{hidden}{' captive' if item.captive else ''}"


def _shared(part: Part, others: int) -> str:
    kind = "battery pack" if part.kind == "battery" else part.kind
    return f"{kind} {part.number}, {part.name}, also in {others} other model{'' if others == 1 else 's'}"


def _position(page: ModelPage, entry: Mapping[str, Any]) -> Iterator[str]:
    label, held = entry.get("label") or entry["key"], (entry.get("serviceability") or "unknown").replace("_", " ")
    takes = {name: known(entry.get("takes") or {}, name) for name in entry.get("takes") or {}}
    values = ", ".join(takes_words(entry["kind"], {name: fact.value for name, fact in takes.items() if fact}))
    yield f"{label} {entry['kind']}: {held}" + (f", takes {values}" if values else "")
    depth = page.depths.get(entry["key"])
    if depth and depth.layer not in ("outside", "unknown"):
        yield f"{label} {entry['kind']} lies under the {depth.layer}, deep behind it"
    if depth and depth.reached != entry["key"]:
        yield f"{label} {entry['kind']} is ordered as {depth.reached.replace('_', ' ')}"
    if entry.get("state") == "free":
        yield f"{label}: free {entry['kind']} place, not fitted"
