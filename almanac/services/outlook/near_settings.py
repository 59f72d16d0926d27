"""Settings near those in force, worked out before somebody chooses them: what they ask of the laws is kept with the laws."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from almanac.core.demand.wear_batch import draw_windows
from almanac.core.demand.wear_law import WearLaw
from almanac.services.outlook.inputs import Inputs
from almanac.services.outlook.lines import OutlookBuilder
from almanac.services.outlook.standing import YEAR_DAYS
from almanac.store.models import Part

TARGETS = (0.8, 0.85, 0.9, 0.93, 0.95, 0.97, 0.98, 0.99, 0.995)
"""Their order days, and all between them."""
REVIEWS = (7, 14, 21, 28)
"""Review periods of the company, days."""


PARTS_AT_A_TIME = 12
"""Parts of a kind cost less together, and what is newer does not wait long."""


def draw_near_settings(inputs: Inputs, *, wanted: Callable[[], bool] = lambda: True) -> None:
    """Work out what other targets and review periods would ask for; what is known already costs next to nothing.

    wanted : asked again and again; where it says no, the rest is left
    """
    for review in REVIEWS:
        if not wanted():
            return
        entries = inputs.settings.entries | {("company", "", "review_days"): (review, 0)}
        OutlookBuilder(replace(inputs, settings=replace(inputs.settings, entries=entries))).lines()
    builder = OutlookBuilder(inputs)
    for first in range(0, len(inputs.parts), PARTS_AT_A_TIME):
        if not wanted():
            return
        orders = [order for part in inputs.parts[first : first + PARTS_AT_A_TIME] for order in _orders(builder, part)]
        draw_windows([law for law, _ in orders], [windows for _, windows in orders])


def _orders(builder: OutlookBuilder, part: Part) -> list[tuple[WearLaw, list[tuple[int, int]]]]:
    """A part's law with the windows that orders of any day between those of the likely targets are sized by."""
    chances, policy = builder.standing(part).chances, builder.policy(part)
    if chances is None:
        return []
    due = [chances.last_day(target, YEAR_DAYS).day for target in TARGETS]
    law, days = chances.law, [YEAR_DAYS if day is None else day for day in due]
    if not isinstance(law, WearLaw):
        return []
    sized = {window for day in range(min(days), max(days) + 1) for window in policy.windows(day)}
    return [(law, [around for window in sorted(sized) for around in law.windows_around(*window)])]
