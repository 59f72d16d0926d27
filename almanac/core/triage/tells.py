"""What a test tells, in a plain sentence beside its bits."""

from __future__ import annotations

import math
from collections.abc import Sequence

from almanac.core.triage.knowledge import Test
from almanac.core.triage.table import Row

FROM_ALL = 0.8
"""From this share of what a test tells on, it is one cause that it tells from all others."""


def tells(rows: Sequence[Row], test: Test) -> str:
    """What a test tells apart.

    Parameters
    ----------
    rows : the table as it stands · test : not made yet

    Returns
    -------
    str : "tells X from Y", "tells X from all else"; empty where every outcome is as likely under each hypothesis
    """
    pairs = {
        (a, b): rows[a].posterior * rows[b].posterior * apart(test, rows[a].hypothesis.id, rows[b].hypothesis.id)
        for a in range(len(rows))
        for b in range(a + 1, len(rows))
    }
    total = sum(pairs.values())
    if total <= 0:
        return ""
    mine = [sum(worth for pair, worth in pairs.items() if place in pair) for place in range(len(rows))]
    best = max(range(len(rows)), key=lambda place: mine[place])
    if mine[best] >= FROM_ALL * total and len(rows) > 2 and _beside(test, rows, best):
        return f"tells {_words(rows[best])} from all else"
    one, other = max(pairs, key=lambda pair: pairs[pair])
    first, second = sorted((one, other), key=lambda place: -mine[place])
    return f"tells {_words(rows[first])} from {_words(rows[second])}"


def _beside(test: Test, rows: Sequence[Row], best: int) -> bool:
    """Whether it tells one cause from every other one that may be, and not only from the likeliest."""
    others = [row for place, row in enumerate(rows) if place != best]
    return all(apart(test, rows[best].hypothesis.id, row.hypothesis.id) > 0.01 for row in others)


def apart(test: Test, one: str, other: str) -> float:
    """How differently two hypotheses answer a test: the Jensen-Shannon divergence of their outcomes, in bits.

    References
    ----------
    Lin (1991), Divergence measures based on the Shannon entropy, IEEE Transactions on Information Theory 37.
    """
    first, second = test.chances.get(one, test.otherwise), test.chances.get(other, test.otherwise)
    middle = [(a + b) / 2 for a, b in zip(first, second, strict=True)]
    return (_divergence(first, middle) + _divergence(second, middle)) / 2


def _divergence(shares: Sequence[float], other: Sequence[float]) -> float:
    return sum(share * math.log2(share / against) for share, against in zip(shares, other, strict=True))


def _words(row: Row) -> str:
    words = row.hypothesis.words
    return f"“{words[0].lower()}{words[1:]}”"
