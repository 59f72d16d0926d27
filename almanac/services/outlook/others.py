"""Other parts than the four kinds: boards, palm rests and what else is ordered, by what was drawn, also in place of soldered parts."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy.orm import Session

from almanac.core.life.outcomes import Bucket
from almanac.core.parts.declared.kinds import FORECAST_KINDS
from almanac.core.parts.escalation import moved_demand
from almanac.core.stock.few import Draws, FewPlan, Terms, plan_few
from almanac.core.stock.lead_time import lead_time
from almanac.core.stock.reorder import Measure, Promise
from almanac.services.clock import read_clock
from almanac.store import other_parts, planning, shelves
from almanac.store.other_parts import FailedRow, OtherRow, PlaceRow
from almanac.store.settings import Settings, settings_on


@dataclass(frozen=True)
class OtherPart:
    """One part. moved : failures of what is soldered or staked that it is ordered for · position : on the shelves and coming, less what
    is promised · quantity : to order today

    plan : None where no machine in service takes it, or none has served a day yet: nothing can be said
    """

    row: OtherRow
    moved: float
    on_hand: int
    coming: int
    promised: int
    plan: FewPlan | None

    @property
    def position(self) -> int:
        return self.on_hand + self.coming - self.promised

    @property
    def is_due(self) -> bool:
        """Whether an order is due today: of what was never drawn a lead decides whether to keep any."""
        return self.quantity > 0 and self.row.direct + self.moved > 0

    @property
    def waiting(self) -> int:
        """Machines that wait: promised more than lies there."""
        return max(self.promised - self.on_hand, 0)

    @property
    def quantity(self) -> int:
        return self.plan.policy.quantity(self.position) if self.plan else 0


def read_others(session: Session) -> list[OtherPart]:
    """Every other part with what was drawn of it and what it is kept at."""
    clock = read_clock(session)
    settings = settings_on(session, clock.today)
    forecast = [kind.value for kind in FORECAST_KINDS]
    rows = other_parts.other_parts(session, forecast=forecast, as_of=clock.today)
    moved = _moved(other_parts.failed_in_place(session, as_of=clock.today), other_parts.places_of(session, forecast=forecast))
    suppliers = planning.supplier_rows(session, clock.today)
    on_hand, coming, promised = Counter[int](), Counter[int](), Counter[int]()
    for (part, _), buckets in shelves.balances(session, Bucket.ON_HAND, Bucket.UNDER_WAY).items():
        on_hand[part] += buckets.get(Bucket.ON_HAND, 0)
        coming[part] += buckets.get(Bucket.UNDER_WAY, 0)
    for line in shelves.open_lines(session):
        coming[line.part_id] += line.remaining
    for (part, _), quantity in shelves.promised(session, clock.today).items():
        promised[part] += quantity
    return [
        OtherPart(
            row=row,
            moved=moved.get(row.id, 0.0),
            on_hand=on_hand[row.id],
            coming=coming[row.id],
            promised=promised[row.id],
            plan=plan_few(_draws(row, moved.get(row.id, 0.0)), _terms(row, suppliers[row.supplier_id], settings)),
        )
        for row in rows
    ]


def _draws(row: OtherRow, moved: float) -> Draws:
    return Draws(row.direct + moved, row.days, row.places)


def _moved(failed: Sequence[FailedRow], places: Sequence[PlaceRow]) -> dict[int, float]:
    """Failures in place of which a part is ordered, by part; shared where a position takes several parts."""
    found: dict[int, float] = {}
    for model in {row.model_id for row in failed}:
        own = [row for row in failed if row.model_id == model]
        wanted = moved_demand({row.key: row.failures for row in own}, {row.key: row.ordered_unit.split(" or ") for row in own})
        for place in places:
            if place.model_id == model and place.key in wanted:
                found[place.part_id] = found.get(place.part_id, 0.0) + wanted[place.key] / place.choices
    return found


def _terms(row: OtherRow, supplier: planning.SupplierRow, settings: Settings) -> Terms:
    days, weights = zip(*supplier.lead_time, strict=True)
    scope = {"kind": row.kind, "part_number": row.number}
    measure = Measure(str(settings.value("measure", **scope, default=Measure.FILL.value)))
    return Terms(
        lead=lead_time(days, weights),
        review_days=float(settings.value("review_days", **scope, default=14)),
        promise=Promise(measure, float(settings.value("target", **scope, default=0.95))),
        pack=row.pack,
        minimum_order=row.minimum_order,
        order_cost=float(settings.value("order_cost", **scope, default=0.0)),
        holding_cost=float(settings.value("holding_share", **scope, default=0.2)) * float(row.price),
    )
