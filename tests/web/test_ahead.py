"""The outlook is worked out before somebody asks: at the start and after each writing, whatever goes wrong once."""

from __future__ import annotations

import threading
from collections.abc import Callable
from types import SimpleNamespace
from typing import Any

import pytest
from sqlalchemy import Engine

from almanac.web import ahead


class Rounds:
    """Stands in for the computations and keeps what was asked of them."""

    def __init__(self, monkeypatch: pytest.MonkeyPatch) -> None:
        self.done: list[str] = []
        self.wanted: list[Callable[[], bool]] = []
        self.fails = False
        self.begun, self.ended, self.goes_on = threading.Semaphore(0), threading.Semaphore(0), threading.Event()
        self.goes_on.set()
        monkeypatch.setattr(ahead, "QUIET_SECONDS", 0.0)
        monkeypatch.setattr(ahead, "read_outlook", self.outlook)
        monkeypatch.setattr(ahead, "draw_near_settings", self.settings)
        monkeypatch.setattr(ahead, "changes_of", self.changes)
        monkeypatch.setattr(ahead, "backtest", self.backtest)

    def outlook(self, session: object) -> Any:
        del session
        if self.fails:
            self.fails = False
            self.ended.release()
            raise RuntimeError("the database went away")
        self.done.append("outlook")
        return SimpleNamespace(builder=SimpleNamespace(inputs="inputs"))

    def settings(self, inputs: object, *, wanted: Callable[[], bool]) -> None:
        assert inputs == "inputs"
        self.wanted.append(wanted)
        self.begun.release()
        assert self.goes_on.wait(60)
        self.done.append("settings")

    def changes(self, session: object, builder: object, kind: str) -> None:
        del session, builder
        self.done.append(kind)

    def backtest(self, session: object, *, seconds: float) -> None:
        del session
        assert seconds == ahead.BACKTEST_SECONDS
        self.done.append("backtest")
        self.ended.release()

    def waits(self, times: int = 1) -> list[str]:
        """What was asked until so many rounds had ended."""
        assert all(self.ended.acquire(timeout=60) for _ in range(times))
        found, self.done = self.done, []
        return found


ROUND = ["outlook", "settings", "memory", "ssd", "battery", "fan", "backtest"]


@pytest.fixture
def rounds(monkeypatch: pytest.MonkeyPatch) -> Rounds:
    return Rounds(monkeypatch)


def test_a_round_at_the_start_and_one_after_a_writing(rounds: Rounds, demo_engine: Engine) -> None:
    runs = ahead.Ahead(demo_engine)
    assert rounds.waits() == ROUND
    assert not rounds.ended.acquire(timeout=0.2)  # nothing was written, so nothing is worked out
    runs.changed()
    assert rounds.waits() == ROUND


def test_a_failure_is_logged_and_the_next_writing_is_answered(
    rounds: Rounds, demo_engine: Engine, caplog: pytest.LogCaptureFixture
) -> None:
    rounds.fails = True
    runs = ahead.Ahead(demo_engine)
    assert rounds.waits() == []
    runs.changed()
    assert rounds.waits() == ROUND
    assert "the outlook was not computed ahead" in caplog.text


def test_settings_nobody_asked_for_give_way_to_what_was_written(rounds: Rounds, demo_engine: Engine) -> None:
    rounds.goes_on.clear()
    runs = ahead.Ahead(demo_engine)
    assert rounds.begun.acquire(timeout=60)
    assert rounds.wanted[0]()
    runs.changed()
    assert not rounds.wanted[0]()
    rounds.goes_on.set()
    assert rounds.waits(2) == ROUND * 2
