"""Draws of a part group's parameters and of each unit's own curve, given the readings and that every unit still serves.

Metropolis within Gibbs, all units at a time. A unit that has crossed would have been taken out, so curves that have are ruled out and
the population is weighed by how many of its units would still be there.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from almanac.core import checks
from almanac.core.life.fade.curves import KNEE, Paths, log_density
from almanac.core.life.fade.packs import Packs
from almanac.core.life.fade.population import START_SD, Population
from almanac.core.life.fade.serving import serving

FOLLOWED = 0.04
BURN, KEPT, THIN = 200, 60, 3
UNIT_MOVES = 1
"""Sweeps before anything is kept, draws kept, and sweeps from one to the next; in each, units move so many times."""
SETTLE, SWEEPS = 120, 6
"""Sweeps of units alone before anything is kept, and from one population to the next."""
WANTED = 0.3
"""Share of proposals that are taken, towards which their size is adapted."""


@dataclass
class Own:
    """What is each unit's own (n,): share when new, log fall a year, log year of the knee, years before the clock began."""

    start: checks.Floats
    log_fall: checks.Floats
    log_knee: checks.Floats
    before: checks.Floats

    def paths(self, population: Population) -> Paths:
        return population.paths(self.start, self.log_fall, self.log_knee, self.before)


@dataclass(frozen=True)
class Draws:
    """Draws of populations, of units' own (k, n), and of the year each unit crosses, on its own clock."""

    populations: list[Population]
    start: checks.Floats
    log_fall: checks.Floats
    log_knee: checks.Floats
    before: checks.Floats
    crosses: checks.Floats


class Sampler:
    """One chain over one part group with one curve."""

    def __init__(self, packs: Packs, population: Population, threshold: float, *, seed: int, around: Population | None = None) -> None:
        self.packs, self.population, self.threshold, self.around = packs, population, threshold, around
        self.serving, self.all_dated = serving(packs), bool(packs.dated.all())
        self.chance = np.random.default_rng([seed, len(population.names())])
        self.own = self._start()
        self.size = np.full(packs.units, 0.5)
        self.steps = dict.fromkeys(population.names(), 0.1)
        self._hold_inside()
        self.read, self.near = self._readings(self.own, population), self._near(self.own, population)
        self.there = self._there(population)
        self.prior = population.log_prior(around)

    def _hold_inside(self) -> None:
        """No unit begins with a curve that has crossed: it still serves."""
        for _ in range(200):
            gone = self.own.paths(self.population).crossing(self.threshold) <= self.packs.now + 1e-6
            if not gone.any():
                return
            self.own.log_fall = np.where(gone, self.own.log_fall - 0.1, self.own.log_fall)

    def _there(self, population: Population) -> float:
        """Log probability that all units would still be there, as far as it counts."""
        return population.log_there(self.serving, self.threshold, FOLLOWED)

    def _start(self) -> Own:
        """Each unit's crude slope, held inside what leaves it in service."""
        packs, units = self.packs, self.packs.units
        last = np.maximum(np.append(packs.starts[1:], packs.unit.size) - 1, 0)
        before = np.where(packs.dated, 0.0, 0.5)
        years = np.maximum(packs.year[last] + before, 0.25)
        fall = np.clip((1.0 - packs.share[last]) / years, 0.01, None)
        most = np.log(0.9 * (1.0 - self.threshold) / np.maximum(packs.now + before, 0.05))
        log_fall = np.minimum(np.log(fall), most)
        log_knee = np.maximum(np.full(units, self.population.knee), np.log(packs.now + before + 0.5))
        return Own(np.ones(units), log_fall, log_knee, before)

    def _readings(self, own: Own, of: Population) -> checks.Floats:
        """(n,) log density of each unit's readings; nothing where the unit would have crossed."""
        paths = own.paths(of)
        gone = (paths.crossing(self.threshold) <= self.packs.now) | (own.before < 0.0)
        return np.where(gone, -np.inf, log_density(self.packs, paths, of.scatter))

    def _near(self, own: Own, of: Population) -> checks.Floats:
        """(n,) log density of what is each unit's own."""
        value = of.log_units(own.start, own.log_fall, own.log_knee)
        return value if self.all_dated else value + of.log_before(own.before, self.packs.dated)

    def sweep(self, *, adapt: bool, populations: bool) -> None:
        """Move every unit, then what they share."""
        for _ in range(UNIT_MOVES):
            self._move_units(adapt)
        if populations:
            for name in self.population.names():
                self._move(name, adapt)
            self._together()

    def _move_units(self, adapt: bool) -> None:
        chance, own, units = self.chance, self.own, self.packs.units
        walk = self.size
        moves = [(0, 1), (1,), (0,), (3, 1)] if not self.all_dated else [(0, 1), (1,)]
        if self.population.curve == KNEE:
            moves = [*moves, (2,), (1, 2)]
        for move in moves:
            steps = (START_SD, self.population.fall_sd, self.population.knee_sd, 0.5)
            values = [own.start, own.log_fall, own.log_knee, own.before]
            for place in move:
                step = walk * steps[place] * chance.standard_normal(units)
                values[place] = values[place] + (np.where(self.packs.dated, 0.0, step) if place == 3 else step)
            tried = Own(*values)
            read, near = self._readings(tried, self.population), self._near(tried, self.population)
            with np.errstate(invalid="ignore"):  # from nowhere to nowhere is no move
                taken = np.log(chance.random(units)) < read + near - self.read - self.near
            own = Own(*(np.where(taken, new, old) for new, old in zip(values, vars(own).values(), strict=True)))
            self.read, self.near = np.where(taken, read, self.read), np.where(taken, near, self.near)
            if adapt:
                self.size = np.clip(self.size * np.exp(0.15 * (taken - WANTED)), 0.02, 3.0)
                walk = self.size
        self.own = own

    def _move(self, name: str, adapt: bool) -> None:
        """One parameter of the population, units staying where they are."""
        tried = self.population.moved(name, self.steps[name] * float(self.chance.standard_normal()))
        taken = self._taken(
            tried, self.own, 0.0 if not name.endswith("_sd") else float(np.log(getattr(tried, name) / getattr(self.population, name)))
        )
        if adapt:
            self.steps[name] = float(np.clip(self.steps[name] * np.exp(0.1 * (taken - WANTED)), 1e-3, 1.0))

    def _together(self) -> None:
        """Means and spreads together with every unit's own: what a long row of single moves would take long for."""
        root = np.sqrt(self.packs.units)
        for mean, spread, values in (("fall", "fall_sd", "log_fall"), ("knee", "knee_sd", "log_knee")):
            if mean not in self.population.names():
                continue
            now, own = self.population, self.own
            by = float(self.chance.standard_normal()) * getattr(now, spread) / root
            self._taken(now.moved(mean, by), replace(own, **{values: getattr(own, values) + by}), 0.0)
            now, own = self.population, self.own
            by = float(self.chance.standard_normal()) / root
            middle = getattr(now, mean)
            wider = middle + (getattr(own, values) - middle) * np.exp(by)
            self._taken(now.moved(spread, by), replace(own, **{values: wider}), by * (1 + self.packs.units))

    def _taken(self, tried: Population, own: Own, jacobian: float) -> bool:
        prior = tried.log_prior(self.around)
        if prior == -np.inf:
            return False
        # Where curves stay as they are, so does what readings say of them.
        same = own is self.own and not tried.bends_otherwise(self.population)
        read = self.read if same else self._readings(own, tried)
        if not np.isfinite(read).all():
            return False
        near = self._near(own, tried)
        gain = float((read - self.read + near - self.near).sum()) + prior - self.prior + jacobian
        chance = float(np.log(self.chance.random()))
        # How readings scatter has no bearing on who is still there.
        there = self.there if tried.scatter != self.population.scatter else self._there(tried)
        if chance >= gain - there + self.there:
            return False
        self.population, self.own, self.read, self.near, self.there, self.prior = tried, own, read, near, there, prior
        return True

    def follow(self, populations: Sequence[Population]) -> Draws:
        """Units under one population after another, a draw of each."""
        for _ in range(SETTLE):
            self.sweep(adapt=True, populations=False)
        rows: list[tuple[checks.Floats, ...]] = []
        for population in populations:
            self.population, self.read, self.near = population, self._readings(self.own, population), self._near(self.own, population)
            for _ in range(SWEEPS):
                self.sweep(adapt=False, populations=False)
            own, crosses = self.own, self.own.paths(population).crossing(self.threshold)
            # A unit that found no curve under which it still serves keeps the day of the population before.
            crosses = np.where(np.isfinite(self.read), crosses, rows[-1][-1] if rows else np.maximum(crosses, self.packs.now))
            rows.append((own.start, own.log_fall, own.log_knee, own.before, crosses))
        return Draws(list(populations), *(np.array(column) for column in zip(*rows, strict=True)))

    def run(self, *, burn: int = BURN, kept: int = KEPT) -> Draws:
        """Sweep and keep draws."""
        for _ in range(burn):
            self.sweep(adapt=True, populations=True)
        found: list[Population] = []
        rows: list[tuple[checks.Floats, ...]] = []
        for _ in range(kept):
            for _ in range(THIN):
                self.sweep(adapt=False, populations=True)
            found.append(self.population)
            own = self.own
            rows.append((own.start, own.log_fall, own.log_knee, own.before, own.paths(self.population).crossing(self.threshold)))
        return Draws(found, *(np.array(column) for column in zip(*rows, strict=True)))
