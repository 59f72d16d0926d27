"""How fast lives are fitted: beside a general survival library on the same rows, and all pools of a large fleet at once."""

from __future__ import annotations

import time
from collections.abc import Callable

import click
import numpy as np

from almanac.bench.measure import best_of, peak_megabytes, show
from almanac.core import checks
from almanac.core.life.kind_likelihood import KindLikelihood, most_likely
from almanac.core.life.tenures import AgeCounts, age_counts
from almanac.core.life.wear_nodes import kind_penalty, wear_nodes
from almanac.core.life.weibull import fit_weibull

TENURES = 1_000_000
SHAPE, SCALE_DAYS = 2.3, 1900.0
OLDEST_ENTRY, LONGEST_LOOK = 900, 1800
POOLS, TENURES_PER_POOL = 1500, 200


def tenures(rows: int, *, shape: float = SHAPE, scale: float = SCALE_DAYS, seed: int = 5) -> tuple[checks.Floats, ...]:
    """Ages in whole days at which tenures come under observation and end, and 1 where one ended by failure."""
    random = np.random.default_rng(seed)
    entry = random.integers(0, OLDEST_ENTRY, rows).astype(np.float64)
    # A life that is still going on at the age of entry, by inversion of what is left of the survival curve.
    life = scale * ((entry / scale) ** shape + random.exponential(1.0, rows)) ** (1.0 / shape)
    until = entry + random.integers(30, LONGEST_LOOK, rows)
    end = np.maximum(np.ceil(np.minimum(life, until)), entry + 1.0)
    return entry, end, (life <= until).astype(np.float64)


def measure_life() -> None:
    """A million tenures beside the library, where it is installed, and the pools of a fleet of 100,000 machines."""
    click.echo(f"{TENURES:,} tenures with delayed entry")
    entry, end, failed = tenures(TENURES)
    counts = age_counts(entry, end, failed)
    alone = best_of(lambda: fit_weibull(counts), 5)
    whole = best_of(lambda: fit_weibull(age_counts(entry, end, failed)), 3)
    show("Weibull fit with its limits, once aggregated", alone * 1000, "ms")
    show("The same from raw arrays", whole * 1000, "ms")
    show("Peak memory so far", peak_megabytes(), "MB", "aim 500 MB")
    _beside_the_library((entry, end, failed), counts, alone, whole)
    _pools()


def _beside_the_library(rows: tuple[checks.Floats, ...], counts: AgeCounts, alone: float, whole: float) -> None:
    fitter = _library()
    if fitter is None:
        click.echo("  The survival library of requirements-bench.lock is not installed; nothing to compare with.")
        return
    entry, end, failed = rows
    begun = time.perf_counter()
    scale, shape = fitter(end, failed, entry)
    spent = time.perf_counter() - begun
    own = fit_weibull(counts)
    apart = max(abs(own.shape / shape - 1), abs(own.scale / scale - 1))
    show("The library on the same rows", spent * 1000, "ms")
    show("Times faster, once aggregated", spent / alone, "x", "aim 100")
    show("Times faster, from raw arrays", spent / whole, "x", "aim 10")
    show("Largest relative difference of shape and scale", apart * 1e6, "ppm", "aim 100")


def _library() -> Callable[..., tuple[float, float]] | None:
    try:
        from lifelines import WeibullFitter
    except ImportError:
        return None

    def fitted(end: checks.Floats, failed: checks.Floats, entry: checks.Floats) -> tuple[float, float]:
        found = WeibullFitter().fit(end, event_observed=failed, entry=entry)
        return float(found.lambda_), float(found.rho_)

    return fitted


def _pools() -> None:
    click.echo(f"{POOLS:,} pools of one kind, {POOLS * TENURES_PER_POOL:,} tenures")
    levels = np.random.default_rng(8).gamma(6.0, 1 / 6.0, POOLS)
    pools = [
        age_counts(*tenures(TENURES_PER_POOL, scale=SCALE_DAYS * float(level) ** (-1 / SHAPE), seed=100 + number))
        for number, level in enumerate(levels)
    ]

    def fit() -> None:
        likelihood = KindLikelihood(pools)
        place = most_likely(likelihood, kind_penalty("battery"))
        wear_nodes(likelihood, "battery", best=place)

    show("All pools fitted, with what the kind shares and its nodes", best_of(fit, 3), "s", "aim 1 s")
