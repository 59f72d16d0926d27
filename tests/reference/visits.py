"""Published times that are only known to lie between two visits: Finkelstein & Wolfe (1985), Biometrics 41, 46 patients."""

from __future__ import annotations

import numpy as np

from almanac.core.life.tenures import AgeCounts, age_counts

FOUND = [
    (0, 7), (0, 8), (0, 5), (4, 11), (5, 12), (5, 11), (6, 10), (7, 16), (7, 14), (11, 15), (11, 18), (17, 25), (17, 25), (19, 35),
    (18, 26), (25, 37), (26, 40), (27, 34), (36, 44), (36, 48), (37, 44),
]  # fmt: skip
LEFT = [15, 17, 18, 22, 24, 24, 32, 33, 34, 36, 36, 37, 37, 37, 38, 40, 45, *[46] * 8]


def published() -> AgeCounts:
    """Months until a change was seen after treatment by radiation alone."""
    low, high = [a for a, _ in FOUND] + LEFT, [b for _, b in FOUND] + LEFT
    return age_counts(np.zeros(46), high, [1.0] * 21 + [0.0] * 25, looked=low)
