"""Headers in three languages, days as people write them, and words for machines that are gone."""

from __future__ import annotations

from datetime import date

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.services.intake.columns import field_of, header_of, plain, proposed
from almanac.services.intake.machines.fields import FIELDS, means_gone
from almanac.services.intake.values import day_of, order_of


@pytest.mark.parametrize(
    ("header", "field"),
    [
        ("Asset Tag", "tag"), ("Inventar-Nr.", "tag"), ("N° d'inventaire", "tag"), ("Serial #", "serial"), ("S/N", "serial"),
        ("Seriennummer", "serial"), ("Hersteller", "maker"), ("Gerätetyp", "model"), ("Modèle", "model"), ("Standort", "site"),
        ("Emplacement", "site"), ("Purchase date", "in_service_on"), ("Kaufdatum", "in_service_on"), ("Date d'achat", "in_service_on"),
        ("Mise en service", "in_service_on"), ("Leasing-Ende", "retire_planned_on"), ("État", "status"), ("Zustand", "status"),
        ("Modellbezeichnng", None), ("Kostenstelle", None), ("", None), ("Anschaffungsdatm", "in_service_on"),
    ],
)  # fmt: skip
def test_headers_are_known_in_three_languages(header: str, field: str | None) -> None:
    assert field_of(header, FIELDS) == field


def test_the_header_is_the_row_that_names_most() -> None:
    rows = [["Devices of the company", "", ""], ["", "", ""], ["Asset tag", "Model", "Location"], ["SK-1", "Packet 14", "Type B"]]
    assert header_of(rows, FIELDS) == (2, frozenset({"tag", "model", "site"}))
    assert header_of([["a", "b"], ["c", "d"]], FIELDS) is None
    assert header_of([["Model", "b"]], FIELDS) is None


def test_columns_without_a_name_are_told_by_what_stands_in_them() -> None:
    known = {"tag": {"sk 1", "sk 2"}, "site": {"gullskerry"}, "model": {"packet 14"}, "maker": {"ostrel"}}
    body = [["SK-1", "Ostrel", "Packet 14", "Gullskerry", "03.05.2022"], ["SK-2", "Ostrel", "Packet 14", "Gullskerry", "04.05.2022"]]
    assert proposed(["A", "B", "C", "D", "E"], body, known, FIELDS) == {"tag": 0, "maker": 1, "model": 2, "site": 3, "in_service_on": 4}
    assert proposed(["Tag", "Model", "Tag"], [["SK-1", "X", "Y"]], known, FIELDS) == {"tag": 0, "model": 1}


@pytest.mark.parametrize(
    ("status", "gone"),
    [("verschrottet", True), ("Ausgemustert 2025", True), ("mis au rebut", True), ("sold", True), ("in use", False), ("im Einsatz", False), ("", False)],
)  # fmt: skip
def test_words_for_machines_that_are_gone(status: str, gone: bool) -> None:
    assert means_gone(status) is gone


def test_a_point_proves_nothing_and_thirteen_does() -> None:
    found = order_of([(2, "03.05.2022"), (3, "13/5/22"), (4, "3/5/22"), (5, "5/5/22"), (6, date(2022, 3, 5)), (7, 44684.0), (8, "soon")])
    assert found.day_first == ((3, "13/5/22"),)
    assert found.open == ((4, "3/5/22"),)
    assert found.settled is True
    assert order_of([(2, "3/14/22")]).settled is False
    assert order_of([(2, "3/4/22")]).settled is None
    assert order_of([(2, "3/14/22"), (3, "14/3/22")]).settled is None
    assert order_of([(2, "03.05.2022")]).settled is True
    assert order_of([]).settled is True


@given(st.dates(date(1990, 1, 1), date(2069, 12, 31)))
def test_every_day_is_read_as_it_is_written(day: date) -> None:
    iso, german = day.isoformat(), f"{day.day}.{day.month}.{day.year}"
    slashed, short = f"{day.month}/{day.day}/{day.year}", f"{day.day:02d}/{day.month:02d}/{day.year % 100:02d}"
    beyond = day_of(iso, day_first=True) is None
    for cell, first in ((iso, True), (german, True), (german, False), (slashed, False), (day, True), (f"{iso} 08:15", False)):
        assert day_of(cell, day_first=first) == (None if beyond else day)
    if day.year >= 1970:
        assert day_of(short, day_first=True) == (None if beyond else day)
    serial = float((day - date(1899, 12, 30)).days)
    assert day_of(serial, day_first=True) == (None if beyond else day)


@pytest.mark.parametrize("cell", ["", "31.02.2022", "2022-13-01", "soon", "12", 7.0, "3/5"])
def test_what_is_no_day_is_none(cell: str | float) -> None:
    assert day_of(cell, day_first=True) is None


def test_plain_text_is_what_people_mean() -> None:
    assert plain("  Büro-Gerät  Nr. 7 ") == "buero geraet nr 7"
    assert plain("N° d'Inventaire") == plain("n d inventaire")
