"""What the units of a part group share: how fast they fade, how they differ, where and how hard they bend, how readings scatter."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.polynomial.hermite_e import hermegauss
from numpy.polynomial.legendre import leggauss
from scipy.special import ndtr

from almanac.core import checks
from almanac.core.life.fade.curves import KNEE, LEVEL, STRAIGHT, Paths
from almanac.core.life.fade.serving import Serving

START_SD = 0.01
"""Shares of new packs differ by so much."""
REACH = 6.0
LEGENDRE = leggauss(14)
HERMITE = (hermegauss(3)[0], hermegauss(3)[1] / np.sqrt(2 * np.pi))


@dataclass(frozen=True)
class Population:
    """A part group's parameters.

    before, undated : log of the mean years a unit served before its first reading, where some have no day of fitting
    curve : which of the three · fall, fall_sd : mean and spread of log a · steeper : log r · level : q, where the curve has one
    knee, knee_sd, together : mean and spread of log k, and its correlation with log a · scatter : log of the readings' scale
    """

    curve: str
    fall: float = float(np.log(0.08))
    fall_sd: float = 0.4
    scatter: float = float(np.log(0.02))
    steeper: float = float(np.log(3.0))
    level: float = 0.85
    knee: float = float(np.log(2.5))
    knee_sd: float = 0.3
    together: float = -0.3
    before: float = 0.0
    undated: bool = False

    def names(self) -> tuple[str, ...]:
        """Parameters the curve has."""
        own = {STRAIGHT: (), LEVEL: ("steeper", "level"), KNEE: ("steeper", "knee", "knee_sd", "together")}[self.curve]
        return ("fall", "fall_sd", "scatter", *own, *(("before",) if self.undated else ()))

    def paths(self, start: checks.Floats, log_fall: checks.Floats, log_knee: checks.Floats, before: checks.Floats) -> Paths:
        """Curves of units from what is their own."""
        fall = np.exp(log_fall)
        if self.curve == KNEE:
            return Paths(start, fall, np.exp(log_knee), float(np.exp(self.steeper)), before)
        if self.curve == LEVEL:
            return Paths(start, fall, np.maximum((start - self.level) / fall, 0.0), float(np.exp(self.steeper)), before)
        return Paths(start, fall, np.full_like(fall, np.inf), 1.0, before)

    def knee_given(self, log_fall: checks.Floats) -> tuple[checks.Floats, float]:
        """(n,) mean of log k of units that fall so fast, and its spread."""
        z = (log_fall - self.fall) / self.fall_sd
        return self.knee + self.knee_sd * self.together * z, float(self.knee_sd * np.sqrt(1.0 - self.together**2))

    def log_before(self, before: checks.Floats, dated: np.ndarray) -> checks.Floats:
        """(n,) log density of the years before the clock of units whose day of fitting nobody knows."""
        return np.where(dated, 0.0, -before * np.exp(-self.before) - self.before)

    def log_units(self, start: checks.Floats, log_fall: checks.Floats, log_knee: checks.Floats) -> checks.Floats:
        """(...) log density of what is the units' own."""
        z = (log_fall - self.fall) / self.fall_sd
        value = -0.5 * ((start - 1.0) / START_SD) ** 2 - 0.5 * z**2 - np.log(self.fall_sd)
        if self.curve == KNEE:
            rest = np.sqrt(1.0 - self.together**2)
            late = ((log_knee - self.knee) / self.knee_sd - self.together * z) / rest
            value = value - 0.5 * late**2 - np.log(self.knee_sd * rest)
        return np.asarray(value)

    def log_there(self, units: Serving, threshold: float, followed: float) -> float:
        """By how much what is known of units has to be divided because only those that still serve are seen.

        Nobody says how many were fitted; were that left wholly open, curves under which hardly any unit lives so long would be as good as
        others, for they explain as well what is left. That most units serve on is believed as firmly as if so large a share of those seen
        had been followed from a list of all that were fitted.
        """
        mean = float(np.exp(self.before))
        dated = self._log_serving(units.dated, threshold, (np.zeros(1), np.ones(1)))
        return (1.0 - followed) * (dated + self._log_serving(units.undated, threshold, (BEFORE[0] * mean, BEFORE[1])))

    def _log_serving(
        self, units: tuple[checks.Floats, checks.Floats], threshold: float, before: tuple[checks.Floats, checks.Floats]
    ) -> float:
        """Log probability that all of them have not crossed yet, which began to serve so long before their clock."""
        ages, count = units
        if not ages.size:
            return 0.0
        later = self._later((ages[:, None] + before[0]).ravel(), threshold).reshape(ages.size, -1) @ before[1]
        return float(count @ np.log(np.maximum(later, 1e-12)))

    def _later(self, year: checks.Floats, threshold: float) -> checks.Floats:
        """(m,) probability that a unit crosses after some years in service, over what shares are when new."""
        at, weight = HERMITE
        room = np.maximum(1.0 + START_SD * at - threshold, 1e-3)[None]
        found = self._later_of(np.maximum(year, 1e-6)[:, None], room, threshold)
        return np.asarray(np.maximum(found @ weight, 1e-12))

    def _later_of(self, year: checks.Floats, room: checks.Floats, threshold: float) -> checks.Floats:
        """(m, b) the same where a unit has so much to lose."""
        if self.curve != KNEE:
            below = max(self.level - threshold, 0.0) if self.curve == LEVEL else 0.0
            falls = np.maximum(room - below, 0.0) + np.minimum(room, below) * float(np.exp(-self.steeper))
            return np.asarray(ndtr((np.log(falls / year) - self.fall) / self.fall_sd))
        # Faster than `most` a unit crosses whatever its knee; slower, it crosses later where its knee is late enough.
        most = np.clip((np.log(room / year) - self.fall) / self.fall_sd, -REACH, REACH)[..., None]
        at, weight = LEGENDRE
        z = -REACH + (most + REACH) * (at + 1.0) / 2.0
        share = weight * (most + REACH) / 2.0 * np.exp(-0.5 * z**2) / np.sqrt(2 * np.pi)
        gentle = float(np.exp(-self.steeper))
        late = (year[..., None] - gentle * room[..., None] * np.exp(-(self.fall + self.fall_sd * z))) / (1.0 - gentle)
        standard = (np.log(np.maximum(late, 1e-9)) - self.knee) / self.knee_sd - self.together * z
        return np.asarray((share * ndtr(-standard / np.sqrt(1.0 - self.together**2))).sum(axis=-1))

    def log_prior(self, around: Population | None) -> float:
        """Log density of the stated weak priors; of a group, of lying near its kind."""
        if not all(low < getattr(self, name) < high for name, (low, high) in INSIDE.items()):
            return -np.inf
        if around is not None:
            return sum(_log_normal(getattr(self, name), getattr(around, name), LEANS.get(name, LEAN)) for name in self.names())
        return sum(self._weak(name) for name in self.names())

    def _weak(self, name: str) -> float:
        if name not in PRIORS:
            low, high = INSIDE[name]
            return -float(np.log(high - low))
        half = float(np.log(2.0)) if name.endswith("_sd") else 0.0
        return _log_normal(getattr(self, name), *PRIORS[name]) + half

    def of_any_age(self) -> Population:
        """The same for units of which some have no day of fitting."""
        return replace(self, undated=True)

    def bends_otherwise(self, other: Population) -> bool:
        """Whether a unit's curve, or how its readings scatter around it, is another here."""
        return any(getattr(self, name) != getattr(other, name) for name in ("scatter", "steeper", "level"))

    def moved(self, name: str, by: float) -> Population:
        """With one parameter changed; spreads on their logarithm."""
        value = getattr(self, name)
        changed: dict[str, Any] = {name: float(value * np.exp(by)) if name.endswith("_sd") else float(value + by)}
        return replace(self, **changed)


def mean_of(populations: Sequence[Population]) -> Population:
    """The mean of several populations of one curve, at least one."""
    first = populations[0]
    middle: dict[str, Any] = {name: float(np.mean([getattr(one, name) for one in populations])) for name in first.names()}
    return replace(first, **middle)


PRIORS = {
    "fall": (float(np.log(0.08)), 1.5),
    "fall_sd": (0.0, 0.5),
    "scatter": (float(np.log(0.02)), 1.5),
    "steeper": (float(np.log(4.0)), 0.8),
    "knee": (float(np.log(2.5)), 1.0),
    "knee_sd": (0.0, 0.4),
    "before": (0.0, 1.0),
}
"""Normal, spreads half-normal; what is not named is as likely anywhere inside its bounds."""
INSIDE = {
    "fall_sd": (0.02, 1.5),
    "knee_sd": (0.02, 1.5),
    "together": (-0.98, 0.98),
    "level": (0.3, 1.0),
    "steeper": (0.0, float(np.log(30.0))),
}
LEAN, LEANS = 0.3, {"level": 0.05}
"""A part group lies so far from its kind."""


def _log_normal(value: float, mean: float, sd: float) -> float:
    return float(-0.5 * ((value - mean) / sd) ** 2 - np.log(sd) - 0.5 * np.log(2 * np.pi))


def _before(points: int = 10) -> tuple[checks.Floats, checks.Floats]:
    """Years before the clock over their mean, and weights, closest where most units that are still there began: 9 u^2."""
    at, weight = leggauss(points)
    u = (at + 1.0) / 2.0
    return 9.0 * u**2, weight / 2.0 * 18.0 * u * np.exp(-9.0 * u**2)


BEFORE = _before()
