"""The last day to order such that the floor holds with the target's chance until the parts arrive."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from almanac.core import checks
from almanac.core.errors import ContractError
from almanac.core.stock.lead_time import LeadTime
from almanac.core.stock.path import Holding, Law, chance_below, guessed_chance_below


def chance_before_arrival(law: Law, holding: Holding, lead: LeadTime, order_days: list[int], since_day: int = -1) -> checks.Floats:
    """P(path below the floor at any time before an order placed on each day arrives), mixed over the lead time."""
    ends = np.array(order_days, dtype=np.int64)[:, None] + lead.days[None]
    chance = chance_below(law, holding, ends.ravel(), since_day=since_day).reshape(ends.shape)
    return np.asarray(chance @ lead.weight)


@dataclass(frozen=True)
class OrderDay:
    """The last day to order: `day` is None where nothing is due within the horizon; `late` where even today is too late."""

    day: int | None
    late: bool
    chance_if_today: float


@dataclass(frozen=True)
class OrderChances:
    """Chances by the day an order is placed, kept: no target changes them, so that the next one finds most of its days known.

    law, holding, lead, since_day : as for `plan_order` · known : chances by day that were worked out
    """

    law: Law
    holding: Holding
    lead: LeadTime
    since_day: int = -1
    known: dict[int, float] = field(default_factory=dict)

    def on(self, days: list[int]) -> list[float]:
        """Chance that the path is below the floor before an order placed on each day arrives."""
        new = sorted({day for day in days if day not in self.known})
        if new:
            found = chance_before_arrival(self.law, self.holding, self.lead, new, self.since_day)
            self.known.update(zip(new, found.tolist(), strict=True))
        return [self.known[day] for day in days]

    def last_day(self, target: float, horizon_days: int) -> OrderDay:
        """The last day to order such that the floor holds with the target's chance.

        Parameters
        ----------
        target : in (0, 1) · horizon_days : how far ahead a day is looked for, >= 0

        Raises
        ------
        ContractError : an argument outside its range
        """
        risk = 1.0 - checks.probability("target", target)
        if horizon_days < 0:
            raise ContractError(f"horizon_days: at least 0 was wanted, got {horizon_days}")
        found = _Search(self, risk, horizon_days).run()
        if found.chance_today > risk:
            return OrderDay(0, True, found.chance_today)
        return OrderDay(None if found.last_good == horizon_days else found.last_good, False, found.chance_today)


@dataclass
class _Search:
    """The last day that keeps the risk: a guess from two moments says where to look, exact chances decide."""

    chances: OrderChances
    risk: float
    horizon: int
    chance_today: float = 1.0
    last_good: int = -1
    first_bad: int | None = None

    def run(self) -> _Search:
        self._look({0, *(day for day in self.chances.known if day <= self.horizon)})
        if self.first_bad is None and self.last_good < self.horizon:
            guess = self._guess()
            self._look({guess - 2, guess, guess + 1, guess + 3, self.horizon if guess >= self.horizon else 0})
        step = 8
        while self.chance_today <= self.risk and self.first_bad is None and self.last_good < self.horizon:
            self._look({self.last_good + step, self.last_good + 4 * step, self.horizon if step > 8 else 0})
            step *= 8
        while self.first_bad is not None and self.first_bad - self.last_good > 1 and self.chance_today <= self.risk:
            gap = self.first_bad - self.last_good
            stride = max(gap // 8, 1)
            self._look(set(range(self.last_good + stride, self.first_bad, stride)))
        return self

    def _guess(self) -> int:
        """Last day whose guessed chance keeps the risk; days are guessed every third one."""
        days = np.arange(0, self.horizon + 1, 3)
        law, lead = self.chances.law, self.chances.lead
        ends = (days[:, None] + lead.days[None]).ravel()
        chance = guessed_chance_below(law, self.chances.holding, ends, since_day=self.chances.since_day)
        good = np.flatnonzero(chance.reshape(days.size, -1) @ lead.weight <= self.risk)
        return self.horizon if good.size == days.size else int(days[good[-1]]) if good.size else 0

    def _look(self, days: set[int]) -> None:
        """Exact chances on some days. They never fall from one day to the next, so each answer bounds the rest."""
        looks = sorted(day for day in days if 0 <= day <= self.horizon)
        for day, chance in zip(looks, self.chances.on(looks), strict=True):
            if day == 0:
                self.chance_today = chance
            if chance <= self.risk:
                self.last_good = max(self.last_good, day)
            elif self.first_bad is None or day < self.first_bad:
                self.first_bad = day
