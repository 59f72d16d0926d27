"""Demand distributions of stock parts: over the coming days, and at each outpost until its boat."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass
from typing import ClassVar, Protocol, TypeVar

from almanac.core import checks
from almanac.core.answers.encode import key_of
from almanac.core.answers.question import Named, Question
from almanac.core.demand.wear_batch import draw_heads, time_lines
from almanac.core.demand.wear_law import Days, WearLaw
from almanac.services.outlook.demand_laws import LawBook
from almanac.services.outlook.inputs import DemandInputs, merged


@dataclass(frozen=True)
class TimeLineKnots:
    """Distribution (k, n) of a part's demand until each of some days (k,), swaps left out."""

    days: Days
    pmf: checks.Floats


@dataclass(frozen=True)
class PartDemand:
    """The time line of a part whose lives count by age; others need none."""

    line: TimeLineKnots | None


@dataclass(frozen=True)
class SiteDemand:
    """Distribution of a part's demand at each site until a day, by site."""

    pmf: dict[int, checks.Floats]


class OfPart(Protocol):
    """A question about one part: its DemandInputs and the FittedKind of its kind."""

    @property
    def inputs(self) -> Named: ...

    @property
    def fitted(self) -> Named: ...


Asked = TypeVar("Asked", bound=OfPart)
_BOOKS: ContextVar[dict[str, LawBook] | None] = ContextVar("books", default=None)


def part_of(question: OfPart) -> int:
    """The stock part a question is about."""
    inputs: DemandInputs = question.inputs.content
    return inputs.parts[0]


@contextmanager
def same_books() -> Iterator[None]:
    """Questions about the same parts find the laws that an earlier one made, for as long as this lasts."""
    token = _BOOKS.set({})
    try:
        yield
    finally:
        _BOOKS.reset(token)


def books_of(questions: Sequence[Asked]) -> Iterator[tuple[LawBook, list[int]]]:
    """Laws of parts that can be computed together, with the places of their questions; parts of a kind share their tables."""
    together: dict[str, list[int]] = {}
    for place, one in enumerate(questions):
        inputs: DemandInputs = one.inputs.content
        together.setdefault(key_of((one.fitted, inputs.shared)), []).append(place)
    for places in together.values():
        yield _book([questions[place] for place in places]), places


def _book(questions: Sequence[OfPart]) -> LawBook:
    """Laws of some parts of one kind and one fitted model."""
    kept = _BOOKS.get()
    several = {part_of(one): one for one in questions}
    key = key_of(sorted((one.inputs.key, one.fitted.key) for one in several.values())) if kept is not None else ""
    if kept is not None and key in kept:
        return kept[key]
    book = LawBook(merged([one.inputs.content for one in several.values()]), questions[0].fitted.content)
    if kept is not None:
        kept[key] = book
    return book


@dataclass(frozen=True)
class DemandOfPart(Question[PartDemand]):
    """Demand of a part over the chosen sites: its DemandInputs, and the FittedKind of its kind."""

    NAME: ClassVar[str] = "demand distribution"
    VERSION: ClassVar[int] = 1
    inputs: Named
    fitted: Named

    def compute(self) -> PartDemand:
        return self.compute_many([self])[0]

    @classmethod
    def compute_many(cls, questions: Sequence[DemandOfPart]) -> list[PartDemand]:
        """Time lines of parts of a kind are drawn together."""
        found = [PartDemand(None)] * len(questions)
        for book, places in books_of(questions):
            laws = {place: law.law for place in places if (law := book.part_law(part_of(questions[place]))) is not None}
            aged = {place: law for place, law in laws.items() if isinstance(law, WearLaw)}
            for place, line in zip(aged, time_lines(list(aged.values())), strict=True):
                found[place] = PartDemand(TimeLineKnots(*line) if line is not None else None)
        return found


@dataclass(frozen=True)
class DemandOfSites(Question[SiteDemand]):
    """The same of each site by itself. until : day by site"""

    NAME: ClassVar[str] = "demand distribution of sites"
    VERSION: ClassVar[int] = 1
    inputs: Named
    fitted: Named
    until: Mapping[int, int]

    def compute(self) -> SiteDemand:
        return self.compute_many([self])[0]

    @classmethod
    def compute_many(cls, questions: Sequence[DemandOfSites]) -> list[SiteDemand]:
        """Sites of parts of a kind are drawn together."""
        found = [SiteDemand({})] * len(questions)
        for book, places in books_of(questions):
            laws = {place: book.site_laws(part_of(questions[place]), list(questions[place].until)) for place in places}
            aged = [(law, questions[place].until[site]) for place in places for site, law in laws[place].items()]
            draw_heads([law for law, _ in aged if isinstance(law, WearLaw)], [day for law, day in aged if isinstance(law, WearLaw)])
            for place in places:
                until = questions[place].until
                if laws[place]:
                    found[place] = SiteDemand({site: law.pmf([0], [until[site]])[0] for site, law in laws[place].items()})
                elif until and (whole := book.part_law(part_of(questions[place]))) is not None:
                    pmf = book.site_pmf(part_of(questions[place]), whole, dict(until))
                    found[place] = SiteDemand(dict(zip(until, pmf, strict=True)))
        return found


def with_time_line(book: LawBook, part: int, demand: PartDemand) -> None:
    """Have a part's law take over the time line that was worked out before."""
    law = book.part_law(part)
    if law is not None and demand.line is not None and isinstance(law.law, WearLaw):
        law.law.take_time_line(demand.line.days, demand.line.pmf)
