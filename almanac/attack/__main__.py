"""bin/attack: kills, races, silent connections, hostile files and random requests against a product of its own."""

from __future__ import annotations

import statistics
import time

import click

from almanac.attack.fuzz import fuzz
from almanac.attack.hostile import meet
from almanac.attack.kills import kill_often
from almanac.attack.product import LEAD, Person, Product, running_product
from almanac.attack.races import CROWD, run_races
from almanac.attack.silent import measure

PARTS = ("silent", "files", "races", "requests", "kills")


@click.command(context_settings={"help_option_names": ["-h", "--help"]})
@click.option("--only", type=click.Choice(PARTS), multiple=True, help="Only these; all by default.")
@click.option("--kills", default=25, show_default=True, help="How often each part is killed.")
@click.option("--crowd", default=CROWD, show_default=True, help="How many take part in a race.")
@click.option("--requests", "wanted", default=10_000, show_default=True, help="Random requests.")
@click.option("--seed", default=1, show_default=True, help="Of the random requests.")
def main(only: tuple[str, ...], kills: int, crowd: int, wanted: int, seed: int) -> None:
    """Attack a Parts Almanac that is started for it on loopback with the demo company, and print what held."""
    chosen = only or PARTS
    begun = time.monotonic()
    with running_product() as product:
        if "silent" in chosen:
            _silent(product)
        if "files" in chosen:
            _files(product)
        if "races" in chosen:
            run_races(product, crowd=crowd, say=click.echo)
        if "requests" in chosen:
            _requests(product, wanted, seed)
        if "kills" in chosen:
            _kills(product, kills)
    click.echo(f"\n{time.monotonic() - begun:.0f} s in all")


def _lead(product: Product) -> Person:
    return Person(product.address, LEAD[0], LEAD[3])


def _silent(product: Product) -> None:
    found = measure(_lead(product), product.port)
    words = f"{found.with_silent_ms:.1f} beside silent, {found.with_half_ms:.1f} beside half-sent bodies"
    click.echo(f"p95 {found.before_ms:.1f} ms; {words}, {found.with_headers_ms:.1f} beside half-sent headers ({found.worst_change:+.0%})")


def _files(product: Product) -> None:
    met = meet(_lead(product).send_file)
    for one in met:
        if not one.held:
            click.echo(f"BROKEN {one.what}: {one.status} {one.words}")
    click.echo(f"{sum(one.held for one in met)} of {len(met)} hostile files were refused or read as what they are")


def _requests(product: Product, wanted: int, seed: int) -> None:
    person = _lead(product)
    document = person.get("/api/v1/openapi.json").json()

    def send(case: object) -> object:
        return case.call(base_url=person.address, session=person.http, headers={"X-CSRF-Token": person.token}, timeout=120)  # type: ignore[attr-defined]

    done = fuzz(document, send, wanted=wanted, start=seed)
    for fault in done.faults:
        click.echo(f"BROKEN {fault}")
    slowest = f"slowest {done.slowest[0]:.1f} s ({done.slowest[1]})"
    click.echo(f"{done.sent} random requests: {dict(sorted(done.statuses.items()))}, {len(done.faults)} faults, {slowest}")


def _kills(product: Product, times: int) -> None:
    for outcome in kill_often(product, times, lambda _: None):
        middle, worst = statistics.median(outcome.seconds), max(outcome.seconds)
        kept = f"{outcome.acknowledged} acknowledged writes, {outcome.lost} lost, {outcome.doubled} doubled"
        click.echo(f"{outcome.part} killed {times} times: back after {middle:.1f} s in the median, {worst:.1f} s at worst; {kept}")


if __name__ == "__main__":
    main()
