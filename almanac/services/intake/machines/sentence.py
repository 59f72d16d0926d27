"""What a model holds, said in a sentence: 1 battery, 1 fan, SSD M.2 2280, 2 memory slots."""

from __future__ import annotations

import re
from collections import Counter
from dataclasses import dataclass
from typing import Any

from almanac.core.parts.declared.kinds import kind_name
from almanac.core.parts.kinds import Kind
from almanac.services.intake.parts.fields import kind_of

SIZES = r"GB|TB|MB|Wh|mAh|Ah|V|W|MHz|MT|mm|cm|inch|inches|in|Zoll|cells?|Zellen|bits?"
PIECE = re.compile(rf"^(?:(\d{{1,2}})(?!\s*(?:{SIZES})\b)\s*(?:x|×)?\s+)?(.+)$", re.IGNORECASE)
"""How many of what; a number with a unit says how large one is: "8 GB memory" is one module."""
MOST = 8
PLURALS = {"slots": "slot", "batteries": "battery", "fans": "fan", "drives": "drive", "packs": "pack", "modules": "module"}


@dataclass(frozen=True)
class Sentence:
    """Positions as a page has them, or what is wrong."""

    positions: tuple[dict[str, Any], ...] = ()
    wrong: str = ""


def positions_said(text: str) -> Sentence:
    """Positions of a sentence; pieces are separated by commas, semicolons or "and".

    Returns
    -------
    Sentence : with nothing where nothing is said; with what is wrong where a piece names no kind of part
    """
    pieces = [piece.strip() for piece in re.split(r"[,;+]|\b(?:and|und|et)\b", text) if piece.strip()]
    found: list[tuple[Kind, str, int]] = []
    for piece in pieces:
        match = PIECE.match(piece)
        words, number = (match[2], int(match[1] or 1)) if match else (piece, 1)
        kind = kind_of(words)
        if kind is None:
            return Sentence(wrong=f"“{piece}” names no kind of part: battery, fan, SSD, memory and the like are known; of")
        if not 1 <= number <= MOST:
            return Sentence(wrong=f"“{piece}”: 1 to {MOST} of a kind were wanted; of")
        found.append((kind, _one(words), number))
    many = Counter[Kind]()
    for kind, _, number in found:
        many[kind] += number
    met = Counter[Kind]()
    positions = []
    for kind, words, number in found:
        for _ in range(number):
            met[kind] += 1
            alone = many[kind] == 1
            key = kind.value if alone else f"{kind.value}_{met[kind]}"
            label = words if alone else f"{words} {met[kind]}"
            positions.append({"key": key, "label": label[:1].upper() + label[1:], "kind": kind.value})
    return Sentence(tuple(positions))


def _one(words: str) -> str:
    said = " ".join(PLURALS.get(word.lower(), word) for word in words.split())
    return said if said.strip() else kind_name(Kind.OTHER.value)
