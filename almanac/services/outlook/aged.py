"""Laws of parts that wear out, kept by content: a changed target or price asks for the same law again, and gets it at once."""

from __future__ import annotations

from hashlib import blake2b

import numpy as np
from numpy.typing import NDArray

from almanac.core.demand.law import DemandLaw
from almanac.core.demand.life_tables import LifeTables
from almanac.core.demand.wear_law import WearLaw, wear_law
from almanac.core.demand.wear_out import Cells, WearOut
from almanac.services.remembered import Remembered

REMEMBERED: Remembered[WearLaw] = Remembered(4096)


def kept_law(constant: DemandLaw, tables: LifeTables, fit_key: bytes, pools: NDArray[np.int64], rows: Cells, near_days: int) -> WearLaw:
    """The law with ages: `tables` of the fit with that key, `pools` their rows in it, `constant` gives streams, plans and exposure."""
    key = _content(constant, fit_key, pools, rows, near_days)
    return REMEMBERED.get(key, lambda: wear_law(constant, WearOut(tables, pools, rows), near_days=near_days))


def _content(constant: DemandLaw, fit_key: bytes, pools: NDArray[np.int64], rows: Cells, near_days: int) -> bytes:
    digest = blake2b(fit_key, digest_size=24)
    digest.update(repr((constant.side, constant.dead_on_arrival, near_days)).encode())
    planned = (constant.planned_swaps, constant.planned_fittings, constant.own_days)
    records = (constant.failures, constant.exposure_years, constant.in_service)
    for array in (*records, *planned, pools, rows.pool, rows.age, rows.units, rows.enter, rows.leave):
        if array is not None:
            digest.update(repr(array.shape).encode())
            digest.update(np.ascontiguousarray(array).tobytes())
    return digest.digest()
