"""What was decided about alarms: accepted, with what follows from it, or put aside with a reason."""

from __future__ import annotations

from datetime import date, datetime
from enum import StrEnum

from sqlalchemy import CheckConstraint, DateTime, ForeignKey, Index
from sqlalchemy.orm import Mapped, mapped_column

from almanac.store.models.base import Base, Id, Moment, kind_word, one_of


class ChartScope(StrEnum):
    """What a chart watches of a kind: a pool, a part group, a site, or parts of one number made on one day."""

    POOL = "pool"
    PART = "part"
    SITE = "site"
    LOT = "lot"


class Verdict(StrEnum):
    """What becomes of an alarm."""

    ACCEPTED = "accepted"
    ASIDE = "aside"


class AlarmDecision(Base):
    """A decision on a chart's alarm. Of an accepted one a lot is a pool of its own; of others evidence before `since` is left out.

    part_id : a lot's part number, else the first of a part group · spoke_on : first day of the period it spoke in
    observed, expected : as they stood when it was decided · withdrawn_at : from then on it does not hold
    """

    __tablename__ = "alarm_decision"
    __table_args__ = (
        kind_word(),
        one_of("scope", ChartScope),
        one_of("verdict", Verdict),
        CheckConstraint("(scope = 'site') = (part_id IS NULL)", name="part_named"),
        CheckConstraint("(scope = 'site') = (site_id IS NOT NULL)", name="site_named"),
        CheckConstraint("(scope = 'lot') = (made_on IS NOT NULL)", name="lot_named"),
        CheckConstraint("(scope = 'pool') = (model_id IS NOT NULL AND duty IS NOT NULL AND environment IS NOT NULL)", name="pool_named"),
        CheckConstraint("since <= spoke_on", name="since_before"),
        CheckConstraint("reason <> ''", name="reason_given"),
        Index("ix_alarm_decision_holds", "kind", postgresql_where="withdrawn_at IS NULL"),
    )
    id: Mapped[Id]
    kind: Mapped[str]
    scope: Mapped[str]
    part_id: Mapped[int | None] = mapped_column(ForeignKey("part.id"))
    model_id: Mapped[int | None] = mapped_column(ForeignKey("device_model.id"))
    duty: Mapped[str | None]
    environment: Mapped[str | None]
    site_id: Mapped[int | None] = mapped_column(ForeignKey("site.id"))
    made_on: Mapped[date | None]
    since: Mapped[date]
    spoke_on: Mapped[date]
    observed: Mapped[float]
    expected: Mapped[float]
    verdict: Mapped[str]
    reason: Mapped[str]
    decided_at: Mapped[Moment]
    author_id: Mapped[int | None] = mapped_column(ForeignKey("user.id"))
    withdrawn_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    withdrawn_by_id: Mapped[int | None] = mapped_column(ForeignKey("user.id"))
