"""Answers kept by their content: worked out once however many ask, forgotten by age, each thing by itself."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.services.remembered import Kept, Remembered, RememberedEach


def counted(calls: list[bytes], key: bytes, seconds: float = 0.0) -> Callable[[], str]:
    def work_out() -> str:
        calls.append(key)
        time.sleep(seconds)
        return key.decode()

    return work_out


@given(st.lists(st.sampled_from([b"a", b"b", b"c", b"d"]), max_size=40), st.integers(1, 4))
def test_an_answer_is_that_of_its_key_and_no_more_are_kept_than_wanted(keys: list[bytes], most: int) -> None:
    calls: list[bytes] = []
    remembered: Remembered[str] = Remembered(most)
    kept: list[bytes] = []
    for key in keys:
        before = len(calls)
        assert remembered.get(key, counted(calls, key)) == key.decode()
        assert (len(calls) == before) == (key in kept)
        kept = [*(other for other in kept if other != key), key][-most:]
    assert [remembered.peek(key) is not None for key in (b"a", b"b", b"c", b"d")] == [key in kept for key in (b"a", b"b", b"c", b"d")]


def test_whoever_asks_meanwhile_waits_for_the_same_answer() -> None:
    calls: list[bytes] = []
    remembered: Remembered[str] = Remembered(4)
    found: list[str] = []
    threads = [threading.Thread(target=lambda: found.append(remembered.get(b"slow", counted(calls, b"slow", 0.1)))) for _ in range(6)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert calls == [b"slow"]
    assert found == ["slow"] * 6


def test_what_failed_is_tried_again() -> None:
    remembered: Remembered[str] = Remembered(2)

    def fails() -> str:
        raise ValueError("not today")

    with pytest.raises(ValueError, match="not today"):
        remembered.get(b"key", fails)
    assert remembered.peek(b"key") is None
    assert remembered.get(b"key", lambda: "now") == "now"


def test_each_thing_has_answers_of_its_own() -> None:
    calls: list[bytes] = []
    each: RememberedEach[str] = RememberedEach(2)
    each.of("still").get(b"one", counted(calls, b"one"))
    for step in range(20):
        each.of("busy").get(str(step).encode(), counted(calls, str(step).encode()))
    assert each.of("still").peek(b"one") == "one"
    assert each.of("busy").peek(b"0") is None
    assert each.of("busy").peek(b"19") == "19"
    each.clear()
    assert each.of("still").peek(b"one") is None


def test_kept_things_are_made_once_by_name() -> None:
    calls: list[bytes] = []
    kept = Kept()
    for _ in range(3):
        assert kept.once("table", counted(calls, b"table")) == "table"
    assert kept.once(("part", 3), counted(calls, b"part")) == "part"
    assert calls == [b"table", b"part"]
