"""Laws by age of several stock parts in one go: what one part alone takes is mostly the cost of asking."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Hashable, Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from almanac.core import checks
from almanac.core.demand import counts
from almanac.core.demand.law import Windows
from almanac.core.demand.wear_law import Failing, WearLaw
from almanac.core.demand.wear_out import join

Days = NDArray[np.int64]
MOST_NUMBERS = 4_000_000
SHORTEST_ROW = 128
"""Probabilities that time lines worked out together have, at most, and that a row has at least."""


def time_lines(laws: Sequence[WearLaw]) -> list[tuple[Days, checks.Floats] | None]:
    """Work out the time lines of laws, parts of a kind together.

    Parameters
    ----------
    laws : of any kinds

    Returns
    -------
    of each law its knots (k,) and the distribution (k, n) until each, swaps left out; None where it has no time line of its own

    Raises
    ------
    Nothing.
    """
    found: dict[int, tuple[Days, checks.Floats]] = {}
    for group, knots in _alike([(law, law.time_line_knots()) for law in laws if law.near_days > 0]):
        for some in _portions(group, knots):
            for law, pmf in zip(some, _together(some, knots, swaps=False), strict=True):
                width = int(np.flatnonzero(pmf.any(axis=0)).max(initial=0)) + 1
                found[id(law)] = knots, pmf[:, :width]
    return [found.get(id(law)) for law in laws]


def draw_heads(laws: Sequence[WearLaw], days: Sequence[int]) -> None:
    """Work out each law's demand until one day, and keep it with the law, parts of a kind together.

    Parameters
    ----------
    laws : of any kinds · days : of each the day, beyond its time line

    Raises
    ------
    Nothing.
    """
    wanted = [(law, np.array([day])) for law, day in zip(laws, days, strict=True) if (0, day) not in law.kept]
    for group, day in _alike(wanted):
        for law, pmf in zip(group, _together(group, day, swaps=True), strict=True):
            law.keep(0, int(day[0]), pmf[0])


def _counted(law: WearLaw, drawn: list[Windows], failing: Failing) -> checks.Floats:
    """(r, n) laws of rows of windows, each with the side streams of its part."""
    exposure, fittings = (np.concatenate(rows) for rows in zip(*((one.pieces.exposure, one.fittings) for one in drawn), strict=True))
    shape, rate = (np.concatenate([_each(getattr(one.pieces, name), one.fittings.size) for one in drawn]) for name in ("shape", "rate"))
    pieces = counts.GammaPieces(shape, rate, exposure, drawn[0].pieces.batch)
    # Parts of one kind may have shapes of their own, and so nodes that weigh differently.
    weight = failing.wear.weight_of_parts()[failing.parts()]
    return counts.probabilities(pieces, law.dead_on_arrival, weight, fittings, failing)


def _each(rows: checks.Floats, windows: int) -> checks.Floats:
    """(w, k, p) what (k, p) is in every window."""
    return np.broadcast_to(rows, (windows, *rows.shape))


def _key(law: WearLaw) -> tuple[Hashable, ...]:
    """What laws that are worked out together share: tables, kinds of streams, and the pace of their days."""
    return id(law.wear.kind), id(law.own_days), law.dead_on_arrival, tuple(stream.batch for stream in law.side)


def _alike(wanted: Sequence[tuple[WearLaw, Days]]) -> list[tuple[list[WearLaw], Days]]:
    """Laws that share tables, kinds of streams, the pace of their days and what days are asked for; each law once."""
    found: dict[Hashable, dict[int, WearLaw]] = defaultdict(dict)
    asked: dict[Hashable, Days] = {}
    for law, days in wanted:
        if law.wear.pools.size:
            key = (*_key(law), days.tobytes())
            found[key][id(law)], asked[key] = law, days
    return [(list(group.values()), asked[key]) for key, group in found.items()]


def _portions(laws: list[WearLaw], days: Days) -> Iterator[list[WearLaw]]:
    """Laws a few at a time, those of like size together: every row is as long as the longest."""
    last = [int(days[-1])]
    size = {id(law): float(law.mean_parts(last)[0]) for law in laws}
    left = sorted(laws, key=lambda law: size[id(law)], reverse=True)
    while left:
        numbers = days.size * (SHORTEST_ROW + 2 * size[id(left[0])])
        count = max(1, int(MOST_NUMBERS / numbers))
        yield left[:count]
        left = left[count:]


def _together(laws: list[WearLaw], days: Days, *, swaps: bool) -> list[checks.Floats]:
    """(w, n) law of each window (0, day] of each part."""
    zero = np.zeros_like(days)
    part, window = (rows.ravel() for rows in np.indices((len(laws), days.size)))
    drawn = [law.drawn(zero, days) for law in laws]
    failing = Failing(join([law.wear for law in laws]), laws[0].in_own_days(zero, days), rows=(part, window))
    pmf = _counted(laws[0], drawn, failing)
    found = pmf.reshape(len(laws), days.size, -1)
    return [counts.shifted(rows, one.swaps) if swaps else rows for rows, one in zip(found, drawn, strict=True)]
