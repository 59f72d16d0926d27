"""Which known symptom a person's own words are about."""

from __future__ import annotations

import difflib
import math
import re
from collections import Counter
from collections.abc import Collection, Sequence

from almanac.core.triage.knowledge import Symptom

ALIKE = 0.82
LETTERS_TO_MISSPELL = 5
"""From this length on a word may be misspelt; shorter ones are too easily another word."""
IDLE = frozenset(
    ("a", "after", "an", "and", "any", "are", "at", "be", "by", "for", "from", "has",
     "have", "in", "is", "it", "its", "itself", "keeps", "my", "no", "not", "of", "off",
     "on", "or", "out", "so", "that", "the", "then", "there", "this", "to", "very", "was",
     "when", "while", "with")
)  # fmt: skip


def ranked(words: str, symptoms: Sequence[Symptom]) -> list[tuple[Symptom, float]]:
    """Symptoms that a complaint may be about, likeliest first.

    Parameters
    ----------
    words : as a person typed them · symptoms : of the knowledge, each with the words it is called by and others people say

    Returns
    -------
    list of (Symptom, share) : how much of the complaint's telling words the symptom's own words explain, above 0 and at most 1, a
    word the more the fewer symptoms know it; empty where no word is known, so that nothing is guessed

    References
    ----------
    Sparck Jones (1972), A statistical interpretation of term specificity and its application in retrieval, J. of Documentation 28.
    """
    said = set(telling(words))
    known = [[telling(phrase) for phrase in (symptom.words, *symptom.said)] for symptom in symptoms]
    hits = [[word for word in said if _in_any(word, phrases)] for phrases in known]
    spread = Counter(word for found in hits for word in found)
    weights = {word: math.log(1 + len(symptoms) / max(spread[word], 1)) for word in said}
    total = sum(weights.values())
    found = [
        (symptom, sum(weights[word] for word in own) / total, max(_phrase(said, phrase) for phrase in phrases))
        for symptom, own, phrases in zip(symptoms, hits, known, strict=True)
        if own
    ]
    return [(symptom, share) for symptom, share, _ in sorted(found, key=lambda item: (-round(item[1], 9), -item[2]))]


def _in_any(word: str, phrases: Sequence[Sequence[str]]) -> bool:
    return any(_alike(word, other) for phrase in phrases for other in phrase)


def _phrase(said: Collection[str], phrase: Sequence[str]) -> float:
    """How much of a phrase was said: what tells two symptoms apart that explain as much."""
    return sum(any(_alike(word, other) for word in said) for other in phrase) / max(len(phrase), 1)


def telling(words: str) -> list[str]:
    """Words that tell something, in small letters and without their endings."""
    return [_stem(word) for word in re.findall(r"[^\W\d_]+", words.lower()) if word not in IDLE]


def _stem(word: str) -> str:
    for ending in ("ing", "ies", "es", "ed", "s"):
        if word.endswith(ending) and len(word) - len(ending) >= 3:
            return word[: -len(ending)]
    return word


def _alike(word: str, other: str) -> bool:
    if word == other:
        return True
    if min(len(word), len(other)) < LETTERS_TO_MISSPELL:
        return False
    return difflib.SequenceMatcher(None, word, other).ratio() >= ALIKE
