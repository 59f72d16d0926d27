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
COMMON_DAY, FAR_DAY = 1e5, 1e9
"""Days of the common window; own times are some thousands of days, so that nothing is lost in the difference."""
MOST_TOGETHER = 100
"""Windows worked out together: more would only take memory."""
MOST_POSITIONS = 60_000
"""Positions of windows worked out together, for the same reason."""
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


def draw_windows(laws: Sequence[WearLaw], windows: Sequence[Sequence[tuple[int, int]]]) -> None:
    """Work out windows that begin on any days, and keep them with their laws, parts of a kind together.

    Parameters
    ----------
    laws : of any kinds
    windows : of each law, days (start, end]; those that begin today within its time line are passed over

    Raises
    ------
    Nothing.
    """
    found: dict[Hashable, list[tuple[WearLaw, tuple[int, int]]]] = defaultdict(list)
    for law, own in zip(laws, windows, strict=True):
        if law.wear.pools.size:
            wanted = {window for window in own if window not in law.kept and (window[0] > 0 or window[1] > law.near_days)}
            found[_key(law)] += [(law, window) for window in sorted(wanted)]
    for asked in found.values():
        for group in _together_at_most(asked):
            for (law, (start, end)), pmf in zip(group, _mixed(group), strict=True):
                law.keep(start, end, pmf)


def _together_at_most(asked: list[tuple[WearLaw, tuple[int, int]]]) -> Iterator[list[tuple[WearLaw, tuple[int, int]]]]:
    """Windows so many at a time that neither they nor the positions in them are too many."""
    group: list[tuple[WearLaw, tuple[int, int]]] = []
    positions = 0
    for law, window in asked:
        size = law.wear.positions.units.size
        if group and (len(group) == MOST_TOGETHER or positions + size > MOST_POSITIONS):
            yield group
            group, positions = [], 0
        group.append((law, window))
        positions += size
    if group:
        yield group


def _mixed(asked: list[tuple[WearLaw, tuple[int, int]]]) -> list[checks.Floats]:
    """(n,) law of each window of its part, every one taken for a part of its own whose positions have their time in a common window."""
    wears, drawn = [], []
    for law, (start, end) in asked:
        days = np.array([[start], [end]])
        begin, until = law.in_own_days(*days)[0]
        wears.append(law.wear.in_one_window(float(begin), float(until), COMMON_DAY))
        drawn.append(law.drawn(*days))
    pmf = _counted(
        asked[0][0], drawn, Failing(join(wears), np.array([[COMMON_DAY, FAR_DAY]]), (np.arange(len(asked)), np.zeros(len(asked), int)))
    )
    return [counts.shifted(row[None], one.swaps)[0] for row, one in zip(pmf, drawn, strict=True)]


def _counted(law: WearLaw, drawn: list[Windows], failing: Failing) -> checks.Floats:
    """(r, n) laws of rows of windows, with the streams that laws of a kind share."""
    first = drawn[0].pieces
    exposure, fittings = (np.concatenate(rows) for rows in zip(*((one.pieces.exposure, one.fittings) for one in drawn), strict=True))
    pieces = counts.GammaPieces(first.shape, first.rate, exposure, first.batch)
    return counts.probabilities(pieces, law.dead_on_arrival, law.nodes.weight, fittings, failing)


def _key(law: WearLaw) -> tuple[Hashable, ...]:
    """What laws that are worked out together share: tables, streams, and the pace of their days."""
    return id(law.wear.kind), id(law.own_days), law.dead_on_arrival, law.side


def _alike(wanted: Sequence[tuple[WearLaw, Days]]) -> list[tuple[list[WearLaw], Days]]:
    """Laws that share tables, streams, the pace of their days and what days are asked for; each law once."""
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
