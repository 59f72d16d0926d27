"""CSV in and out: round trips, and every way a file can be wrong."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.exchange.tables import FORMULA_START, TableFault, read_csv, write_csv

cells = st.text(st.characters(exclude_categories=["C"]), max_size=12).map(str.strip).filter(lambda cell: not cell.startswith(FORMULA_START))


@given(st.lists(st.tuples(cells, cells.filter(bool)), max_size=8))
def test_what_is_written_is_read_back(rows: list[tuple[str, str]]) -> None:
    found = read_csv(write_csv(["a", "b"], rows), required=["a", "b"])
    assert [(row.cells["a"], row.cells["b"]) for row in found] == rows


def test_a_cell_a_spreadsheet_would_run_is_made_text() -> None:
    assert b"'=1+1" in write_csv(["a"], [["=1+1"]])
    assert b"-3" in write_csv(["a"], [[-3]])


def test_order_of_columns_extra_columns_empty_lines_and_short_rows() -> None:
    found = read_csv(b"\xef\xbb\xbfExtra, B ,a\r\n1,2,3\r\n\r\n,,\r\n4,5\r\n", required=["a", "b"])
    assert [(row.line, row.cells["a"], row.cells["b"]) for row in found] == [(2, "3", "2"), (5, "", "5")]


@pytest.mark.parametrize(
    ("data", "message"),
    [
        (b"", "line 1: a header row was wanted"),
        (b"a\n1\n", "line 1: missing column b; the header has a"),
        (b"a,b,a\n", "line 1: column a is named twice"),
        (b"a,b\n1,2\n\xff,3\n", "line 3: not UTF-8"),
        ("a,b\n1,2\n".encode("utf-16"), "not UTF-8"),
        (b"a,b\n1,2,3\n", "line 2: 3 cells, the header has 2"),
        (b'a,b\n"1,2\n', "check the quotes"),
        (b"a,b\n1,\x002\n", "control character"),
        (b"a,b\n1,2\n3,4\n5,6\n", "more than 2 rows"),
    ],
)
def test_a_file_that_is_wrong_names_the_place_and_the_cure(data: bytes, message: str) -> None:
    with pytest.raises(TableFault, match=message):
        read_csv(data, required=["a", "b"], most_rows=2)
