"""Reading the catalog: the index of models and one model's page with what fleet, log and shelves say of it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from sqlalchemy.orm import Session

from almanac.core.life.outcomes import Bucket
from almanac.core.parts.answers import Answer, known
from almanac.core.parts.claims import claim_state, option_counts
from almanac.core.parts.kinds import Grade, Kind
from almanac.core.parts.page import KIND_ORDER
from almanac.core.parts.questions import OpenQuestion, questions_of
from almanac.core.parts.worth import Candidate, weighed
from almanac.services.clock import read_clock
from almanac.services.outlook.builder import OutlookBuilder
from almanac.services.outlook.inputs import read_inputs
from almanac.services.pages.library import ModelPage, read_library
from almanac.store import pages, shelves
from almanac.store.models import Part, Position

OWN_EVIDENCE = (Grade.MEASURED, Grade.LABEL, Grade.REPORTED)
"""Grades of what somebody here saw, read or had the machine say."""


@dataclass(frozen=True)
class FittedPart:
    """A part in service in a position: units and stock."""

    part: Part
    units: int
    on_hand: int


@dataclass(frozen=True)
class PartRate:
    """Yearly failure rate of a stock part with its interval (None where it has no record), and how its shelf stands."""

    number: str
    rate: float | None
    low: float | None
    high: float | None
    risk: str | None


@dataclass(frozen=True)
class PositionRow:
    """One position with its depth, what is fitted in the fleet, and what it shares with other models.

    at_least : the way is known only so far · estimated : likely minutes of it that nobody gave · why_not : what is not known of it
    """

    entry: Mapping[str, Any]
    row: Position | None
    minutes: float | None
    layer: str
    reached: str
    grade: Grade | None
    fitted: list[FittedPart]
    at_least: bool = False
    estimated: float = 0.0
    why_not: str | None = None


@dataclass(frozen=True)
class PageReading:
    """Everything the page view shows."""

    page: ModelPage
    fleet: int
    positions: list[PositionRow]
    open_facts: list[OpenQuestion]
    own_share: float | None
    options: dict[str, dict[str, int]]
    options_agree: dict[str, Answer]
    claims: list[tuple[str, str]]
    latest_number: int
    draft_number: int | None


def own_evidence_share(page: Mapping[str, Any]) -> float | None:
    """The share of a whole page's facts that somebody here measured, read or had reported of this very model; None without facts.

    What was taken over from a sibling counts among all, and is nobody's evidence of this model.
    """
    facts = list(_all_facts(page))
    own = sum(1 for item in facts if item["grade"] in OWN_EVIDENCE and not item.get("inherited_from"))
    return own / len(facts) if facts else None


def _all_facts(value: Any) -> Iterator[Mapping[str, Any]]:
    if isinstance(value, Mapping):
        if "grade" in value and "value" in value:
            yield value
        else:
            for item in value.values():
                yield from _all_facts(item)
    elif isinstance(value, list):
        for item in value:
            yield from _all_facts(item)


def read_page_view(session: Session, model_id: int) -> PageReading:
    """One model's page.

    Raises
    ------
    NotFound : there is no such model, or it has no page
    """
    library = read_library(session)
    page = library.page(model_id)
    clock = read_clock(session)
    fleet = pages.fleet_counts(session, as_of=clock.today).get(model_id, 0)
    draft = pages.draft_of(session, model_id)
    counts: dict[str, dict[str, int]] = {name: {} for name in page.whole.get("options") or {}}
    for (name, value), machines in pages.option_counts(session, model_id, as_of=clock.today).items():
        counts.setdefault(name, {})[value] = machines
    agree = {name: option_counts(values, fleet, unknown_count=max(fleet - sum(values.values()), 0)) for name, values in counts.items()}
    claims = [
        (claim["text"], claim_state(claim["variants"], claim.get("verified") or []).words) for claim in page.whole.get("claims") or []
    ]
    return PageReading(
        page=page,
        fleet=fleet,
        positions=_positions(session, page),
        open_facts=_questions(session, page, fleet),
        own_share=own_evidence_share(page.whole),
        options=counts,
        options_agree=agree,
        claims=claims,
        latest_number=max(page.number, draft.number if draft else 0),
        draft_number=draft.number if draft and draft.number > page.number else None,
    )


def _questions(session: Session, page: ModelPage, fleet: int) -> list[OpenQuestion]:
    """What the page leaves open, by what an answer would change."""
    listed = {part for _, part, _, _, origin in pages.fits_of(session, [page.model_id]) if origin == "listed"}
    parts: dict[Kind, list[Candidate]] = {}
    for part in pages.all_parts(session):
        parts.setdefault(Kind(part.kind), []).append(Candidate(part.number, part.facts, part.id in listed))
    return weighed(questions_of(page.faults, page.whole), page.whole, parts, fleet)


def _positions(session: Session, page: ModelPage) -> list[PositionRow]:
    rows = {row.key: row for row in pages.positions(session, [page.model_id])}
    fitted: dict[int, list[tuple[int, int]]] = {}
    for entry in pages.parts_in_service(session, page.model_id):
        fitted.setdefault(entry.position_id, []).append((entry.part_id, entry.units))
    figures = _PartFigures(session)
    found = []
    for entry in sorted(page.whole.get("positions") or [], key=lambda entry: KIND_ORDER[Kind(entry["kind"])]):
        row = rows.get(entry["key"])
        depth = page.depths.get(entry["key"])
        found.append(
            PositionRow(
                entry=entry,
                row=row,
                minutes=depth.minutes if depth else None,
                layer=depth.layer if depth else "",
                reached=depth.reached if depth else entry["key"],
                grade=_weakest(entry, page.whole),
                fitted=[figures.of(part, units) for part, units in fitted.get(row.id, [])] if row else [],
                at_least=depth.least if depth else False,
                estimated=depth.estimated if depth else 0.0,
                why_not=depth.why_not if depth else None,
            )
        )
    return found


def _weakest(entry: Mapping[str, Any], page: Mapping[str, Any]) -> Grade | None:
    """The weakest evidence among what a position takes; the page's own where it states none."""
    order = list(Grade)
    facts = [known(entry.get("takes") or {}, name) for name in entry.get("takes") or {}]
    grades = [fact.grade for fact in facts if fact]
    if grades:
        return max(grades, key=order.index)
    evidence = entry.get("evidence") or page.get("evidence")
    return Grade(evidence["grade"]) if evidence else None


class _PartFigures:
    """Parts and what is on hand of each."""

    def __init__(self, session: Session) -> None:
        self._parts = part_names(session)
        self._on_hand: dict[int, int] = {}
        for (part, _), stock in shelves.balances(session, Bucket.ON_HAND).items():
            self._on_hand[part] = self._on_hand.get(part, 0) + stock.get(Bucket.ON_HAND, 0)

    def of(self, part_id: int, units: int) -> FittedPart:
        return FittedPart(self._parts[part_id], units, self._on_hand.get(part_id, 0))


def read_rates(session: Session, model_id: int) -> list[PartRate]:
    """Failure rates of the parts fitted in a model, from the outlook; a part's line is the one of its group of equivalents.

    Raises
    ------
    NotFound : there is no such model, or it has no page
    """
    read_library(session).page(model_id)
    inputs = read_inputs(session)
    row_of = {row.part.id: row for row in OutlookBuilder(session, inputs).rows()}
    fitted = dict.fromkeys(item.part_id for item in pages.parts_in_service(session, model_id))
    found = []
    for part in fitted:
        row = row_of.get(inputs.group.get(part, -1))
        if row is None:
            continue
        rate = row.projection.rate
        found.append(
            PartRate(
                number=inputs.numbers[part],
                rate=rate.rate if rate else None,
                low=rate.low if rate else None,
                high=rate.high if rate else None,
                risk=row.risk.value if row.risk else None,
            )
        )
    return found


def part_names(session: Session) -> dict[int, Part]:
    """All parts by id."""
    return {part.id: part for part in pages.all_parts(session)}
