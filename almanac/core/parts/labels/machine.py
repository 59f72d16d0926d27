"""The label of a whole machine: maker, family, size, series, generation and code, as far as it says."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

from almanac.core.parts.labels.reading import clean

POWER = re.compile(r"\b\d+(?:\.\d+)?(?:\s*-\s*\d+)?\s*(?:V|A|W|VA|Wh|Hz)(?:\s*(?:DC|AC))?\b|[=⎓~]", re.IGNORECASE)
GENERATION = re.compile(
    r"\b(?:gen(?:eration)?\.?\s*(?P<after>\d{1,2})|(?P<before>\d{1,2})(?:st|nd|rd|th)\s+gen(?:eration)?)\b", re.IGNORECASE
)
CODE = re.compile(r"^(?=.*\d)(?=.*[A-Za-z])[A-Za-z0-9]+(?:-[A-Za-z0-9]+)*$")
SIZES = {"notebook": (10.0, 18.9), "convertible": (9.0, 17.9), "workstation": (13.0, 18.9), "all_in_one": (19.0, 34.0)}
"""Inches of screens by form; a mini PC has none."""


@dataclass
class MachineLabel:
    """What a label says. Nothing is taken for granted: what it leaves open is None, and asked.

    model : the words between maker and code, as a name · series : a lone digit, until a second source says it is a generation
    """

    maker: str | None = None
    family: str | None = None
    model: str | None = None
    size_inches: float | None = None
    series: int | None = None
    generation: int | None = None
    code: str | None = None
    asked: list[str] = field(default_factory=list)


def read_machine(text: str, known: Mapping[str, Iterable[str]], form: str, *, generations: Iterable[int] = ()) -> MachineLabel:
    """Read a machine's label.

    Parameters
    ----------
    text : as read, such as "BRINDWELL TILLER 16  TL16  20V" · known : families of the catalog by maker · form : of the machine
    generations : that another source, such as the machine's report or a document, says of it
    """
    line = POWER.sub(" ", clean(text))
    found = MachineLabel()
    said = GENERATION.search(line)
    if said:
        found.generation = int(said["after"] or said["before"])
        line = line[: said.start()] + " " + line[said.end() :]
    words = line.split()
    _named(words, known, found)
    codes = [word for word in words if CODE.match(word)]
    if len(codes) > 1:
        found.asked.append(f"the label has {' and '.join(codes)}: which of them is the model's code?")
    found.code = codes[0] if len(codes) == 1 else None
    _figures([word for word in words if re.fullmatch(r"\d{1,2}(\.\d)?", word)], form, set(generations), found)
    _model(words, codes, found)
    return found


def _named(words: list[str], known: Mapping[str, Iterable[str]], found: MachineLabel) -> None:
    """The maker and the family, as the catalog writes them; they are taken from the words."""
    for maker in known:
        if (place := _at(words, maker)) is not None:
            del words[place : place + len(maker.split())]
            found.maker = maker
            break
    families = known.get(found.maker or "") or {family for listed in known.values() for family in listed}
    for family in sorted(families, key=len, reverse=True):
        if _at(words, family) is not None:
            found.family = family
            break
    if found.maker is None:
        found.asked.append("no maker of the catalog is on the label: who made it?")
    elif found.family is None:
        found.asked.append(f"no family of {found.maker} that the catalog knows is on the label: a new one?")


def _at(words: list[str], name: str) -> int | None:
    parts = name.lower().split()
    plain = [word.lower() for word in words]
    return next((place for place in range(len(plain) - len(parts) + 1) if plain[place : place + len(parts)] == parts), None)


def _figures(figures: list[str], form: str, generations: set[int], found: MachineLabel) -> None:
    low, high = SIZES.get(form, (1.0, 0.0))
    sizes = [figure for figure in figures if low <= float(figure) <= high]
    if len(sizes) == 1:
        found.size_inches = float(sizes[0])
    elif len(sizes) > 1:
        found.asked.append(f"the label has {' and '.join(sizes)}: which of them is the size?")
    digits = [int(figure) for figure in figures if figure.isdigit() and len(figure) == 1]
    if len(digits) == 1 and found.generation is None and digits[0] in generations:
        found.generation = digits[0]
    elif len(digits) == 1:
        found.series = digits[0]
        found.asked.append(f"{digits[0]} is taken for the series: only a second source makes it a generation")
    elif digits:
        found.asked.append(f"the label has {' and '.join(map(str, digits))}: which of them is the series?")


def _model(words: list[str], codes: list[str], found: MachineLabel) -> None:
    """The name as catalogs write it: the words left between maker and code."""
    end = words.index(codes[0]) if codes else len(words)
    named = words[:end]
    if named and (found.family is None or _at(named, found.family) is not None):
        found.model = " ".join(word.capitalize() if word.isupper() and len(word) > 2 else word for word in named)
