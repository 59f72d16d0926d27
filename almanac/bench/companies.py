"""Companies with known truth, drawn by the demo's generator from many seeds: do 90% intervals hold nine times in ten?"""

from __future__ import annotations

import click
from sqlalchemy.orm import Session

from almanac.bench.measure import show
from almanac.core.calibration.scores import Scored, coverage
from almanac.demo.load import draw, load
from almanac.launch.cluster import Cluster
from almanac.launch.databases import open_database
from almanac.services.answers.cache import FRONT
from almanac.services.calibration.backtest import backtest

FIRST_SEED = 1001
SCALE = 0.4
"""Of the demo's fleet: some 850 machines."""
QUARTERS = 4
WANTED = "86 to 94"


def measure_companies(cluster: Cluster, companies: int) -> None:
    """Coverage over the last quarters of each company, pooled; what the forecasts knew was recorded by then."""
    click.echo(f"{companies} companies of the demo's generator, {QUARTERS} quarters each")
    scored: list[Scored] = []
    for seed in range(FIRST_SEED, FIRST_SEED + companies):
        engine = open_database(cluster, reset=True)
        load(engine, draw(seed=seed, scale=SCALE), check_references=False)
        FRONT.clear()
        with Session(engine) as session:
            found = backtest(session, most=QUARTERS)
        engine.dispose()
        scored += [held.scored for held in found.held]
    show(f"In the 90% interval, of {len(scored)} counts", 100 * coverage(scored, 0.9), "%", WANTED)
    show("In the 50% interval", 100 * coverage(scored, 0.5), "%")
    show("Drawn over expected", sum(one.seen for one in scored) / sum(one.mean for one in scored) * 100, "%")
