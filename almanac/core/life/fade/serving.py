"""Ages of the units that still serve, drawn together in a few: what is asked of a population at every move costs so little."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.interpolate import BarycentricInterpolator

from almanac.core import checks
from almanac.core.life.fade.packs import Packs

NODES = 8


@dataclass(frozen=True)
class Serving:
    """Years on the clock (a,) and how many units each stands for, of those with a day of fitting and of those without.

    A sum over units of a smooth function of their age is the weighted sum over these: the function is read off the polynomial through
    its values there. Berrut & Trefethen (2004), SIAM Review 46.
    """

    dated: tuple[checks.Floats, checks.Floats]
    undated: tuple[checks.Floats, checks.Floats]


def serving(packs: Packs) -> Serving:
    """Of the units of a part group."""
    return Serving(_drawn_together(packs.now[packs.dated]), _drawn_together(packs.now[~packs.dated]))


def _drawn_together(now: checks.Floats) -> tuple[checks.Floats, checks.Floats]:
    ages, units = np.unique(now, return_counts=True)
    if ages.size <= NODES:
        return ages, units.astype(float)
    # Nodes close at both ends, where a polynomial through even ones would swing.
    middle, half = (ages[0] + ages[-1]) / 2.0, (ages[-1] - ages[0]) / 2.0
    nodes = middle - half * np.cos(np.pi * np.arange(NODES) / (NODES - 1))
    return nodes, np.asarray(BarycentricInterpolator(nodes, np.eye(NODES))(now).sum(axis=0))
