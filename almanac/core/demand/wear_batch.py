"""Laws by age of several stock parts in one go: what one part alone takes is mostly the cost of asking."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Hashable, Sequence

import numpy as np
from numpy.typing import NDArray

from almanac.core import checks
from almanac.core.demand import counts
from almanac.core.demand.wear_law import Failing, WearLaw
from almanac.core.demand.wear_out import join

Days = NDArray[np.int64]


def draw_time_lines(laws: Sequence[WearLaw]) -> None:
    """Work out the time lines of laws that have none yet, parts of a kind together.

    Parameters
    ----------
    laws : of any kinds; those without a time line of their own are passed over

    Raises
    ------
    Nothing.
    """
    wanted = [(law, law.time_line_knots()) for law in laws if law.near_days > 0 and not law.has_time_line]
    for group, knots in _alike(wanted):
        for law, pmf in zip(group, _together(group, knots, swaps=False), strict=True):
            law.take_time_line(knots, pmf)


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


def _alike(wanted: Sequence[tuple[WearLaw, Days]]) -> list[tuple[list[WearLaw], Days]]:
    """Laws that share tables, streams, the pace of their days and what days are asked for; each law once."""
    found: dict[Hashable, dict[int, WearLaw]] = defaultdict(dict)
    asked: dict[Hashable, Days] = {}
    for law, days in wanted:
        if law.wear.pools.size:
            key = (id(law.wear.kind), id(law.own_days), law.dead_on_arrival, law.side, days.tobytes())
            found[key][id(law)], asked[key] = law, days
    return [(list(group.values()), asked[key]) for key, group in found.items()]


def _together(laws: list[WearLaw], days: Days, *, swaps: bool) -> list[checks.Floats]:
    """(w, n) law of each window (0, day] of each part."""
    zero = np.zeros_like(days)
    part, window = (rows.ravel() for rows in np.indices((len(laws), days.size)))
    drawn = [law.drawn(zero, days) for law in laws]
    first = drawn[0].pieces
    exposure, fittings = (np.concatenate(rows) for rows in zip(*((one.pieces.exposure, one.fittings) for one in drawn), strict=True))
    pieces = counts.GammaPieces(first.shape, first.rate, exposure, first.batch)
    failing = Failing(join([law.wear for law in laws]), laws[0].in_own_days(zero, days), rows=(part, window))
    pmf = counts.probabilities(pieces, laws[0].dead_on_arrival, laws[0].nodes.weight, fittings, failing)
    found = pmf.reshape(len(laws), days.size, -1)
    return [counts.shifted(rows, one.swaps) if swaps else rows for rows, one in zip(found, drawn, strict=True)]
