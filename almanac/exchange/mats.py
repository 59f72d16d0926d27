"""The screw mat as PDF: the machine's outline at true scale, a place for every screw, a ruler to check the print."""

from __future__ import annotations

from dataclasses import dataclass

from almanac.core.teardown.mat import MARGIN_MM, OVERLAP_MM, RULER_MM, Mat, Spot, Tile
from almanac.core.teardown.operations import Box
from almanac.exchange.sheets import FONTS, TEMPLATES


@dataclass(frozen=True)
class MatSheet:
    """What a mat shows: the machine's size, its edge that lies away, spots, the steps by number, and the outlines of parts."""

    name: str
    width_mm: float
    depth_mm: float
    hinge_edge: str
    mat: Mat
    steps: list[str]
    boxes: list[tuple[str, Box]]


@dataclass(frozen=True)
class GroupMark:
    """A length group with the letter that stands for it on the mat."""

    letter: str
    group: str
    count: int


def group_marks(spots: tuple[Spot, ...]) -> list[GroupMark]:
    """A letter for every group, in the order they are met."""
    counts: dict[str, int] = {}
    for spot in spots:
        counts[spot.group] = counts.get(spot.group, 0) + 1
    return [GroupMark(chr(ord("A") + place % 26), group, count) for place, (group, count) in enumerate(counts.items())]


def mat_html(sheet: MatSheet) -> str:
    """The mat as HTML with drawings in mm; one page a tile, then the list of what has no place."""
    marks = group_marks(sheet.mat.spots)
    letters = {mark.group: mark.letter for mark in marks}
    return TEMPLATES.get_template("mat.html").render(
        sheet=sheet,
        mat=sheet.mat,
        tiles=[(tile, [spot for spot in sheet.mat.spots if _inside(spot, tile)]) for tile in sheet.mat.tiles],
        marks=marks,
        letters=letters,
        margin=MARGIN_MM,
        overlap=OVERLAP_MM,
        ruler=RULER_MM,
        fonts=FONTS.as_uri(),
    )


def _inside(spot: Spot, tile: Tile) -> bool:
    return tile.x_mm <= spot.x_mm <= tile.x_mm + tile.width_mm and tile.y_mm <= spot.y_mm <= tile.y_mm + tile.depth_mm


def mat_pdf(sheet: MatSheet) -> bytes:
    """The mat as PDF; printed at 100% a millimetre is a millimetre."""
    from weasyprint import HTML

    return bytes(HTML(string=mat_html(sheet)).write_pdf())
