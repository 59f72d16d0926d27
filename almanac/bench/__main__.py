"""bin/bench: the demo's outlook, the first page, and with --assets a generated fleet of any size."""

from __future__ import annotations

import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

import click

from almanac.bench.catalog import measure_catalog
from almanac.bench.companies import measure_companies
from almanac.bench.demand import measure_demand
from almanac.bench.fleet import load_fleet
from almanac.bench.library import measure_library
from almanac.bench.life import measure_life
from almanac.bench.night import measure_night
from almanac.bench.page import measure_page
from almanac.bench.promise import measure_promise
from almanac.bench.shelves import measure_shelves
from almanac.bench.stores import measure_stores
from almanac.bench.truths import measure_truths
from almanac.bench.wear import measure_wear
from almanac.launch.cluster import Cluster
from almanac.launch.databases import load_demo, open_database


@click.command(context_settings={"help_option_names": ["-h", "--help"]})
@click.option(
    "--assets", type=click.IntRange(1000, 500_000), help="Also generate a fleet of this many machines (100000 takes some minutes)."
)
@click.option(
    "--companies", type=click.IntRange(1, 1000), help="Also draw so many companies with known truth and see how well forecasts hold."
)
@click.option("--models", type=click.IntRange(100, 20_000), help="Also copy the demo's models to so many (5000 takes some minutes).")
@click.option(
    "--truths", type=click.IntRange(10, 2000), help="Only hold forecasts, fades and alarms against so many companies of each known world."
)
@click.option(
    "--moves", type=click.IntRange(360_000, 20_000_000), help="Only fill the stores with so many moves (5000000 takes some minutes)."
)
@click.option(
    "--night", type=click.IntRange(100, 100_000), help="Only look through the register, and have so many machines report (with --assets)."
)
@click.option("--promise", is_flag=True, help="Only play reorder points over a large grid, and see whether they keep their promise.")
@click.option(
    "--wear", is_flag=True, help="Only follow 20,000 packs, give parts shapes of their own, and hold 2,000 charts against ten years."
)
@click.option("--shelves", is_flag=True, help="Only work out, play and weigh 500 parts at six places, and at thirty.")
def main(
    assets: int | None,
    companies: int | None,
    models: int | None,
    truths: int | None,
    moves: int | None,
    night: int | None,
    promise: bool,
    wear: bool,
    shelves: bool,
) -> None:
    """Print how fast Parts Almanac is on this machine. Nothing is asserted."""
    if night:
        measure_night(assets or 100_000, night)
        return
    alone = [measure for wanted, measure in ((promise, measure_promise), (wear, measure_wear), (shelves, measure_shelves)) if wanted]
    if alone:
        alone[0]()
        return
    if truths:
        measure_truths(truths)
        return
    folder = Path(tempfile.mkdtemp(prefix="almanac-bench-", dir="/tmp"))
    folder.chmod(0o711)
    cluster = Cluster(folder, durable=False)
    cluster.start()
    try:
        if moves:
            _stores(cluster, moves)
            return
        measure_catalog()
        measure_life()
        measure_demand()
        _demo(cluster, models)
        if companies:
            measure_companies(cluster, companies)
        if assets:
            _fleet(cluster, assets)
    finally:
        cluster.stop()
        shutil.rmtree(folder, ignore_errors=True)


def _demo(cluster: Cluster, models: int | None) -> None:
    click.echo("The demo fleet")
    engine = open_database(cluster)
    load_demo(engine)
    _in_its_own_process(cluster)
    measure_page(engine)
    if models:
        measure_library(engine, models=models)
    engine.dispose()


def _stores(cluster: Cluster, moves: int) -> None:
    engine = open_database(cluster)
    load_demo(engine)
    measure_stores(engine, moves)
    engine.dispose()


def _fleet(cluster: Cluster, assets: int) -> None:
    click.echo(f"A generated fleet of {assets:,} machines")
    load_fleet(cluster, assets)
    _in_its_own_process(cluster)


def _in_its_own_process(cluster: Cluster) -> None:
    sys.stdout.flush()
    subprocess.run([sys.executable, "-m", "almanac.bench.database", cluster.url()], check=True)


if __name__ == "__main__":
    main()
