"""bin/bench --truths: forecasts, fades and alarms against worlds that are not the model, and against its own."""

from __future__ import annotations

from collections.abc import Callable
from multiprocessing import Pool

import click
import numpy as np

from almanac.bench import worlds
from almanac.bench.worlds import World
from almanac.core.forecast.company import Ages, Company, InService, Tenures
from almanac.core.forecast.forecast import Forecast, forecast
from almanac.core.life.alarms.cusum import Chart, watch
from almanac.core.life.fade.forecast import fade
from almanac.core.life.fade.packs import packs
from almanac.core.life.lot_ratio import lot_ratios

THRESHOLD = 0.7
FADERS = 400
Row = dict[str, float]
LIKE = 1e4
"""A prior so sure that the level of the others is as it was told: it is known to 10%, and the lot's own ratio is what is tried."""


def measure_truths(companies: int) -> None:
    """Print a table of every world; so many companies a row, seeds fixed, with standard errors."""
    click.echo(f"{companies} companies a row; ± is one standard error")
    with Pool() as pool:
        for shape in (0.6, 1.0, 2.0, 3.0, 4.0):
            for failures in (4, 10, 30):
                _forecasts(pool, companies, f"Ageing together, shape {shape:g}, about {failures} failures", ("cohort", shape, failures))
        _forecasts(pool, companies, "Lognormal lives, about 20 failures", ("lognormal", 20))
        _forecasts(pool, companies, "One defective model of four", ("defective",))
        for a_year in (10, 30, 100):
            for change in (1.3, 1 / 1.3, 1.0):
                _forecasts(pool, companies, f"Rate times {change:.2f} in two years, {a_year} a year", ("drift", a_year, change))
        for shape in (0.8, 1.5, 3.0):
            _forecasts(pool, companies, f"Ages unknown for two in five, shape {shape:g}", ("unknown", shape))
        for knee, scatters in (("none", (0.01, 0.02, 0.03)), ("scaled", (0.02,)), ("level", (0.02,)), ("day", (0.02,))):
            for scatter in scatters:
                _fades(pool, max(companies // 60, 2), knee, scatter)
    _alarms(companies)


def _made(of: tuple[object, ...], seed: int) -> World:
    chance = np.random.default_rng([seed, 2026])
    makers: dict[object, Callable[..., World]] = {
        "cohort": worlds.cohort,
        "lognormal": worlds.lognormal_lives,
        "defective": worlds.one_defective,
        "drift": worlds.drifting,
        "unknown": worlds.ages_unknown,
    }
    return makers[of[0]](chance, *of[1:])


def company_of(world: World, *, trend: bool = False) -> Company:
    """A world's log as the forecast takes it."""
    rows, units = world.tenures, world.units
    unknown = np.array([row[1] is None for row in rows])
    entry = np.array([np.nan if row[1] is None else row[1] for row in rows])
    ages = Ages(entry, np.where(unknown, 0.0, entry), np.where(unknown, [row[5] for row in rows], entry), unknown)
    watched = np.array([row[2] - (row[1] or 0.0) for row in rows])
    age = np.array([np.nan if unit[1] is None else unit[1] for unit in units])
    held = Ages(age, np.array([unit[2] for unit in units]), np.array([unit[3] for unit in units]), np.isnan(age))
    pool, of_unit = (np.array([row[0] for row in table], dtype=np.int64) for table in (rows, units))
    tenures = Tenures(pool, ages, watched, np.array([row[3] for row in rows]), np.ones(len(rows)), np.array([row[4] for row in rows]))
    return Company(world.pools, np.arange(world.pools), tenures, InService(of_unit, held, np.ones(len(units))), 2.0, trend=trend)


def _one(of: tuple[tuple[object, ...], int]) -> Row:
    asked, seed = of
    world = _made(asked, seed)
    found = forecast(company_of(world, trend=asked[0] == "drift"), 1.0, school="wear-out" if asked[0] == "unknown" else "auto")
    return _scored(found, world, seed)


def _scored(found: Forecast, world: World, seed: int) -> Row:
    whole, seen = found.played.sum(axis=1), float(world.coming.sum())
    low, high = np.quantile(whole, [0.05, 0.95], method="inverted_cdf")
    below, upto = float((whole < seen).mean()), float((whole <= seen).mean())
    drawn = below + (upto - below) * float(np.random.default_rng([seed, 1]).random())
    groups = np.quantile(found.played, [0.05, 0.95], axis=0, method="inverted_cdf")
    shapes = found.learnt.shapes()
    return {
        "held": float(low <= seen <= high),
        "randomised": float(0.05 <= drawn <= 0.95),
        "seen": seen,
        "expected": float(found.expected.sum()),
        "groups": float(((groups[0] <= world.coming) & (world.coming <= groups[1])).mean()),
        "wear_out": found.learnt.weight_wear_out,
        "trend": found.learnt.weight_trend,
        "shape": float(np.median(shapes)) if shapes.size else np.nan,
    }


def _forecasts(pool: object, companies: int, title: str, asked: tuple[object, ...]) -> None:
    rows: list[Row] = pool.map(_one, [(asked, seed) for seed in range(companies)])  # type: ignore[attr-defined]
    held, randomised, groups, worn, trend, shape = (
        np.array([row[name] for row in rows]) for name in ("held", "randomised", "groups", "wear_out", "trend", "shape")
    )
    seen, expected = (np.array([row[name] for row in rows]) for name in ("seen", "expected"))
    ratio = seen.sum() / expected.sum()
    error = float((seen - ratio * expected).std() * np.sqrt(companies) / expected.sum())
    click.echo(
        f"  {title:<58} holds {held.mean():4.0%} ±{held.std() / np.sqrt(companies):.0%} (randomised {randomised.mean():.0%}, "
        f"pools {groups.mean():.0%})  seen/expected {ratio:.2f} ±{error:.2f}  wear-out {worn.mean():.0%}  drift {trend.mean():.0%}  "
        f"shape {np.nanmedian(shape):.2f}"
    )


def _fade_one(of: tuple[str, float, int]) -> tuple[float, float, float]:
    knee, scatter, seed = of
    made = worlds.fading(np.random.default_rng([seed, 7]), knee, scatter, units=FADERS)
    (found,) = fade([packs(made.unit, made.year, made.share, made.now, np.ones(FADERS, dtype=bool))], THRESHOLD)
    low, high = found.days(0.05), found.days(0.95)
    return float(np.mean((low <= made.days) & (made.days <= high))), found.expected(365), float((made.days <= 365).sum())


def _fades(pool: object, fleets: int, knee: str, scatter: float) -> None:
    rows = np.array(pool.map(_fade_one, [(knee, scatter, seed) for seed in range(fleets)]))  # type: ignore[attr-defined]
    title = f"Fade, knee: {knee}, scatter {scatter:.0%}, {fleets} x {FADERS} packs"
    click.echo(f"  {title:<58} days hold {rows[:, 0].mean():4.0%}  expected/crossed {rows[:, 1].sum() / rows[:, 2].sum():.2f}")


def _alarms(companies: int) -> None:
    """A lot three times as bad among twelve, one failure a month expected of each; false alarms of quiet companies."""
    months = 60
    needed, false, seen, wanted = [], 0, 0.0, 0.0
    for seed in range(companies):
        chance = np.random.default_rng([seed, 9])
        for worse in (3.0, 1.0):
            failures = worlds.lots(chance, worse=worse, months=months, a_month=1.0)
            found = watch([Chart(row, np.ones(months), 0.1) for row in failures])
            if worse > 1:
                spoke = found[0].alarms[0].period + 1 if found[0].alarms else months
                needed.append(spoke)
                # Accepted as soon as it speaks: what it has from then on, beside its own ratio times what the others lead to expect.
                none = np.zeros(1, dtype=np.int64)
                own = np.array([12.0 * months, failures[0, :spoke].sum()]), np.array([12.0 * months, float(spoke)])
                ratio = lot_ratios(*own, (LIKE, LIKE), np.append(none, none), np.array([0, 1]))[1] if spoke < months else 1.0
                seen += failures[0, spoke:].sum()
                wanted += ratio * (months - spoke)
            else:
                false += sum(len(one.alarms) for one in found)
    click.echo(f"  One lot in twelve three times as bad: alarm after {np.median(needed):.0f} expected failures in the median;")
    click.echo(f"  once accepted, seen / expected {seen / wanted:.2f};")
    click.echo(f"  quiet companies: {false / companies / (months / 12):.2f} false alarms a year")
