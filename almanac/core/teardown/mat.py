"""Geometry of the screw mat: the machine's shape at true scale on paper, in tiles where it is larger than a sheet."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from almanac.core import checks
from almanac.core.errors import ContractError
from almanac.core.teardown.counts import NONE, Count
from almanac.core.teardown.operations import Operation

PAPER_MM = {"A4": (210.0, 297.0), "Letter": (215.9, 279.4), "A3": (297.0, 420.0)}
"""Width and height of a sheet held upright, mm."""
MARGIN_MM = 10.0
OVERLAP_MM = 10.0
RULER_MM = 100.0
FOOT_MM = 16.0
"""Strip below the drawing with the ruler and the tile's name."""


@dataclass(frozen=True)
class Spot:
    """Where a fastener lies on the mat, mm from the hinge-left corner, with its group and whether it stays in the cover."""

    x_mm: float
    y_mm: float
    group: str
    captive: bool | None
    step: int


@dataclass(frozen=True)
class Tile:
    """One sheet: its row and column, the corner of the machine at its top left, and the size it shows, mm."""

    row: int
    column: int
    x_mm: float
    y_mm: float
    width_mm: float
    depth_mm: float


@dataclass(frozen=True)
class Mat:
    """Sheets of one paper, held upright or across, with what lies on them."""

    paper: str
    across: bool
    sheet_width_mm: float
    sheet_height_mm: float
    tiles: tuple[Tile, ...]
    spots: tuple[Spot, ...]
    unplaced: tuple[tuple[int, str, str], ...]


def spots_of(steps: Sequence[Operation]) -> tuple[tuple[Spot, ...], tuple[tuple[int, str, str], ...]]:
    """Loose fasteners with a place, and those without: (step number, group, how many). Captive ones stay in their cover.

    Parameters
    ----------
    steps : of a route, in order

    Returns
    -------
    (spots, fasteners to lay into a box at the mat's edge)
    """
    spots, unplaced = [], []
    for number, step in enumerate(steps, 1):
        for item in (item for item in step.fasteners if not item.stays):
            spots += [Spot(x, y, item.group, item.captive, number) for x, y in item.at]
            left = Count(max(item.count.number - len(item.at), 0), item.count.least, item.count.about)
            if left != NONE:
                unplaced.append((number, item.group, left.words))
    return tuple(spots), tuple(unplaced)


def lay_out(width_mm: float, depth_mm: float, steps: Iterable[Operation], *, paper: str = "A4") -> Mat:
    """Tile a machine's outline over sheets of paper at true scale, with the fewest sheets.

    Parameters
    ----------
    width_mm, depth_mm : of the machine, > 0 · steps : of a route · paper : A4, Letter or A3

    Returns
    -------
    Mat : neighbouring tiles overlap by OVERLAP_MM

    Raises
    ------
    ContractError : an unknown paper or a size that is not positive
    """
    width, depth = checks.positive("width_mm", width_mm), checks.positive("depth_mm", depth_mm)
    if paper not in PAPER_MM:
        raise ContractError(f"paper: one of {', '.join(PAPER_MM)} was wanted, got {paper!r}")
    upright = PAPER_MM[paper]
    layouts = [(across, *(reversed(upright) if across else upright)) for across in (False, True)]
    across, sheet_width, sheet_height = min(layouts, key=lambda it: len(_tiles(width, depth, it[1], it[2])))
    spots, unplaced = spots_of(list(steps))
    return Mat(paper, across, sheet_width, sheet_height, _tiles(width, depth, sheet_width, sheet_height), spots, unplaced)


def _tiles(width: float, depth: float, sheet_width: float, sheet_height: float) -> tuple[Tile, ...]:
    columns, rows = _cuts(width, sheet_width - 2 * MARGIN_MM), _cuts(depth, sheet_height - 2 * MARGIN_MM - FOOT_MM)
    return tuple(Tile(row, column, x, y, w, d) for row, (y, d) in enumerate(rows) for column, (x, w) in enumerate(columns))


def _cuts(length: float, shown: float) -> list[tuple[float, float]]:
    """Start and size of each piece of a length, neighbours overlapping."""
    cuts, start = [], 0.0
    while True:
        size = min(shown, length - start)
        cuts.append((start, size))
        if start + size >= length - 1e-9:
            return cuts
        start += shown - OVERLAP_MM
