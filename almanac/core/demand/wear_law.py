"""The law of demand of a stock part whose lives wear out: the same streams, with failures that depend on every unit's age."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import ArrayLike, NDArray

from almanac.core import checks
from almanac.core.demand import counts
from almanac.core.demand.law import DemandLaw, Windows
from almanac.core.demand.time_line import TimeLine, knot_days
from almanac.core.demand.wear_out import WearOut
from almanac.core.life.nodes import KindNodes

Days = NDArray[np.int64]
ACCURACY = 1e-5
"""Of the generating function of wear-out failures: tables and points of lambda are made for this."""
CLOCK_DAYS = 15
"""Expected failures are worked out every so many days and grow evenly in between."""


@dataclass(frozen=True)
class Failing:
    """Wear-out failures of stock parts in some windows, as `counts` takes them.

    rows : which part and which of the windows each row is; by default the windows of the one part
    """

    wear: WearOut
    windows: checks.Floats
    rows: tuple[Days, Days] | None = None
    accuracy: float = ACCURACY

    @property
    def _rows(self) -> tuple[Days, Days]:
        window = np.arange(self.windows.shape[0])
        return self.rows or (np.zeros_like(window), window)

    def parts(self) -> Days:
        """(r,) which stock part each row is of."""
        return self._rows[0]

    def moments(self) -> tuple[checks.Floats, checks.Floats]:
        """(r, k) mean and variance."""
        part, window = self._rows
        mean, variance = (found[window, :, part] for found in self.wear.moments_of_parts(self.windows))
        return mean, variance

    def generating(self, rows: Days, used: counts.Complexes) -> counts.Complexes:
        """(r, k, j) generating functions of some rows."""
        part, window = self._rows
        return self.wear.generating_of_parts(self.windows, window[rows], part[rows], used)


@dataclass(frozen=True)
class WearLaw(DemandLaw):
    """A law with ages. `nodes` carries the weights of the kind's nodes; `near_days` is how far the time line reaches.

    Windows from day 0 up to there are read off the time line, exact on its knots; all others are worked out one by one.
    """

    wear: WearOut = None  # type: ignore[assignment]
    near_days: int = 400
    kept: dict[tuple[int, int], checks.Floats] = field(default_factory=dict)
    moments: dict[bytes, tuple[checks.Floats, checks.Floats]] = field(default_factory=dict)
    means_of: dict[bytes, checks.Floats] = field(default_factory=dict)
    line: list[TimeLine] = field(default_factory=list)

    def wear_means(self, start: Days, end: Days) -> checks.Floats:
        windows = self.in_own_days(start, np.maximum(end, start))
        key = windows.tobytes()
        known = self.means_of.get(key)
        if known is None:
            known = self.means_of[key] = self.wear.mean_by_pool(windows)
        return known

    def in_own_days(self, start: Days, end: Days) -> checks.Floats:
        """(w, 2) windows in days of ageing; positions enter and leave in those days too."""
        windows = np.column_stack((start, end))
        if self.own_days is None:
            return windows.astype(np.float64)
        return np.asarray(self.own_days[np.minimum(windows, self.horizon_days)])

    def _moments(self, windows: checks.Floats) -> tuple[checks.Floats, checks.Floats]:
        """(w, k, p) each pool's expected failures and the doubt about them, kept as a law's answers are."""
        key = windows.tobytes()
        known = self.moments.get(key)
        if known is None:
            known = self.moments[key] = self.wear.level_moments(windows)
        return known

    def rate_moments(self, window_days: int) -> tuple[checks.Floats, checks.Floats]:
        window = np.array([0]), np.array([window_days])
        mean, doubt = self._moments(self.in_own_days(*window))
        years = np.maximum(self.window_exposure(*window)[0], 1e-12)
        return mean[0] / years, doubt[0] / years**2

    def pmf(self, start_days: ArrayLike, end_days: ArrayLike) -> checks.Floats:
        """As for any law; raises ContractError for a negative day."""
        start = checks.vector("start_days", start_days, low=0.0).astype(np.int64)
        end = checks.vector("end_days", end_days, low=0.0, size=start.size).astype(np.int64)
        near = (start == 0) & (end <= self.near_days) & (self.near_days > 0)
        rows: list[checks.Floats] = [np.empty(0)] * start.size
        self._look_up(end[near])
        for place in np.flatnonzero(near):
            rows[place] = self.kept[0, int(end[place])]
        self._work_out(start[~near], end[~near])
        for place in np.flatnonzero(~near):
            rows[place] = self.kept[int(start[place]), int(end[place])]
        self.wear.forget()
        longest = max((row.size for row in rows), default=1)
        whole = np.zeros((start.size, longest))
        for line, row in zip(whole, rows, strict=True):
            line[: row.size] = row
        return whole

    def _look_up(self, days: Days) -> None:
        """Read laws of windows from day 0 off the time line and keep them: a changed setting asks for most of them again."""
        asked = np.array(sorted({day for day in days.tolist() if (0, day) not in self.kept}), dtype=np.int64)
        if asked.size == 0:
            return
        found = counts.shifted(self._time_line.pmf(asked), self._swaps(np.zeros_like(asked), asked))
        for day, row in zip(asked.tolist(), found, strict=True):
            self.keep(0, day, row)

    def _work_out(self, start: Days, end: Days) -> None:
        """Laws of windows off the time line, kept: they take long, and a changed setting asks for them again."""
        windows = sorted({window for window in zip(start.tolist(), end.tolist(), strict=True) if window not in self.kept})
        if windows:
            days = np.array(windows, dtype=np.int64)
            for window, row in zip(windows, self._exact(days[:, 0], days[:, 1]), strict=True):
                self.keep(*window, row)

    def keep(self, start: int, end: int, row: checks.Floats) -> None:
        """Keep the law of a window (n,) that was worked out."""
        self.kept[start, end] = np.trim_zeros(row, "b") if row.any() else row

    def head(self, start_days: ArrayLike, end_days: ArrayLike, most: int) -> checks.Floats:
        """As for any law; raises ContractError for a negative day."""
        whole = self.pmf(start_days, end_days)[:, : most + 1]
        return np.pad(whole, ((0, 0), (0, most + 1 - whole.shape[1])))

    def reaching(self, start_days: ArrayLike, end_days: ArrayLike, level: float) -> checks.Floats:
        """The whole law; raises ContractError for a negative day or a level that is no probability."""
        checks.probability("level", level)
        return self.pmf(start_days, end_days)

    def _in_calendar(self, days: checks.Floats) -> checks.Floats:
        """Days of ageing as calendar days."""
        return days if self.own_days is None else np.searchsorted(self.own_days, days).astype(np.float64)

    def mean_parts(self, end_days: ArrayLike) -> checks.Floats:
        """(w,) expected parts until each day, by the clock of the time line; raises ContractError for a negative day."""
        end = checks.vector("end_days", end_days, low=0.0).astype(np.int64)
        return np.asarray(self._clock(end) + self._swaps(np.zeros_like(end), end))

    def _swaps(self, start: Days, end: Days) -> NDArray[np.int64]:
        return np.round(self._between(self.planned_swaps, start, end)).astype(np.int64)

    def drawn(self, start: Days, end: Days) -> Windows:
        """What is drawn beside failures in the windows (start, end]."""
        fittings = self._between(self.planned_fittings, start, end) + self._between(self.planned_swaps, start, end)
        exposure = self.window_exposure(start, end)
        return Windows(self._pieces(exposure, exposure), self._swaps(start, end), fittings)

    def _exact(self, start: Days, end: Days, *, swaps: bool = True) -> checks.Floats:
        window = self.drawn(start, end)
        beside = Failing(self.wear, self.in_own_days(start, end))
        found = counts.probabilities(window.pieces, self.dead_on_arrival, self.nodes.weight, window.fittings, beside)
        return counts.shifted(found, window.swaps) if swaps else found

    def _pieces(self, exposure: checks.Floats, failing: checks.Floats) -> counts.GammaPieces:
        """The side streams alone: failures have a law of their own."""
        del failing
        nodes = self.nodes.weight.size
        side = [np.broadcast_to(np.array([getattr(one, name) for one in self.side]), (nodes, len(self.side))) for name in ("shape", "rate")]
        total = exposure.sum(axis=1, keepdims=True)
        batch = np.array([stream.batch for stream in self.side], dtype=np.int64)
        return counts.GammaPieces(side[0], side[1], np.repeat(total, len(self.side), axis=1), batch)

    @cached_property
    def _hazard(self) -> tuple[Days, checks.Floats]:
        """Days from 0 on, and expected wear-out failures until each."""
        # The rate bends on days when units come or go, so those are worked out too.
        moves = np.concatenate((self.wear.positions.enter, self.wear.positions.leave))
        moves = self._in_calendar(moves[np.isfinite(moves)])
        days = np.concatenate((np.arange(0, self.horizon_days, CLOCK_DAYS), [self.horizon_days], moves))
        days = np.unique(days[(days >= 0) & (days <= self.near_days + CLOCK_DAYS)]).astype(np.int64)
        return days, self.wear_means(np.zeros_like(days), days).sum(axis=1)

    def _clock(self, end: Days) -> checks.Floats:
        """(w,) expected parts until each day, swaps left out: the clock of the time line."""
        zero = np.zeros_like(end)
        failing = np.interp(end, *self._hazard)
        far = end > self._hazard[0][-1]
        if far.any():
            failing[far] = self.wear_means(zero[far], end[far]).sum(axis=1)
        years = self.window_exposure(zero, end).sum(axis=1)
        side = sum(stream.batch * stream.shape / stream.rate for stream in self.side) * years
        fitted = failing + side + self._between(self.planned_fittings, zero, end) + self._between(self.planned_swaps, zero, end)
        return np.asarray(failing + side + fitted * self.dead_on_arrival / (1.0 - self.dead_on_arrival))

    @property
    def has_time_line(self) -> bool:
        """Whether it has been worked out."""
        return bool(self.line)

    def time_line_knots(self) -> Days:
        """Days on which the time line is exact."""
        last = min(self.near_days, self.horizon_days)
        return knot_days(float(self._clock(np.array([last]))[0]), last)

    def take_time_line(self, days: Days, pmf: checks.Floats) -> None:
        """Keep a law (k, n) that was worked out on the knots, swaps left out."""
        width = int(np.flatnonzero(pmf.any(axis=0)).max(initial=0)) + 1
        self.line[:] = [TimeLine(days, self._clock(days), pmf[:, :width], self._clock)]

    @property
    def _time_line(self) -> TimeLine:
        if not self.line:
            days = self.time_line_knots()
            self.take_time_line(days, self._exact(np.zeros_like(days), days, swaps=False))
        return self.line[0]


def wear_law(law: DemandLaw, wear: WearOut, *, near_days: int) -> WearLaw:
    """A law of constant rates turned into one with ages: its streams, plans and exposure stay.

    Parameters
    ----------
    law : of the same pools · wear : their lives · near_days : how far the time line reaches, 0 for none

    Returns
    -------
    WearLaw

    Raises
    ------
    ContractError : a day below 0
    """
    near = int(min(checks.number("near_days", near_days, low=0.0), law.horizon_days))
    nodes, first = wear.kind.nodes, wear.pools[0] if wear.pools.size else -1
    return WearLaw(
        nodes=KindNodes(nodes.weight[:, first], nodes.a[:, first], nodes.b[:, first]),
        failures=law.failures,
        exposure_years=law.exposure_years,
        in_service=law.in_service,
        side=law.side,
        dead_on_arrival=law.dead_on_arrival,
        planned_swaps=law.planned_swaps,
        planned_fittings=law.planned_fittings,
        own_days=law.own_days,
        wear=wear,
        near_days=near,
    )
