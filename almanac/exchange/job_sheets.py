"""Sheets of a job for work on paper: the bench sheet in large type, the record, and tags for the trays."""

from __future__ import annotations

from dataclasses import dataclass

import segno

from almanac.exchange.sheets import FONTS, TEMPLATES

LARGE, USUAL = 14, 10


@dataclass(frozen=True)
class SheetLine:
    """One line: a box to tick where there is something to do, cautions before it, notes after it."""

    text: str
    number: str = ""
    aside: str = ""
    cautions: tuple[str, ...] = ()
    notes: tuple[str, ...] = ()
    box: bool = False


@dataclass(frozen=True)
class SheetPart:
    """Lines under a running head."""

    title: str
    lines: tuple[SheetLine, ...]


@dataclass(frozen=True)
class JobSheet:
    """A sheet of a job; `large` is for reading at arm's length."""

    title: str
    about: str
    foot: str
    cautions: tuple[str, ...]
    parts: tuple[SheetPart, ...]
    large: bool = False

    @property
    def point_size(self) -> int:
        """Size of the running text in points."""
        return LARGE if self.large else USUAL


@dataclass(frozen=True)
class TrayTag:
    """A tag for a compartment of the tray: what it says, and what a scanner reads."""

    title: str
    lines: tuple[str, ...]
    scanned: str

    @property
    def code(self) -> str:
        """The QR code as an image to place."""
        return str(segno.make(self.scanned, error="m").svg_data_uri(scale=4, border=1))


def job_pdf(sheet: JobSheet) -> bytes:
    """A sheet as PDF."""
    from weasyprint import HTML

    page = TEMPLATES.get_template("bench.html").render(sheet=sheet, fonts=FONTS.as_uri())
    return bytes(HTML(string=page).write_pdf())


def tags_pdf(title: str, tags: list[TrayTag]) -> bytes:
    """Tags to cut out, ten a page."""
    from weasyprint import HTML

    page = TEMPLATES.get_template("tags.html").render(title=title, tags=tags, fonts=FONTS.as_uri())
    return bytes(HTML(string=page).write_pdf())


def labels_pdf(title: str, tags: list[TrayTag]) -> bytes:
    """Labels for a label printer, 62 by 29 mm, one a page."""
    from weasyprint import HTML

    page = TEMPLATES.get_template("labels.html").render(title=title, tags=tags, fonts=FONTS.as_uri())
    return bytes(HTML(string=page).write_pdf())
