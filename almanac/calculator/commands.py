"""`almanac calc`: the core on files, without a database. Each command imports only what it needs."""

from __future__ import annotations

import sys
from collections.abc import Callable, Iterator
from typing import Any

import click

LEVEL = click.option(
    "--level", default=0.90, show_default=True, type=click.FloatRange(0, 1, min_open=True, max_open=True), help="Confidence of the limits."
)
AS_JSON = click.option("--json", "json_output", is_flag=True, help="Print one JSON document instead of tables.")


@click.group()
def calc() -> None:
    """Run the core on files, without a database: CSV and JSON in, tables or JSON out.

    A path of - reads standard input. Exit 0: done. Exit 2: the input is wrong, and every fault is named.
    """


def _answer(compute: Callable[[], dict[str, Any] | Iterator[dict[str, Any]]], json_output: bool) -> None:
    """Print an answer, or each of several as soon as it is there."""
    from almanac.calculator.inputs import InputFaults
    from almanac.calculator.output import as_json, as_table

    try:
        found = compute()
        for answer in [found] if isinstance(found, dict) else found:
            click.echo(as_json(answer) if json_output else as_table(answer))
    except InputFaults as faults:
        for fault in faults.faults:
            click.echo(fault, err=True)
        sys.exit(2)


@calc.command()
@click.argument("file")
@LEVEL
@click.option(
    "--pooling", type=click.Choice(["none", "kind"]), default="none", show_default=True, help="Whether pools share one shape and borrow."
)
@click.option("--kind", type=click.Choice(["memory", "ssd", "battery", "fan"]), help="Put this kind's weak prior on the shared shape.")
@click.option("--at", "ages", metavar="AGES", help="Ages to give survival at, such as 12,24.")
@AS_JSON
def life(file: str, level: float, pooling: str, kind: str | None, ages: str | None, json_output: bool) -> None:
    """How parts die, from tenures: constant rate, Weibull with profile limits, survival steps, the kind's shared shape.

    FILE is CSV with columns exit and failed (0 or 1), and optionally entry, pool, count, and looked: of a failure that a check
    found, the age at which it was last seen in order.
    """
    from almanac.calculator.life import life as compute
    from almanac.calculator.life import read_ages

    _answer(lambda: compute(file, level=level, pooling=pooling, kind=kind, at=read_ages(ages)), json_output)


@calc.command()
@click.argument("file")
@LEVEL
@click.option("--prior-shape", type=click.FloatRange(0, min_open=True), help="Shape of a gamma prior given from outside.")
@click.option("--prior-rate", type=click.FloatRange(0, min_open=True), help="Rate of that prior.")
@AS_JSON
def rates(file: str, level: float, prior_shape: float | None, prior_rate: float | None, json_output: bool) -> None:
    """Failure rates of pools with exact limits, and shrunk towards their kind.

    FILE is CSV with columns pool, failures and exposure.
    """
    from almanac.calculator.rates import rates as compute

    _answer(lambda: compute(file, level=level, prior_shape=prior_shape, prior_rate=prior_rate), json_output)


@calc.command()
@click.argument("file")
@AS_JSON
def demand(file: str, json_output: bool) -> None:
    """Exact distribution of failures over coming steps: constant rate or Weibull life, known or uncertain, with renewals.

    FILE is JSON with steps, units (age, count, start_after, retire_after) or units_file, and life or posterior.
    """
    from almanac.calculator.demand import demand as compute

    _answer(lambda: compute(file), json_output)


@calc.command()
@click.argument("file")
@AS_JSON
def lastbuy(file: str, json_output: bool) -> None:
    """How many of a discontinued part to buy, for each target probability of having enough.

    FILE is JSON as for `calc demand`, or with units_by_step and rate or posterior; targets as a list, by default 0.5 to 0.99.
    """
    from almanac.calculator.last_buy import last_buy as compute

    _answer(lambda: compute(file), json_output)


@calc.command()
@click.argument("file")
@AS_JSON
def stock(file: str, json_output: bool) -> None:
    """Stock levels and what they achieve.

    FILE is JSON with demand (poisson, negative-binomial or pmf), school and target, or levels to evaluate.
    """
    from almanac.calculator.stock import stock as compute

    _answer(lambda: compute(file), json_output)


@calc.command()
@click.argument("file")
@click.option(
    "--threshold",
    required=True,
    type=click.FloatRange(0, 1, min_open=True, max_open=True),
    help="Share of design capacity, such as 0.8.",
)
@click.option(
    "--level", default=0.95, show_default=True, type=click.FloatRange(0, 1, min_open=True, max_open=True), help="Confidence of the limits."
)
@AS_JSON
def wear(file: str, threshold: float, level: float, json_output: bool) -> None:
    """Wear lines of packs, and the day each crosses the threshold with Fieller's limits.

    FILE is CSV with columns unit, date, full and design, one reading a row.
    """
    from almanac.calculator.wear import wear as compute

    _answer(lambda: compute(file, threshold=threshold, level=level), json_output)


@calc.command()
@click.argument("page")
@click.option("--to", "targets", multiple=True, required=True, metavar="POSITION", help="Position to reach; may be given several times.")
@click.option("--option", "options", multiple=True, metavar="NAME=VALUE", help="Actual value of an option of the machine.")
@click.option("--itself", is_flag=True, help="Take the part out itself even where its assembly is ordered, rivets and all.")
@AS_JSON
def route(page: str, targets: tuple[str, ...], options: tuple[str, ...], itself: bool, json_output: bool) -> None:
    """The shortest way in to some positions of a model page, and back.

    PAGE is a model page file in YAML; a sibling it inherits from is read from the same folder.
    """
    from almanac.calculator.pages import route as compute

    _answer(lambda: compute(page, targets, options, itself), json_output)


@calc.command()
@click.argument("file")
@click.option(
    "--threshold", default=0.7, show_default=True, type=click.FloatRange(0, 1, min_open=True, max_open=True), help="Share it may fall to."
)
@click.option("--as-of", "as_of", metavar="DAY", help="Readings after it are left out; by default the day of the last one.")
@click.option(
    "--days",
    default=365.0,
    show_default=True,
    type=click.FloatRange(0, 36_525, min_open=True),
    help="Crossings are expected within so many.",
)
@AS_JSON
def fade(file: str, threshold: float, as_of: str | None, days: float, json_output: bool) -> None:
    """When each pack falls to a threshold, from all packs' readings together, given that none has yet.

    FILE is CSV with unit, date, full, design, and optionally group and fitted_on.
    """
    from almanac.calculator.fade import fades as compute

    _answer(lambda: compute(file, threshold=threshold, as_of=as_of, days=days), json_output)


@calc.command()
@click.argument("file")
@click.option("--ratio", default=2.0, show_default=True, type=click.FloatRange(1.01, 100), help="Change of the rate that is looked for.")
@click.option("--periods-per-year", default=12.0, show_default=True, type=click.FloatRange(0, 366, min_open=True))
@click.option(
    "--years-between-false-alarms",
    default=1.0,
    show_default=True,
    type=click.FloatRange(0, 1000, min_open=True),
    help="Of all charts of the file together.",
)
@AS_JSON
def watch(file: str, ratio: float, periods_per_year: float, years_between_false_alarms: float, json_output: bool) -> None:
    """Which charts of failures against what was expected speak, since when, and how far ahead they run.

    FILE is CSV with chart, period, failures, expected, and optionally cv, how well the expectation is known.
    """
    from almanac.calculator.watch import watched as compute

    _answer(
        lambda: compute(file, ratio=ratio, periods_per_year=periods_per_year, years_between_false_alarms=years_between_false_alarms),
        json_output,
    )


@calc.command()
@click.argument("text")
@AS_JSON
def label(text: str, json_output: bool) -> None:
    """What a memory, drive or battery label says, and what to ask."""
    from almanac.calculator.pages import label as compute

    _answer(lambda: compute(text), json_output)


def _file_command(name: str, module: str, function: str, words: str) -> None:
    """A command that takes one JSON file and answers with one document, or with a line for each where the file has lines."""

    def command(file: str, json_output: bool) -> None:
        from importlib import import_module

        compute = getattr(import_module(f"almanac.calculator.{module}"), function)
        _answer(lambda: compute(file), json_output)

    command.__doc__ = words
    calc.command(name)(click.argument("file")(AS_JSON(command)))


_file_command(
    "policy",
    "policy",
    "policy",
    """Reorder point s and lot Q of one shelf at a constant rate, and what they give.

    FILE is JSON with rate a day or posterior (shape, rate), lead (days, weight), review_days, measure (fill, ready, cycle, least-cost),
    target or waiting_cost, and optionally pack, minimum_order, order_cost, holding, price, position.
    """,
)
_file_command(
    "reorder",
    "policy",
    "reorder",
    """Fill rate, backorders and stock of a shelf that is looked at all the time and orders Q at r, with Poisson demand.

    FILE is JSON with rate, lead_time, r and Q, each of the two a number or a list.
    """,
)
_file_command(
    "network",
    "network",
    "network",
    """Levels of a depot and its sites for a target or a budget, or what given levels do; what to order and load today.

    FILE is JSON with depot (lead, review_days, pack, minimum_order, order_cost, rate), sites (site, rate, lane_days, every_days), price,
    holding, and target with per_site and site_floor, or budget, or levels; one posterior shared by units, or one for each place.
    """,
)
_file_command(
    "budget",
    "network",
    "budget",
    """What money buys over parts, by marginal analysis with exchanges.

    FILE is JSON with parts (part, pipeline, cost, weight) and budget, or none for the whole curve.
    """,
)
_file_command(
    "echelon",
    "network",
    "echelon",
    """Expected backorders of a depot and bases that repair.

    FILE is JSON with bases (rate, repaired_here, repair_time, order_ship), depot (repair_time), levels (depot, bases) and method (exact,
    metric, two-moment).
    """,
)
_file_command(
    "rehearse",
    "rehearse",
    "rehearse",
    """Policies played forward, each figure with its Monte Carlo error.

    FILE is JSON with parts as for policy or network, each with its policy or none, and years, runs, seed, warm_up_years; or such a
    document on each line.
    """,
)


_file_command(
    "forecast",
    "forecast",
    "forecasts",
    """Failures of a kind's units, and of what replaces them, in the coming years: schools averaged, parameters in doubt.

    FILE is JSON with kind, school (constant, wear-out, auto), tenures (pool, entry, exit, failed, count, low, high, first), in_service
    (pool, age, count, low, high, first), years, and optionally groups, ended, half_life, trend; or such a company on each line.
    """,
)
