"""Windows that slide over rows, as views."""

from __future__ import annotations

import numpy as np

from almanac.core import checks


def windows(row: checks.Floats, count: int) -> checks.Floats:
    """(..., count, n - count + 1) the parts of each row that begin at 0 .. count-1; the general way takes longer than the sum over them.

    Parameters
    ----------
    row : (..., n), contiguous · count : from 1 to n
    """
    step = row.strides[-1]
    shape, strides = (*row.shape[:-1], count, row.shape[-1] - count + 1), (*row.strides[:-1], step, step)
    return np.ndarray(shape, row.dtype, row, 0, strides)
