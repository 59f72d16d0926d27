"""What the value of a fact may be, and how what people type or scan is understood as one.

Harmless spellings (another case, a unit written out, a decimal comma) are understood; a value that cannot be is refused with the
nearest one that can.
"""

from __future__ import annotations

import difflib
import math
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Protocol

Scalar = bool | int | float | str
Value = Scalar | list[Scalar] | dict[str, Scalar] | None
LARGEST = 1e6
UNKNOWN = frozenset({"", "?", "unknown", "not known"})
YES, NO = frozenset({"yes", "true", "y"}), frozenset({"no", "false", "n"})
FIGURE = re.compile(r"\s*(?:gen(?:eration)?\.?\s*|x\s*)?(\d+(?:[.,]\d+)?)\s*([A-Za-z/\"-]*)\s*\.?", re.IGNORECASE)


class Impossible(ValueError):
    """A value that cannot be: what was wanted, and the cure."""

    def __init__(self, wanted: str, cure: str) -> None:
        super().__init__(wanted)
        self.wanted, self.cure = wanted, cure


class FactType(Protocol):
    """How the value of a fact looks."""

    @property
    def words(self) -> str:
        """What is wanted, in words."""
        ...

    @property
    def allowed(self) -> tuple[Scalar, ...]:
        """The values there are; none where they cannot be listed."""
        ...

    def understood(self, given: object) -> Value:
        """The value that is meant.

        Raises
        ------
        Impossible : nothing that can be is meant
        """
        ...


def is_unknown(given: object) -> bool:
    """Whether a value says that nobody knows."""
    return given is None or (isinstance(given, str) and given.strip().lower() in UNKNOWN)


@dataclass(frozen=True)
class Number:
    """A figure without its unit. values : the only ones there are, where there are few · slips : units it is taken for, and their size"""

    unit: str = ""
    values: tuple[float, ...] = ()
    low: float = 0.0
    high: float = LARGEST
    whole: bool = False
    slips: tuple[tuple[str, float], ...] = ()

    @property
    def words(self) -> str:
        what = "a whole number" if self.whole else "a number"
        if self.values:
            return f"one of {', '.join(f'{value:g}' for value in self.values)}{f' ({self.unit})' if self.unit else ''}"
        return f"{what} of {self.unit}, without the unit" if self.unit else what

    @property
    def allowed(self) -> tuple[Scalar, ...]:
        return tuple(int(value) if value == int(value) else value for value in self.values)

    def understood(self, given: object) -> Value:
        figure = self._figure(given)
        if not math.isfinite(figure) or not self.low <= figure <= self.high or (self.whole and figure != int(figure)):
            raise Impossible(self.words, self._range_cure(figure))
        if self.values and not any(math.isclose(figure, value) for value in self.values):
            nearest = min(self.values, key=lambda value: abs(value - figure))
            raise Impossible(self.words, self._slip_cure(figure) or f"measure or read it again; the nearest is {nearest:g}")
        return int(figure) if figure == int(figure) and (self.whole or not isinstance(given, float)) else figure

    def _slip_cure(self, figure: float) -> str | None:
        """What the figure would be, were it in another unit."""
        for unit, size in self.slips:
            meant = figure * size
            if self.low <= meant <= self.high and (
                not self.values or any(math.isclose(meant, value, rel_tol=0.02) for value in self.values)
            ):
                return f"in {unit}? {meant:.3g} {self.unit}"
        return None

    def _range_cure(self, figure: float) -> str:
        if slip := self._slip_cure(figure):
            return slip
        high = f" to {self.high:g}" if self.high < LARGEST else " or more"
        return f"write {'a whole number' if self.whole else 'a figure'} of {self.low:g}{high}"

    def _figure(self, given: object) -> float:
        if isinstance(given, bool) or not isinstance(given, int | float | str):
            only = given[0] if isinstance(given, list) and len(given) == 1 else None
            raise Impossible(self.words, f"write {only}" if only is not None else "write one figure")
        if not isinstance(given, str):
            return float(given)
        found = FIGURE.fullmatch(given)
        if found is None or (found[2] and not self._is_unit(found[2])):
            slip = next((size for unit, size in self.slips if found and unit.lower() == found[2].lower()), None)
            if found and slip:
                raise Impossible(self.words, f"write {float(found[1].replace(',', '.')) * slip:.3g}")
            near = re.search(r"\d+(?:[.,]\d+)?", given)
            raise Impossible(self.words, f"write {near[0].replace(',', '.')}" if near else "leave it out where nobody knows")
        return float(found[1].replace(",", "."))

    def _is_unit(self, said: str) -> bool:
        return said.lower().strip("-") in {self.unit.lower(), *SPELLINGS.get(self.unit, ())}


SPELLINGS: Mapping[str, frozenset[str]] = {
    "MT/s": frozenset({"mt/s", "mts", "mhz"}),
    "GB": frozenset({"gb", "gib"}),
    "V": frozenset({"v", "volt", "volts"}),
    "min": frozenset({"min", "minute", "minutes"}),
    "lanes": frozenset({"lanes", "lane", "x"}),
}
"""How units are written, beside the unit itself. One that means another size is not among them."""


@dataclass(frozen=True)
class Listed:
    """A list of values of one type."""

    of: Number

    @property
    def words(self) -> str:
        example = ", ".join(map(str, self.of.allowed[:2])) or "1, 2"
        return f"a list, each {self.of.words}, such as [{example}]"

    @property
    def allowed(self) -> tuple[Scalar, ...]:
        return self.of.allowed

    def understood(self, given: object) -> Value:
        items = re.split(r"\s*[,;]\s*|\s+and\s+", given.strip()) if isinstance(given, str) else given
        if not isinstance(items, list):
            raise Impossible(self.words, f"write [{given}]")
        if not items:
            raise Impossible(self.words, "leave it out where nobody knows")
        found: list[Scalar] = []
        for item in items:
            value = self.of.understood(item)
            if isinstance(value, bool | int | float | str) and value not in found:
                found.append(value)
        return found


@dataclass(frozen=True)
class YesNo:
    """Yes or no."""

    @property
    def words(self) -> str:
        return "yes or no"

    @property
    def allowed(self) -> tuple[Scalar, ...]:
        return (True, False)

    def understood(self, given: object) -> Value:
        if isinstance(given, bool):
            return given
        said = str(given).strip().lower()
        if said not in YES | NO:
            raise Impossible(self.words, "write true or false")
        return said in YES


@dataclass(frozen=True)
class Choice:
    """One of a few words; `many` where several may hold at once. aliases : spellings by word, as small letters without punctuation"""

    values: tuple[str, ...]
    aliases: Mapping[str, str] = field(default_factory=dict)
    many: bool = False

    @property
    def words(self) -> str:
        return f"{'one or more' if self.many else 'one'} of {', '.join(self.values)}"

    @property
    def allowed(self) -> tuple[Scalar, ...]:
        return self.values

    def understood(self, given: object) -> Value:
        if self.many and isinstance(given, list) and given:
            return list(dict.fromkeys(self._one(item) for item in given))
        return self._one(given)

    def _one(self, given: object) -> str:
        if not isinstance(given, str):
            raise Impossible(self.words, "write it as a word")
        by_plain = {**{plain(value): value for value in self.values}, **self.aliases}
        found = by_plain.get(plain(given))
        if found is None:
            raise Impossible(self.words, nearest_words(plain(given), by_plain))
        return found


def plain(text: str) -> str:
    """Small letters and figures alone: how spellings are compared."""
    return re.sub(r"[^a-z0-9+]", "", text.lower())


def nearest_words(said: str, meant: Mapping[str, str]) -> str:
    """The cure that names the nearest word there is."""
    near = difflib.get_close_matches(said, meant, n=1, cutoff=0.5)
    return f"did you mean {meant[near[0]]}?" if near else "use one of these, or leave it out where nobody knows"


@dataclass(frozen=True)
class Words:
    """Free words, such as the name of a plug. many : a list of them is fine"""

    many: bool = False

    @property
    def words(self) -> str:
        return "a word, or a list of words" if self.many else "a word"

    @property
    def allowed(self) -> tuple[Scalar, ...]:
        return ()

    def understood(self, given: object) -> Value:
        if self.many and isinstance(given, list) and given:
            return [self._one(item) for item in given]
        return self._one(given)

    def _one(self, given: object) -> str:
        if isinstance(given, bool) or not isinstance(given, str | int) or not str(given).strip():
            raise Impossible(self.words, "write it as a word")
        return str(given).strip()


@dataclass(frozen=True)
class ByWord:
    """A word for each of some words, such as the post of each lead by its colour."""

    example: str

    @property
    def words(self) -> str:
        return f"a word for each, such as {self.example}"

    @property
    def allowed(self) -> tuple[Scalar, ...]:
        return ()

    def understood(self, given: object) -> Value:
        pairs: Sequence[tuple[object, object]] = list(given.items()) if isinstance(given, dict) else _pairs(given)
        if not pairs or not all(_is_word(name) and _is_word(value) for name, value in pairs):
            raise Impossible(self.words, f"write {self.example}")
        return {str(name).strip(): str(value).strip() for name, value in pairs}


def _pairs(given: object) -> list[tuple[object, object]]:
    if not isinstance(given, str):
        return []
    return [(name, value) for name, _, value in (item.partition(":") for item in given.strip("{} ").split(","))]


def _is_word(given: object) -> bool:
    return isinstance(given, str) and bool(given.strip())


@dataclass(frozen=True)
class Anything:
    """A spare fact that no rule reads."""

    @property
    def words(self) -> str:
        return "anything short"

    @property
    def allowed(self) -> tuple[Scalar, ...]:
        return ()

    def understood(self, given: object) -> Value:
        if isinstance(given, bool | int | str):
            return given
        if isinstance(given, float) and math.isfinite(given):
            return given
        raise Impossible(self.words, "write a word or a figure")
