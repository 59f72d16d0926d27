"""The law of demand of one stock part: its streams, their means, and the exact distribution of any window."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import ArrayLike, NDArray

from almanac.core import checks
from almanac.core.demand import counts
from almanac.core.demand.ageing import ageing_exposure
from almanac.core.life.nodes import KindNodes

LONGEST_HEAD = 64
"""Up to this many parts the recursion is cheaper than a whole transform."""


@dataclass(frozen=True)
class SideStream:
    """A constant stream beside wear-out: rate ~ Gamma(shape, rate) a unit-year of the part, `batch` parts an event."""

    name: str
    shape: float
    rate: float
    batch: int = 1


@dataclass(frozen=True)
class StreamMeans:
    """Expected parts of a window by stream; they add up to the mean of its distribution."""

    wear_out: float
    dead_on_arrival: float
    damage: float
    no_fault_draw: float
    planned: float

    @property
    def total(self) -> float:
        return self.wear_out + self.dead_on_arrival + self.damage + self.no_fault_draw + self.planned

    @property
    def failing(self) -> float:
        """Parts that fail: everything but good parts drawn on suspicion or on a plan."""
        return self.wear_out + self.dead_on_arrival + self.damage


@dataclass(frozen=True)
class Windows:
    """What is drawn in each window: mixed-Poisson pieces, certain swaps, and planned fittings that may be dead."""

    pieces: counts.GammaPieces
    swaps: NDArray[np.int64]
    fittings: checks.Floats


@dataclass(frozen=True)
class DemandLaw:
    """Demand of a stock part given the record of its pools.

    nodes : weighted gamma priors of the kind
    failures, exposure_years : (p,) record of each pool: D (fractional where findings are open) and T
    in_service : (p, h + 1) unit-years in service until each coming day
    side : streams of the part, over the units in service of all its pools
    dead_on_arrival : probability per fitting, replacements included
    planned_swaps, planned_fittings : (h + 1,) cumulative parts drawn on a plan, and parts that arrive inside new machines
    own_days : (h + 1,) days of ageing until each coming day, where parts age faster for a spell
    """

    nodes: KindNodes
    failures: checks.Floats
    exposure_years: checks.Floats
    in_service: checks.Floats
    side: tuple[SideStream, ...]
    dead_on_arrival: float
    planned_swaps: checks.Floats
    planned_fittings: checks.Floats
    own_days: checks.Floats | None = None

    @property
    def horizon_days(self) -> int:
        return int(self.in_service.shape[1]) - 1

    @cached_property
    def pool_shape(self) -> checks.Floats:
        """(k, p) shape of each pool's rate under each node; one pooled piece where the kind never failed."""
        if self.nodes.pooled:
            return self.nodes.shape[:, None]
        return np.asarray(self.nodes.shape[:, None] + self.failures[None])

    @cached_property
    def pool_rate(self) -> checks.Floats:
        if self.nodes.pooled:
            return self.nodes.rate[:, None]
        return np.asarray(self.nodes.rate[:, None] + self.exposure_years[None])

    @cached_property
    def pool_mean_rate(self) -> checks.Floats:
        """(p,) expected failures per unit-year of each pool, averaged over the nodes."""
        return np.asarray(np.broadcast_to(self.nodes.weight @ (self.pool_shape / self.pool_rate), self.failures.shape))

    def window_exposure(self, start: NDArray[np.int64], end: NDArray[np.int64]) -> checks.Floats:
        """(w, p) unit-years of each pool in the days (start, end]."""
        top = self.horizon_days
        return np.asarray((self.in_service[:, np.minimum(end, top)] - self.in_service[:, np.minimum(start, top)]).T)

    @cached_property
    def failing_service(self) -> checks.Floats:
        """(p, h + 1) unit-years of ageing until each coming day."""
        return self.in_service if self.own_days is None else ageing_exposure(self.in_service, self.own_days)

    def failing_exposure(self, start: NDArray[np.int64], end: NDArray[np.int64]) -> checks.Floats:
        """(w, p) unit-years of ageing of each pool in the days (start, end]."""
        top = self.horizon_days
        return np.asarray((self.failing_service[:, np.minimum(end, top)] - self.failing_service[:, np.minimum(start, top)]).T)

    def wear_means(self, start: NDArray[np.int64], end: NDArray[np.int64]) -> checks.Floats:
        """(w, p) expected wear-out failures of each pool in the days (start, end]."""
        return np.asarray(self.failing_exposure(start, end) * self.pool_mean_rate)

    def rate_moments(self, window_days: int) -> tuple[checks.Floats, checks.Floats]:
        """(k, p) mean of each pool's failures per unit-year of the coming days under each node, and its variance: the doubt about it."""
        window = np.array([0]), np.array([window_days])
        calendar = np.maximum(self.window_exposure(*window)[0], 1e-300)
        pace = 1.0 if self.own_days is None else self.failing_exposure(*window)[0] / calendar
        shape = np.broadcast_to(self.pool_shape, (self.nodes.weight.size, self.failures.size))
        rate = np.broadcast_to(self.pool_rate, shape.shape)
        return np.asarray(shape / rate * pace), np.asarray(shape / rate**2 * pace**2)

    def _between(self, cumulative: checks.Floats, start: NDArray[np.int64], end: NDArray[np.int64]) -> checks.Floats:
        top = cumulative.size - 1
        return np.asarray(cumulative[np.minimum(end, top)] - cumulative[np.minimum(start, top)])

    def stream_means(self, start_days: ArrayLike, end_days: ArrayLike) -> dict[str, checks.Floats]:
        """Expected parts by stream, (w,) each, in the days (start, end] of each window.

        Parameters
        ----------
        start_days, end_days : (w,) whole days >= 0

        Returns
        -------
        dict of (w,) parts : wear_out, dead_on_arrival, damage, no_fault_draw, planned

        Raises
        ------
        ContractError : a negative day
        """
        start = checks.vector("start_days", start_days, low=0.0).astype(np.int64)
        end = checks.vector("end_days", end_days, low=0.0, size=start.size).astype(np.int64)
        exposure = self.window_exposure(start, end)
        found = {"wear_out": self.wear_means(start, end).sum(axis=1), "damage": np.zeros(start.size), "no_fault_draw": np.zeros(start.size)}
        for stream in self.side:
            found[stream.name] = found[stream.name] + stream.batch * stream.shape / stream.rate * exposure.sum(axis=1)
        found["planned"] = self._between(self.planned_swaps, start, end)
        fitted = np.sum(list(found.values()), axis=0) + self._between(self.planned_fittings, start, end)
        found["dead_on_arrival"] = fitted * self.dead_on_arrival / (1.0 - self.dead_on_arrival)
        return found

    def means(self, start_day: int, end_day: int) -> StreamMeans:
        """Expected parts by stream in the days (start_day, end_day]."""
        return StreamMeans(**{name: float(parts[0]) for name, parts in self.stream_means([start_day], [end_day]).items()})

    def pmf(self, start_days: ArrayLike, end_days: ArrayLike) -> checks.Floats:
        """Exact distribution of the parts drawn in each window.

        Parameters
        ----------
        start_days, end_days : (w,) whole days >= 0; demand of the days (start, end]

        Returns
        -------
        (w, n) probabilities of 0 .. n-1, each row adding up to 1 within 1e-9

        Raises
        ------
        ContractError : a negative day

        References
        ----------
        Johnson, Kemp & Kotz (2005), Univariate Discrete Distributions, on mixed and compound Poisson laws.
        """
        return self.pmf_of(self._window(start_days, end_days))

    def pmf_of(self, window: Windows) -> checks.Floats:
        """(w, n) probabilities as `pmf` gives them, for windows made with `windows_of`."""
        found = counts.probabilities(window.pieces, self.dead_on_arrival, self.nodes.weight, window.fittings)
        return counts.shifted(found, window.swaps)

    def head(self, start_days: ArrayLike, end_days: ArrayLike, most: int) -> checks.Floats:
        """(w, most + 1) probabilities of 0 .. most parts in each window: `pmf` cut short, cheaper for a small `most`.

        Parameters
        ----------
        start_days, end_days : as for `pmf` · most : parts, >= 0

        Returns
        -------
        (w, most + 1) probabilities

        Raises
        ------
        ContractError : a negative day
        """
        return self.head_of(self._window(start_days, end_days), most)

    def head_of(self, window: Windows, most: int) -> checks.Floats:
        """(w, most + 1) probabilities as `head` gives them, for windows made with `windows_of`."""
        if most > LONGEST_HEAD:
            whole = self.pmf_of(window)[:, : most + 1]
            return np.pad(whole, ((0, 0), (0, most + 1 - whole.shape[1])))
        found = counts.first_probabilities(self.nodes.weight, *self._series(window, most), most + 1)
        return counts.shifted(found, window.swaps)[:, : most + 1]

    def reaching(self, start_days: ArrayLike, end_days: ArrayLike, level: float) -> checks.Floats:
        """(w, n) probabilities of 0 .. n-1, far enough that each window's cumulative probability reaches a level.

        What quantiles and stock levels need; the tail beyond them is not worked out.

        Parameters
        ----------
        start_days, end_days : as for `pmf` · level : in (0, 1)

        Raises
        ------
        ContractError : a negative day, or a level that is no probability
        """
        checks.probability("level", level)
        window = self._window(start_days, end_days)
        mean, variance = window.pieces.moments()
        most = int(float((mean + 2.0 * np.sqrt(variance)).max(initial=0.0)) + window.swaps.max(initial=0)) + 3
        while most <= LONGEST_HEAD:
            found = self.head_of(window, most)
            if (found.sum(axis=1) >= level).all():
                return found
            most *= 2
        return self.pmf_of(window)

    def windows_of(self, exposure: ArrayLike, swaps: ArrayLike, fittings: ArrayLike, *, failing: ArrayLike | None = None) -> Windows:
        """Windows of a part of the fleet (a site, say) under this law.

        Parameters
        ----------
        exposure : (w, p) unit-years of each pool, >= 0 · failing : the same in years of ageing, where that differs
        swaps, fittings : (w,) parts drawn on a plan, and fitted in new machines

        Raises
        ------
        ContractError : a negative number of parts
        """
        drawn = np.round(checks.vector("swaps", swaps, low=0.0)).astype(np.int64)
        fitted = checks.vector("fittings", fittings, low=0.0, size=drawn.size)
        years = np.asarray(exposure, dtype=np.float64)
        ageing = years if failing is None else np.asarray(failing, dtype=np.float64)
        return Windows(self._pieces(years, ageing), drawn, fitted + drawn)

    def mean_parts(self, end_days: ArrayLike) -> checks.Floats:
        """(w,) expected parts of the days (0, end] of each window."""
        end = np.asarray(end_days)
        return np.asarray(np.sum(list(self.stream_means(np.zeros(end.size), end).values()), axis=0))

    def _window(self, start_days: ArrayLike, end_days: ArrayLike) -> Windows:
        start = checks.vector("start_days", start_days, low=0.0).astype(np.int64)
        end = checks.vector("end_days", end_days, low=0.0, size=start.size).astype(np.int64)
        swaps, fittings = self._between(self.planned_swaps, start, end), self._between(self.planned_fittings, start, end)
        failing = None if self.own_days is None else self.failing_exposure(start, end)
        return self.windows_of(self.window_exposure(start, end), swaps, fittings, failing=failing)

    def _series(self, window: Windows, terms: int) -> tuple[checks.Floats, checks.Floats]:
        """Constant and coefficients of the log generating functions, (w, k) and (w, k, up to terms)."""
        constant, series = counts.negative_binomial_series(window.pieces, self.dead_on_arrival, terms)
        extra_constant, extra = counts.fitting_series(window.fittings, self.dead_on_arrival, series.shape[-1])
        return constant + extra_constant[:, None], series + extra[:, None, :]

    def _pieces(self, exposure: checks.Floats, failing: checks.Floats) -> counts.GammaPieces:
        total = exposure.sum(axis=1, keepdims=True)
        wear = failing.sum(axis=1, keepdims=True) if self.nodes.pooled else failing
        nodes = self.nodes.weight.size
        shapes = np.broadcast_to(np.array([stream.shape for stream in self.side]), (nodes, len(self.side)))
        rates = np.broadcast_to(np.array([stream.rate for stream in self.side]), (nodes, len(self.side)))
        batch = np.array([1] * wear.shape[1] + [stream.batch for stream in self.side], dtype=np.int64)
        return counts.GammaPieces(
            shape=np.concatenate([self.pool_shape, shapes], axis=1),
            rate=np.concatenate([self.pool_rate, rates], axis=1),
            exposure=np.concatenate([wear, np.repeat(total, len(self.side), axis=1)], axis=1),
            batch=batch,
        )
