"""Which parts are one and the same for stock: two-way equivalents are pooled, one-way substitutes are not (rule N2)."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components


def equivalence_groups(parts: Iterable[int], serves_as: Iterable[tuple[int, int]]) -> dict[int, int]:
    """Map every part to the first part (lowest id) of its group of two-way equivalents.

    Parameters
    ----------
    parts : ids · serves_as : directed pairs (part, stands in for)

    Returns
    -------
    dict : part id to the id that leads its group; a part without equivalents leads itself

    Raises
    ------
    Nothing: pairs naming other parts are ignored.
    """
    ids = sorted(set(parts))
    place = {part: index for index, part in enumerate(ids)}
    known = {(a, b) for a, b in serves_as if a in place and b in place}
    both = [(place[a], place[b]) for a, b in known if (b, a) in known]
    if not both:
        return {part: part for part in ids}
    rows, columns = np.array(both).T
    graph = coo_matrix((np.ones(len(both)), (rows, columns)), shape=(len(ids), len(ids)))
    _, labels = connected_components(graph, directed=False)
    leader: dict[int, int] = {}
    for part, label in zip(ids, labels, strict=True):
        leader.setdefault(int(label), part)
    return {part: leader[int(label)] for part, label in zip(ids, labels, strict=True)}
