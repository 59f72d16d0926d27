"""Printed sheets: text that could be markup stays text, and a PDF comes out."""

from __future__ import annotations

from almanac.exchange.sheets import TEMPLATES, CountLine, SheetGroup, SheetLine, buying_sheet, count_pdf

GROUP = SheetGroup("Maker <b>& Sons</b>", [SheetLine("4 Dec 2026", "OB-1", "Pack <script>", "4", "EUR 61.00", "EUR 244.00")], "EUR 244.00")


def test_a_name_that_looks_like_markup_stays_text() -> None:
    page = TEMPLATES.get_template("sheet.html").render(title="T", about="A", groups=[GROUP], fonts="file:///fonts")
    assert "Pack &lt;script&gt;" in page
    assert "<script>" not in page
    assert "Maker &lt;b&gt;&amp; Sons" in page


def test_a_sheet_is_a_pdf_of_as_many_pages_as_it_needs() -> None:
    short = buying_sheet("Buying list", "all sites", [GROUP])
    long = buying_sheet("Buying list", "all sites", [SheetGroup("M", GROUP.lines * 120, "EUR 1.00")])
    assert short.startswith(b"%PDF-")
    assert short.count(b"/Type /Page\n") + short.count(b"/Type /Page/") <= long.count(b"/Type /Page\n") + long.count(b"/Type /Page/")
    assert len(long) > len(short)
    assert buying_sheet("Buying list", "nothing is due", []).startswith(b"%PDF-")


def test_a_blind_count_sheet_has_no_column_of_what_is_booked() -> None:
    line = CountLine("C-14", "OB-1", "Pack <b>", "7", "never", True)
    page = TEMPLATES.get_template("count.html")
    blind = page.render(title="T", about="A", lines=[line], blind=True, fonts="file:///fonts")
    assert "Booked" not in blind
    assert ">7<" not in blind
    assert "Pack &lt;b&gt;" in blind
    assert ">7<" in page.render(title="T", about="A", lines=[line], blind=False, fonts="file:///fonts")
    assert count_pdf("T", "A", [line], blind=True).startswith(b"%PDF-")
