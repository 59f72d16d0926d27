"""Finding models by anything: a reading of the label, a part or pack number, or a property said in words."""

from __future__ import annotations

import re
from dataclasses import dataclass

from sqlalchemy.orm import Session

from almanac.services.pages.library import Library, read_library
from almanac.services.pages.summary import summaries
from almanac.store import pages
from almanac.store.models import Part
from almanac.store.pages import PageHead

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
        return [Match(head.model_id, ()) for head in library.heads()]
    shared, said = _shared_parts(session), summaries(session, library)
    tiers: tuple[list[Match], ...] = ([], [], [])
    for head in library.heads():
        identifier = head.model_id
        statements = [_title(head), *said[identifier].statements, *shared.get(identifier, ())]
        if not _may_hold(statements, wanted):
            continue
        ordered = [text for text in statements if _in_order(text, wanted)]
        whole = [text for text in statements if _holds(text, wanted)]
        if ordered:
            tiers[0].append(Match(identifier, tuple(ordered[:MOST_REASONS])))
        elif whole:
            tiers[1].append(Match(identifier, tuple(whole[:MOST_REASONS])))
        elif _holds(" ".join(statements), wanted):
            tiers[2].append(Match(identifier, ()))
    return next((tier for tier in tiers if tier), [])


def _may_hold(statements: list[str], wanted: list[str]) -> bool:
    """A quick look before the careful one: a word that stands nowhere is in no statement."""
    text = "\n".join(statements).lower()
    return all(word in text for word in wanted)


def _title(head: PageHead) -> str:
    return f"{head.full_name}, {head.family}, {head.form.replace('_', '-')}"


def _shared_parts(session: Session) -> dict[int, list[str]]:
    """What each model lists as fitting, said with how many others do, by model."""
    parts = {part.id: part for part in pages.all_parts(session)}
    found: dict[int, list[str]] = {}
    for part_id, models in pages.listed_for(session).items():
        for model in models:
            found.setdefault(model, []).append(_shared(parts[part_id], len(models) - 1))
    return found


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


def _shared(part: Part, others: int) -> str:
    kind = "battery pack" if part.kind == "battery" else part.kind
    return f"{kind} {part.number}, {part.name}, also in {others} other model{'' if others == 1 else 's'}"
