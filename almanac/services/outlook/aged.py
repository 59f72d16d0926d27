"""Laws of parts that wear out, kept by content: a changed target or price asks for the same law again, and gets it at once."""

from __future__ import annotations

from dataclasses import fields
from hashlib import blake2b

import numpy as np
from numpy.typing import NDArray

from almanac.core.demand.cells import Cells
from almanac.core.demand.law import DemandLaw
from almanac.core.demand.life_tables import LifeTables
from almanac.core.demand.trends import Trends
from almanac.core.demand.wear_law import WearLaw, wear_law
from almanac.core.demand.wear_out import WearOut
from almanac.services.remembered import Remembered

REMEMBERED: Remembered[WearLaw] = Remembered(4096)


def kept_law(
    constant: DemandLaw,
    lives: tuple[LifeTables, bytes],
    pools: NDArray[np.int64],
    rows: Cells,
    followed: Trends | None,
    near_days: int,
) -> WearLaw:
    """The law with ages: `lives` tables with their key, `pools` their rows in them, `constant` gives streams, plans and exposure."""
    tables, tables_key = lives
    key = _content(constant, tables_key, pools, rows, followed, near_days)
    return REMEMBERED.get(key, lambda: wear_law(constant, WearOut(tables, pools, rows, followed), near_days=near_days))


def _content(
    constant: DemandLaw, tables_key: bytes, pools: NDArray[np.int64], rows: Cells, followed: Trends | None, near_days: int
) -> bytes:
    digest = blake2b(tables_key, digest_size=24)
    digest.update(repr((constant.side, constant.dead_on_arrival, near_days)).encode())
    planned = (constant.planned_swaps, constant.planned_fittings, constant.own_days)
    records = (constant.failures, constant.exposure_years, constant.in_service)
    read = () if followed is None else tuple(getattr(followed, item.name) for item in fields(followed))
    for array in (*records, *planned, *read, pools, rows.pool, rows.age, rows.units, rows.enter, rows.leave):
        if array is not None:
            digest.update(repr(array.shape).encode())
            digest.update(np.ascontiguousarray(array).tobytes())
    return digest.digest()
