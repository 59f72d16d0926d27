"""How fast demand by age is worked out: many stock parts of a kind, each of a few pools, exact laws of cumulative windows."""

from __future__ import annotations

import click
import numpy as np

from almanac.bench.life import SHAPE, tenures
from almanac.bench.measure import best_of, show
from almanac.core import checks
from almanac.core.demand import counts
from almanac.core.demand.age_groups import AgeGroups, Ints, age_groups
from almanac.core.demand.life_tables import LifeTables, life_tables
from almanac.core.demand.wear_law import Failing
from almanac.core.demand.wear_out import WearOut, join
from almanac.core.life.kind_likelihood import KindLikelihood
from almanac.core.life.tenures import age_counts
from almanac.core.life.wear_nodes import wear_nodes

PARTS, POOLS, UNITS = 500, 4, 30
YEAR = 365.25
OLDEST_YEARS = 6.0
SCALE_YEARS = 6.0


def _kind() -> LifeTables:
    levels = np.random.default_rng(9).gamma(8.0, 1 / 8.0, 60)
    pools = []
    for number, level in enumerate(levels):
        entry, end, failed = tenures(120, scale=SCALE_YEARS * YEAR * float(level) ** (-1 / SHAPE), seed=number)
        pools.append(age_counts(entry / YEAR, end / YEAR, failed))
    likelihood = KindLikelihood(pools)
    return life_tables(wear_nodes(likelihood, "fan"), likelihood.failures, oldest_years=OLDEST_YEARS, horizon_days=400)


def _positions(random: np.random.Generator) -> AgeGroups:
    size = POOLS * UNITS
    leave = np.where(random.uniform(size=size) < 0.2, random.integers(1, 400, size), np.inf)
    age = random.uniform(0.0, OLDEST_YEARS, size)
    return age_groups(np.repeat(np.arange(POOLS), UNITS), age, np.ones(size), np.zeros(size), leave)


def _laws(kind: LifeTables, fleets: list[tuple[Ints, AgeGroups]], days: checks.Floats) -> None:
    windows = np.column_stack((np.zeros(days.size), days))
    part, window = (rows.ravel() for rows in np.indices((len(fleets), days.size)))
    together = Failing(join([WearOut(kind, pools, positions) for pools, positions in fleets]), windows, rows=(part, window))
    rows = part.size
    empty = np.empty((kind.nodes.weight.size, 0))
    none = counts.GammaPieces(empty, empty, np.empty((rows, 0)), np.empty(0, dtype=np.int64))
    counts.probabilities(none, 0.0, kind.nodes.weight, np.zeros(rows), together)


def measure_demand() -> None:
    """Print the time of one window of 12 months, and of all twelve cumulative ones, of every part."""
    click.echo(f"Demand by age of {PARTS} stock parts, {POOLS} pools and {POOLS * UNITS} units each")
    kind, random = _kind(), np.random.default_rng(10)
    fleets = [(random.integers(0, 60, POOLS), _positions(random)) for _ in range(PARTS)]
    twelve = np.ceil(np.arange(1, 13) * YEAR / 12)
    show("One window of 12 months", best_of(lambda: _laws(kind, fleets, twelve[-1:]), 2), "s", "aim 0.5 s")
    show("Twelve cumulative windows", best_of(lambda: _laws(kind, fleets, twelve), 2), "s", "aim 3 s")
