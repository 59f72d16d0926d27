"""Workbooks and text files as companies have them, as rows of plain cells."""

from __future__ import annotations

import io
import zipfile
from datetime import date, datetime, time

import pytest
from openpyxl import Workbook

from almanac.exchange.lists import NoList, read_list

NAMESPACES = " ".join(f'xmlns:{name}="urn:oasis:names:tc:opendocument:xmlns:{name}:1.0"' for name in ("office", "table", "text"))


MANIFEST = (
    '<manifest:manifest xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0"><manifest:file-entry '
    'manifest:full-path="/" manifest:media-type="application/vnd.oasis.opendocument.spreadsheet"/></manifest:manifest>'
)


def ods(rows: list[list[str | date]]) -> bytes:
    def cell(value: str | date) -> str:
        kind = f'office:value-type="date" office:date-value="{value}"' if isinstance(value, date) else 'office:value-type="string"'
        return f"<table:table-cell {kind}><text:p>{value}</text:p></table:table-cell>"

    body = "".join(f"<table:table-row>{''.join(cell(value) for value in row)}</table:table-row>" for row in rows)
    sheet = f'<table:table table:name="Devices">{body}</table:table>'
    inside = f"<office:body><office:spreadsheet>{sheet}</office:spreadsheet></office:body>"
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
        archive.writestr("META-INF/manifest.xml", MANIFEST)
        archive.writestr("content.xml", f'<office:document-content {NAMESPACES} office:version="1.2">{inside}</office:document-content>')
    return out.getvalue()


def xlsx(rows: list[list[object]]) -> bytes:
    book = Workbook()
    sheet = book.active
    assert sheet is not None
    for row in rows:
        sheet.append(row)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def test_an_open_document_is_read() -> None:
    found = read_list("a.ods", ods([["Devices"], ["Asset tag", "Bought"], ["SK-1", date(2022, 5, 3)]]))
    (sheet,) = found.sheets
    assert (sheet.name, sheet.rows) == ("Devices", [["Devices", ""], ["Asset tag", "Bought"], ["SK-1", date(2022, 5, 3)]])


def test_cells_are_text_numbers_and_days() -> None:
    moment = datetime.combine(date(2022, 5, 3), time(8, 15))
    rows: list[list[object]] = [["a", None, 7, 7.5, True, moment, "  two   words "], [None] * 7]
    (sheet,) = read_list("a.xlsx", xlsx(rows)).sheets
    assert sheet.rows == [["a", "", 7.0, 7.5, "yes", date(2022, 5, 3), "two words"]]


def test_a_workbook_of_formulas_that_nobody_worked_out_is_said() -> None:
    with pytest.raises(NoList, match="its cells hold no values"):
        read_list("a.xlsx", xlsx([["=1+1", "=A1"]]))


@pytest.mark.parametrize(
    ("content", "how"),
    [
        (b"a;b,5\nc;d\n", "semicolons, UTF-8"),
        ("Büro;x\nc;d\n".encode("cp1252"), "semicolons, Western European"),
        ("Gerät;x\nc;d\n".encode("cp1252"), "semicolons, Western European"),
        ("Gerät muckt;Lüfter\nc;d\n".encode("mac_roman"), "semicolons, mac_roman"),
        ("Łódź;biuro\nc;d\n".encode("cp1250"), "semicolons, cp1250"),
        ("Büro\tx\nc\td\n".encode("utf-16"), "tabs, UTF-16"),
        ("Büro|x\nc|d\n".encode("utf-8-sig"), "bars, UTF-8"),
        (b'"a, b",c\n"d, e",f\n', "commas, UTF-8"),
    ],
)
def test_delimiters_and_encodings_are_told(content: bytes, how: str) -> None:
    found = read_list("a.csv", content)
    assert found.how == f"text with {how}"
    assert [len(row) for row in found.sheets[0].rows] == [2, 2]


def test_rows_are_even_and_what_is_empty_at_the_end_is_left_out() -> None:
    (sheet,) = read_list("a.csv", b"a;b;;\nc\n;;;\n").sheets
    assert sheet.rows == [["a", "b"], ["c", ""]]


def test_a_cell_merged_over_rows_says_the_same_in_each_and_a_merged_title_once() -> None:
    book = Workbook()
    sheet = book.active
    assert sheet is not None
    for row in (
        ["All machines", None, None],
        ["Tag", "Model", "Site"],
        ["A", "M", "Gullskerry"],
        ["B", "M", None],
        ["C", "M", None],
        ["D", "M", "X"],
    ):
        sheet.append(row)
    sheet.merge_cells("A1:C1")
    sheet.merge_cells("C3:C5")
    out = io.BytesIO()
    book.save(out)
    (found,) = read_list("a.xlsx", out.getvalue()).sheets
    assert found.rows[0] == ["All machines", "", ""]
    assert [row[2] for row in found.rows[2:]] == ["Gullskerry", "Gullskerry", "Gullskerry", "X"]
