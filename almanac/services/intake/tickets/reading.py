"""Reading a ticket's words: which kind of part, what was done, and what it may have been."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import TypeVar

from rapidfuzz import fuzz

from almanac.core.life.outcomes import Finding
from almanac.core.parts.kinds import Kind
from almanac.services.intake.columns import plain
from almanac.services.intake.tickets import phrases
from almanac.services.intake.tickets.phrases import Done, Phrase

LONG, ALIKE = 5, 86
"""Letters from which a word may be misspelt, and how alike it has to be, of 100."""
Meaning = TypeVar("Meaning")


@dataclass(frozen=True)
class Told:
    """What a ticket's words tell.

    kind : the part it is about, None where that is asked · kinds : those it may be about · nothing : it is about no part of a machine
    done, finding : None where nothing tells · because : the words that told the finding · merged : it is another ticket's
    """

    kind: Kind | None
    kinds: tuple[Kind, ...]
    nothing: bool
    done: Done | None
    finding: Finding | None
    because: str
    merged: bool

    @property
    def asks(self) -> bool:
        """Whether a person has to say what it is about."""
        return self.kind is None and not self.nothing and not self.merged


class TicketReader:
    """Reads the tickets of one list; what a word was found to be is not worked out again in it."""

    def __init__(self) -> None:
        rows: list[tuple[Phrase, str, Kind | None]] = [(phrase, "name", kind) for kind, own in phrases.names() for phrase in own]
        rows += [(phrase, "sign", kind) for kind, own in phrases.signs() for phrase in own]
        rows += [(phrase, "other", None) for phrase in phrases.not_ours()]
        rows.sort(key=lambda row: (-len(row[0]), -sum(map(len, row[0]))))
        known: dict[tuple[str, str], bool] = {}
        self._things_by_length = [(what, kind) for _, what, kind in rows]
        self._of_things = _Phrases([phrase for phrase, _, _ in rows], known)
        self._done = _meanings(phrases.done(), known)
        self._findings = _meanings(phrases.findings(), known)
        self._merged = _Phrases(phrases.merged(), known)

    def read(self, text: str, done: str) -> Told:
        """Read a ticket.

        Parameters
        ----------
        text : what was reported · done : what was done about it, "" where the list does not say
        """
        said, did = tuple(plain(text).split()), tuple(plain(done).split())
        both = said + did
        in_done, _, _ = self._things(did)
        named, signs, no_part = self._things(both)
        what = _first(both, *self._done)
        finding = _first(both, *self._findings)
        kinds = tuple(dict.fromkeys(in_done if len(in_done) == 1 else named or signs))
        replaced = what is not None and what[0] is Done.REPLACED
        # A word of another matter beside a part's name leaves open which of the two it is about.
        doubtful = no_part and not replaced
        return Told(
            kind=kinds[0] if len(kinds) == 1 and not doubtful else None,
            kinds=kinds,
            nothing=not kinds and no_part and not replaced,
            done=what[0] if what else None,
            finding=finding[0] if finding else None,
            because=" ".join(finding[1]) if finding else "",
            merged=bool(self._merged.found(both)),
        )

    def _things(self, words: Phrase) -> tuple[list[Kind], list[Kind], bool]:
        """(kinds named, kinds told by a complaint, whether something else is named), in the order they are said.

        A longer phrase takes its words from shorter ones.
        """
        hits: list[tuple[int, str, Kind | None]] = []
        free = [True] * len(words)
        for place, start, length in self._of_things.found(words):
            taken = slice(start, start + length)
            if all(free[taken]):
                free[taken] = [False] * length
                hits.append((start, *self._things_by_length[place]))
        hits.sort(key=lambda hit: hit[0])
        named = dict.fromkeys(kind for _, what, kind in hits if what == "name" and kind is not None)
        signs = dict.fromkeys(kind for _, what, kind in hits if what == "sign" and kind is not None)
        return list(named), list(signs), any(what == "other" for _, what, _ in hits)


class _Phrases:
    """Phrases looked for in many texts: by the words they begin with. known : whether a word is another, little misspelt"""

    def __init__(self, phrases_: Sequence[Phrase], known: dict[tuple[str, str], bool]) -> None:
        self.phrases, self._known = phrases_, known
        self._by_first: dict[str, list[int]] = {}
        for place, phrase in enumerate(phrases_):
            self._by_first.setdefault(phrase[0], []).append(place)
        self._begin: dict[str, list[int]] = {}

    def found(self, words: Phrase) -> list[tuple[int, int, int]]:
        """(place of the phrase, where it begins, its length) of each that stands in a text, in the order of the phrases."""
        hits = [
            (place, start, len(self.phrases[place]))
            for start, word in enumerate(words)
            for place in self._beginning(word)
            if self._stands(self.phrases[place], words, start)
        ]
        return sorted(hits)

    def _beginning(self, word: str) -> list[int]:
        """Phrases that begin with a word."""
        if word not in self._begin:
            self._begin[word] = [place for first, places in self._by_first.items() if self._same(word, first) for place in places]
        return self._begin[word]

    def _stands(self, phrase: Phrase, words: Phrase, start: int) -> bool:
        rest = words[start + 1 : start + len(phrase)]
        return len(rest) == len(phrase) - 1 and all(self._same(word, wanted) for word, wanted in zip(rest, phrase[1:], strict=True))

    def _same(self, word: str, wanted: str) -> bool:
        key = word, wanted
        if key not in self._known:
            self._known[key] = _alike(word, wanted)
        return self._known[key]


def _meanings(table: Iterable[tuple[Meaning, tuple[Phrase, ...]]], known: dict[tuple[str, str], bool]) -> tuple[list[Meaning], _Phrases]:
    """Meanings by the place of each phrase, in the order of what counts."""
    rows = [(meaning, phrase) for meaning, own in table for phrase in own]
    return [meaning for meaning, _ in rows], _Phrases([phrase for _, phrase in rows], known)


def _first(words: Phrase, meanings: Sequence[Meaning], of: _Phrases) -> tuple[Meaning, Phrase] | None:
    """The first meaning that a phrase tells, with the phrase."""
    found = of.found(words)
    return (meanings[found[0][0]], of.phrases[found[0][0]]) if found else None


def _alike(word: str, wanted: str) -> bool:
    """Whether a word is the wanted one, a little misspelt, or one that ends with it as German words do."""
    if word == wanted:
        return True
    if len(wanted) < LONG:
        return len(wanted) == LONG - 1 and len(word) > LONG and word.endswith(wanted)
    if word.endswith(wanted):
        return True
    # What only ends otherwise is another word, not a slip: charge and charger.
    if word.startswith(wanted) or wanted.startswith(word):
        return word in (f"{wanted}s", f"{wanted}n", f"{wanted}e", f"{wanted}en")
    return word[0] == wanted[0] and len(word) >= LONG and abs(len(word) - len(wanted)) <= 2 and fuzz.ratio(word, wanted) >= ALIKE
