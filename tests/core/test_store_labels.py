"""Labels say what a scanner reads back, and whatever else is scanned is taken as a number."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from almanac.core.stock.labels import Scanned, lot_label, order_label, read_label, shelf_label

WORD = st.text(st.characters(categories=("Lu", "Nd"), include_characters="-."), min_size=1, max_size=12)


@given(WORD, WORD, st.lists(WORD, min_size=1, max_size=3))
def test_what_a_label_says_is_read_back(number: str, site: str, lot: list[str]) -> None:
    assert read_label(shelf_label(number, site)) == Scanned("shelf", number, site)
    assert read_label(lot_label(number, site, " ".join(lot))) == Scanned("lot", number, site, " ".join(lot))
    assert read_label(order_label(number)) == Scanned("order", number)
    assert read_label(f"  shelf {number}  {site} ") == Scanned("shelf", number, site)


@given(st.text(max_size=60))
def test_whatever_is_scanned_is_something(text: str) -> None:
    found = read_label(text)
    assert found.kind in ("", "shelf", "lot", "order")
    assert found.kind or found.number == text.strip()


def test_a_label_that_is_cut_off_is_no_label() -> None:
    assert read_label("SHELF OF-P14") == Scanned("", "SHELF OF-P14")
    assert read_label("LOT OF-P14 ELD") == Scanned("", "LOT OF-P14 ELD")
    assert read_label("ORDER") == Scanned("", "ORDER")
