"""Stock parts as they are played: what each is kept at and where it stands, put side by side for one game."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from almanac.core.rehearsal.plan import Change, PlayedPolicies, Requests, ShelfLives, Start, lead_table

NEVER = 10**6
"""A day that no game reaches."""


@dataclass(frozen=True)
class Kept:
    """What a part is kept at. later : (day, s, levels) of later days"""

    s: int
    lot: int
    levels: tuple[int, ...]
    later: tuple[tuple[int, int, tuple[int, ...]], ...] = ()


@dataclass(frozen=True)
class Expires:
    """A part that expires. days : on the shelf · cap : most on hand and on order after an order · pack, least : of an order
    lots : (last day, quantity) of what is there
    """

    days: int
    cap: int
    pack: int
    least: int
    lots: tuple[tuple[int, int], ...] = ()


@dataclass(frozen=True)
class PartToPlay:
    """One part. from_day, a_day : requests a day at all places, from each day on · doubt : shape of the gamma their level is drawn from,
    None where it is known · shares : of all requests, at each site; the rest is the depot's
    lead : (days, weights) · lanes : (days under way, days between departures) of each site
    depot, sites : on the shelves less what is promised · arrivals : (day, quantity) · boats : (day, site, quantity)
    """

    from_day: tuple[int, ...]
    a_day: tuple[float, ...]
    doubt: float | None
    shares: tuple[float, ...]
    lead: tuple[tuple[int, ...], tuple[float, ...]]
    review: int
    lanes: tuple[tuple[int, int], ...]
    depot: int
    sites: tuple[int, ...]
    arrivals: tuple[tuple[int, int], ...] = ()
    boats: tuple[tuple[int, int, int], ...] = ()
    last_order: int | None = None
    expires: Expires | None = None

    @property
    def helped_on(self) -> int:
        """The first day on which an order of today is there, as a rule: what is promised counts from it."""
        days, weights = self.lead
        return int(days[int(np.searchsorted(np.cumsum(weights), 0.5 * sum(weights) - 1e-12))])


def policies_of(parts: Sequence[PartToPlay], kept: Sequence[Kept]) -> PlayedPolicies:
    """How parts are ordered and where they are kept, the first review tomorrow.

    Parameters
    ----------
    parts : with as many sites each · kept : of each
    """
    lead_days, cumulative = lead_table([(list(part.lead[0]), list(part.lead[1])) for part in parts])
    return PlayedPolicies(
        s=np.array([own.s for own in kept]),
        lot=np.array([own.lot for own in kept]),
        review=np.array([part.review for part in parts]),
        level=_by_site([own.levels for own in kept]),
        lane=_by_site([[days for days, _ in part.lanes] for part in parts]),
        every=_by_site([[every for _, every in part.lanes] for part in parts]),
        lead_days=lead_days,
        lead_cumulative=cumulative,
        first_review=np.ones(len(parts), dtype=np.int64),
        last_order=np.array([part.last_order if part.last_order is not None else NEVER for part in parts]),
        lives=_lives(parts),
    )


def _lives(parts: Sequence[PartToPlay]) -> ShelfLives | None:
    if not any(part.expires for part in parts):
        return None
    own = [part.expires or Expires(0, 0, 1, 1) for part in parts]
    columns = zip(*((one.days, one.cap, one.pack, one.least) for one in own), strict=True)
    return ShelfLives(*(np.array(column, dtype=np.int64) for column in columns))


def changes_of(kept: Sequence[Kept]) -> tuple[Change, ...]:
    """Other reorder points and levels on later days, of all parts that have any on that day."""
    found = []
    now = list(kept)
    for day in sorted({day for own in kept for day, _, _ in own.later}):
        for place, own in enumerate(kept):
            later = next(((s, levels) for on, s, levels in own.later if on == day), None)
            if later is not None:
                now[place] = replace(now[place], s=later[0], levels=later[1])
        found.append(Change(day, np.array([one.s for one in now]), _by_site([one.levels for one in now])))
    return tuple(found)


def start_of(parts: Sequence[PartToPlay]) -> Start:
    """Where parts are on the first day."""
    return Start(
        np.array([part.depot for part in parts], dtype=np.int64),
        _by_site([part.sites for part in parts]),
        tuple((day, row, quantity) for row, part in enumerate(parts) for day, quantity in part.arrivals),
        tuple((day, row, site, quantity) for row, part in enumerate(parts) for day, site, quantity in part.boats),
        tuple((day, row, quantity) for row, part in enumerate(parts) if part.expires for day, quantity in part.expires.lots),
    )


def requests_of(parts: Sequence[PartToPlay], runs: int, seed: int) -> Requests:
    """Requests a day, each run with a level of its own drawn from the doubt about each part.

    Parameters
    ----------
    parts : to play · runs : >= 1 · seed : of the draws
    """
    draws = np.random.default_rng([seed, 2])
    level = np.stack([draws.gamma(part.doubt, 1.0 / part.doubt, runs) if part.doubt else np.ones(runs) for part in parts])
    shares = _by_site([part.shares for part in parts], float)
    places = np.concatenate((np.maximum(1.0 - shares.sum(axis=1, keepdims=True), 0.0), shares), axis=1)
    days = tuple(sorted({day for part in parts for day in part.from_day}))
    tables = []
    for day in days:
        a_day = np.array([part.a_day[int(np.searchsorted(part.from_day, day, side="right")) - 1] for part in parts])
        tables.append(a_day[:, None, None] * places[:, :, None] * level[:, None, :])
    return Requests(days, tuple(tables))


def _by_site(rows: Sequence[Sequence[int | float]], kind: type = np.int64) -> np.ndarray:
    return np.array([list(row) for row in rows], dtype=kind).reshape(len(rows), -1)
