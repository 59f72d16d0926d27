"""The battery report that a desktop system writes, as XML or as a page of HTML; energies in mWh."""

from __future__ import annotations

import re
from html.parser import HTMLParser
from xml.etree import ElementTree

from almanac.core.workbench.reported import PackSeen
from almanac.exchange.reports.seen import Seen, number, serial_of, whole

FIELDS = {"DESIGN CAPACITY": "design", "FULL CHARGE CAPACITY": "full", "CYCLE COUNT": "cycles", "SERIAL NUMBER": "serial"}


class BatteryFault(Exception):
    """The document is no battery report that is understood."""


def from_xml(document: str) -> Seen:
    """Every pack of the report's XML.

    Raises
    ------
    BatteryFault : it is not well formed, or declares entities, which no report does
    """
    if "<!DOCTYPE" in document or "<!ENTITY" in document:
        raise BatteryFault("the XML declares a document type: no battery report does, it is not read")
    try:
        root = ElementTree.fromstring(document)  # noqa: S314 -- without a document type there are no entities to expand
    except ElementTree.ParseError as error:
        raise BatteryFault(f"line {error.position[0]}: no XML: {error.args[0].split(':')[0]}") from error
    packs = [{_local(field.tag): (field.text or "").strip() for field in entry} for entry in root.iter() if _local(entry.tag) == "Battery"]
    found = [
        _pack(pack.get("DesignCapacity", ""), pack.get("FullChargeCapacity", ""), pack.get("CycleCount", ""), pack.get("SerialNumber", ""))
        for pack in packs
        if "DesignCapacity" in pack
    ]
    return Seen("battery report", packs=tuple(found))


def from_html(document: str) -> Seen:
    """Every pack of the report's page: the first table whose rows are called design capacity and full charge capacity."""
    reader = _Rows()
    reader.feed(document)
    columns: dict[str, list[str]] = {}
    for row in reader.rows:
        name = FIELDS.get(" ".join(row[0].split()).upper()) if row else None
        if name and name not in columns:
            columns[name] = row[1:]
    count = len(columns.get("design", []))
    found = [_pack(*(_at(columns, name, place) for name in ("design", "full", "cycles", "serial"))) for place in range(count)]
    return Seen("battery report", packs=tuple(found))


def _pack(design: str, full: str, cycles: str, serial: str) -> PackSeen:
    counted = number(cycles)
    return PackSeen(
        design_wh=_watt_hours(design), full_wh=_watt_hours(full), cycles=int(counted) if counted else None, serial=serial_of(serial)
    )


def _watt_hours(words: str) -> float | None:
    """mWh with whatever groups its thousands; nought is how such a report says that it does not know."""
    figure = whole(re.sub(r"mWh", "", words).strip())
    return figure / 1000 if figure else None


def _at(columns: dict[str, list[str]], name: str, place: int) -> str:
    values = columns.get(name, [])
    return values[place].strip() if place < len(values) else ""


def _local(tag: str) -> str:
    return tag.rsplit("}", 1)[-1]


class _Rows(HTMLParser):
    """Rows of every table as the text of their cells."""

    def __init__(self) -> None:
        super().__init__(convert_charrefs=True)
        self.rows: list[list[str]] = []
        self._cell = False

    def handle_starttag(self, tag: str, _attrs: list[tuple[str, str | None]]) -> None:
        if tag == "tr":
            self.rows.append([])
        if tag in ("td", "th"):
            self._cell = True
            if self.rows:
                self.rows[-1].append("")

    def handle_endtag(self, tag: str) -> None:
        if tag in ("td", "th", "tr", "table"):
            self._cell = False

    def handle_data(self, data: str) -> None:
        if self._cell and self.rows and self.rows[-1]:
            self.rows[-1][-1] += data
