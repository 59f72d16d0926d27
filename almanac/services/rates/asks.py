"""What the fleet will ask for: failures expected within a year of what is in service, by model and site."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from typing import ClassVar, NamedTuple

import numpy as np
from sqlalchemy.orm import Session

from almanac.core.answers.question import Named, Question
from almanac.core.life.mix import expected_first_failures
from almanac.services.answers.ask import answer_of, ask_all
from almanac.services.outlook.demand_laws import LawBook
from almanac.services.outlook.inputs import read_inputs
from almanac.services.outlook.pools import Pool
from almanac.services.outlook.unrecorded import read_unrecorded
from almanac.services.rates.kind import KindLife, lives_by_school

YEAR = np.array([0.0, 1.0])


class Asking(NamedTuple):
    """Units in service of a kind in a model at a site, and how many of them are expected to fail within a year."""

    model_id: int
    site_id: int
    units: float
    failures: float


@dataclass(frozen=True)
class AsksOfKind(Question[list[Asking] | None]):
    """A kind over all sites: DemandInputs, its log and FittedKind. None : nothing of it was ever at risk, so nobody can say."""

    NAME: ClassVar[str] = "failures expected in a year"
    VERSION: ClassVar[int] = 1
    inputs: Named
    log: Named
    fitted: Named

    def compute(self) -> list[Asking] | None:
        book = LawBook(self.inputs.content, self.fitted.content)
        fit = book.evidence.fit
        if fit is None or not (book.inputs.logged or book.fitted.stated):
            return None
        counts, lives = lives_by_school(book, fit, self.log.content)
        place = {pool: row for row, pool in enumerate(counts)}
        units: dict[tuple[int, int], float] = defaultdict(float)
        failures: dict[tuple[int, int], float] = defaultdict(float)
        for (pool, site), (age, number) in _served(book).items():
            of = (pool.model_id, site)
            units[of] += float(number.sum())
            failures[of] += sum(share * _expected(life, place.get(pool), age, number) for share, life in lives)
        return [Asking(*of, units[of], failures[of]) for of in sorted(units)]


def _expected(life: KindLife, place: int | None, age: np.ndarray, units: np.ndarray) -> float:
    """Expected first failures within a year of units of a pool; one of which nothing was seen has its kind's level."""
    a, b = (life.a, life.b) if place is None else (float(life.pool_a[place]), float(life.pool_b[place]))
    return float(expected_first_failures(life.shape, a, b, age, units, YEAR)[0])


def _served(book: LawBook) -> dict[tuple[Pool, int], tuple[np.ndarray, np.ndarray]]:
    """Ages in years and units in service today, by pool and site."""
    rows: dict[tuple[Pool, int], list[tuple[float, float]]] = defaultdict(list)
    for own in book.positions.values():
        for pool, site, age, enter, units in zip(
            own.pool.tolist(), own.site.tolist(), own.age_years, own.enter_day, own.units, strict=True
        ):
            if enter <= 0:
                rows[own.pools[pool], site].append((float(age), float(units)))
    return {of: (np.array([age for age, _ in own]), np.array([units for _, units in own])) for of, own in rows.items()}


def read_asks(session: Session, *, site_code: str | None = None) -> tuple[dict[str, list[Asking] | None], int]:
    """What the fleet will ask for of each kind that is forecast, None where nobody can say; and the machines at a site, or at all, of
    which nothing of some kind is on record.
    """
    inputs = read_inputs(session)
    here = {site.id for site in inputs.sites if site_code in (None, site.code)}
    questions = {}
    for kind in inputs.kinds():
        fit = inputs.fit_of(kind)
        questions[kind] = AsksOfKind(Named.of(inputs.of_kind(kind)), fit.log, answer_of(session, fit))
    found = dict(zip(questions, ask_all(session, list(questions.values())), strict=True))
    return found, read_unrecorded(session, inputs).machines_at(here)
