"""Computes the outlook before somebody asks: at the start, and after what was written, so that no page waits for it."""

from __future__ import annotations

import logging
import threading

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from almanac.core.parts.kinds import FORECAST_KINDS
from almanac.services.calibration.backtest import backtest
from almanac.services.outlook.near_settings import draw_near_settings
from almanac.services.outlook.since import changes_of
from almanac.services.outlook.summary import read_outlook

BACKTEST_SECONDS = 300.0
QUIET_SECONDS = 0.5
"""Writes that come close together are answered by one computation."""


class Ahead:
    """One thread that computes when told that something changed; what did not change is remembered, so asking costs little."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine
        self._changed = threading.Event()
        self._changed.set()
        threading.Thread(target=self._run, daemon=True).start()

    def changed(self) -> None:
        """Something was written."""
        self._changed.set()

    def _run(self) -> None:
        while True:
            self._changed.wait()
            self._changed.clear()
            try:
                with Session(self._engine, expire_on_commit=False) as session:
                    builder = read_outlook(session).builder
                    draw_near_settings(builder.inputs, wanted=lambda: not self._changed.is_set())
                    for kind in FORECAST_KINDS:
                        changes_of(session, builder, kind.value)
                    backtest(session, seconds=BACKTEST_SECONDS)
            except Exception:  # whatever it was, whoever asks for the outlook sees it; this thread goes on
                logging.getLogger(__name__).exception("the outlook was not computed ahead")
            threading.Event().wait(QUIET_SECONDS)
