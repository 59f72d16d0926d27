"""Keys of answers: equal content has equal keys in every process, and any change of content changes them."""

from __future__ import annotations

import subprocess
import sys
from collections.abc import Callable
from dataclasses import dataclass, field, fields
from datetime import UTC, date, datetime
from decimal import Decimal
from enum import Enum
from typing import Any, ClassVar, NamedTuple

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.core.answers.encode import key_of
from almanac.core.answers.question import Named, Question
from almanac.core.errors import ContractError


class Colour(Enum):
    RED = "red"
    BLUE = "blue"


class Row(NamedTuple):
    part: int
    age: float


@dataclass(frozen=True)
class Rates(Question[float]):
    NAME: ClassVar[str] = "rates"
    VERSION: ClassVar[int] = 1
    rows: tuple[Row, ...]
    ages: Any = field(default_factory=lambda: np.array([1.0, 2.0]))
    weights: dict[str, float] = field(default_factory=dict)

    def compute(self) -> float:
        return float(self.ages.sum()) + sum(row.age for row in self.rows)


PLAIN = st.one_of(
    st.none(), st.booleans(), st.integers(), st.floats(allow_nan=False), st.text(max_size=4), st.binary(max_size=4), st.dates()
)
VALUES = st.recursive(
    PLAIN, lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=3), inner, max_size=3), max_leaves=8
)


@given(VALUES, VALUES)
def test_different_values_have_different_keys(one: Any, other: Any) -> None:
    same = repr(_canonical(one)) == repr(_canonical(other))
    assert (key_of(one) == key_of(other)) == same


def _canonical(value: Any) -> Any:
    if isinstance(value, dict):
        return {"pairs": sorted((key, repr(_canonical(item))) for key, item in value.items())}
    return [_canonical(item) for item in value] if isinstance(value, list) else (type(value).__name__, value)


@pytest.mark.parametrize(
    ("one", "other"),
    [
        (1, True),
        (1, 1.0),
        ("1", 1),
        ("", None),
        (b"a", "a"),
        (["ab", "c"], ["a", "bc"]),
        ([[1], 2], [1, [2]]),
        (date(2026, 1, 1), datetime(2026, 1, 1, tzinfo=UTC)),
        (np.array([1, 2]), np.array([1.0, 2.0])),
        (np.array([[1, 2]]), np.array([1, 2])),
        (Colour.RED, Colour.BLUE),
        (Row(1, 2.0), Row(1, 2.5)),
        (0.0, -0.0),
    ],
)
def test_values_that_look_alike_are_told_apart(one: Any, other: Any) -> None:
    assert key_of(one) != key_of(other)


@pytest.mark.parametrize(
    ("one", "other"),
    [
        ({"a": 1, "b": 2}, {"b": 2, "a": 1}),
        ({1, 2, 3}, {3, 2, 1}),
        ((1, 2), [1, 2]),
        (Decimal("1.0"), Decimal("1.00")),
        (np.array([1.0, 2.0]), np.array([9.0, 1.0, 2.0])[1:]),
        (np.float64(2.5), 2.5),
        (Named("abc", {"page": 1}), Named("abc")),
    ],
)
def test_the_same_content_has_the_same_key(one: Any, other: Any) -> None:
    assert key_of(one) == key_of(other)


@pytest.mark.parametrize("value", [object(), lambda: None, np.array(["a"]), iter([1])])
def test_what_could_change_unseen_is_refused(value: Any) -> None:
    with pytest.raises(ContractError):
        key_of(value)


CHANGES: dict[str, Callable[[Rates], Rates]] = {
    "rows": lambda q: Rates((*q.rows, Row(9, 9.0)), q.ages, q.weights),
    "ages": lambda q: Rates(q.rows, q.ages + 1e-15, q.weights),
    "weights": lambda q: Rates(q.rows, q.ages, {**q.weights, "b": 1.0}),
}


def test_every_field_is_part_of_the_key() -> None:
    first = Rates((Row(1, 2.0),), np.array([1.0, 2.0]), {"a": 0.5})
    assert set(CHANGES) == {one.name for one in fields(first)}
    keys = {first.key, *(change(first).key for change in CHANGES.values())}
    assert len(keys) == 1 + len(CHANGES)
    assert Rates((Row(1, 2.0),), np.array([1.0, 2.0]), {"a": 0.5}).key == first.key


def test_another_version_is_another_question() -> None:
    class Newer(Rates):
        VERSION: ClassVar[int] = 2

    assert Newer((Row(1, 2.0),)).key != Rates((Row(1, 2.0),)).key


def test_keys_agree_between_processes() -> None:
    words = "from almanac.core.answers.encode import key_of; print(key_of({'b': {1, 2, 3}, 'a': ['x', 2.5, None]}))"
    keys = {
        subprocess.run([sys.executable, "-c", words], capture_output=True, text=True, check=True, env={"PYTHONHASHSEED": seed}).stdout
        for seed in ("1", "2")
    }
    assert keys == {f"{key_of({'a': ['x', 2.5, None], 'b': {3, 2, 1}})}\n"}


def test_content_that_was_named_and_not_read_says_so() -> None:
    with pytest.raises(LookupError, match="was not read"):
        _ = Named("abc").content
    assert Named("abc", [1]).content == [1]
    assert Named("abc") == Named("abc", [1])
    assert len({Named("abc"), Named("abc", 1)}) == 1
