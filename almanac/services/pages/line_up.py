"""The line-up: which stock parts to keep at all, from the demand of the outlook and the verdicts of the pages."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, ClassVar, NamedTuple

from sqlalchemy.orm import Session

from almanac.core.answers.question import Question
from almanac.core.parts.declared.kinds import FORECAST_KINDS
from almanac.core.parts.kinds import Kind, Verdict
from almanac.core.parts.lineup import LineUp, Need, choose_line_up, no_worse
from almanac.services.answers.ask import ask_all
from almanac.services.outlook.builder import OutlookBuilder
from almanac.services.outlook.inputs import read_inputs
from almanac.services.pages.fits import verdicts_of
from almanac.services.pages.library import Library, read_library
from almanac.store import catalog, pages
from almanac.store.models import Part, Position
from almanac.store.planning import SupplierRow


@dataclass(frozen=True)
class KindLineUp:
    """The line-up of one kind with its needs, and the terms it was priced at."""

    kind: Kind
    needs: list[Need]
    result: LineUp


@dataclass(frozen=True)
class LineUpOfKind(Question[LineUp]):
    """Needs of a kind with the parts that may serve each, prices by part, and the terms of the choice."""

    NAME: ClassVar[str] = "line-up"
    VERSION: ClassVar[int] = 2
    needs: tuple[Need, ...]
    prices: Mapping[str, float]
    terms: Mapping[str, float]

    def compute(self) -> LineUp:
        return choose_line_up(list(self.needs), self.prices, **self.terms)


class NeedLabel(NamedTuple):
    """A need in words: whose, and the position with the part in it now."""

    model: str
    place: str


@dataclass(frozen=True)
class LineUpReading:
    """All kinds, the parts by number, labels of the needs, and the settings used. unsaid : labels of needs nobody can put a figure on"""

    kinds: list[KindLineUp]
    parts: dict[str, Part]
    labels: dict[str, NeedLabel]
    unsaid: list[NeedLabel]
    holding_share: float
    line_cost: float


def read_line_up(session: Session) -> LineUpReading:
    """Which stock parts to keep at all, kind by kind, against what is kept today.

    A part may serve a position only where the verdict is yes and no fact is worse than what is fitted now.
    """
    inputs = read_inputs(session)
    library, parts, interchange = read_library(session), pages.all_parts(session), catalog.interchange(session)
    holding = float(inputs.settings.value("holding_share", default=0.20))
    line_cost = float(inputs.settings.value("line_cost", default=25.0))
    target = float(inputs.settings.value("target", default=0.95))
    review = int(inputs.settings.value("review_days", default=14))
    demand = {row.part.id: row.year_total for row in OutlookBuilder(session, inputs).rows()}
    needs, unsaid, labels = _needs(session, library, parts, interchange, inputs.group, demand)
    prices = {part.number: float(part.price) for part in parts}
    lead_years = (max((_mean_lead(entry) for entry in inputs.suppliers.values()), default=14.0) + review) / 365.25
    terms = {"lead_years": lead_years, "target": target, "holding_share": holding, "line_cost": line_cost}
    wanted = {kind: [need for need in needs[kind] if need.yearly > 0] for kind in FORECAST_KINDS}
    asked = {kind: LineUpOfKind(tuple(own), prices, terms) for kind, own in wanted.items() if own}
    found = zip(asked, ask_all(session, list(asked.values())), strict=True)
    kinds = [KindLineUp(kind, wanted[kind], result) for kind, result in found]
    silent = [labels[key] for kind in FORECAST_KINDS for key in unsaid[kind]]
    return LineUpReading(kinds, {part.number: part for part in parts}, labels, silent, holding, line_cost)


def _mean_lead(supplier: SupplierRow) -> float:
    total = sum(weight for _, weight in supplier.lead_time)
    return sum(days * weight for days, weight in supplier.lead_time) / total


def _needs(
    session: Session,
    library: Library,
    parts: Sequence[Part],
    interchange: Sequence[tuple[int, int]],
    group: Mapping[int, int],
    demand: Mapping[int, float | None],
) -> tuple[dict[Kind, list[Need]], dict[Kind, list[str]], dict[str, NeedLabel]]:
    """One need a position and part fitted in it: the part's yearly demand, shared by units of it and its equivalents; parts no worse may
    serve it. Apart from them those of parts whose demand nobody can say."""
    listed = _listed(session)
    places = [(row, entry) for row in pages.positions(session) if (entry := _entry(library, row)) is not None]
    by_position: dict[int, list[pages.PartInPosition]] = {}
    for item in pages.parts_in_service(session):
        by_position.setdefault(item.position_id, []).append(item)
    fitted = [(row, entry, item) for row, entry in places for item in by_position.get(row.id, [])]
    units = Counter[int]()
    for _, _, item in fitted:
        units[group.get(item.part_id, item.part_id)] += item.units
    by_id = {part.id: part for part in parts}
    needs: dict[Kind, list[Need]] = {kind: [] for kind in FORECAST_KINDS}
    unsaid: dict[Kind, list[str]] = {kind: [] for kind in FORECAST_KINDS}
    labels: dict[str, NeedLabel] = {}
    for row, entry, item in fitted:
        now = by_id[item.part_id]
        verdicts = verdicts_of(entry, parts, listed.get(row.id, {}), interchange)
        serving = [verdict.part for verdict in verdicts if verdict.answer.verdict == Verdict.YES]
        others = [part.number for part in serving if part.id != now.id and no_worse(part.facts, now.facts)]
        key = f"{row.id}:{now.number}"
        labels[key] = NeedLabel(library.pages[row.model_id].name, f"{row.label} ({now.number})")
        leader = group.get(now.id, now.id)
        yearly = demand.get(leader)
        if yearly is None:
            unsaid[Kind(row.kind)].append(key)
            continue
        needs[Kind(row.kind)].append(Need(key, yearly * item.units / units[leader], (now.number, *others)))
    return needs, unsaid, labels


def _listed(session: Session) -> dict[int, dict[int, str]]:
    """Reason by part a person listed, by position."""
    found: dict[int, dict[int, str]] = {}
    for position, part, _, reason, origin in pages.fits_of(session):
        if origin == "listed":
            found.setdefault(position, {})[part] = reason
    return found


def _entry(library: Library, row: Position) -> Mapping[str, Any] | None:
    """The page's entry of a position that is forecast."""
    if row.kind not in list(FORECAST_KINDS) or row.model_id not in library.pages:
        return None
    return next((item for item in library.pages[row.model_id].whole.get("positions") or [] if item["key"] == row.key), None)
