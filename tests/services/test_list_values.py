"""Amounts and spans of time as people write them."""

from __future__ import annotations

from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.services.intake.amounts import amount_of, currency_of, marks_of
from almanac.services.intake.durations import span_of


@pytest.mark.parametrize(
    ("cell", "decimal", "amount"),
    [
        ("1.234,50 €", ",", "1234.50"), ("€ 17,5", ",", "17.5"), ("1'234.50", ".", "1234.50"), ("1 234,5", ",", "1234.5"), ("12", ",", "12"),
        ("-3", ".", "-3"), ("1.234", ",", "1234"), ("1.234", ".", "1.234"), ("1,234,567", ".", "1234567"), ("10 Stk", ",", "10"),
        ("CHF 9.90", ".", "9.90"), ("17.50", ",", None), ("17,50", ".", None), ("n/a", ".", None), ("", ".", None), ("1.2.3", ".", None), ("auf Anfrage", ",", None),
    ],
)  # fmt: skip
def test_amounts_are_read_with_the_sign_of_their_list(cell: str, decimal: str, amount: str | None) -> None:
    assert amount_of(cell, decimal=decimal) == (None if amount is None else Decimal(amount))


def test_a_number_of_a_workbook_is_itself() -> None:
    assert amount_of(17.5, decimal=",") == Decimal("17.5")
    assert amount_of(float("nan"), decimal=",") is None


def test_one_row_proves_the_sign_for_all_and_thousands_alone_prove_none() -> None:
    assert marks_of([(2, "1.234"), (3, "17,50")]).settled == ","
    assert marks_of([*((n, "17,50") for n in range(10)), (11, "17.50")]).settled == ","
    assert marks_of([*((n, "17,50") for n in range(9)), (11, "17.50")]).settled is None
    assert marks_of([(2, "1,234"), (3, "17.50")]).settled == "."
    assert marks_of([(2, "1.234")]).settled is None
    assert marks_of([(2, "1.234")]).open == ((2, "1.234"),)
    assert marks_of([(2, "17,50"), (3, "17.50")]).settled is None
    assert marks_of([(2, "17,50"), (3, "17.50"), (4, "1,5")]).likely == ","
    assert marks_of([(2, "0.500")]).settled == "."
    assert marks_of([(2, "1234,567")]).settled == ","
    assert marks_of([(2, "1.234.567")]).settled == ","
    assert marks_of([(2, "7"), (3, 4.5)]).settled == "."


@given(st.decimals(min_value=0, max_value=10**6, places=2), st.sampled_from([(",", "."), (".", ","), (",", " "), (".", "'"), (".", "")]))
def test_what_is_written_with_both_signs_reads_back(value: Decimal, signs: tuple[str, str]) -> None:
    decimal, thousands = signs
    text = f"{value:,.2f}".replace(",", "t").replace(".", decimal).replace("t", thousands)
    assert amount_of(text, decimal=decimal) == value


@pytest.mark.parametrize(
    ("cell", "currency"),
    [
        ("€ 5", "EUR"),
        ("5 EUR", "EUR"),
        ("USD 5", "USD"),
        ("$5", "USD"),
        ("5", None),
        ("5 Stk", None),
        ("5 € / Stk", None),
        ("EUR 5/Stk", "EUR"),
        ("Fr. 5.-", "CHF"),
    ],
)
def test_currencies_by_sign_and_code(cell: str, currency: str | None) -> None:
    assert currency_of(cell) == currency


@pytest.mark.parametrize(
    ("text", "header", "span"),
    [
        ("21", "", (21, 21)), ("3 weeks", "", (21, 21)), ("18-25 Tage", "", (18, 25)), ("2 bis 3 Wochen", "", (14, 21)), ("2 ans", "", (730, 730)),
        ("3", "Lieferzeit (Wochen)", (21, 21)), ("24", "Warranty (months)", (720, 720)), ("ca. 10 Tage", "", (10, 10)), ("bald", "", None),
        ("0", "", None), ("25-18 days", "", None), ("14 à 21 jours", "", (14, 21)),
    ],
)  # fmt: skip
def test_spans_of_time_in_three_languages(text: str, header: str, span: tuple[int, int] | None) -> None:
    assert span_of(text, header) == span
