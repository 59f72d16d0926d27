"""Printed sheets as PDF, laid out by WeasyPrint from a template; fonts are those of the interface."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import segno
from jinja2 import Environment, FileSystemLoader

FONTS = Path(__file__).resolve().parents[2] / "frontend" / "node_modules" / "@fontsource-variable"
TEMPLATES = Environment(loader=FileSystemLoader(Path(__file__).parent / "templates"), autoescape=True)


@dataclass(frozen=True)
class SheetLine:
    """One line of a buying sheet, already in words."""

    order_by: str
    number: str
    name: str
    quantity: str
    price: str
    cost: str


@dataclass(frozen=True)
class SheetGroup:
    """Lines that belong together, with their sum."""

    name: str
    lines: list[SheetLine]
    cost: str


def buying_sheet(title: str, about: str, groups: list[SheetGroup]) -> bytes:
    """A buying list to print and tick off: one table a supplier."""
    from weasyprint import HTML

    page = TEMPLATES.get_template("sheet.html").render(title=title, about=about, groups=groups, fonts=FONTS.as_uri())
    return bytes(HTML(string=page).write_pdf())


@dataclass(frozen=True)
class RouteLine:
    """One step of a route in words: what, with which tool, minutes, marks, what it touches, and cautions before it."""

    text: str
    tool: str
    minutes: str
    marks: str
    touches: list[str]
    cautions: list[str]


@dataclass(frozen=True)
class RouteSheet:
    """A route to print: steps in, steps back, kit, tray and leads to tick off."""

    title: str
    about: str
    notes: list[str]
    kit: list[tuple[str, str]]
    steps: list[RouteLine]
    back: list[RouteLine]
    tray: list[tuple[str, str, str, str]]
    leads: list[str]


def route_pdf(sheet: RouteSheet) -> bytes:
    """A route sheet with a box to tick at every step; cautions stand before the step they concern."""
    from weasyprint import HTML

    page = TEMPLATES.get_template("route.html").render(sheet=sheet, fonts=FONTS.as_uri())
    return bytes(HTML(string=page).write_pdf())


@dataclass(frozen=True)
class CountLine:
    """One shelf to count, already in words. booked : empty on a blind sheet · due : its turn has come"""

    place: str
    number: str
    name: str
    booked: str
    last: str
    due: bool


def count_pdf(title: str, about: str, lines: list[CountLine], *, blind: bool) -> bytes:
    """A sheet to count shelves with; a blind one has no column of what is booked."""
    from weasyprint import HTML

    page = TEMPLATES.get_template("count.html").render(title=title, about=about, lines=lines, blind=blind, fonts=FONTS.as_uri())
    return bytes(HTML(string=page).write_pdf())


@dataclass(frozen=True)
class DocumentLine:
    """One line of an order, already in words. about : what a carrier has to know"""

    number: str
    name: str
    quantity: str
    price: str
    cost: str
    wanted_on: str
    about: str


@dataclass(frozen=True)
class OrderSheet:
    """An order for its supplier."""

    number: str
    supplier: str
    deliver_to: str
    placed_on: str
    people: str
    note: str
    total: str
    lines: list[DocumentLine]
    scanned: str

    @property
    def code(self) -> str:
        """The QR code as an image to place."""
        return str(segno.make(self.scanned, error="m").svg_data_uri(scale=4, border=1))


def order_pdf(sheet: OrderSheet) -> bytes:
    """An order to print or send."""
    from weasyprint import HTML

    page = TEMPLATES.get_template("order.html").render(sheet=sheet, title=sheet.number, fonts=FONTS.as_uri())
    return bytes(HTML(string=page).write_pdf())


@dataclass(frozen=True)
class PackingLine:
    """One box of a packing list, already in words. about : what a carrier has to know"""

    number: str
    name: str
    from_site: str
    quantity: str
    stands: str
    about: str


def packing_pdf(title: str, about: str, lines: list[PackingLine]) -> bytes:
    """A packing list: a box to tick a line when it is packed, and one when it arrived."""
    from weasyprint import HTML

    page = TEMPLATES.get_template("packing.html").render(title=title, about=about, lines=lines, fonts=FONTS.as_uri())
    return bytes(HTML(string=page).write_pdf())
