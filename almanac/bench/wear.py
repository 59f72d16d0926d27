"""How fast packs are followed, parts given shapes of their own, and charts held against what was expected."""

from __future__ import annotations

import time

import click
import numpy as np

from almanac.bench.measure import best_of, show
from almanac.core.forecast.kind_evidence import kind_evidence
from almanac.core.forecast.part_groups import level_evidence, part_groups
from almanac.core.life.alarms.cusum import follow as follow_chart
from almanac.core.life.alarms.cusum import limit_for
from almanac.core.life.alarms.expected import Levels, Nodes, Own, Watched, cells_by_month, charts_of
from almanac.core.life.fade.forecast import follow, learn
from almanac.core.life.fade.packs import Packs, packs
from almanac.core.life.kind_likelihood import KindLikelihood
from almanac.core.life.tenures import age_counts

PACKS, READINGS, GROUPS = 20_000, 10, 40
POOLS, PARTS, PER_POOL = 1500, 125, 200
CHARTS, MONTHS, UNITS = 2000, 120, 25
THRESHOLD = 0.7


def measure_wear() -> None:
    """Print each figure beside what is aimed at."""
    click.echo(f"{PACKS:,} packs with {PACKS * READINGS:,} readings, {GROUPS} parts")
    chance = np.random.default_rng(7)
    groups = [_faded(chance, PACKS // GROUPS) for _ in range(GROUPS)]
    begun = time.perf_counter()
    learnt = learn(groups, THRESHOLD)
    show("How the parts fade, learnt twice a year", time.perf_counter() - begun, "s", "aim 15 s with the next")
    begun = time.perf_counter()
    for own, of in zip(groups, learnt, strict=True):
        follow(own, of, THRESHOLD)
    show("Every pack followed", time.perf_counter() - begun, "s")
    show("One new reading: its part followed again", best_of(lambda: follow(groups[0], learnt[0], THRESHOLD), 3) * 1000, "ms", "aim 100 ms")
    _shapes(chance)
    _charts(chance)


def _faded(chance: np.random.Generator, units: int) -> Packs:
    """Packs that fall straight, looked at while they still serve."""
    fall = np.exp(chance.normal(np.log(0.07), 0.3, units))
    now = chance.uniform(0.3, 0.95, units) * (1.0 - THRESHOLD) / fall
    unit = np.repeat(np.arange(units), READINGS)
    year = np.sort(chance.uniform(0.02, 1.0, (units, READINGS)), axis=1).ravel() * now[unit]
    share = 1.0 - fall[unit] * year + 0.01 * chance.normal(size=unit.size)
    return packs(unit, year, share, now, np.ones(units, dtype=bool))


def _shapes(chance: np.random.Generator) -> None:
    click.echo(f"{POOLS:,} pools of {PARTS} parts, {PER_POOL} lives each")
    counts = []
    for pool in range(POOLS):
        life = 9.0 * chance.weibull(1.5 if pool % PARTS else 0.7, PER_POOL)
        watched = np.round(chance.uniform(0.2, 5.0, PER_POOL) * 365.25) / 365.25
        counts.append(age_counts(np.zeros(PER_POOL), np.minimum(np.ceil(life * 365.25) / 365.25, watched), life < watched))
    likelihood, group = KindLikelihood(counts), np.arange(POOLS) % PARTS
    begun = time.perf_counter()
    evidence = kind_evidence(likelihood, counts, group)
    part_groups(evidence, 1.6)
    level_evidence(evidence)
    show("Shapes and levels of all, and both schools weighed", time.perf_counter() - begun, "s", "aim 3 s")


def _charts(chance: np.random.Generator) -> None:
    click.echo(f"{CHARTS:,} charts over {MONTHS // 12} years")
    edges = list(range(0, 30 * MONTHS + 1, 30))
    cell = np.repeat(np.arange(CHARTS), UNITS)
    born = chance.integers(-1000, 30 * MONTHS - 60, cell.size)
    enter = np.maximum(born, 0)
    leave = np.minimum(enter + chance.integers(30, 2000, cell.size), 30 * MONTHS)
    lives = Watched(cell, born, enter, leave, np.ones(cell.size), (chance.uniform(size=cell.size) < 0.1).astype(np.float64))
    nodes = Nodes(np.full(9, 1 / 9), np.repeat([1.4, 1.8, 2.3], 3), np.full(9, 3.0), np.tile([60.0, 90.0, 140.0], 3))
    levels = Levels([nodes], np.zeros(CHARTS, dtype=np.int64), np.zeros(CHARTS))
    places = [np.array([place]) for place in range(CHARTS)]
    begun = time.perf_counter()
    cells = cells_by_month(lives, np.arange(CHARTS), edges, levels)
    charts = charts_of(cells, places, levels, [Own.BEFORE] * CHARTS)
    for chart in charts:
        follow_chart(chart, 2.0, 6.0)
    show("Worked out and followed", time.perf_counter() - begun, "s", "aim 1 s")
    begun = time.perf_counter()
    for expected in np.geomspace(0.01, 2.0, 27):
        for cv in (0.1, 0.2, 0.3):
            limit_for(float(expected), cv, 2.0, 0.5 / 12 / CHARTS)
    show("Limits of charts of 81 sizes and doubts, once", time.perf_counter() - begun, "s", "aim 20 s")
