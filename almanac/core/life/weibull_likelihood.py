"""The likelihood of a Weibull life with delayed entry: S(x) = exp(-lambda x^beta), lambda = eta^-beta."""

from __future__ import annotations

from functools import cached_property

import numpy as np

from almanac.core.life.tenures import AgeCounts

LARGEST_LOG_SHAPE = float(np.log(1e4))
SMALLEST_LOG_SHAPE = float(np.log(1e-4))


class WeibullLikelihood:
    """The likelihood of one set of tenures; ages are divided by the largest, so that no power overflows."""

    def __init__(self, ages: AgeCounts) -> None:
        positive = ages.age > 0
        self.unit = float(ages.age.max()) if ages.age.size else 1.0
        self._log = np.log(ages.age[positive] / self.unit)
        # H(beta) = sum x^beta - sum e^beta: units that leave less units that enter at each age; 0^beta = 0.
        self._weight = (ages.left - ages.entered)[positive]
        self._failed = ages.failed[positive]
        self.failures = float(ages.failed.sum())
        self.entered_at_zero = bool((ages.entered[~positive] > 0).any())

    @cached_property
    def log_failed(self) -> float:
        """Sum of the logarithms of the failure ages over the largest age."""
        return float(self._failed @ self._log)

    @property
    def last_failure_is_censored(self) -> bool:
        """Whether some failure age is below the largest age."""
        return bool((self._failed[self._log < -1e-12] > 0).any())

    def powers(self, shape: float) -> tuple[float, float, float]:
        """H and its first two derivatives by the shape, of ages over the largest age."""
        power = np.exp(shape * self._log) * self._weight
        by_log = power * self._log
        return float(power.sum()), float(by_log.sum()), float((by_log * self._log).sum())

    def profile(self, log_shape: float) -> float:
        """Log-likelihood at a shape with its best lambda, in the ages' own unit."""
        shape = float(np.exp(log_shape))
        hazard = self.powers(shape)[0]
        if hazard <= 0:
            return -np.inf
        count = self.failures
        inner = count * np.log(shape) + count * np.log(count / hazard) + (shape - 1) * self.log_failed - count
        return float(inner - count * np.log(self.unit))

    def slope(self, log_shape: float) -> float:
        """Derivative of the profile by the logarithm of the shape."""
        shape = float(np.exp(log_shape))
        hazard, first, _ = self.powers(shape)
        return self.failures + shape * (self.log_failed - self.failures * first / hazard)

    def at(self, log_shape: float, log_scale: float) -> float:
        """Log-likelihood at a shape and a scale over the largest age."""
        shape = float(np.exp(log_shape))
        hazard = self.powers(shape)[0] * np.exp(-shape * log_scale)
        inner = self.failures * (np.log(shape) - shape * log_scale) + (shape - 1) * self.log_failed - hazard
        return float(inner - self.failures * np.log(self.unit))

    def slope_at(self, log_shape: float, log_scale: float) -> float:
        """Derivative of the log-likelihood by the logarithm of the shape at a fixed scale."""
        shape = float(np.exp(log_shape))
        hazard, first, _ = self.powers(shape)
        pull = np.exp(-shape * log_scale) * (first - log_scale * hazard)
        return float(self.failures + shape * (self.log_failed - self.failures * log_scale - pull))

    def best_log_scale(self, log_shape: float) -> float:
        """Logarithm of the best scale at a shape, over the largest age."""
        shape = float(np.exp(log_shape))
        return float(np.log(self.powers(shape)[0] / self.failures)) / shape

    def information(self, shape: float, log_scale: float) -> tuple[float, float, float]:
        """Minus the second derivatives by (shape, shape), (scale, scale) and both at the largest likelihood, scale over the largest age."""
        hazard, first, second = self.powers(shape)
        scaled = np.exp(-shape * log_scale)
        total = scaled * hazard
        once = scaled * (first - log_scale * hazard)
        twice = scaled * (second - 2 * log_scale * first + log_scale**2 * hazard)
        count, scale = self.failures, float(np.exp(log_scale))
        return (
            float(count / shape**2 + twice),
            float((shape * (shape + 1) * total - shape * count) / scale**2),
            float((count - total - shape * once) / scale),
        )

    def refuse(self) -> None:
        """Raise NoEstimate where a shape cannot be told for a reason of its own kind of data; here there is none."""
